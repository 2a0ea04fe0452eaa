package table

import (
	"context"
	"fmt"
	"slices"

	"plainpath/core/access"
	"plainpath/core/act"
	"plainpath/core/expr"
	"plainpath/core/predicate"
	"plainpath/core/query"
	"plainpath/core/records"
)

// ButtonView is a button as a person sees it.
type ButtonView struct {
	Key     string   `json:"key"`
	Label   string   `json:"label"`
	On      ButtonOn `json:"on"`
	Confirm string   `json:"confirm,omitempty"`
	// Hold is shown while it is carried out.
	Hold string `json:"hold,omitempty"`
	// Why is said where the button is not offered.
	Why string `json:"why,omitempty"`
}

func (p *Program) buttonViews(person access.Person) []ButtonView {
	var out []ButtonView
	for _, b := range p.buttons {
		if b.isFor(person) {
			out = append(out, ButtonView{Key: b.Key, Label: b.Label, On: b.On, Confirm: b.Confirm, Hold: b.lines.Hold,
				Why: b.Why})
		}
	}
	return out
}

// isFor says whether a person's roles may press the button.
func (b *button) isFor(person access.Person) bool {
	return len(b.Roles) == 0 || slices.ContainsFunc(b.Roles,
		func(r string) bool { return slices.Contains(person.Roles, r) })
}

// Press is a button being pressed.
type Press struct {
	b      *button
	Object string
	// Rows is the query for the rows it is about, with a zero Object when it is about the
	// table.
	Rows   query.Query
	values expr.Values
}

// Label is what the button says.
func (p *Press) Label() string { return p.b.Label }

// Press finds a button of the table and the rows it is about, and makes sure that it is
// offered for them. It is a *act.NotOfferedError when it is not.
func (l *Listing) Press(ctx context.Context, r records.Reader, key string, chosen Chosen) (*Press, error) {
	i := slices.IndexFunc(l.buttons, func(b *button) bool { return b.Key == key })
	if i < 0 {
		return nil, &MissingError{"button", key}
	}
	b := l.buttons[i]
	out := &Press{b: b, Object: l.Object(), values: l.values}
	if !b.isFor(r.Person()) {
		return nil, &act.NotOfferedError{Text: "This is not for your role."}
	}
	if !b.about() {
		return out, nil
	}
	var err error
	if out.Rows, err = l.Of(r, chosen); err != nil {
		return nil, err
	}
	if err := out.offered(ctx, r, l, len(chosen.Keys)); err != nil || b.On == OnSome && !b.changesFirst() {
		return out, err
	}
	// The rows stay the same ones, whatever the first lines change about them.
	keys, err := records.Keys(ctx, r, out.Rows)
	out.Rows = query.Query{Object: out.Object, Where: predicate.Keys(keys)}
	return out, err
}

func (p *Press) offered(ctx context.Context, r records.Reader, l *Listing, keys int) error {
	n, err := records.Count(ctx, r, p.Rows)
	switch {
	case err != nil:
		return err
	case n == 0:
		return &act.NotOfferedError{Text: "Choose a row first."}
	case p.b.On != OnSome && n != 1:
		return &act.NotOfferedError{Text: "Choose one row; this is about one at a time."}
	case p.b.On == OnSome && int(n) < l.least:
		return &act.NotOfferedError{Text: fmt.Sprintf("Choose at least %d rows.", l.least)}
	case p.b.On == OnSome && l.most > 0 && int(n) > l.most:
		return &act.NotOfferedError{Text: fmt.Sprintf("At most %d rows can be chosen here; %d are.", l.most, n)}
	case keys > 0 && int(n) < keys:
		return &act.NotOfferedError{Text: "Some of the rows are not in the table any more. Choose again."}
	case p.b.offered == nil:
		return nil
	}
	off := p.Rows
	off.Where = predicate.All{orTrue(p.Rows.Where),
		predicate.Not{Of: predicate.Formula{Program: p.b.offered, Values: p.values, Record: act.RowName}}}
	without, err := records.Count(ctx, r, off)
	if err != nil || without == 0 {
		return err
	}
	why := p.b.Why
	if why == "" {
		why = fmt.Sprintf("“%s” is offered only where %s.", p.b.Label, p.b.offered.Source)
	}
	if n > 1 {
		why = fmt.Sprintf("For %d of the %d rows: %s", without, n, why)
	}
	return &act.NotOfferedError{Text: why}
}

// Off says for rows of the table, by key, why a button in each row is off there.
func (l *Listing) Off(ctx context.Context, r records.Reader, keys []int64) (map[string][]int64, error) {
	out := map[string][]int64{}
	for _, b := range l.buttons {
		if b.offered == nil || !b.about() {
			continue
		}
		found, err := records.Keys(ctx, r, query.Query{Object: l.Object(), Where: predicate.All{predicate.Keys(keys),
			predicate.Not{Of: predicate.Formula{Program: b.offered, Values: l.values, Record: act.RowName}}}})
		if err != nil {
			return nil, err
		}
		out[b.Key] = found
	}
	return out, nil
}

// Do carries out what the button does. Confirmed are the lines whose questions were answered with yes.
func (p *Press) Do(ctx context.Context, u records.Writer, confirmed []int, trace func(act.Entry)) (act.Outcome, error) {
	return p.b.lines.Do(ctx, u, act.Doing{Values: p.values, Rows: p.Rows, Confirmed: confirmed, Trace: trace})
}
