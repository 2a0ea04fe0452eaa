package act

import (
	"cmp"
	"context"
	"fmt"
	"iter"
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
	// Alongside says that what it leaves to the browser does not wait for what the line before left to it.
	Alongside bool `json:"alongside,omitempty"`
	Act
	// IfFails are the lines that are carried out when it is refused; without them all stops then.
	IfFails []Line `json:"if_fails,omitempty"`
}

// EveryLine goes through lines and those that are carried out where they fail, with their pointers below one.
func EveryLine(lines []Line, at string) iter.Seq2[string, *Line] {
	return func(yield func(string, *Line) bool) {
		for i := range lines {
			here := fmt.Sprintf("%s/%d", at, i)
			if !yield(here, &lines[i]) {
				return
			}
			for at, l := range EveryLine(lines[i].IfFails, here+"/if_fails") {
				if !yield(at, l) {
					return
				}
			}
		}
	}
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
	c := &lineCompiler{Environment: env, title: title, out: &Lines{rows: env.Rows, one: env.One}}
	c.lines(lines, at, env.Scope, false)
	c.out.program.Uses = map[string][]model.Path{}
	for _, n := range c.given {
		c.out.program.Uses[n.Key] = records.FieldsUsed(env.Scope.Model, n.Type.Object, []string{n.Key}, c.used)
	}
	return c.out
}

type lineCompiler struct {
	Environment
	title string
	out   *Lines
	// given is what the lines make known, used what they take of that.
	given []expr.Name
	used  [][]string
}

// lines checks a row of lines in a scope, where records were written before or not, and says what is known after them.
func (c *lineCompiler) lines(lines []Line, at string, scope expr.Scope, wrote bool) (expr.Scope, bool) {
	for i := range lines {
		scope, wrote = c.line(&lines[i], fmt.Sprintf("%s/%d", at, i), scope, wrote)
	}
	return scope, wrote
}

func (c *lineCompiler) line(def *Line, at string, scope expr.Scope, wrote bool) (expr.Scope, bool) {
	env := c.Environment
	env.Scope = scope
	checked := Compile(env, &def.Act, at)
	plan := checked.Plan
	if plan == nil {
		return scope, wrote
	}
	if def.Kind == ConfirmAct && wrote {
		c.Check.Find(definition.Stop, at, "this is asked after records were changed", "Whoever says no would be too late.",
			nil)
	}
	if hold, ok := plan.(*HoldPlan); ok && c.out.Hold == "" {
		c.out.Hold = hold.Text
	}
	if def.Alongside && plan.Writes() != "" {
		c.Check.Find(definition.Care, at+"/alongside", "records are written one line after another",
			"It would wait all the same.", &definition.Mend{Label: "Let it wait",
				Patch: []definition.Op{{Op: "remove", Path: at + "/alongside"}}})
	}
	here := c.out.program.Emit(Instruction{Key: def.Key, Kind: def.Kind, Title: cmp.Or(c.title, words(def.Kind)),
		Plan: plan, When: checked.When, Waits: def.Kind == ConfirmAct, Alongside: def.Alongside})
	c.use(checked.Uses(), scope)
	after := scope
	if n, known := c.gives(def, checked, at, scope); known {
		c.given, after = append(c.given, n), scope.With(n)
	}
	writes := plan.Writes() != ""
	if def.IfFails == nil {
		return after, wrote || writes
	}
	return c.failing(def, at, here, scope, after, wrote, writes)
}

// failing checks what is done in the place of a line that is refused. Without that the line goes on past it.
func (c *lineCompiler) failing(def *Line, at string, here int, scope, after expr.Scope, wrote,
	writes bool) (expr.Scope, bool) {
	switch {
	case !writes:
		c.Check.Find(definition.Care, at+"/if_fails", "this is never refused", "What is done then would never be done.",
			&definition.Mend{Label: "Leave it out", Patch: []definition.Op{{Op: "remove", Path: at + "/if_fails"}}})
	case len(def.IfFails) == 0:
		c.Check.Find(definition.Care, at+"/if_fails", "nothing is done if it fails", "Nobody would know that it did.", nil)
	}
	code := &c.out.program
	jump := code.Emit(Instruction{Kind: def.Kind})
	code.Code[here].Fails = len(code.Code)
	_, too := c.lines(def.IfFails, at+"/if_fails", scope.With(Failure()), wrote)
	code.Code[jump].Next = len(code.Code)
	return after, wrote || writes || too
}

// use notes what a line takes: of the lines before it, or of what is known without them.
func (c *lineCompiler) use(uses [][]string, scope expr.Scope) {
	for _, u := range uses {
		_, own := scope.Find(u[0])
		switch {
		case own && slices.ContainsFunc(c.given, func(n expr.Name) bool { return n.Key == u[0] }):
			c.used = append(c.used, u)
		case u[0] != RowName && u[0] != FailureName:
			c.out.Uses = append(c.out.Uses, u)
		}
	}
}

// gives is what a line makes known to those after it, false when it makes nothing known. Where something else is done
// when it is refused it may be empty.
func (c *lineCompiler) gives(def *Line, checked Checked, at string, scope expr.Scope) (expr.Name, bool) {
	t, any := checked.Gives()
	if !any || def.Key == "" {
		return expr.Name{}, false
	}
	t.Empty = t.Empty || def.IfFails != nil
	_, taken := scope.Find(def.Key)
	taken = taken || slices.ContainsFunc(c.given, func(n expr.Name) bool { return n.Key == def.Key })
	switch problem := model.KeyProblem(def.Key); {
	case problem != "":
		c.Check.Find(definition.Stop, at+"/key", problem, "Later lines could not use what it gives.", nil)
	case taken || def.Key == FailureName:
		c.Check.Find(definition.Stop, at+"/key", fmt.Sprintf("the key %q is taken", def.Key),
			"Later lines would use the wrong value.", nil)
	default:
		return expr.Name{Key: def.Key, Label: def.Key, Type: t,
			Of: model.Referent{Document: c.Check.Document, At: at}}, true
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
		// Which read it as it is by then.
		byThen := slices.Contains([]Kind{RunAct, OpenAct, SetAct, DownloadAct}, i.Kind)
		if i.Plan != nil && !byThen {
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
