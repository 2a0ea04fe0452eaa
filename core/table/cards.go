package table

import (
	"fmt"
	"slices"
	"strconv"

	"plainpath/core/act"
	"plainpath/core/definition"
	"plainpath/core/expr"
	"plainpath/core/model"
	"plainpath/core/records"
	"plainpath/core/value"
)

// Cards is one list of the records of several lists, whatever objects they are of.
type Cards struct {
	// Sources are the lists, at most [MostSources].
	Sources []CardSource `json:"sources"`
	// Desc has what is latest or greatest first.
	Desc bool `json:"desc,omitempty"`
	// Shown says whether records stand on cards ("cards", and when empty) or in a list ("list").
	Shown string `json:"shown,omitempty"`
	// Nothing is shown when there is none.
	Nothing string `json:"nothing,omitempty"`
}

// The ways to show cards.
const (
	ShownCards = "cards"
	ShownList  = "list"
)

// MostSources is how many lists can stand in one.
const MostSources = 12

// CardSource is one of the lists.
type CardSource struct {
	Key   string `json:"key"`
	Label string `json:"label"`
	// Source is an expression that gives the list.
	Source string `json:"source"`
	// By is the path of a date or a number, by which the records of all lists are put in order together.
	By string `json:"by"`
	// Faces are how a record may look; the first whose condition holds counts.
	Faces []Face `json:"faces"`
}

// Face is how a record looks on a card.
type Face struct {
	// When is a condition, in CEL, on the record, which it calls "row", and on what is known.
	When string `json:"when,omitempty"`
	// Heading is the path of what stands at the head, Picture that of a picture, Marks are those of what sets it apart.
	Heading string   `json:"heading"`
	Picture string   `json:"picture,omitempty"`
	Marks   []string `json:"marks,omitempty"`
	Lines   []Column `json:"lines,omitempty"`
	// Do are the lines that are carried out when the card is pressed; without them the record opens.
	Do []act.Line `json:"do,omitempty"`
}

// CardsProgram is a checked list of cards.
type CardsProgram struct {
	*Cards
	Uses    [][]string
	sources []*cardSource
}

// cardSource is a checked list: a table whose columns are all that its faces show, the last one being what orders it,
// and whose marks say which face holds.
type cardSource struct {
	*CardSource
	*Program
	by    int
	faces []FaceView
	// otherwise is the face of a record for which no condition of one before it holds.
	otherwise int
}

// CompileCards checks a list of cards with pointers below the given one. It is nil where nothing could be shown.
func CompileCards(check *definition.Check, s expr.Scope, owner Owner, def *Cards, at string) *CardsProgram {
	const consequence = "There would be no cards."
	out := &CardsProgram{Cards: def}
	c := &compiler{Check: check, scope: s, uses: &out.Uses}
	if n := len(def.Sources); n == 0 || n > MostSources {
		c.Find(definition.Stop, at+"/sources", fmt.Sprintf("there can be from 1 to %d lists, and there are %d",
			MostSources, n), consequence, nil)
		return nil
	}
	if !slices.Contains([]string{"", ShownCards, ShownList}, def.Shown) {
		c.Find(definition.Stop, at+"/shown", fmt.Sprintf("%q is no way to show cards", def.Shown), consequence,
			definition.Replace("Show cards", at+"/shown", ShownCards))
	}
	dated := ""
	for i := range def.Sources {
		pointer := fmt.Sprintf("%s/sources/%d", at, i)
		d := &def.Sources[i]
		taken := slices.ContainsFunc(out.sources, func(o *cardSource) bool { return o.CardSource.Key == d.Key })
		if problem := model.KeyProblem(d.Key); problem != "" || taken {
			if taken {
				problem = fmt.Sprintf("the key %q is taken", d.Key)
			}
			c.Find(definition.Stop, pointer+"/key", problem, "It could not be told from the others.", nil)
			continue
		}
		source := c.cardSource(d, owner, pointer)
		if source == nil {
			continue
		}
		kind := orderKind(source.headings[source.by].path.Last().Kind())
		if dated == "" {
			dated = kind
		}
		if kind != dated {
			c.Find(definition.Stop, pointer+"/by", "dates and numbers cannot be put in order together",
				"These would stand anywhere.", nil)
			continue
		}
		out.sources = append(out.sources, source)
	}
	if len(out.sources) == 0 {
		return nil
	}
	return out
}

// orderKind says what values are put in order together, "" for those that are not.
func orderKind(k value.Kind) string {
	switch k {
	case value.KindDate, value.KindInstant:
		return "dates"
	case value.KindWhole, value.KindDecimal:
		return "numbers"
	}
	return ""
}

func (c *compiler) cardSource(d *CardSource, owner Owner, at string) *cardSource {
	const consequence = "None of these would be shown."
	if d.Label == "" {
		c.Find(definition.Care, at+"/label", "this list has no name", "Nobody could tell it from the others.", nil)
	}
	if d.Source == "" {
		c.Find(definition.Stop, at+"/source", "these cards are fed by nothing", consequence, c.offerList(at+"/source"))
		return nil
	}
	p := &Program{Table: &Table{Source: d.Source, Select: SelectNone}, owner: owner}
	out := &cardSource{CardSource: d, Program: p}
	p.source = c.ExpressionOf(expr.Type{Kind: value.KindList}, c.scope, d.Source, at+"/source", consequence)
	if p.source == nil || c.scope.Model.Object(p.source.Type.Object) == nil {
		return nil
	}
	c.use(p.source.Uses...)
	p.object = p.source.Type.Object
	if len(d.Faces) == 0 {
		c.Find(definition.Stop, at+"/faces", "it does not say how they look", consequence,
			&definition.Mend{Label: "Show what they are called", Patch: []definition.Op{{Op: "add",
				Path:  at + "/faces/-",
				Value: fmt.Appendf(nil, `{"heading":%q}`, c.scope.Model.Object(p.object).LabelField)}}})
		return nil
	}
	for i := range d.Faces {
		if !c.face(out, &d.Faces[i], i, fmt.Sprintf("%s/faces/%d", at, i)) {
			return nil
		}
	}
	by, ok := c.Path(c.scope.Model, p.object, d.By, at+"/by", consequence, func(path model.Path) error {
		if orderKind(path.Last().Kind()) == "" {
			return fmt.Errorf("%s is neither a date nor a number", path.Last().Label)
		}
		return nil
	})
	if !ok {
		return nil
	}
	out.by = p.column(by, "")
	return out
}

// column is the place of a path among the columns.
func (p *Program) column(path model.Path, label string) int {
	if label == "" {
		label = Heading(path)
	}
	same := func(h heading) bool { return h.path.String() == path.String() }
	if i := slices.IndexFunc(p.headings, same); i >= 0 {
		return i
	}
	p.headings = append(p.headings, heading{path: path, label: label})
	return len(p.headings) - 1
}

// face checks how a record may look, and adds what it shows to the columns.
func (c *compiler) face(s *cardSource, d *Face, number int, at string) bool {
	p := s.Program
	view := FaceView{Lines: []LineView{}, Marks: []int{}}
	shown := func(path, at string, also ...func(model.Path) error) (int, bool) {
		found, ok := c.Path(c.scope.Model, p.object, path, at, "It would be missing on the card.", also...)
		if !ok {
			return 0, false
		}
		return p.column(found, ""), true
	}
	var ok bool
	if view.Heading, ok = shown(d.Heading, at+"/heading"); !ok {
		return false
	}
	if d.Picture != "" {
		if picture, ok := shown(d.Picture, at+"/picture", pictured); ok {
			view.Picture = &picture
		}
	}
	for i, path := range d.Marks {
		if n, ok := shown(path, fmt.Sprintf("%s/marks/%d", at, i)); ok {
			view.Marks = append(view.Marks, n)
		}
	}
	for i, line := range d.Lines {
		if n, ok := shown(line.Path, fmt.Sprintf("%s/lines/%d/path", at, i)); ok {
			view.Lines = append(view.Lines, LineView{n, line.Label})
		}
	}
	if last := number == len(s.CardSource.Faces)-1; d.When == "" && !last {
		c.Find(definition.Care, at+"/when", "this face always holds", "Those after it would never be shown.", nil)
	}
	unconditional := slices.ContainsFunc(s.CardSource.Faces[:number], func(f Face) bool { return f.When == "" })
	if !unconditional {
		s.otherwise = number
	}
	if d.When != "" && !unconditional {
		inner := c.scope.With(act.Row(p.object))
		when := c.ExpressionOf(expr.Type{Kind: value.KindYesNo}, inner, d.When, at+"/when", "It would never look so.")
		if when == nil {
			return false
		}
		c.usesBut(act.RowName, when)
		p.marks = append(p.marks, mark{&Mark{When: d.When, Says: strconv.Itoa(number)}, when,
			records.FieldsUsed(c.scope.Model, p.object, []string{act.RowName}, when.Uses)})
	}
	if len(d.Do) > 0 {
		view.Press = fmt.Sprintf("face_%d", number)
		c.button(p, &Button{Key: view.Press, Label: s.Label, On: OnEach, Do: d.Do}, at)
	}
	s.faces = append(s.faces, view)
	return true
}

func pictured(path model.Path) error {
	if path.Last().Type != model.Picture {
		return fmt.Errorf("%s is no picture", path.Last().Label)
	}
	return nil
}

// List is one of the lists by its key, the first without one; nil where there is none.
func (p *CardsProgram) List(key string) *Program {
	for _, s := range p.sources {
		if key == "" || s.CardSource.Key == key {
			return s.Program
		}
	}
	return nil
}
