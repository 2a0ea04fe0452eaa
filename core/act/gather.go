package act

import (
	"context"
	"fmt"
	"maps"
	"slices"

	"plainpath/core/definition"
	"plainpath/core/expr"
	"plainpath/core/model"
	"plainpath/core/predicate"
	"plainpath/core/records"
	"plainpath/core/value"
)

// Gather puts the records or rows of lists together to the rows of one list, which is not stored. They stay as
// they were when they were put together.
type Gather struct {
	Columns []GatherColumn `json:"columns"`
	From    []GatherFrom   `json:"from"`
}

// GatherColumn is a value that each row has.
type GatherColumn struct {
	Key   string          `json:"key"`
	Label string          `json:"label"`
	Type  model.FieldType `json:"type"`
	// Object is what a reference points at.
	Object string `json:"object,omitempty"`
	// Choices are those of a column of them.
	Choices []model.ChoiceValue `json:"choices,omitempty"`
}

func (g *GatherColumn) field() *model.Field {
	return &model.Field{Key: g.Key, Label: g.Label, Type: g.Type, Object: g.Object, Choices: g.Choices}
}

// GatherFrom is a list that rows are made of.
type GatherFrom struct {
	// List is an expression that gives the list; what is at hand of it is known as Item.
	List string `json:"list"`
	Item string `json:"item"`
	// OnlyWhen is a condition on what is at hand; the others are left out.
	OnlyWhen string        `json:"only_when,omitempty"`
	Values   []ColumnValue `json:"values"`
}

// ColumnValue says what a column holds for what is at hand of a list; columns without one are empty.
type ColumnValue struct {
	Column string            `json:"column"`
	Value  predicate.Operand `json:"value"`
}

// mostGathered is how many rows are put together.
const mostGathered = 10_000

type gatherPlan struct {
	basis
	columns []*model.Field
	from    []gathered
}

// gathered is a list that rows are made of, checked.
type gathered struct {
	list *expr.Program
	item string
	only *expr.Program
	// values are what each column holds: an expression, or else a value.
	values []columnValue
}

// mayLack says whether a column can be empty in the rows of the list.
func (g *gathered) mayLack(f *model.Field) bool {
	n := slices.IndexFunc(g.values, func(v columnValue) bool { return v.column == f })
	switch {
	case n < 0:
		return true
	case g.values[n].program != nil:
		return g.values[n].program.Type.Empty
	}
	return g.values[n].literal == nil
}

type columnValue struct {
	column  *model.Field
	program *expr.Program
	literal value.Value
}

func checkGather(c *check, a *Act, at string) Plan {
	if !given(c, a, a.Gather, at) {
		return nil
	}
	at += "/gather"
	p := &gatherPlan{}
	gives := expr.Type{Kind: value.KindRows}
	for i := range a.Gather.Columns {
		pointer := fmt.Sprintf("%s/columns/%d", at, i)
		if f := c.column(&a.Gather.Columns[i], gives.Answers, pointer); f != nil {
			p.columns = append(p.columns, f)
			gives.Answers = append(gives.Answers, expr.Name{Key: f.Key, Label: f.Label, Type: expr.OfField(f),
				Of: model.Referent{Document: c.Document, At: pointer}})
		}
	}
	if len(a.Gather.Columns) == 0 {
		c.Find(definition.Stop, at+"/columns", "the rows have no values", "There would be nothing in them.", nil)
	}
	if len(a.Gather.From) == 0 {
		c.Find(definition.Stop, at+"/from", "nothing says of what the rows are made", "There would be none.", nil)
	}
	for i := range a.Gather.From {
		if g := c.gathered(p, gives.Answers, &a.Gather.From[i], fmt.Sprintf("%s/from/%d", at, i)); g != nil {
			p.from = append(p.from, *g)
		}
	}
	if len(p.from) < len(a.Gather.From) || len(p.from) == 0 {
		return nil
	}
	for n, f := range p.columns {
		gives.Answers[n].Type.Empty = slices.ContainsFunc(p.from, func(g gathered) bool { return g.mayLack(f) })
	}
	p.basis = basis{uses: c.uses, gives: &gives}
	return p
}

// column checks a value that each row has, nil when it cannot be.
func (c *check) column(def *GatherColumn, before []expr.Name, at string) *model.Field {
	f := def.field()
	problem := model.KeyProblem(def.Key)
	switch {
	case problem != "":
		c.Find(definition.Stop, at+"/key", problem, "Nothing could use the value.", nil)
	case slices.ContainsFunc(before, func(n expr.Name) bool { return n.Key == def.Key }):
		c.Find(definition.Stop, at+"/key", fmt.Sprintf("the key %q is taken", def.Key),
			"One value would be taken for the other.", definition.Replace("Rename it", at+"/key", def.Key+"_too"))
	case !slices.Contains(model.FieldTypes, def.Type) || def.Type == model.WorkedOut || def.Type == model.Number:
		c.Find(definition.Stop, at+"/type", fmt.Sprintf("%q is not something that a row can hold", def.Type),
			"The rows could not be made.", nil)
	case def.Type == model.Reference && c.Object(c.Scope.Model, def.Object, at+"/object",
		"The rows could not be made.") == nil:
	default:
		return f
	}
	return nil
}

func (c *check) gathered(p *gatherPlan, columns []expr.Name, def *GatherFrom, at string) *gathered {
	const consequence = "There would be no rows of it."
	out := &gathered{item: def.Item}
	if out.list = c.listOrRows(def.List, at+"/list", consequence); out.list == nil {
		return nil
	}
	scope := c.itemOf(def.Item, out.list.Type, at)
	if def.OnlyWhen != "" {
		out.only = c.ExpressionOf(expr.Type{Kind: value.KindYesNo}, scope, def.OnlyWhen, at+"/only_when", consequence)
		if out.only == nil {
			return nil
		}
		c.uses = append(c.uses, OfItem(out.only.Uses, def.Item, out.list.Uses)...)
	}
	set := map[string]bool{}
	for i, v := range def.Values {
		pointer := fmt.Sprintf("%s/values/%d", at, i)
		n := slices.IndexFunc(p.columns, func(f *model.Field) bool { return f.Key == v.Column })
		if n < 0 || set[v.Column] {
			what := fmt.Sprintf("there is no column %q", v.Column)
			if n >= 0 {
				what = fmt.Sprintf("%q is set twice", v.Column)
			}
			c.Find(definition.Stop, pointer+"/column", what, "The value would go nowhere.",
				&definition.Mend{Label: "Leave it out", Patch: []definition.Op{{Op: "remove", Path: pointer}}})
			return nil
		}
		set[v.Column] = true
		c.Mention(model.TextMention(pointer+"/column", v.Column, columns[n].Of))
		value, ok := c.columnValue(p.columns[n], v, scope, pointer)
		if !ok {
			return nil
		}
		if value.program != nil {
			c.uses = append(c.uses, OfItem(value.program.Uses, def.Item, out.list.Uses)...)
		}
		out.values = append(out.values, value)
	}
	return out
}

func (c *check) columnValue(f *model.Field, v ColumnValue, scope expr.Scope, at string) (columnValue, bool) {
	consequence := f.Label + " would be empty."
	if v.Value.Expression != "" {
		p := c.ExpressionFor(f, scope, v.Value.Expression, at+"/value/expression", consequence)
		return columnValue{column: f, program: p}, p != nil
	}
	literal, err := value.Parse(f.Kind(), v.Value.Literal)
	if err == nil {
		err = f.CheckValue(literal)
	}
	if err != nil {
		c.Fail(err, at+"/value/literal", "", consequence)
		return columnValue{}, false
	}
	return columnValue{column: f, literal: literal}, true
}

// OfItem turns what is used of what is at hand into what is used of the lists it comes from.
func OfItem(uses [][]string, item string, lists [][]string) [][]string {
	var out [][]string
	for _, use := range uses {
		if use[0] != item {
			out = append(out, use)
			continue
		}
		for _, list := range lists {
			out = append(out, append(slices.Clone(list), use[1:]...))
		}
	}
	return out
}

// Do puts the rows together.
func (p *gatherPlan) Do(ctx context.Context, u records.Writer, in In) (Done, error) {
	rows := value.Rows{}
	var notes []NamedValue
	for _, from := range p.from {
		before := len(rows)
		var err error
		if rows, err = p.gather(rows, from, in); err != nil {
			return Done{}, refused(in, "The rows could not be put together", err)
		}
		notes = append(notes, NamedValue{from.list.Source, fmt.Sprintf("%d rows", len(rows)-before)})
	}
	columns := p.kept()
	if err := columns.read(ctx, u, in.Within, rows); err != nil {
		return Done{}, err
	}
	out := Done{Value: rows, Report: Report{Values: notes, Note: fmt.Sprintf("%d rows", len(rows))}}
	var err error
	out.Kept.Value, err = columns.Keep(rows)
	return out, err
}

func (p *gatherPlan) gather(rows value.Rows, from gathered, in In) (value.Rows, error) {
	v, err := found(from.list, in.Values)
	if err != nil {
		return nil, err
	}
	all, err := itemsOf(v)
	if err != nil {
		return nil, err
	}
	values := maps.Clone(in.Values)
	for _, item := range all {
		values[from.item] = item
		if from.only != nil {
			holds, err := from.only.True(values)
			if err != nil {
				return nil, err
			}
			if !holds {
				continue
			}
		}
		row := &value.Record{Fields: map[string]value.Value{}}
		for _, c := range from.values {
			v, err := c.of(values)
			if err != nil {
				return nil, err
			}
			if v != nil {
				row.Fields[c.column.Key] = v
			}
		}
		if rows = append(rows, row); len(rows) > mostGathered {
			return nil, invalidError{fmt.Errorf("there are more than %d", mostGathered)}
		}
	}
	return rows, nil
}

func (c columnValue) of(values expr.Values) (value.Value, error) {
	if c.program == nil {
		return c.literal, nil
	}
	v, err := c.program.Eval(values)
	if err != nil {
		return nil, err
	}
	if why, failed := v.(value.Failure); failed {
		return nil, invalidError{fmt.Errorf("%s cannot be worked out: it is %s", c.column.Label, why.Why)}
	}
	if r, ok := v.(*value.Record); ok && r == nil {
		return nil, nil
	}
	if err := c.column.CheckValue(v); err != nil {
		return nil, invalidError{err}
	}
	return v, nil
}

// itemsOf are the records or rows of a list, none where there is no list.
func itemsOf(v value.Value) ([]*value.Record, error) {
	switch x := v.(type) {
	case value.Rows:
		return x, nil
	case *value.List:
		return x.Source.All()
	}
	return nil, nil
}

// Restore knows the rows as they were put together.
func (p *gatherPlan) Restore(ctx context.Context, u records.Writer, in In, kept Kept) (value.Value, error) {
	rows, err := p.kept().Rows(ctx, u, kept.Value, in.Within)
	if err != nil {
		return nil, fmt.Errorf("reading the rows that were put together: %w", err)
	}
	return rows, nil
}

// kept are the columns as rows are kept.
func (p *gatherPlan) kept() Columns { return ColumnsOf(p.gives.Answers) }
