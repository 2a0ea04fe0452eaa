package surface

import (
	"fmt"
	"iter"
	"slices"
	"strings"

	"plainpath/core/act"
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

// Compile checks the parts against what is known. Findings carry pointers below the
// given one.
func Compile(s expr.Scope, bands []Band, document, step, pointer string) (*Surface, []definition.Finding) {
	c := &compiler{scope: s, out: &Surface{Bands: bands, parts: map[string]*part{}}, document: document, step: step}
	for part, at := range Parts(bands) {
		c.part(part, pointer+at)
	}
	return c.out, c.findings
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
	scope          expr.Scope
	out            *Surface
	document, step string
	findings       []definition.Finding
}

func (c *compiler) find(severity definition.Severity, pointer, text, consequence string, mend *definition.Mend) {
	c.findings = append(c.findings, definition.Finding{Document: c.document, Step: c.step, Pointer: pointer,
		Severity: severity, Text: text, Consequence: consequence, Mend: mend})
}

func (c *compiler) failed(err error, pointer, source, consequence string) {
	c.findings = append(c.findings, definition.FromProblem(c.document, c.step, consequence,
		expr.Problem(err, pointer, source)))
}

func (c *compiler) part(def *Part, at string) {
	p := &part{Part: def}
	if problem := model.KeyProblem(def.Key); problem != "" {
		c.find(definition.Stop, at+"/key", problem, "Nothing can use what this part gives out.", nil)
		return
	}
	if c.out.parts[def.Key] != nil {
		c.find(definition.Stop, at+"/key", fmt.Sprintf("two parts here have the key %q", def.Key),
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
		c.find(definition.Stop, at+"/kind", fmt.Sprintf("a part of kind %q needs its settings", def.Kind),
			"The part could not be shown.", nil)
		return
	}
	kind.check(c, p, at+"/"+string(def.Kind))
}

func (c *compiler) program(source string, want expr.Type, at, consequence string) *expr.Program {
	p, err := expr.CompileAs(c.scope, source, want)
	if err != nil {
		c.failed(err, at, source, consequence)
		return nil
	}
	c.out.Uses = append(c.out.Uses, p.Uses...)
	return p
}

func (c *compiler) table(p *part, at string) {
	t := p.Table
	if t.Source == "" {
		c.find(definition.Stop, at+"/source", "this table is fed by nothing",
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
		if c.scope.Model.Object(o.Object) == nil {
			c.failed(act.UnknownObject(c.scope.Model, o.Object), fmt.Sprintf("%s/others/%d/object", at, i), o.Object,
				"The table could not be switched to it.")
		}
	}
	if t.Inside != nil {
		c.inside(p, t.Inside, at+"/inside", 1)
	}
	c.buttons(p, at+"/buttons")
	c.views(p, at+"/views")
	switch t.Select {
	case SelectOne:
		c.out.Answers = append(c.out.Answers,
			expr.Name{Key: p.Key, Label: p.Label, Type: expr.Type{Kind: value.KindRecord, Object: p.object}})
	case SelectSeveral:
		c.out.Answers = append(c.out.Answers,
			expr.Name{Key: p.Key, Label: p.Label, Type: expr.Type{Kind: value.KindList, Object: p.object}})
		if least := t.fewest(); least < 0 {
			c.find(definition.Stop, at+"/least", fmt.Sprintf("at least %d rows cannot be asked for", least),
				"Nobody could tell how many to choose.",
				&definition.Mend{Label: "Let none be chosen",
					Patch: []definition.Op{{Op: "replace", Path: at + "/least", Value: []byte("0")}}})
		} else if t.Most > 0 && least > t.Most {
			c.find(definition.Stop, at+"/least", fmt.Sprintf("at least %d rows but at most %d cannot be chosen", least,
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
	c.find(definition.Stop, at+"/select", fmt.Sprintf("%q is not a way to select rows", t.Select),
		"No row could be chosen.", definition.Replace("Let one row be chosen", at+"/select", string(SelectOne)))
}

// shown checks what a table shows of the records in it.
func (c *compiler) shown(p *part, at string) {
	t := p.Table
	p.columns = c.columns(p.object, t.Columns, at+"/columns")
	if len(t.Columns) == 0 {
		label := c.scope.Model.Object(p.object).LabelField
		c.find(definition.Stop, at+"/columns", "this table has no columns",
			"The person would see rows without anything in them.",
			&definition.Mend{Label: "Show " + label,
				Patch: []definition.Op{{Op: "add", Path: at + "/columns/-",
					Value: []byte(`{"path":"` + label + `"}`)}}})
	}
	for i, k := range t.Keyword {
		path, err := c.scope.Model.Path(p.object, k)
		if err == nil && path.Last().Kind() != value.KindText {
			err = fmt.Errorf("%s holds no text to search in", path.Last().Label)
		}
		if err != nil {
			c.failed(err, fmt.Sprintf("%s/keyword/%d", at, i), k, "The keyword search would find nothing there.")
			continue
		}
		p.keyword = append(p.keyword, path)
	}
	if t.Live != "" && t.Live != "tell" && t.Live != "refresh" {
		c.find(definition.Stop, at+"/live", fmt.Sprintf("%q is not what a table can do when its records change",
			t.Live), "People would see old records.", definition.Replace("Let it say so", at+"/live", "tell"))
	}
	c.marks(p, at+"/marks")
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
		path, err := c.scope.Model.Path(object, d.Path)
		if err != nil {
			c.failed(err, fmt.Sprintf("%s/%d/path", at, i), d.Path, "The column would be missing.")
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
