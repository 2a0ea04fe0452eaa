package surface

import (
	"context"
	"encoding/json"
	"fmt"

	"plainpath/core/expr"
	"plainpath/core/model"
	"plainpath/core/predicate"
	"plainpath/core/query"
	"plainpath/core/records"
	"plainpath/core/value"
)

// BandView is a band as a person sees it.
type BandView struct {
	Title   string       `json:"title,omitempty"`
	Columns []ColumnView `json:"columns"`
}

// ColumnView is a column of a band as a person sees it.
type ColumnView struct {
	Parts []PartView `json:"parts"`
}

// PartView is a part as a person sees it, with its values.
type PartView struct {
	Key   string   `json:"key"`
	Kind  PartKind `json:"kind"`
	Label string   `json:"label,omitempty"`
	// Text is what a text says.
	Text  expr.Sentence `json:"text,omitempty"`
	Input *Input        `json:"input,omitempty"`
	// Value is what an input holds at first.
	Value   any          `json:"value,omitempty"`
	Table   *TableView   `json:"table,omitempty"`
	Details []DetailView `json:"details,omitempty"`
	// Same says that the part is as it was and the rest is left out.
	Same bool `json:"same,omitempty"`
	// Lost says that an earlier choice no longer holds and must be made again.
	Lost string `json:"lost,omitempty"`
}

// Heading describes one column of a table or one field of details.
type HeadingView struct {
	Path    string              `json:"path"`
	Label   string              `json:"label"`
	Type    model.FieldType     `json:"type"`
	Prefix  string              `json:"prefix,omitempty"`
	Choices []model.ChoiceValue `json:"choices,omitempty"`
	// Object is what a reference points at.
	Object string `json:"object,omitempty"`
	// Above is the common heading over it and its neighbours.
	Above string `json:"above,omitempty"`
	// NewTab opens a web link in a tab of its own.
	NewTab bool `json:"new_tab,omitempty"`
	// Editable says that the person may change it in the table, Required that it must not
	// be empty then.
	Editable bool `json:"editable,omitempty"`
	Required bool `json:"required,omitempty"`
	// Operators are those that the values can be compared with.
	Operators []predicate.Operator `json:"operators"`
}

// TableView is a table with its first rows.
type TableView struct {
	Object  string      `json:"object"`
	Select  Selection   `json:"select"`
	Least   int         `json:"least,omitempty"`
	Most    int         `json:"most,omitempty"`
	Keyword []string    `json:"keyword,omitempty"`
	Nothing string      `json:"nothing,omitempty"`
	Reading string      `json:"reading,omitempty"`
	Failed  string      `json:"failed,omitempty"`
	Chosen  []value.Ref `json:"chosen"`
	Live    string      `json:"live,omitempty"`
	Others  []OtherView `json:"others,omitempty"`
	Inside  *InsideView `json:"inside,omitempty"`
	// Buttons are those that the person's roles may press.
	Buttons []ButtonView `json:"buttons,omitempty"`
	Rows    RowsView     `json:"rows"`
}

// OtherView is an object that the person can switch a table to.
type OtherView struct {
	Object string `json:"object"`
	Plural string `json:"plural"`
}

// DetailView is one field of details.
type DetailView struct {
	Heading HeadingView `json:"heading"`
	Value   any         `json:"value"`
}

// Answers are what a person gave on a surface, by part, as it came.
type Answers map[string]json.RawMessage

// Show computes what a person sees. Earlier answers fill the inputs in as far as
// they still hold.
func (s *Surface) Show(ctx context.Context, r records.Reader, values expr.Values, earlier Answers) ([]BandView, error) {
	return s.show(ctx, r, values, Given{Answers: earlier}, nil)
}

// show leaves out what need not be shown anew; nil shows everything.
func (s *Surface) show(ctx context.Context, r records.Reader, values expr.Values, g Given,
	anew map[string]bool) ([]BandView, error) {
	out := make([]BandView, len(s.Bands))
	for i, b := range s.Bands {
		out[i] = BandView{Title: b.Title, Columns: make([]ColumnView, len(b.Columns))}
		for j, c := range b.Columns {
			out[i].Columns[j].Parts = []PartView{}
			for _, def := range c.Parts {
				p := s.parts[def.Key]
				offered, err := p.isOffered(values)
				if err != nil {
					return nil, err
				}
				if !offered {
					continue
				}
				view := PartView{Key: p.Key, Kind: p.Kind, Same: true}
				if anew == nil || anew[def.Key] {
					if view, err = p.show(ctx, r, values, g); err != nil {
						return nil, fmt.Errorf("showing %q: %w", def.Label, err)
					}
				}
				out[i].Columns[j].Parts = append(out[i].Columns[j].Parts, view)
			}
		}
	}
	return out, nil
}

func (p *part) isOffered(values expr.Values) (bool, error) {
	if p.offered == nil {
		return true, nil
	}
	return p.offered.True(values)
}

func (p *part) show(ctx context.Context, r records.Reader, values expr.Values, g Given) (PartView, error) {
	view := PartView{Key: p.Key, Kind: p.Kind, Label: p.Label}
	kind := kindOf(p.Kind)
	if kind == nil { // which a finding says
		return view, nil
	}
	err := kind.show(ctx, p, r, values, g, &view)
	return view, err
}

// table shows a table as it is looked at.
func (p *part) table(ctx context.Context, r records.Reader, values expr.Values, look Look) (*TableView, error) {
	view := &TableView{Object: p.object, Select: p.Table.Select, Least: p.Table.fewest(),
		Most: p.Table.Most, Nothing: p.Table.Nothing, Reading: p.Table.Reading, Failed: p.Table.Failed,
		Chosen: []value.Ref{}, Live: p.Table.Live, Inside: p.insideView(r.Person()),
		Buttons: p.buttonViews(r.Person())}
	var err error
	if view.Others, err = p.others(r); err != nil {
		return nil, err
	}
	for _, k := range p.keyword {
		view.Keyword = append(view.Keyword, Heading(k))
	}
	l, err := p.listing(ctx, r, values)
	if err != nil {
		return nil, err
	}
	view.Rows, err = l.Rows(ctx, r, look)
	return view, err
}

// others are the objects the table can be switched to, as far as the person may see them.
func (p *part) others(r records.Reader) ([]OtherView, error) {
	var out []OtherView
	for _, o := range p.Table.Others {
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

// keep shows the rows chosen earlier that are still in the list, and says so when
// some are not.
func (p *part) keep(ctx context.Context, r records.Reader, values expr.Values, earlier json.RawMessage,
	view *PartView) error {
	c, err := parseChosen(earlier)
	if err != nil || len(c.Keys) == 0 {
		return err
	}
	records, err := p.chosen(ctx, r, values, c, nil)
	if err != nil {
		return err
	}
	for _, rec := range records {
		view.Table.Chosen = append(view.Table.Chosen, value.Ref{ID: rec.ID, Label: rec.Label})
	}
	if len(records) < len(c.Keys) {
		view.Lost = "What was chosen here before is no longer in the list. Please choose again."
	}
	return nil
}

func (p *part) details(ctx context.Context, r records.Reader, values expr.Values) ([]DetailView, error) {
	v, err := p.source.Eval(values)
	if err != nil {
		return nil, err
	}
	record, ok := v.(*value.Record)
	if ok {
		found, err := records.ByKey(ctx, r, p.object, []int64{record.ID}, p.paths())
		if err != nil {
			return nil, err
		}
		record = nil
		if len(found) > 0 {
			record = found[0]
		}
	}
	out := make([]DetailView, len(p.columns))
	for i, h := range headings(p.columns) {
		out[i] = DetailView{h, value.Wire(predicate.Follow(record, p.columns[i].path))}
	}
	return out, nil
}

func (p *part) paths() []model.Path {
	out := make([]model.Path, len(p.columns))
	for i, c := range p.columns {
		out[i] = c.path
	}
	return out
}

func headings(columns []column) []HeadingView {
	out := make([]HeadingView, len(columns))
	for i, c := range columns {
		out[i] = HeadingOf(c.path, c.label)
		out[i].Above = c.above
	}
	return out
}

// HeadingOf describes a column that shows a path.
func HeadingOf(path model.Path, label string) HeadingView {
	f := path.Last()
	return HeadingView{Path: path.String(), Label: label, Type: shownType(f), Prefix: f.Prefix, Choices: f.Choices,
		Object: f.Target(), NewTab: f.NewTab, Operators: predicate.Operators(f)}
}

// shownType is the type of a field's values as they are shown.
func shownType(f *model.Field) model.FieldType {
	if f.Type == model.WorkedOut {
		return f.Result
	}
	return f.Type
}

// query is the list behind a table.
func (p *part) query(values expr.Values) (query.Query, error) {
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

// listing is the list behind a table, with the table's columns. A limited search is a
// list of its own: it is fetched first, then looked at.
func (p *part) listing(ctx context.Context, r records.Reader, values expr.Values) (*Listing, error) {
	q, err := p.query(values)
	l := &Listing{was: p.Was, query: q, columns: p.columns, keyword: p.keyword, edit: p.Table.Edit,
		others: p.Table.Others, inside: p.inside, views: p.Table.Views, buttons: p.buttons, marks: p.marks,
		values: values, found: q.Where, limit: q.Limit, least: p.Table.fewest(), most: p.Table.Most}
	if err == nil && q.Limit > 0 {
		l.query, err = frozen(ctx, r, q)
	}
	return l, err
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

// Listing is the list behind one of the tables.
func (s *Surface) Listing(ctx context.Context, r records.Reader, values expr.Values, key string) (*Listing, error) {
	p := s.parts[key]
	if p == nil || p.Kind != TablePart || p.source == nil {
		return nil, &NoPartError{"table", key}
	}
	return p.listing(ctx, r, values)
}

// NoPartError says that a screen has no part of a kind by that key.
type NoPartError struct{ Kind, Key string }

func (e *NoPartError) Error() string {
	return fmt.Sprintf("there is no %s %q on this screen", e.Kind, e.Key)
}

// Options finds records for a reference input as the person types.
func (s *Surface) Options(ctx context.Context, r records.Reader, values expr.Values, key,
	text string) ([]value.Ref, error) {
	p := s.parts[key]
	if p == nil || p.Kind != InputPart || p.object == "" {
		return nil, &NoPartError{"input that offers records", key}
	}
	q, err := p.among(ctx, r, values)
	if err != nil {
		return nil, err
	}
	return records.OptionsAmong(ctx, r, q, text)
}
