package act

import (
	"context"
	"maps"

	"plainpath/core/definition"
	"plainpath/core/expr"
	"plainpath/core/records"
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
	handings
}

func checkRun(c *check, a *Act, at string) Plan {
	if !given(c, a, a.Run, at) {
		return nil
	}
	at += "/run"
	if a.Run.Walkthrough == "" {
		c.Find(definition.Stop, at+"/walkthrough", "no walkthrough is chosen", "Nothing would open.", nil)
	}
	h := c.handings(definition.Walkthrough, a.Run.Walkthrough, a.Run.Hand, at,
		"The walkthrough would begin without it.")
	return &runPlan{basis{uses: h.uses()}, a.Run, h}
}

// Do computes what the walkthrough is handed.
func (p *runPlan) Do(ctx context.Context, u records.Writer, in In) (Done, error) {
	effect := Effect{Kind: RunAct, Walkthrough: p.Walkthrough, Dialog: p.Dialog}
	var err error
	effect.Hand, err = p.handed(ctx, u, in)
	return Done{Effects: []Effect{effect}}, err
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
