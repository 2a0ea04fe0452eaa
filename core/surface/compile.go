package surface

import (
	"fmt"
	"iter"
	"slices"
	"strings"

	"plainpath/core/definition"
	"plainpath/core/expr"
	"plainpath/core/model"
	"plainpath/core/value"
)

// Surface is bands of parts, checked. It is safe for use by several goroutines.
type Surface struct {
	Bands []Band
	// Answers are what the parts give out, by key of the part.
	Answers []expr.Name
	// Uses are the known values the parts depend on.
	Uses  [][]string
	parts map[string]*part
}

type part struct {
	*Part
	at       model.Referent
	offered  *expr.Program
	text     *expr.Template
	source   *expr.Program
	object   string
	columns  []column
	keyword  []model.Path
	fallback *expr.Program
	literal  value.Value
	field    *model.Field
	buttons  []*button
	marks    []mark
	// inside is the table that rows open to, via the reference by which its records point at
	// them.
	inside   *part
	insideAs *Inside
	// fits is what narrows what a reference input offers, nil for nothing.
	fits *fitting
	via  *model.Field
	// uses are the known values the part depends on.
	uses [][]string
}

type column struct {
	path         model.Path
	label, above string
}

// Compile checks the parts against what is known. Pointers are below the given one.
func Compile(check *definition.Check, s expr.Scope, bands []Band, pointer string) *Surface {
	c := &compiler{Check: check, scope: s, out: &Surface{Bands: bands, parts: map[string]*part{}}}
	for part, at := range Parts(bands) {
		n := expr.Name{Key: part.Key, Label: part.Title(), Of: model.Referent{Document: c.Document, At: pointer + at}}
		if part.Kind == InputPart && part.Input != nil {
			n.Type = expr.OfField(part.Field())
		}
		c.parts = append(c.parts, n)
	}
	for part, at := range Parts(bands) {
		c.part(part, pointer+at)
	}
	return c.out
}

// Parts goes through the parts of bands with their pointers.
func Parts(bands []Band) iter.Seq2[*Part, string] {
	return func(yield func(*Part, string) bool) {
		for i := range bands {
			for j := range bands[i].Columns {
				for k := range bands[i].Columns[j].Parts {
					if !yield(&bands[i].Columns[j].Parts[k], fmt.Sprintf("/bands/%d/columns/%d/parts/%d", i, j, k)) {
						return
					}
				}
			}
		}
	}
}

type compiler struct {
	*definition.Check
	scope expr.Scope
	out   *Surface
	// parts are what acts may name.
	parts []expr.Name
}

func (c *compiler) part(def *Part, at string) {
	p := &part{Part: def, at: model.Referent{Document: c.Document, At: at}}
	if problem := model.KeyProblem(def.Key); problem != "" {
		c.Find(definition.Stop, at+"/key", problem, "Nothing can use what this part gives out.", nil)
		return
	}
	if c.out.parts[def.Key] != nil {
		c.Find(definition.Stop, at+"/key", fmt.Sprintf("two parts here have the key %q", def.Key),
			"What the second gives out would be taken for the first's.", nil)
		return
	}
	c.out.parts[def.Key] = p
	before := len(c.out.Uses)
	defer func() { p.uses = c.out.Uses[before:] }()
	if def.OfferedWhen != "" {
		p.offered = c.program(def.OfferedWhen, expr.Type{Kind: value.KindYesNo}, at+"/offered_when",
			"The part would never be shown.")
	}
	kind := kindOf(def.Kind)
	if kind == nil || !kind.set(def) {
		c.Find(definition.Stop, at+"/kind", fmt.Sprintf("a part of kind %q needs its settings", def.Kind),
			"The part could not be shown.", nil)
		return
	}
	kind.check(c, p, at+"/"+string(def.Kind))
}

func (c *compiler) program(source string, want expr.Type, at, consequence string) *expr.Program {
	p := c.ExpressionOf(want, c.scope, source, at, consequence)
	if p != nil {
		c.out.Uses = append(c.out.Uses, p.Uses...)
	}
	return p
}

func (c *compiler) table(p *part, at string) {
	t := p.Table
	if t.Source == "" {
		c.Find(definition.Stop, at+"/source", "this table is fed by nothing",
			"The person would see an empty table and could not go on.", c.offerList(at+"/source"))
		return
	}
	p.source = c.program(t.Source, expr.Type{Kind: value.KindList}, at+"/source",
		"The person would see an empty table and could not go on.")
	if p.source == nil {
		return
	}
	p.object = p.source.Type.Object
	if c.scope.Model.Object(p.object) == nil {
		p.source = nil // the search that it shows says so
		return
	}
	c.shown(p, at)
	for i, o := range t.Others {
		c.Object(c.scope.Model, o.Object, fmt.Sprintf("%s/others/%d/object", at, i),
			"The table could not be switched to it.")
	}
	if t.Inside != nil {
		c.inside(p, t.Inside, at+"/inside", 1)
	}
	c.buttons(p, at+"/buttons")
	c.views(p, at+"/views")
	switch t.Select {
	case SelectOne:
		c.out.Answers = append(c.out.Answers,
			expr.Name{Key: p.Key, Label: p.Label, Of: p.at, Type: expr.Type{Kind: value.KindRecord, Object: p.object}})
	case SelectSeveral:
		c.out.Answers = append(c.out.Answers,
			expr.Name{Key: p.Key, Label: p.Label, Of: p.at, Type: expr.Type{Kind: value.KindList, Object: p.object}})
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
	case SelectNone:
	default:
		c.noSelection(t, at)
	}
}

func (c *compiler) noSelection(t *Table, at string) {
	c.Find(definition.Stop, at+"/select", fmt.Sprintf("%q is not a way to select rows", t.Select),
		"No row could be chosen.", definition.Replace("Let one row be chosen", at+"/select", string(SelectOne)))
}

// shown checks what a table shows of the records in it.
func (c *compiler) shown(p *part, at string) {
	t := p.Table
	p.columns = c.columns(p.object, t.Columns, at+"/columns")
	if len(t.Columns) == 0 {
		label := c.scope.Model.Object(p.object).LabelField
		c.Find(definition.Stop, at+"/columns", "this table has no columns",
			"The person would see rows without anything in them.",
			&definition.Mend{Label: "Show " + label,
				Patch: []definition.Op{{Op: "add", Path: at + "/columns/-",
					Value: []byte(`{"path":"` + label + `"}`)}}})
	}
	for i, k := range t.Keyword {
		if path, ok := c.Path(c.scope.Model, p.object, k, fmt.Sprintf("%s/keyword/%d", at, i),
			"The keyword search would find nothing there.", holdsText); ok {
			p.keyword = append(p.keyword, path)
		}
	}
	if t.Live != "" && t.Live != "tell" && t.Live != "refresh" {
		c.Find(definition.Stop, at+"/live", fmt.Sprintf("%q is not what a table can do when its records change",
			t.Live), "People would see old records.", definition.Replace("Let it say so", at+"/live", "tell"))
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

func (c *compiler) columns(object string, defs []TableColumn, at string) []column {
	var out []column
	for i, d := range defs {
		path, ok := c.Path(c.scope.Model, object, d.Path, fmt.Sprintf("%s/%d/path", at, i),
			"The column would be missing.")
		if !ok {
			continue
		}
		label := d.Label
		if label == "" {
			label = Heading(path)
		}
		out = append(out, column{path, label, d.Above})
	}
	return out
}

// Heading names a path for a person: the field's own label, and across references
// the label of the last one before it.
func Heading(p model.Path) string {
	if len(p.Fields) == 1 {
		return p.Last().Label
	}
	return p.Fields[len(p.Fields)-2].Label + " · " + strings.ToLower(p.Last().Label)
}
