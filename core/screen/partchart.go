package screen

import (
	"cmp"
	"context"
	"encoding/json"
	"fmt"
	"slices"

	"plainpath/core/definition"
	"plainpath/core/expr"
	"plainpath/core/model"
	"plainpath/core/query"
	"plainpath/core/records"
	"plainpath/core/table"
	"plainpath/core/value"
)

// Chart draws the records of a list: in groups, each as large as it has records or as what is made of a field of
// them, or each record as a dot between two fields.
type Chart struct {
	// Source is an expression that gives the list.
	Source string  `json:"source"`
	Drawn  Drawing `json:"drawn"`
	table.Bars
	// Split puts the records of each group together again: what is stacked, or a line for each.
	Split *table.LookGroup `json:"split,omitempty"`
	// Beside draws what is split side by side instead of stacked.
	Beside bool `json:"beside,omitempty"`
	// Dots are what each record is drawn by.
	Dots *Dots `json:"dots,omitempty"`
}

// Dots says which fields of a record say where its dot is.
type Dots struct {
	Across string `json:"across"`
	Up     string `json:"up"`
}

// Drawing says how a chart is drawn.
type Drawing string

// The ways to draw a chart.
const (
	DrawnColumns Drawing = "columns"
	DrawnBars    Drawing = "bars"
	DrawnLine    Drawing = "line"
	DrawnArea    Drawing = "area"
	DrawnShares  Drawing = "shares"
	DrawnDots    Drawing = "dots"
)

// Drawings are all ways to draw a chart, in the order they are offered.
var Drawings = []Drawing{DrawnColumns, DrawnBars, DrawnLine, DrawnArea, DrawnShares, DrawnDots}

// ChartPartView is a chart as a person sees it.
type ChartPartView struct {
	Object string  `json:"object"`
	Drawn  Drawing `json:"drawn"`
	Beside bool    `json:"beside,omitempty"`
	// Look is how the records are looked at, for the proof.
	Look table.Look `json:"look"`
	// Headings are those of the fields it is made of.
	Headings []table.HeadingView `json:"headings"`
	// Converts is the currency that amounts are converted to.
	Converts string             `json:"converts,omitempty"`
	Charted  *table.ChartedView `json:"charted,omitempty"`
	// Dots are the records, each with where it is across and up.
	Dots *table.RowsView `json:"dots,omitempty"`
	// Gives says that something on the page takes what is pressed in it.
	Gives bool `json:"gives,omitempty"`
}

// Picked is what somebody pressed in a chart: a group, or a dot.
type Picked struct {
	Within json.RawMessage   `json:"within,omitempty"`
	Deeper []json.RawMessage `json:"deeper,omitempty"`
	Dot    int64             `json:"dot,omitempty"`
}

var chartKind = partKind{ChartPart, func(def *Part) bool { return def.Chart != nil }, checkChart}

type chart struct {
	*Chart
	key      string
	of       *table.Program
	look     table.Look
	headings []table.HeadingView
	converts string
}

const noChart = "There would be no chart."

func checkChart(c *compiler, p *part, at string) content {
	def := p.Chart
	out := &chart{Chart: def, key: p.Key}
	if out.of = c.counted(def.Source, at+"/source", "the chart is of nothing", noChart); out.of == nil {
		return nil
	}
	if !slices.Contains(Drawings, def.Drawn) {
		c.Find(definition.Stop, at+"/drawn", fmt.Sprintf("nothing can be drawn as %q", def.Drawn), noChart,
			definition.Replace("Draw columns", at+"/drawn", string(DrawnColumns)))
		return nil
	}
	if def.Drawn == DrawnDots {
		if !out.dotted(c, at) {
			return nil
		}
		return out
	}
	if !out.grouped(c, at) || !out.totalled(c, at) {
		return nil
	}
	return out
}

func (p *chart) heading(path model.Path) {
	p.headings = append(p.headings, table.HeadingOf(path, table.Heading(path)))
}

// dotted checks where the dots are.
func (p *chart) dotted(c *compiler, at string) bool {
	if p.Dots == nil {
		c.Find(definition.Stop, at+"/dots", "it does not say where the dots are", noChart, nil)
		return false
	}
	for _, one := range []struct{ path, at string }{{p.Dots.Across, "/dots/across"}, {p.Dots.Up, "/dots/up"}} {
		path, ok := c.Path(c.scope.Model, p.of.Object(), one.path, at+one.at, noChart, measured)
		if !ok {
			return false
		}
		p.heading(path)
		p.look.Columns = append(p.look.Columns, table.Column{Path: path.String()})
	}
	p.look.Size = table.MostPageSize
	return true
}

// measured refuses a field that has no place on a scale.
func measured(path model.Path) error {
	switch path.Last().Kind() {
	case value.KindWhole, value.KindDecimal, value.KindMoney, value.KindDate, value.KindInstant:
		return nil
	}
	return fmt.Errorf("%s is nothing that can be measured", path.Last().Label)
}

// grouped checks what there is a bar for.
func (p *chart) grouped(c *compiler, at string) bool {
	level := func(g *table.LookGroup, at string) bool {
		path, ok := c.Path(c.scope.Model, p.of.Object(), g.Path, at+"/path", noChart, func(path model.Path) error {
			return query.CheckGrouping(query.Grouping{Path: path, Span: g.Span})
		})
		if ok {
			p.heading(path)
			if path.Last().Kind() == value.KindInstant && g.Span == query.EachValue {
				c.Find(definition.Care, at+"/span", "each point in time stands for itself", "Hardly any would be together.",
					&definition.Mend{Label: "One for each month",
						Patch: []definition.Op{{Op: "add", Path: at + "/span", Value: json.RawMessage(`"month"`)}}})
			}
		}
		return ok
	}
	if p.By.Path == "" {
		c.Find(definition.Stop, at+"/by", "it does not say what there is one for", noChart, nil)
		return false
	}
	by := table.LookGroup{Path: p.By.Path, Span: p.By.Span, Desc: p.By.Desc, Empty: p.By.Empty}
	if !level(&by, at+"/by") {
		return false
	}
	p.look.Group = &by
	if p.Split == nil || p.Drawn == DrawnShares {
		return true
	}
	by.Then = &table.LookGroup{Path: p.Split.Path, Span: p.Split.Span}
	return level(by.Then, at+"/split")
}

// totalled checks how large they are.
func (p *chart) totalled(c *compiler, at string) bool {
	def := p.Total
	if def == nil {
		return true
	}
	path, ok := c.Path(c.scope.Model, p.of.Object(), def.Path, at+"/total/path", noChart, func(of model.Path) error {
		if err := query.CheckTotal(query.Total{Path: of, Of: def.Of, Converted: def.Converted}); err != nil {
			return err
		}
		if k := of.Last().Kind(); def.Of != query.Count && (k == value.KindDate || k == value.KindInstant) {
			return fmt.Errorf("%s has no size that could be drawn", of.Last().Label)
		}
		return nil
	})
	if !ok {
		return false
	}
	p.heading(path)
	p.look.Totals = []table.LookTotal{{Path: path.String(), Of: def.Of, Converted: def.Converted}}
	if def.Converted {
		p.converts = c.scope.Model.Currency
	}
	adds := def.Of == query.Sum || def.Of == query.Count
	if !adds && p.Drawn == DrawnShares {
		c.Find(definition.Care, at+"/total/of", "these do not add up to a whole", "The parts would mean nothing.",
			definition.Replace("Draw columns", at+"/drawn", string(DrawnColumns)))
	}
	stacks := p.Split != nil && !p.Beside && slices.Contains([]Drawing{DrawnColumns, DrawnBars, DrawnArea}, p.Drawn)
	if !adds && stacks {
		c.Find(definition.Care, at+"/beside", "these do not add up, and are stacked", "The height would mean nothing.",
			&definition.Mend{Label: "Draw them side by side", Patch: []definition.Op{{Op: "add", Path: at + "/beside",
				Value: json.RawMessage(`true`)}}})
	}
	return true
}

func (p *chart) list(which string) *table.Program {
	if which != "" {
		return nil
	}
	return p.of
}

func (p *chart) show(ctx context.Context, r records.Reader, values expr.Values, _ Given, view *PartView) error {
	out := &ChartPartView{Object: p.of.Object(), Drawn: p.Drawn, Beside: p.Beside, Headings: p.headings,
		Converts: p.converts, Look: p.look}
	l, err := p.of.Listing(ctx, r, values)
	if err != nil {
		return err
	}
	if p.Drawn == DrawnDots {
		rows, err := l.Rows(ctx, r, p.look)
		out.Dots, view.Chart = &rows, out
		return err
	}
	charted, err := l.Charted(ctx, r, p.look)
	out.Charted, view.Chart = &charted, out
	return err
}

// know makes known the records of what was pressed, or all of the list. They are only bound.
func (p *chart) know(ctx context.Context, r records.Reader, values expr.Values, g Given, used Used) error {
	into, _ := values[p.key].(*value.Record)
	if into == nil || !used.Takes(p.key, Matching) {
		return nil
	}
	l, err := p.of.Listing(ctx, r, values)
	if err != nil {
		return err
	}
	var picked Picked
	if err := json.Unmarshal([]byte(cmp.Or(string(g.Answers[p.key]), "null")), &picked); err != nil {
		picked = Picked{} // what cannot be read was not pressed
	}
	look := table.Look{Group: p.look.Group, Within: picked.Within, Deeper: picked.Deeper}
	chosen := table.Chosen{All: &look}
	if picked.Dot != 0 {
		chosen = table.Chosen{Keys: []int64{picked.Dot}}
	}
	q, err := l.Of(r, chosen)
	if err != nil {
		q, err = l.Of(r, table.Chosen{All: &table.Look{}}) // what was pressed is not drawn any more
	}
	q.Columns = used.fields(p.of.Object(), p.key, Matching)
	into.Fields[Matching] = &value.List{Object: p.of.Object(),
		Source: &records.Listed{Context: ctx, Reader: r, Query: q}}
	return err
}
