package screen

import (
	"context"
	"encoding/json"
	"fmt"
	"strings"

	"plainpath/core/expr"
	"plainpath/core/model"
	"plainpath/core/query"
	"plainpath/core/records"
	"plainpath/core/table"
	"plainpath/core/value"
)

// What a table gives out on a page: the rows chosen in it, those that match as it is looked at, those
// changed and not saved, and the words and the order it is looked at with.
const (
	Selected = "selected"
	Matching = "matching"
	Edited   = "edited"
	Words    = "words"
	Ordered  = "order"
)

// tableGives is what a table of an object gives out on a page.
func tableGives(t *table.Table, object string) []expr.Name {
	list := expr.Type{Kind: value.KindList, Object: object}
	var out []expr.Name
	switch t.Select {
	case table.SelectOne:
		out = append(out, expr.Name{Key: Selected, Label: "the row chosen",
			Type: expr.Type{Kind: value.KindRecord, Object: object, Empty: true}})
	case table.SelectSeveral:
		out = append(out, expr.Name{Key: Selected, Label: "the rows chosen", Type: list})
	}
	out = append(out, expr.Name{Key: Matching, Label: "the rows that match", Type: list})
	if t.Edit {
		out = append(out, expr.Name{Key: Edited, Label: "the rows changed and not saved", Type: list})
	}
	text := expr.Type{Kind: value.KindText, Empty: true}
	return append(out, expr.Name{Key: Words, Label: "what is searched for", Type: text},
		expr.Name{Key: Ordered, Label: "how it is ordered", Type: text})
}

// Fed is the list that a part shows which gives something out on a page by how it is looked at, as an expression; false
// for other parts.
func (p *Part) Fed() (source string, ok bool) {
	switch {
	case p.Kind == TablePart && p.Table != nil:
		return p.Table.Source, true
	case p.Kind == ChartPart && p.Chart != nil:
		return p.Chart.Source, true
	}
	return "", false
}

// GivesOf is what a part that is fed by records of an object gives out on a page.
func (p *Part) GivesOf(object string) []expr.Name {
	if p.Kind == TablePart {
		return tableGives(p.Table, object)
	}
	return []expr.Name{{Key: Matching, Label: "the records of what is pressed, or all",
		Type: expr.Type{Kind: value.KindList, Object: object}}}
}

// Used are the known values that something takes, as the paths that its expressions name.
type Used struct {
	Model *model.Model
	Paths [][]string
}

// fields are those that are taken of records of an object that are known by a name, or by a value of it.
func (u Used) fields(object string, name ...string) []model.Path {
	return records.FieldsUsed(u.Model, object, name, u.Paths)
}

// Takes says whether a value of a table is taken.
func (u Used) Takes(key, value string) bool {
	for _, path := range u.Paths {
		if len(path) > 1 && path[0] == key && path[1] == value {
			return true
		}
	}
	return false
}

// lookedAt is what is known of a table from how it is looked at alone.
func (p *tabled) lookedAt(r records.Reader, look table.Look) *value.Record {
	out := &value.Record{Fields: map[string]value.Value{}}
	if words := strings.TrimSpace(look.Text); words != "" {
		out.Fields[Words] = value.Text(words)
	}
	var order []string
	for _, o := range look.Order {
		path, err := r.Model().Path(p.table.Object(), o.Path)
		if err != nil {
			continue
		}
		label := table.Heading(path)
		if o.Desc {
			label += " downwards"
		}
		order = append(order, label)
	}
	if len(order) > 0 {
		out.Fields[Ordered] = value.Text(strings.Join(order, ", "))
	}
	return out
}

func (p *tabled) selection(ctx context.Context, r records.Reader, values expr.Values, raw json.RawMessage,
	used Used, into *value.Record) error {
	c, err := table.ParseChosen(raw)
	if err != nil {
		return nil //nolint:nilerr // what cannot be read was not chosen
	}
	if most := p.Table.Most; most > 0 && len(c.Keys) > most {
		return &query.LookError{Text: fmt.Sprintf("At most %d rows can be chosen in %s; %d are.", most, p.Label,
			len(c.Keys))}
	}
	fields := used.fields(p.table.Object(), p.Key, Selected)
	if c.All != nil && p.Table.Select == table.SelectSeveral { // not read, but searched for when something asks
		into.Fields[Selected], err = p.table.All(ctx, r, values, c, fields)
		return err
	}
	var records []*value.Record
	if len(c.Keys) > 0 {
		if records, err = p.table.Read(ctx, r, values, c, fields); err != nil {
			return err
		}
	}
	switch {
	case p.Table.Select == table.SelectSeveral:
		into.Fields[Selected] = &value.List{Object: p.table.Object(), Source: value.Records(records)}
	case p.Table.Select == table.SelectOne && len(records) > 0:
		into.Fields[Selected] = records[0]
	}
	return nil
}

// matching is the list as somebody looks at it. It is only bound: nothing is read until
// something asks for it.
func (p *tabled) matching(ctx context.Context, r records.Reader, values expr.Values, look table.Look, used Used,
	into *value.Record) error {
	if !used.Takes(p.Key, Matching) {
		return nil
	}
	l, err := p.table.Listing(ctx, r, values)
	if err != nil {
		return err
	}
	look, _ = l.Fit(r, look)
	q, err := l.Of(r, table.Chosen{All: &look})
	q.Columns = used.fields(p.table.Object(), p.Key, Matching)
	into.Fields[Matching] = &value.List{Object: p.table.Object(),
		Source: &records.Listed{Context: ctx, Reader: r, Query: q}}
	return err
}

// edited is the rows being changed, as they are stored.
func (p *tabled) edited(ctx context.Context, r records.Reader, values expr.Values, keys []int64, used Used,
	into *value.Record) error {
	if !used.Takes(p.Key, Edited) {
		return nil
	}
	var records []*value.Record
	if len(keys) > 0 {
		keys = keys[:min(len(keys), table.MostChosen)]
		var err error
		if records, err = p.table.Read(ctx, r, values, table.Chosen{Keys: keys},
			used.fields(p.table.Object(), p.Key, Edited)); err != nil {
			return err
		}
	}
	into.Fields[Edited] = &value.List{Object: p.table.Object(), Source: value.Records(records)}
	return nil
}
