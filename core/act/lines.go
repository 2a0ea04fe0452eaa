package act

import (
	"cmp"
	"context"
	"fmt"
	"maps"
	"slices"

	"plainpath/core/definition"
	"plainpath/core/expr"
	"plainpath/core/model"
	"plainpath/core/query"
	"plainpath/core/records"
)

// Line is one thing that a button or a reaction does. What it gives is known to the lines after it by its key.
type Line struct {
	Key string `json:"key,omitempty"`
	Act
}

// Lines are checked lines, carried out one after another; one that fails stops the rest. They are safe for use by
// several goroutines.
type Lines struct {
	// Hold is the text shown while they are carried out.
	Hold string
	// Uses are the known values that they depend on, but for what they give to each other and the row.
	Uses    [][]string
	program Program
	// rows is the object of the rows they are about, one says that they are about one at a time.
	rows string
	one  bool
}

// CompileLines checks lines, whose pointer is at. Title is what people call what sets them going; without it each line
// is called by what it does.
func CompileLines(env Environment, lines []Line, title, at string) *Lines {
	out := &Lines{rows: env.Rows, one: env.One}
	var given []expr.Name
	var used [][]string
	wrote := false
	for i := range lines {
		def, pointer := &lines[i], fmt.Sprintf("%s/%d", at, i)
		checked := Compile(env, &def.Act, pointer)
		plan := checked.Plan
		if plan == nil {
			continue
		}
		if def.Kind == ConfirmAct && wrote {
			env.Check.Find(definition.Stop, pointer, "this is asked after records were changed",
				"Whoever says no would be too late.", nil)
		}
		wrote = wrote || plan.Writes() != ""
		if hold, ok := plan.(*HoldPlan); ok && out.Hold == "" {
			out.Hold = hold.Text
		}
		out.program.Emit(Instruction{Key: def.Key, Kind: def.Kind, Title: cmp.Or(title, words(def.Kind)), Plan: plan,
			When: checked.When, Waits: def.Kind == ConfirmAct})
		for _, u := range checked.Uses() {
			_, own := env.Scope.Find(u[0])
			switch {
			case own && slices.ContainsFunc(given, func(n expr.Name) bool { return n.Key == u[0] }):
				used = append(used, u)
			case u[0] != RowName:
				out.Uses = append(out.Uses, u)
			}
		}
		if n, known := gives(env, def, checked, pointer); known {
			given, env.Scope = append(given, n), env.Scope.With(n)
		}
	}
	out.program.Uses = map[string][]model.Path{}
	for _, n := range given {
		out.program.Uses[n.Key] = records.FieldsUsed(env.Scope.Model, n.Type.Object, []string{n.Key}, used)
	}
	return out
}

// gives is what a line makes known to those after it, false when it makes nothing known.
func gives(env Environment, def *Line, checked Checked, at string) (expr.Name, bool) {
	t, any := checked.Gives()
	if !any || def.Key == "" {
		return expr.Name{}, false
	}
	_, taken := env.Scope.Find(def.Key)
	switch problem := model.KeyProblem(def.Key); {
	case problem != "":
		env.Check.Find(definition.Stop, at+"/key", problem, "Later lines could not use what it gives.", nil)
	case taken:
		env.Check.Find(definition.Stop, at+"/key", fmt.Sprintf("the key %q is taken", def.Key),
			"Later lines would use the wrong value.", nil)
	default:
		return expr.Name{Key: def.Key, Label: def.Key, Type: t,
			Of: model.Referent{Document: env.Check.Document, At: at}}, true
	}
	return expr.Name{}, false
}

// Outcome is what came of lines.
type Outcome struct {
	// Changed is how many records were changed.
	Changed int64
	// Effects are what is left to the browser; the last of them may be a question, and then the rest waits
	// for its answer.
	Effects []Effect
}

// Doing is what lines are carried out with.
type Doing struct {
	Values expr.Values
	// Rows is the query of the rows that they are about, with a zero Object when they are about none.
	Rows query.Query
	// Confirmed are the lines whose questions were answered with yes; it stops at the first other one, before which
	// nothing is written.
	Confirmed []int
	// Trace is told what each line did; nil when nobody asks.
	Trace func(Entry)
}

// Do carries the lines out, in order.
func (l *Lines) Do(ctx context.Context, u records.Writer, d Doing) (Outcome, error) {
	values := maps.Clone(d.Values)
	if values == nil {
		values = expr.Values{}
	}
	if err := l.knowRow(ctx, u, d.Rows, values); err != nil {
		return Outcome{}, err
	}
	m := &Machine{Program: &l.program, Writer: u, Values: values, Rows: d.Rows, Effects: []Effect{}, Trace: d.Trace}
	at, err := m.Run(ctx, 0)
	for err == nil && at < len(l.program.Code) && slices.Contains(d.Confirmed, at) {
		m.Effects = slices.DeleteFunc(m.Effects, func(e Effect) bool { return e.Kind == ConfirmAct })
		at, err = m.Run(ctx, l.program.Code[at].Next)
	}
	return Outcome{m.Written, m.Effects}, err
}

// knowRow makes the one row that the lines are about known, with the fields that they take from it.
func (l *Lines) knowRow(ctx context.Context, u records.Reader, rows query.Query, values expr.Values) error {
	var used [][]string
	for _, i := range l.program.Code {
		if i.Kind != RunAct && i.Kind != OpenAct && i.Kind != SetAct { // which read it as it is by then
			used = append(used, i.Plan.Uses()...)
		}
		if i.When != nil {
			used = append(used, i.When.Uses...)
		}
	}
	if !l.one || !namesRow(used) {
		return nil
	}
	rows.Columns, rows.Limit = records.FieldsUsed(u.Model(), l.rows, []string{RowName}, used), 1
	found, err := records.Select(ctx, u, rows)
	if err == nil && len(found) > 0 {
		values[RowName] = found[0]
	}
	return err
}
