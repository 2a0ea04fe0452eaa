package screen

import (
	"context"
	"fmt"

	"plainpath/core/definition"
	"plainpath/core/expr"
	"plainpath/core/query"
	"plainpath/core/records"
	"plainpath/core/table"
	"plainpath/core/value"
)

// Figure is one number over a list: how many records there are in it, or what is made of a field of them. It can be
// compared with the same of another list.
type Figure struct {
	// Source is an expression that gives the list.
	Source string `json:"source"`
	// Path is the field that the figure is of, Of what is made of it; without them it is how many records there are.
	Path string          `json:"path,omitempty"`
	Of   query.Aggregate `json:"of,omitempty"`
	// Converted puts the amounts of all currencies together, by the rates of today.
	Converted bool `json:"converted,omitempty"`
	// Against is an expression that gives the list it is compared with, Called what people call that.
	Against string `json:"against,omitempty"`
	Called  string `json:"called,omitempty"`
	// Good says whether more of it is good or bad, neither when it is empty.
	Good Better `json:"good,omitempty"`
}

// Better says what is good of a figure.
type Better string

// More of a figure is good, or less of it.
const (
	MoreIsGood Better = "more"
	LessIsGood Better = "less"
)

// FigurePartView is a figure as a person sees it.
type FigurePartView struct {
	Object string `json:"object"`
	table.Reckoned
	// Heading is that of the field, Look how its records are looked at, for the proof.
	Heading *table.HeadingView `json:"heading,omitempty"`
	Look    table.Look         `json:"look"`
	// Converts is the currency that amounts are converted to.
	Converts string          `json:"converts,omitempty"`
	Against  *table.Reckoned `json:"against,omitempty"`
	Called   string          `json:"called,omitempty"`
	// Change is by how many percent it is more, in digits; empty where that means nothing.
	Change string `json:"change,omitempty"`
	Good   Better `json:"good,omitempty"`
}

// AgainstList is what the list that a figure is compared with is called behind the key of its part.
const AgainstList = "against"

var figureKind = partKind{FigurePart, func(def *Part) bool { return def.Figure != nil }, checkFigure}

type figure struct {
	*Figure
	of, against *table.Program
	total       *table.LookTotal
	heading     *table.HeadingView
	converts    string
}

func checkFigure(c *compiler, p *part, at string) content {
	def := p.Figure
	f := &figure{Figure: def}
	if f.of = c.counted(def.Source, at+"/source", "the figure is of nothing", noFigure); f.of == nil {
		return nil
	}
	if !f.makes(c, at) {
		return nil
	}
	if good := def.Good; good != "" && good != MoreIsGood && good != LessIsGood {
		c.Find(definition.Stop, at+"/good", fmt.Sprintf("%q says nothing of what is good", good), "Nobody could tell.",
			&definition.Mend{Label: "Neither is good", Patch: []definition.Op{{Op: "remove", Path: at + "/good"}}})
	}
	if def.Against == "" {
		return f
	}
	f.against = c.counted(def.Against, at+"/against", "it is compared with nothing", noFigure)
	switch {
	case f.against == nil:
		return nil
	case f.total != nil && f.against.Object() != f.of.Object():
		c.Find(definition.Stop, at+"/against",
			"the lists are not of the same object, so they have no such field in common", "It could not be compared.",
			&definition.Mend{Label: "Do not compare", Patch: []definition.Op{{Op: "remove", Path: at + "/against"}}})
		return nil
	case def.Called == "":
		c.Find(definition.Care, at+"/called", "it does not say what the figure is compared with",
			"People would not know more than what.", nil)
	}
	return f
}

const noFigure = "There would be no figure."

// counted is a list that a part is made of, as a table without columns.
func (c *compiler) counted(source, at, lacking, consequence string) *table.Program {
	if source == "" {
		c.Find(definition.Stop, at, lacking, consequence, nil)
		return nil
	}
	list := c.program(source, expr.Type{Kind: value.KindList}, at, consequence)
	if list == nil || c.scope.Model.Object(list.Type.Object) == nil {
		return nil
	}
	label := table.Column{Path: c.scope.Model.Object(list.Type.Object).LabelField}
	return table.Compile(definition.NewCheck(c.Document), c.scope, table.Owner{},
		&table.Table{Source: source, Select: table.SelectNone, Columns: []table.Column{label}}, at)
}

// makes checks what is made of which field.
func (f *figure) makes(c *compiler, at string) bool {
	const consequence = noFigure
	if f.Path == "" {
		if f.Of != "" {
			c.Find(definition.Stop, at+"/path", "it does not say of which field", consequence,
				&definition.Mend{Label: "Count the records", Patch: []definition.Op{{Op: "remove", Path: at + "/of"}}})
		}
		return f.Of == ""
	}
	path, ok := c.Path(c.scope.Model, f.of.Object(), f.Path, at+"/path", consequence)
	if !ok {
		return false
	}
	total := query.Total{Path: path, Of: f.Of, Converted: f.Converted}
	if err := query.CheckTotal(total); err != nil {
		c.Find(definition.Stop, at+"/of", err.Error(), consequence, &definition.Mend{Label: "Count the records",
			Patch: []definition.Op{{Op: "remove", Path: at + "/of"}, {Op: "remove", Path: at + "/path"}}})
		return false
	}
	heading := table.HeadingOf(path, table.Heading(path))
	f.heading = &heading
	f.total = &table.LookTotal{Path: path.String(), Of: f.Of, Converted: f.Converted}
	if f.Converted {
		f.converts = c.scope.Model.Currency
	}
	return true
}

// list is the list that a figure is made of, or that it is compared with; nil where there is none.
func (f *figure) list(which string) *table.Program {
	switch which {
	case "":
		return f.of
	case AgainstList:
		return f.against
	}
	return nil
}

func (f *figure) show(ctx context.Context, r records.Reader, values expr.Values, _ Given, view *PartView) error {
	out := &FigurePartView{Object: f.of.Object(), Heading: f.heading, Converts: f.converts, Called: f.Called,
		Good: f.Good}
	if f.total != nil {
		out.Look.Totals = []table.LookTotal{*f.total}
	}
	var err error
	if out.Reckoned, err = f.reckon(ctx, r, values, f.of); err != nil {
		return err
	}
	view.Figure = out
	if f.against == nil {
		return nil
	}
	against, err := f.reckon(ctx, r, values, f.against)
	if err != nil {
		return err
	}
	out.Against = &against
	if change, any := out.Reckoned.Change(against); any {
		out.Change = change.String()
	}
	return nil
}

func (f *figure) reckon(ctx context.Context, r records.Reader, values expr.Values,
	list *table.Program) (table.Reckoned, error) {
	l, err := list.Listing(ctx, r, values)
	if err != nil {
		return table.Reckoned{}, err
	}
	return l.Figure(ctx, r, f.total)
}

// lister is a part that shows what is in a list, of which it may have several.
type lister interface {
	list(which string) *table.Program
}

func (p *tabled) list(which string) *table.Program {
	if which != "" {
		return nil
	}
	return p.table
}
