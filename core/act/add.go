package act

import (
	"context"
	"fmt"
	"strings"

	"plainpath/core/definition"
	"plainpath/core/expr"
	"plainpath/core/model"
	"plainpath/core/query"
	"plainpath/core/records"
	"plainpath/core/value"
)

// Add adds one record, or one for each record of a list; a button that is about several rows adds one for
// each of them. What it added is known afterwards.
type Add struct {
	Object string `json:"object"`
	// ForEach is an expression that gives a list; the record at hand is known as Item.
	ForEach string       `json:"for_each,omitempty"`
	Item    string       `json:"item,omitempty"`
	Values  []Assignment `json:"values"`
}

type addPlan struct {
	basis
	object  *model.Object
	forEach *expr.Program
	// rows says that it adds one for each row of the button.
	rows bool
	*assignments
}

func checkAdd(c *check, a *Act, at string) Plan {
	if !given(c, a, a.Add, at) {
		return nil
	}
	def := a.Add
	at += "/add"
	o := c.Object(c.Scope.Model, def.Object, at+"/object", "Nothing would be added.")
	if o != nil && o.BuiltIn() {
		c.Fail(definition.UnknownObject(c.Scope.Model, def.Object), at+"/object", def.Object, "Nothing would be added.")
		return nil
	}
	if o == nil {
		return nil
	}
	p := &addPlan{object: o}
	scope, item, result := c.Scope, "", expr.Type{Kind: value.KindRecord, Object: def.Object}
	var list [][]string
	if def.ForEach != "" {
		result.Kind = value.KindList
		p.forEach = c.listOrRows(def.ForEach, at+"/for_each", "It would not be known how many to add.")
		if p.forEach != nil {
			list, item = p.forEach.Uses, def.Item
			scope = c.itemOf(item, p.forEach.Type, at)
		}
	}
	if def.ForEach == "" && c.Rows != "" && !c.One {
		p.rows, item, result.Kind = true, RowName, value.KindList
	}
	p.assignments = c.settings(o, def.Values, item, scope, list, at, definition.Stop)
	if p.rows && p.turns != nil {
		c.Find(definition.Stop, at+"/values", p.turns.Error(), "One could not be added for each row.", nil)
	}
	set := map[string]bool{}
	for _, v := range def.Values {
		set[v.Field] = true
	}
	for i := range o.Fields {
		f := &o.Fields[i]
		if f.Required && f.Stored() && !f.HasDefault() && !set[f.Key] {
			c.Find(definition.Stop, at+"/values", fmt.Sprintf("%s needs a value and is not set", f.Label),
				fmt.Sprintf("The %s could not be added.", strings.ToLower(o.Label)),
				offerValue(f, scope, at+"/values/-"))
		}
	}
	p.basis = basis{uses: c.uses, gives: &result, writes: def.Object}
	return p
}

// listOrRows checks an expression that gives a list, of records or of rows put together; nil when it does not.
func (c *check) listOrRows(source, at, consequence string) *expr.Program {
	p := c.List(c.Scope, source, at, consequence)
	if p != nil {
		c.uses = append(c.uses, p.Uses...)
	}
	return p
}

// item is the scope in which the record at hand of an object has a name.
func (c *check) item(name, object, at string) expr.Scope {
	return c.itemOf(name, expr.Type{Kind: value.KindList, Object: object}, at)
}

// itemOf is the scope in which what is at hand of a list has a name.
func (c *check) itemOf(name string, list expr.Type, at string) expr.Scope {
	if problem := model.KeyProblem(name); problem != "" {
		wish := list.Object
		if wish == "" {
			wish = "each_row"
		}
		c.Find(definition.Stop, at+"/item", "the record at hand needs a name: "+problem,
			"Its fields could not be used.",
			&definition.Mend{Label: "Call it " + wish,
				Patch: []definition.Op{{Op: "add", Path: at + "/item", Value: []byte(`"` + wish + `"`)}}})
		return c.Scope
	}
	n := expr.Name{Key: name, Label: "The record at hand", Type: expr.Type{Kind: value.KindRecord, Object: list.Object}}
	if list.Kind == value.KindRows {
		n.Label, n.Type = "The row at hand", expr.Type{Kind: value.KindScreen, Answers: list.Answers}
	}
	c.atHand = append(c.atHand, n)
	return c.Scope.With(n)
}

// offerValue proposes the only value given at a place that a field could take.
func offerValue(f *model.Field, scope expr.Scope, pointer string) *definition.Mend {
	var fits []string
	for _, n := range scope.Names {
		if n.Key == "person" || n.Key == "today" || n.Key == "now" {
			continue // always known, so no sign of what was meant
		}
		if n.Type.Kind == f.Kind() && n.Type.Object == f.Target() {
			fits = append(fits, n.Key)
		}
		for _, a := range n.Type.Answers {
			if a.Type.Kind == f.Kind() && a.Type.Object == f.Target() {
				fits = append(fits, n.Key+"."+a.Key)
			}
		}
	}
	if len(fits) != 1 {
		return nil
	}
	return &definition.Mend{Label: fmt.Sprintf("Set %s to %s", f.Label, fits[0]),
		Patch: []definition.Op{{Op: "add", Path: pointer,
			Value: []byte(fmt.Sprintf(`{"field":%q,"value":{"expression":%q}}`, f.Key, fits[0]))}}}
}

// Do adds the records, all of them in one go: those for a list by one statement over the list's query
// where the database can compute their values.
func (p *addPlan) Do(ctx context.Context, u records.Writer, in In) (Done, error) {
	out := Done{Report: Report{Object: p.object.Key}}
	keys, note, err := p.add(ctx, u, in)
	if err != nil {
		return out, refused(in, fmt.Sprintf("The %s could not be added", strings.ToLower(p.object.Label)), err)
	}
	out.Kept.Added = keys
	if len(keys) > 0 {
		out.Report.Written, out.Report.Note = int64(len(keys)), note
	}
	if p.gives.Kind == value.KindList {
		out.Value = records.Fresh(ctx, u, p.object.Key, keys, in.Columns)
		return out, nil
	}
	out.Value, err = p.Restore(ctx, u, in, out.Kept)
	return out, err
}

func (p *addPlan) add(ctx context.Context, u records.Writer, in In) (keys []int64, note string, err error) {
	if p.rows {
		return p.addEach(ctx, u, in, in.Rows)
	}
	if p.forEach == nil {
		row, err := p.row(in.Values)
		if err != nil {
			return nil, "", err
		}
		keys, err = u.Add(ctx, in.Through, p.addition(row))
		return keys, "", err
	}
	v, err := found(p.forEach, in.Values)
	if err != nil {
		return nil, "", err
	}
	if list, ok := v.(*value.List); ok && p.turns == nil {
		if listed, lazy := list.Source.(*records.Listed); lazy {
			return p.addEach(ctx, u, in, listed.Query)
		}
	}
	all, err := itemsOf(v)
	if err != nil || len(all) == 0 {
		return nil, "", err
	}
	a := p.addition()
	for _, rec := range all {
		row, err := p.row(p.with(in.Values, rec))
		if err != nil {
			return nil, "", err
		}
		a.Rows = append(a.Rows, row)
	}
	keys, err = u.Add(ctx, in.Through, a)
	if p.turns != nil && p.forEach.Type.Kind == value.KindList {
		return keys, "computed one by one: " + p.turns.Error(), err
	}
	return keys, oneSet(len(keys)), err
}

// addEach adds one for each record of a query.
func (p *addPlan) addEach(ctx context.Context, u records.Writer, in In, q query.Query) ([]int64, string, error) {
	sets, err := p.known(in.Values)
	if err != nil {
		return nil, "", err
	}
	q.Columns = nil
	keys, err := u.AddEach(ctx, in.Through, query.Insertion{Object: p.object, Query: q, Sets: sets, Values: in.Values,
		Item: p.item})
	return keys, oneSet(len(keys)), err
}

func oneSet(n int) string { return fmt.Sprintf("one set of %d", n) }

func (p *addPlan) addition(rows ...[]value.Value) records.Addition {
	a := records.Addition{Object: p.object, Rows: rows}
	for _, s := range p.sets {
		a.Fields = append(a.Fields, s.Field)
	}
	return a
}

// Restore makes known what was added.
func (p *addPlan) Restore(ctx context.Context, u records.Writer, in In, kept Kept) (value.Value, error) {
	if p.gives.Kind == value.KindList {
		return records.List(ctx, u, p.object.Key, kept.Added, in.Columns)
	}
	if len(kept.Added) == 0 {
		return nil, nil
	}
	return records.One(ctx, u, p.object.Key, kept.Added[0], in.Columns)
}
