package table

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"

	"plainpath/core/access"
	"plainpath/core/model"
	"plainpath/core/predicate"
	"plainpath/core/query"
	"plainpath/core/records"
	"plainpath/core/value"
)

// PageSize is how many rows a table shows at first; further pages have MorePageSize.
const (
	PageSize     = 50
	MorePageSize = 200
	// MostPageSize bounds what is read at once of a table that is read again.
	MostPageSize = 5000
)

// RowsView is a page of rows.
type RowsView struct {
	// Columns are the columns as they are looked at.
	Columns []HeadingView `json:"columns"`
	Rows    []RowView     `json:"rows"`
	// Total counts the list as far as it was read. Counted says, with the first page, that it
	// is the whole; where it is not, the list is counted by itself, which takes longer.
	Total   int64 `json:"total"`
	Counted bool  `json:"counted"`
	// Converts is the currency that amounts can be converted to, empty when they cannot.
	Converts string `json:"converts,omitempty"`
	// Reads are the objects whose records it looks at, with the first page.
	Reads []string `json:"reads,omitempty"`
	// Next continues behind this page; empty at the end.
	Next string `json:"next,omitempty"`
}

// RowView is one row: the record's key and label, a cell for each column.
type RowView struct {
	ID    int64  `json:"id"`
	Label string `json:"label"`
	Cells []any  `json:"cells"`
	// Marks are those that hold for the row.
	Marks []MarkView `json:"marks,omitempty"`
	// Apart says that the row is not among those chosen by another look, where that was asked.
	Apart bool `json:"apart,omitempty"`
}

// GroupsView is a list in groups, without the rows in them.
type GroupsView struct {
	Groups []GroupView `json:"groups"`
	// More says that there are more groups than are shown.
	More bool `json:"more,omitempty"`
	// Total and Totals are over all groups, those not shown too.
	Total  int64        `json:"total"`
	Totals []FigureView `json:"totals"`
	// RatesOn and Rates say how amounts were converted.
	RatesOn any        `json:"rates_on,omitempty"`
	Rates   []RateView `json:"rates,omitempty"`
}

// GroupView is one group.
type GroupView struct {
	// Key is the value its records have in common, the first day for a month or a year,
	// null for records without one.
	Key any `json:"key"`
	// Then are the values they have in common besides, where there are groups in groups.
	Then   []any        `json:"then,omitempty"`
	Count  int64        `json:"count"`
	Totals []FigureView `json:"totals"`
}

// FigureView is a total: one value, none when there was nothing to make it of, or one for
// each currency. A converted one is followed by what had no rate.
type FigureView struct {
	Path      string          `json:"path"`
	Of        query.Aggregate `json:"of"`
	Type      model.FieldType `json:"type"`
	Values    []any           `json:"values"`
	Converted bool            `json:"converted,omitempty"`
}

// Rows reads a page of the list.
func (l *Listing) Rows(ctx context.Context, r records.Reader, look Look) (RowsView, error) {
	out := RowsView{Rows: []RowView{}}
	v, err := l.look(r, look)
	if err != nil {
		return out, err
	}
	if out.Columns, err = l.shown(r, v.headings); err != nil {
		return out, err
	}
	if rates, err := ratesOn(r, ""); err == nil {
		out.Converts = rates.house
	}
	size := MorePageSize
	if v.query.After == nil {
		size = PageSize
	}
	if look.Size > 0 {
		size = min(look.Size, MostPageSize)
	}
	v.query.Limit = size + 1
	shown := v.query.Columns
	for _, m := range l.marks {
		v.query.Columns = append(v.query.Columns[:len(v.query.Columns):len(v.query.Columns)], m.paths...)
	}
	page, err := r.Select(ctx, v.query)
	if err != nil {
		return out, err
	}
	if v.query.After == nil {
		out.Reads = page.Reads
	}
	found := page.Records
	if len(found) > size {
		found = found[:size]
		next, err := page.After(size - 1)
		if err != nil {
			return out, err
		}
		out.Next = next.String()
	}
	for _, rec := range found {
		one := row(rec, shown)
		if one.Marks, err = l.marked(rec); err != nil {
			return out, err
		}
		out.Rows = append(out.Rows, one)
	}
	out.Total = int64(len(out.Rows))
	out.Counted = look.After == "" && out.Next == ""
	return out, nil
}

// Apart marks the rows of a page that are not among all that match another look: somebody chose
// those, and looks at others now.
func (l *Listing) Apart(ctx context.Context, r records.Reader, page *RowsView, all Look) error {
	keys := make([]int64, len(page.Rows))
	for i, row := range page.Rows {
		keys[i] = row.ID
	}
	q, err := l.Of(r, Chosen{All: &all})
	if err != nil {
		return err
	}
	q.Where, q.Order = predicate.All{predicate.Keys(keys), orTrue(q.Where)}, nil
	in, err := records.Keys(ctx, r, q)
	if err != nil {
		return err
	}
	for i := range page.Rows {
		page.Rows[i].Apart = !slices.Contains(in, page.Rows[i].ID)
	}
	return nil
}

// shown describes the columns, and which of them the person may change.
func (l *Listing) shown(r records.Reader, headings Headings) ([]HeadingView, error) {
	out := headings.Views()
	if !l.edit {
		return out, nil
	}
	grant, err := r.Grant(l.query.Object)
	if err != nil {
		return nil, err
	}
	for i, c := range headings {
		f := c.path.Last()
		out[i].Editable = len(c.path.Fields) == 1 && f.Whole() == f && f.Stored() && grant.Sets(access.Changing, f.Key)
		out[i].Required = f.Required
	}
	return out, nil
}

func row(rec *value.Record, columns []model.Path) RowView {
	out := RowView{ID: rec.ID, Label: rec.Label, Cells: make([]any, len(columns))}
	for i, path := range columns {
		out.Cells[i] = value.Wire(predicate.Follow(rec, path))
	}
	return out
}

// Groups counts the list by groups and makes the totals of each and over all. Without a
// grouping there are the totals alone.
func (l *Listing) Groups(ctx context.Context, r records.Reader, look Look) (GroupsView, error) {
	var out GroupsView
	_, _, err := l.grouped(ctx, r, look, &out)
	return out, err
}

// grouped writes the groups down, and gives them as they were found.
func (l *Listing) grouped(ctx context.Context, r records.Reader, look Look,
	out *GroupsView) (v looked, found []query.Group, err error) {
	out.Groups = []GroupView{}
	look.After = ""
	if v, err = l.look(r, look); err != nil {
		return v, nil, err
	}
	found, all, more, err := groups(ctx, r, v, v.by)
	if err != nil {
		return v, nil, err
	}
	if more { // the groups that were read are not the whole
		if _, all, _, err = groups(ctx, r, v, nil); err != nil {
			return v, nil, err
		}
	}
	out.Total, out.Totals = all.Count, figures(v.totals, all)
	if v.rates != nil {
		out.RatesOn, out.Rates = value.Wire(v.rates.on), v.rates.views()
	}
	if len(v.by) == 0 {
		return v, nil, nil
	}
	if out.More = more; look.Group.Empty && !more && len(v.by) == 1 {
		found = withEmpty(found, v.by[0], len(v.totals), look.Group.Hidden)
	}
	for _, g := range found {
		view := GroupView{Key: value.Wire(g.Keys[0]), Count: g.Count, Totals: figures(v.totals, g)}
		for _, key := range g.Keys[1:] {
			view.Then = append(view.Then, value.Wire(key))
		}
		out.Groups = append(out.Groups, view)
	}
	return v, found, nil
}

func groups(ctx context.Context, r records.Reader, v looked,
	by []query.Grouping) ([]query.Group, query.Group, bool, error) {
	if err := v.rates.reading(ctx, r); err != nil {
		return nil, query.Group{}, false, err
	}
	pieces, err := r.Groups(ctx, v.query, by, v.totals)
	if err != nil {
		return nil, query.Group{}, false, fmt.Errorf("making totals: %w", err)
	}
	return query.Merge(pieces, by, v.totals, v.rates)
}

func figures(totals []query.Total, g query.Group) []FigureView {
	out := make([]FigureView, len(totals))
	for i, t := range totals {
		f := t.Path.Last()
		kind := shownType(f)
		if t.Of == query.Count {
			kind = model.Whole
		}
		if kind == model.Whole && (t.Of == query.Sum || t.Of == query.Average) {
			kind = model.Decimal
		}
		out[i] = FigureView{Path: t.Path.String(), Of: t.Of, Type: kind, Converted: t.Converted, Values: []any{}}
		for _, v := range g.Totals[i] {
			out[i].Values = append(out[i].Values, value.Wire(v))
		}
	}
	return out
}

// withEmpty adds the values of a choice that no record has, in the builder's order.
func withEmpty(found []query.Group, g query.Grouping, totals int, hidden []json.RawMessage) []query.Group {
	f := g.Path.Last()
	if f.Type != model.Choice {
		return found
	}
	choices := slices.Clone(f.Choices)
	if g.Desc {
		slices.Reverse(choices)
	}
	var out []query.Group
	for _, c := range choices {
		i := slices.IndexFunc(found, func(o query.Group) bool { return o.Keys[0] == value.Text(c.Key) })
		switch {
		case i >= 0:
			out = append(out, found[i])
		case !c.Retired && !slices.ContainsFunc(hidden,
			func(raw json.RawMessage) bool { return string(raw) == `"`+c.Key+`"` }):
			out = append(out, query.Group{Keys: []value.Value{value.Text(c.Key)}, Totals: make([]query.Figure, totals)})
		}
	}
	for _, o := range found {
		if !slices.ContainsFunc(out, func(p query.Group) bool { return p.Keys[0] == o.Keys[0] }) {
			out = append(out, o)
		}
	}
	return out
}
