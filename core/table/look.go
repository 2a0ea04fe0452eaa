package table

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"strings"

	"plainpath/core/expr"
	"plainpath/core/model"
	"plainpath/core/predicate"
	"plainpath/core/query"
	"plainpath/core/records"
	"plainpath/core/value"
)

// Look is how a person looks at a table. The zero Look is the table as the builder made
// it. Its conditions reach only what the person may see.
type Look struct {
	// Text is looked for by the keyword search, word by word.
	Text string `json:"text,omitempty"`
	// Filter are conditions on fields compared with values, all of which must hold.
	Filter []predicate.Condition `json:"filter,omitempty"`
	// Between narrows it to the records of some days.
	Between *Between    `json:"between,omitempty"`
	Order   []LookOrder `json:"order,omitempty"`
	// Columns stand in the place of the table's own.
	Columns []Column   `json:"columns,omitempty"`
	Group   *LookGroup `json:"group,omitempty"`
	// Within narrows the list to one group: the key of the group as it was given, null for
	// the records without one.
	Within json.RawMessage `json:"within,omitempty"`
	// Deeper narrows it further, to groups in that group.
	Deeper []json.RawMessage `json:"deeper,omitempty"`
	Totals []LookTotal       `json:"totals,omitempty"`
	// RatesOn is the day whose rates amounts are converted by, today when it is empty.
	RatesOn string `json:"rates_on,omitempty"`
	After   string `json:"after,omitempty"`
	// Size is how many rows are read at once, for a table that is read again; nought is as usual.
	Size int `json:"size,omitempty"`
}

// LookOrder orders by a field.
type LookOrder struct {
	Path string `json:"path"`
	Desc bool   `json:"desc,omitempty"`
}

// LookGroup puts the records together that have the same value in a field.
type LookGroup struct {
	Path string     `json:"path"`
	Span query.Span `json:"span,omitempty"`
	Desc bool       `json:"desc,omitempty"`
	// Empty shows the values of a choice that no record has, too.
	Empty bool `json:"empty,omitempty"`
	// Fixed groups stand open and cannot be closed.
	Fixed bool `json:"fixed,omitempty"`
	// Hidden are the keys of groups whose records are left out.
	Hidden []json.RawMessage `json:"hidden,omitempty"`
	// Then puts the records of each group together again.
	Then *LookGroup `json:"then,omitempty"`
}

// LookTotal asks for a total of a field.
type LookTotal struct {
	Path string          `json:"path"`
	Of   query.Aggregate `json:"of"`
	// Converted puts the amounts of all currencies together, by the rates of a day.
	Converted bool `json:"converted,omitempty"`
}

// Listing is a list of records as a table shows it: where it comes from, its columns, and
// the fields that the keyword search looks in.
type Listing struct {
	was      []string
	query    query.Query
	headings Headings
	keyword  []model.Path
	// edit says that rows can be changed in the table.
	edit bool
	// found is the condition that the builder set, limit how many of those it holds for are
	// taken; the query has just these then.
	found predicate.Predicate
	limit int
	// least and most bound how many rows can be chosen, most being nought for any number.
	least, most int
	// inside is the table that rows open to.
	inside *Program
	// views are the builder's.
	views   []ShippedView
	others  []Other
	buttons []*button
	// marks are made with what is known besides the row.
	marks  []mark
	values expr.Values
	// cards are those that the list is the first of, nil where it stands alone.
	cards *CardsProgram
}

// Was are the keys that its part had before.
func (l *Listing) Was() []string { return l.was }

// Editable says whether rows can be changed in the table. What of them, the person's
// rights say.
func (l *Listing) Editable() bool { return l.edit }

// SwitchesTo says whether the builder lets people look at another object in its place.
func (l *Listing) SwitchesTo(object string) bool {
	return slices.ContainsFunc(l.others, func(o Other) bool { return o.Object == object })
}

// ToEdit is the list in a table in which rows can be changed.
func (l *Listing) ToEdit() *Listing {
	out := *l
	out.edit = true
	return &out
}

// Among reads those of some records that are in the list, as far as the person may see
// them.
func (l *Listing) Among(ctx context.Context, r records.Reader, keys []int64,
	columns []model.Path) ([]*value.Record, error) {
	q := l.query
	q.Columns, q.Order = columns, nil
	q.Where = predicate.All{predicate.Keys(keys), orTrue(l.query.Where)}
	records, err := records.Select(ctx, r, q)
	return records, err
}

func orTrue(p predicate.Predicate) predicate.Predicate {
	if p == nil {
		return predicate.True
	}
	return p
}

// NewListing is the records of an object for which a condition holds, all for nil, with
// the columns given. The keyword search looks into those that hold text.
func NewListing(o *model.Object, where predicate.Predicate, paths []model.Path) *Listing {
	l := &Listing{query: query.Query{Object: o.Key, Where: where}, found: where}
	for _, path := range paths {
		f := path.Last()
		l.headings = append(l.headings, heading{path: path, label: f.Label})
		if f.Kind() == value.KindText && f.Type != model.Choice {
			l.keyword = append(l.keyword, path)
		}
	}
	return l
}

// Object is the object whose records the list holds.
func (l *Listing) Object() string { return l.query.Object }

func wrongLook(format string, args ...any) error {
	return &query.LookError{Text: fmt.Sprintf(format, args...)}
}

// looked is a listing as somebody looks at it.
type looked struct {
	query    query.Query
	headings Headings
	by       []query.Grouping
	totals   []query.Total
	rates    *rates
}

// look narrows, orders and arranges the list. What cannot be done is a *query.LookError.
func (l *Listing) look(r records.Reader, look Look) (looked, error) {
	out := looked{query: l.query, headings: l.headings}
	if err := look.bounded(); err != nil {
		return out, err
	}
	m := r.Model()
	if len(look.Columns) > 0 {
		out.headings = nil
	}
	for _, c := range look.Columns {
		path, err := l.path(m, c.Path)
		if err != nil {
			return out, err
		}
		label := c.Label
		if label == "" {
			label = Heading(path)
		}
		out.headings = append(out.headings, heading{path, label, c.Above})
	}
	filter, err := l.filter(r, look)
	if err != nil {
		return out, err
	}
	if len(look.Order) > 0 {
		out.query.Order = nil
	}
	for _, o := range look.Order {
		path, err := l.path(m, o.Path)
		if err != nil {
			return out, err
		}
		out.query.Order = append(out.query.Order, query.Order{Path: path, Desc: o.Desc})
	}
	for _, t := range look.Totals {
		path, err := l.path(m, t.Path)
		if err != nil {
			return out, err
		}
		total := query.Total{Path: path, Of: t.Of, Converted: t.Converted}
		if err := query.CheckTotal(total); err != nil {
			return out, err
		}
		if t.Of == query.Count && path.Last().Kind() == value.KindMoney { // it would be one for each currency
			return out, wrongLook("There is no count of %s.", path.Last().Label)
		}
		if t.Converted && out.rates == nil {
			if out.rates, err = ratesOn(r, look.RatesOn); err != nil {
				return out, err
			}
		}
		out.totals = append(out.totals, total)
	}
	within, err := out.group(r, l, m, look)
	if err != nil {
		return out, err
	}
	filter = append(filter, within...)
	if l.query.Filter != nil { // it shows what somebody looks at in another table
		filter = append(predicate.All{l.query.Filter}, filter...)
	}
	out.query.Filter = filter
	for _, c := range out.headings {
		out.query.Columns = append(out.query.Columns, c.path)
	}
	out.query.After, err = query.ParseCursor(look.After)
	return out, err
}

// path reads a path a person named: one of the table's columns, or any from the object.
func (l *Listing) path(m *model.Model, text string) (model.Path, error) {
	if i := slices.IndexFunc(l.headings, func(c heading) bool { return c.path.String() == text }); i >= 0 {
		return l.headings[i].path, nil
	}
	path, err := m.Path(l.query.Object, text)
	if err != nil { // whoever asks may have the keys from before a release
		path, err = m.Path(l.query.Object, m.Today(l.query.Object, text))
	}
	if err != nil {
		return path, wrongLook("The table cannot show %q: %s.", text, err)
	}
	return path, nil
}

func (l *Listing) filter(r records.Reader, look Look) (predicate.All, error) {
	var out predicate.All
	for word := range strings.FieldsSeq(look.Text) {
		var fields predicate.Any
		for _, path := range l.keyword {
			fields = append(fields, predicate.Test{Path: path, Op: predicate.Contains, Value: value.Text(word)})
		}
		out = append(out, fields)
	}
	for i, c := range look.Filter {
		if c.Field == "" || c.Value != nil && c.Value.Expression != "" || c.To != nil && c.To.Expression != "" ||
			slices.ContainsFunc(c.Values, func(o predicate.Operand) bool { return o.Expression != "" }) {
			return nil, wrongLook("Condition %d compares no field with a value.", i+1)
		}
		if _, err := r.Model().Path(l.query.Object, c.Field); err != nil {
			c.Field = r.Model().Today(l.query.Object, c.Field)
		}
		checked, problems := predicate.Check(expr.Scope{Model: r.Model()}, l.query.Object, c,
			fmt.Sprintf("/filter/%d", i))
		if len(problems) > 0 {
			return nil, wrongLook("Condition %d does not hold any more: %s.", i+1, problems[0].Text)
		}
		p, err := checked.Bind(r.Base())
		if err != nil {
			return nil, fmt.Errorf("binding a filter: %w", err)
		}
		out = append(out, p)
	}
	if look.Between != nil {
		between, err := look.Between.predicate(r, l)
		if err != nil {
			return nil, err
		}
		out = append(out, between)
	}
	return out, nil
}

// group works out the groupings, and the conditions that they put on the records.
func (out *looked) group(r records.Reader, l *Listing, m *model.Model, look Look) ([]predicate.Predicate, error) {
	var conditions []predicate.Predicate
	within := look.within()
	for lg := look.Group; lg != nil; lg = lg.Then {
		path, err := l.path(m, lg.Path)
		if err != nil {
			return nil, err
		}
		g := query.Grouping{Path: path, Span: lg.Span, Desc: lg.Desc, Zone: r.Zone()}
		if err := query.CheckGrouping(g); err != nil {
			return nil, err
		}
		for _, raw := range lg.Hidden {
			key, err := groupKey(g, raw)
			if err != nil {
				return nil, err
			}
			conditions = append(conditions, predicate.Not{Of: g.Within(key)})
		}
		if level := len(out.by); level < len(within) {
			key, err := groupKey(g, within[level])
			if err != nil {
				return nil, err
			}
			conditions = append(conditions, g.Within(key))
		}
		out.by = append(out.by, g)
	}
	return conditions, nil
}

// within are the keys of the groups that the list is narrowed to, each in the one before.
func (look Look) within() []json.RawMessage {
	if len(look.Within) == 0 {
		return nil
	}
	return append([]json.RawMessage{look.Within}, look.Deeper...)
}

func groupKey(g query.Grouping, raw json.RawMessage) (value.Value, error) {
	kind := g.Path.Last().Kind()
	if g.Span != query.EachValue {
		kind = value.KindDate
	}
	var failed value.Failed
	if json.Unmarshal(raw, &failed) == nil && failed.Failure != "" {
		return value.Failure{Why: failed.Failure}, nil
	}
	v, err := value.Parse(kind, raw)
	if err != nil {
		return nil, wrongLook("There is no such group: %s.", err)
	}
	if rec, ok := v.(*value.Record); ok {
		rec.Object = g.Path.Last().Target()
	}
	return v, nil
}
