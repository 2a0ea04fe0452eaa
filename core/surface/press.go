package surface

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"strings"

	"plainpath/core/access"
	"plainpath/core/expr"
	"plainpath/core/model"
	"plainpath/core/predicate"
	"plainpath/core/search"
	"plainpath/core/value"
)

// ButtonView is a button as a person sees it.
type ButtonView struct {
	Key     string   `json:"key"`
	Label   string   `json:"label"`
	On      ButtonOn `json:"on"`
	Confirm string   `json:"confirm,omitempty"`
	// Why is said where the button is not offered.
	Why string `json:"why,omitempty"`
}

func (p *part) buttonViews(person access.Person) []ButtonView {
	var out []ButtonView
	for _, b := range p.buttons {
		if b.isFor(person) {
			out = append(out, ButtonView{Key: b.Key, Label: b.Label, On: b.On, Confirm: b.Confirm, Why: b.Why})
		}
	}
	return out
}

// isFor says whether a person's roles may press the button.
func (b *button) isFor(person access.Person) bool {
	return len(b.Roles) == 0 || slices.ContainsFunc(b.Roles, func(r string) bool { return slices.Contains(person.Roles, r) })
}

// Press is a button being pressed.
type Press struct {
	b      *button
	Object string
	// Rows is the query for the rows it is about, with a zero Object when it is about the
	// table.
	Rows   search.Query
	values expr.Values
}

// NotOfferedError says in words why a button cannot be pressed.
type NotOfferedError struct{ Text string }

func (e *NotOfferedError) Error() string { return e.Text }

// Press finds a button of the table and the rows it is about, and makes sure that it is
// offered for them. It is a *NotOfferedError when it is not.
func (l *Listing) Press(ctx context.Context, r Reader, key string, chosen Chosen) (*Press, error) {
	i := slices.IndexFunc(l.buttons, func(b *button) bool { return b.Key == key })
	if i < 0 {
		return nil, &NoPartError{"button", key}
	}
	b := l.buttons[i]
	out := &Press{b: b, Object: l.Object(), values: l.values}
	if !b.isFor(r.Person()) {
		return nil, &NotOfferedError{"This is not for your role."}
	}
	if !b.about() {
		return out, nil
	}
	var err error
	if out.Rows, err = l.Of(r, chosen); err != nil {
		return nil, err
	}
	if err := out.offered(ctx, r, l, len(chosen.Keys)); err != nil || b.On == OnSome && b.changes() < 2 {
		return out, err
	}
	// The rows stay the same ones, whatever the first lines change about them.
	keys, err := ByQuery(ctx, r, out.Rows)
	out.Rows = search.Query{Object: out.Object, Where: predicate.Keys(keys)}
	return out, err
}

func (p *Press) offered(ctx context.Context, r Reader, l *Listing, keys int) error {
	n, err := CountOf(ctx, r, p.Rows)
	switch {
	case err != nil:
		return err
	case n == 0:
		return &NotOfferedError{"Choose a row first."}
	case p.b.On != OnSome && n != 1:
		return &NotOfferedError{"Choose one row; this is about one at a time."}
	case p.b.On == OnSome && int(n) < l.least:
		return &NotOfferedError{fmt.Sprintf("Choose at least %d rows.", l.least)}
	case p.b.On == OnSome && l.most > 0 && int(n) > l.most:
		return &NotOfferedError{fmt.Sprintf("At most %d rows can be chosen here; %d are.", l.most, n)}
	case keys > 0 && int(n) < keys:
		return &NotOfferedError{"Some of the rows are not in the table any more. Choose again."}
	case p.b.offered == nil:
		return nil
	}
	off := p.Rows
	off.Where = predicate.All{orTrue(p.Rows.Where), predicate.Not{Of: predicate.Formula{Program: p.b.offered, Values: p.values, Record: rowName}}}
	without, err := CountOf(ctx, r, off)
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
	return &NotOfferedError{why}
}

// Off says for rows of the table, by key, why a button in each row is off there.
func (l *Listing) Off(ctx context.Context, r Reader, keys []int64) (map[string][]int64, error) {
	out := map[string][]int64{}
	for _, b := range l.buttons {
		if b.offered == nil || !b.about() {
			continue
		}
		found, err := ByQuery(ctx, r, search.Query{Object: l.Object(), Where: predicate.All{predicate.Keys(keys),
			predicate.Not{Of: predicate.Formula{Program: b.offered, Values: l.values, Record: rowName}}}})
		if err != nil {
			return nil, err
		}
		out[b.Key] = found
	}
	return out, nil
}

// ByQuery gives the keys of the records of a query.
func ByQuery(ctx context.Context, r Reader, q search.Query) ([]int64, error) {
	records, _, err := SelectOf(ctx, r, q)
	out := make([]int64, len(records))
	for i, rec := range records {
		out[i] = rec.ID
	}
	return out, err
}

// Effect is something the browser does after a button was pressed.
type Effect struct {
	Kind        LineKind                   `json:"kind"`
	Walkthrough string                     `json:"walkthrough,omitempty"`
	Dialog      bool                       `json:"dialog,omitempty"`
	Hand        map[string]json.RawMessage `json:"hand,omitempty"`
	Object      string                     `json:"object,omitempty"`
	Record      int64                      `json:"record,omitempty"`
	Format      string                     `json:"format,omitempty"`
	Message     string                     `json:"message,omitempty"`
}

// Changer changes fields of the records of a query with one statement and gives how many
// there were.
type Changer interface {
	ChangeAll(ctx context.Context, c search.Change) (int64, error)
}

// Do carries the lines out, in order. What is left to the browser is an effect.
func (p *Press) Do(ctx context.Context, r Reader, w Changer) (changed int64, effects []Effect, err error) {
	effects = []Effect{}
	for _, l := range p.b.lines {
		switch l.Kind {
		case ChangeLine:
			n, err := w.ChangeAll(ctx, search.Change{Query: p.Rows, Sets: l.sets, Values: p.values, Record: rowName})
			if err != nil {
				return 0, nil, err
			}
			changed = max(changed, n) // all lines are about the same rows
		case RecordLine:
			keys, err := ByQuery(ctx, r, p.Rows)
			if err != nil {
				return 0, nil, err
			}
			if len(keys) > 0 { // by now the person may not see it any more
				effects = append(effects, Effect{Kind: l.Kind, Object: p.Object, Record: keys[0]})
			}
		case WalkthroughLine:
			hand, err := p.hand(ctx, r, l)
			if err != nil {
				return 0, nil, err
			}
			effects = append(effects, Effect{Kind: l.Kind, Walkthrough: l.Walkthrough, Dialog: l.Dialog, Hand: hand})
		default:
			effects = append(effects, Effect{Kind: l.Kind, Format: l.Format, Message: strings.ReplaceAll(l.Message, "{n}", fmt.Sprint(changed))})
		}
	}
	return changed, effects, nil
}

// hand computes what a walkthrough is given.
func (p *Press) hand(ctx context.Context, r Reader, l line) (map[string]json.RawMessage, error) {
	values := p.values
	if p.b.about() {
		var fields []model.Path
		for _, h := range l.hand {
			fields = append(fields, FieldsUsed(r.Space().Model, p.Object, []string{rowName}, h.Uses)...)
		}
		q := p.Rows
		q.Columns, q.Limit = fields, 2
		records, _, err := SelectOf(ctx, r, q)
		if err != nil || len(records) == 0 {
			return nil, err
		}
		if len(records) > 1 && slices.ContainsFunc(l.hand, usesRow) {
			return nil, &NotOfferedError{"Choose one row; the walkthrough is about one at a time."}
		}
		values = expr.Values{}
		for k, v := range p.values {
			values[k] = v
		}
		values[rowName] = records[0]
	}
	out := map[string]json.RawMessage{}
	for i, h := range l.hand {
		v, err := h.Eval(values)
		if err != nil {
			return nil, fmt.Errorf("handing over %s: %w", l.Hand[i].To, err)
		}
		if out[l.Hand[i].To], err = json.Marshal(value.Wire(v)); err != nil {
			return nil, fmt.Errorf("handing over %s: %w", l.Hand[i].To, err)
		}
	}
	return out, nil
}
