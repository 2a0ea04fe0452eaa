package table

import (
	"context"
	"fmt"

	"plainpath/core/expr"
	"plainpath/core/predicate"
	"plainpath/core/query"
	"plainpath/core/records"
	"plainpath/core/value"
)

// View is a table with its first rows.
type View struct {
	Object  string      `json:"object"`
	Select  Selection   `json:"select"`
	Least   int         `json:"least,omitempty"`
	Most    int         `json:"most,omitempty"`
	Keyword []string    `json:"keyword,omitempty"`
	Nothing string      `json:"nothing,omitempty"`
	Reading string      `json:"reading,omitempty"`
	Failed  string      `json:"failed,omitempty"`
	Chosen  []ChosenRow `json:"chosen"`
	// Ask is what the person may give in each row.
	Ask    []Asked     `json:"ask,omitempty"`
	Live   string      `json:"live,omitempty"`
	Others []OtherView `json:"others,omitempty"`
	Inside *InsideView `json:"inside,omitempty"`
	// Buttons are those that the person's roles may press.
	Buttons []ButtonView `json:"buttons,omitempty"`
	Rows    RowsView     `json:"rows"`
}

// OtherView is an object that the person can switch a table to.
type OtherView struct {
	Object string `json:"object"`
	Plural string `json:"plural"`
}

// Show shows the table as it is looked at.
func (p *Program) Show(ctx context.Context, r records.Reader, values expr.Values, look Look) (*View, error) {
	view := p.bare(r)
	var err error
	if view.Others, err = p.others(r); err != nil {
		return nil, err
	}
	l, err := p.Listing(ctx, r, values)
	if err != nil {
		return nil, err
	}
	view.Rows, err = l.Rows(ctx, r, look)
	return view, err
}

// bare is the table without rows.
func (p *Program) bare(r records.Reader) *View {
	view := &View{Object: p.object, Select: p.Select, Least: p.fewest(), Most: p.Most, Nothing: p.Nothing,
		Reading: p.Reading, Failed: p.Failed, Chosen: []ChosenRow{}, Ask: p.Ask, Live: p.Live, Inside: p.insideView(r),
		Buttons: p.buttonViews(r.Person()), Rows: RowsView{Columns: []HeadingView{}, Rows: []RowView{}}}
	for _, k := range p.keyword {
		view.Keyword = append(view.Keyword, Heading(k))
	}
	return view
}

// others are the objects the table can be switched to, as far as the person may see them.
func (p *Program) others(r records.Reader) ([]OtherView, error) {
	var out []OtherView
	for _, o := range p.Others {
		g, err := r.Grant(o.Object)
		if err != nil {
			return nil, err
		}
		if g.MaySee() {
			out = append(out, OtherView{o.Object, r.Model().Object(o.Object).Plural})
		}
	}
	return out, nil
}

// Listing is the list behind the table, with the table's columns. A limited search is a
// list of its own: it is fetched first, then looked at.
func (p *Program) Listing(ctx context.Context, r records.Reader, values expr.Values) (*Listing, error) {
	q, err := p.query(values)
	l := &Listing{was: p.owner.Was, query: q, headings: p.headings, keyword: p.keyword, edit: p.Edit,
		others: p.Table.Others, inside: p.inside, views: p.Views, buttons: p.buttons, marks: p.marks,
		values: values, found: q.Where, limit: q.Limit, least: p.fewest(), most: p.Most}
	if err == nil && q.Limit > 0 {
		l.query, err = frozen(ctx, r, q)
	}
	return l, err
}

func (p *Program) query(values expr.Values) (query.Query, error) {
	v, err := p.source.Eval(values)
	if err != nil {
		return query.Query{}, err
	}
	l, ok := v.(*value.List)
	if !ok {
		return query.Query{Object: p.object, Where: predicate.False}, nil
	}
	q, err := records.QueryOf(l)
	q.Object, q.Columns = p.object, nil
	return q, err
}

// frozen fetches the keys of a limited search, so that looking at it another way
// does not change which records it has.
func frozen(ctx context.Context, r records.Reader, q query.Query) (query.Query, error) {
	bare := q
	bare.Columns = nil
	records, err := records.Select(ctx, r, bare)
	if err != nil {
		return q, err
	}
	keys := make(predicate.Keys, len(records))
	for i, rec := range records {
		keys[i] = rec.ID
	}
	q.Where, q.Limit = keys, 0
	return q, nil
}

// MissingError says that a screen has nothing of a kind by that key.
type MissingError struct{ Kind, Key string }

func (e *MissingError) Error() string {
	return fmt.Sprintf("there is no %s %q on this screen", e.Kind, e.Key)
}
