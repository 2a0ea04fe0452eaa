package act

import (
	"context"
	"encoding/json"
	"fmt"
	"maps"

	"plainpath/core/definition"
	"plainpath/core/expr"
	"plainpath/core/records"
	"plainpath/core/value"
)

// Run opens a walkthrough, in a dialog if it says so, and hands it values.
type Run struct {
	Walkthrough string    `json:"walkthrough"`
	Dialog      bool      `json:"dialog,omitempty"`
	Hand        []Handing `json:"hand,omitempty"`
}

// Handing gives a walkthrough one of the values it takes.
type Handing struct {
	To    string `json:"to"`
	Value string `json:"value"`
}

type runPlan struct {
	basis
	*Run
	rows string
	hand []*expr.Program
	to   []string
}

func checkRun(c *check, a *Act, at string) Plan {
	if !given(c, a, a.Run, at) {
		return nil
	}
	at += "/run"
	p := &runPlan{Run: a.Run, rows: c.Rows}
	if a.Run.Walkthrough == "" {
		c.Find(definition.Stop, at+"/walkthrough", "no walkthrough is chosen", "Nothing would open.", nil)
	}
	for i, h := range a.Run.Hand {
		pointer := fmt.Sprintf("%s/hand/%d/value", at, i)
		program := c.Expression(c.Scope, h.Value, pointer, "The walkthrough would begin without it.")
		if program == nil {
			continue
		}
		p.hand, p.to = append(p.hand, program), append(p.to, h.To)
		p.uses = append(p.uses, program.Uses...)
		if c.Rows != "" && !c.One && namesRow(program.Uses) {
			c.Find(definition.Care, pointer, "the button is about the rows chosen, but the walkthrough is handed one",
				"With several rows chosen it would not be known which is meant, and nothing would open.",
				definition.Replace("Let it be about one row", c.Outset+"/on", "one"))
		}
	}
	return p
}

// Do computes what the walkthrough is handed.
func (p *runPlan) Do(ctx context.Context, u records.Writer, in In) (Done, error) {
	effect := Effect{Kind: RunAct, Walkthrough: p.Walkthrough, Dialog: p.Dialog}
	values, err := rowKnown(ctx, u, in, p.rows, p.uses)
	if err != nil || values == nil { // by now the person may not see the row any more
		return Done{Effects: []Effect{effect}}, err
	}
	effect.Hand = map[string]json.RawMessage{}
	for i, h := range p.hand {
		v, err := h.Eval(values)
		if err != nil {
			return Done{}, fmt.Errorf("handing over %s: %w", p.to[i], err)
		}
		if effect.Hand[p.to[i]], err = json.Marshal(value.Wire(v)); err != nil {
			return Done{}, fmt.Errorf("handing over %s: %w", p.to[i], err)
		}
	}
	return Done{Effects: []Effect{effect}}, nil
}

// rowKnown is what is known and, where it is used, the one row of a button that is about rows of an object, with the
// fields that are used of it; nil when there is no such row.
func rowKnown(ctx context.Context, u records.Writer, in In, rows string, uses [][]string) (expr.Values, error) {
	if rows == "" || !namesRow(uses) {
		return in.Values, nil
	}
	q := in.Rows
	q.Columns, q.Limit = records.FieldsUsed(u.Model(), rows, []string{RowName}, uses), 2
	found, err := records.Select(ctx, u, q)
	if err != nil || len(found) == 0 {
		return nil, err
	}
	if len(found) > 1 {
		return nil, &NotOfferedError{"Choose one row; the walkthrough is about one at a time."}
	}
	values := maps.Clone(in.Values)
	if values == nil {
		values = expr.Values{}
	}
	values[RowName] = found[0]
	return values, nil
}

// NotOfferedError says in words why something cannot be set going.
type NotOfferedError struct{ Text string }

func (e *NotOfferedError) Error() string { return e.Text }
