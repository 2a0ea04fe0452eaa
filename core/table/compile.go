package table

import (
	"fmt"
	"slices"

	"plainpath/core/act"
	"plainpath/core/definition"
	"plainpath/core/expr"
	"plainpath/core/model"
	"plainpath/core/value"
)

// Program is a checked table. It is safe for use by several goroutines.
type Program struct {
	*Table
	// Uses are the known values that the table depends on.
	Uses [][]string

	owner    Owner
	object   string
	source   *expr.Program
	headings Headings
	keyword  []model.Path
	buttons  []*button
	marks    []mark
	// inside is the table that rows open to, via the reference by which its records point at
	// them.
	inside   *Program
	insideAs *Inside
	via      *model.Field
	// answers are the values of each row that the table gives out, where it asks in its rows.
	answers []expr.Name
}

// Owner is the part that a table belongs to.
type Owner struct {
	Key, Label string
	// Was are earlier keys, by which arrangements of the table were kept.
	Was []string
	// Parts are those on the same screen, which lines of buttons may name.
	Parts []act.Part
}

// Compile checks a table against what is known, with pointers below the given one. It is nil when there is no
// list to show.
func Compile(check *definition.Check, s expr.Scope, owner Owner, t *Table, at string) *Program {
	c := &compiler{Check: check, scope: s, uses: new([][]string)}
	p := c.table(&Program{Table: t, owner: owner}, at)
	if p != nil {
		p.Uses = *c.uses
	}
	return p
}

// compiler gathers what a table depends on, whatever lies how deep in it.
type compiler struct {
	*definition.Check
	scope expr.Scope
	uses  *[][]string
}

func (c *compiler) use(paths ...[]string) { *c.uses = append(*c.uses, paths...) }

func (c *compiler) table(p *Program, at string) *Program {
	if p.Source == "" {
		c.Find(definition.Stop, at+"/source", "this table is fed by nothing",
			"The person would see an empty table and could not go on.", c.offerList(at+"/source"))
		return nil
	}
	p.source = c.ExpressionOf(expr.Type{Kind: value.KindList}, c.scope, p.Source, at+"/source",
		"The person would see an empty table and could not go on.")
	if p.source == nil {
		return nil
	}
	c.use(p.source.Uses...)
	p.object = p.source.Type.Object
	if c.scope.Model.Object(p.object) == nil {
		return nil // the search that it shows says so
	}
	c.shown(p, at)
	for i, o := range p.Others {
		c.Object(c.scope.Model, o.Object, fmt.Sprintf("%s/others/%d/object", at, i),
			"The table could not be switched to it.")
	}
	if p.Inside != nil {
		c.inside(p, p.Inside, at+"/inside", 1)
	}
	c.buttons(p, at+"/buttons")
	c.views(p, at+"/views")
	c.selection(p.Table, at)
	if len(p.Ask) > 0 {
		c.asked(p, at)
	}
	return p
}

// selection checks how many rows can be chosen.
func (c *compiler) selection(t *Table, at string) {
	switch t.Select {
	case SelectOne, SelectNone:
	case SelectSeveral:
		if least := t.fewest(); least < 0 {
			c.Find(definition.Stop, at+"/least", fmt.Sprintf("at least %d rows cannot be asked for", least),
				"Nobody could tell how many to choose.",
				&definition.Mend{Label: "Let none be chosen",
					Patch: []definition.Op{{Op: "replace", Path: at + "/least", Value: []byte("0")}}})
		} else if t.Most > 0 && least > t.Most {
			c.Find(definition.Stop, at+"/least", fmt.Sprintf("at least %d rows but at most %d cannot be chosen", least,
				t.Most), "The person could not go on.",
				&definition.Mend{Label: fmt.Sprintf("Make it at most %d", least),
					Patch: []definition.Op{{Op: "replace", Path: at + "/most", Value: fmt.Appendf(nil, "%d", least)}}})
		}
	default:
		c.noSelection(t, at)
	}
}

func (c *compiler) noSelection(t *Table, at string) {
	c.Find(definition.Stop, at+"/select", fmt.Sprintf("%q is not a way to select rows", t.Select),
		"No row could be chosen.", definition.Replace("Let one row be chosen", at+"/select", string(SelectOne)))
}

// shown checks what a table shows of the records in it.
func (c *compiler) shown(p *Program, at string) {
	p.headings = CheckColumns(c.Check, c.scope.Model, p.object, p.Columns, at+"/columns")
	if len(p.Columns) == 0 {
		label := c.scope.Model.Object(p.object).LabelField
		c.Find(definition.Stop, at+"/columns", "this table has no columns",
			"The person would see rows without anything in them.",
			&definition.Mend{Label: "Show " + label,
				Patch: []definition.Op{{Op: "add", Path: at + "/columns/-",
					Value: []byte(`{"path":"` + label + `"}`)}}})
	}
	for i, k := range p.Keyword {
		if path, ok := c.Path(c.scope.Model, p.object, k, fmt.Sprintf("%s/keyword/%d", at, i),
			"The keyword search would find nothing there.", holdsText); ok {
			p.keyword = append(p.keyword, path)
		}
	}
	if p.Live != "" && p.Live != "tell" && p.Live != "refresh" {
		c.Find(definition.Stop, at+"/live", fmt.Sprintf("%q is not what a table can do when its records change",
			p.Live), "People would see old records.", definition.Replace("Let it say so", at+"/live", "tell"))
	}
	c.marks(p, at+"/marks")
}

func holdsText(path model.Path) error {
	if path.Last().Kind() != value.KindText {
		return fmt.Errorf("%s holds no text to search in", path.Last().Label)
	}
	return nil
}

// offerList proposes the latest list that is known.
func (c *compiler) offerList(pointer string) *definition.Mend {
	for _, n := range slices.Backward(c.scope.Names) {
		if n.Type.Kind == value.KindList {
			return definition.Replace("Show "+n.Label, pointer, n.Key)
		}
	}
	return nil
}

// Gives is what the table gives out on a screen: the row chosen or the rows chosen. It says false of one whose
// rows are only looked at.
func (p *Program) Gives() (expr.Type, bool) { return p.gives(p.object, p.answers) }

func (t *Table) gives(object string, answers []expr.Name) (expr.Type, bool) {
	if len(t.Ask) > 0 {
		return expr.Type{Kind: value.KindRows, Answers: answers}, true
	}
	switch t.Select {
	case SelectOne:
		return expr.Type{Kind: value.KindRecord, Object: object}, true
	case SelectSeveral:
		return expr.Type{Kind: value.KindList, Object: object}, true
	}
	return expr.Type{}, false
}

// GivesOf is what a table whose definition is at a pointer gives out on a screen when it shows records of an object,
// before it is checked.
func (t *Table) GivesOf(document, at string, o *model.Object) (expr.Type, bool) {
	return t.gives(o.Key, CheckAsked(definition.NewCheck(document), t.Ask, answeredRow(o), at+"/ask"))
}

// Object is the object whose records the table shows.
func (p *Program) Object() string { return p.object }
