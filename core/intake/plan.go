package intake

import (
	"fmt"
	"slices"
	"strings"

	"plainpath/core/model"
)

// Plan says what becomes of the sheets brought in.
type Plan struct {
	Sheets []SheetPlan `json:"sheets"`
}

// Mode says what an import does to records that are there already.
type Mode string

// An import adds records, updates those it finds by their key, or does both.
const (
	ModeAdd    Mode = "add"
	ModeUpdate Mode = "update"
	ModeBoth   Mode = "both"
)

// SheetPlan says what becomes of one sheet.
type SheetPlan struct {
	File  int  `json:"file"`
	Sheet int  `json:"sheet"`
	Skip  bool `json:"skip,omitempty"`
	// New says that the object is made anew; Label, Plural and LabelField are for that.
	New        bool   `json:"new,omitempty"`
	Object     string `json:"object"`
	Label      string `json:"label,omitempty"`
	Plural     string `json:"plural,omitempty"`
	LabelField string `json:"label_field,omitempty"`
	Mode       Mode   `json:"mode"`
	// Key is the field that records are found by.
	Key     string       `json:"key,omitempty"`
	Columns []ColumnPlan `json:"columns"`
}

// ColumnPlan says what becomes of one column.
type ColumnPlan struct {
	Skip bool `json:"skip,omitempty"`
	// New says that the field is made anew, with the label and the settings below.
	New     bool    `json:"new,omitempty"`
	Field   string  `json:"field"`
	Label   string  `json:"label,omitempty"`
	Reading Reading `json:"reading"`
	// Undecided says that the reading was guessed and somebody has to choose.
	Undecided bool                `json:"undecided,omitempty"`
	Unique    bool                `json:"unique,omitempty"`
	Required  bool                `json:"required,omitempty"`
	Choices   []model.ChoiceValue `json:"choices,omitempty"`
	// Refers is the object a reference points at, and Match its field that the cells name.
	Refers string `json:"refers,omitempty"`
	Match  string `json:"match,omitempty"`
	// Empties says that an empty cell empties the field of a record that is updated; otherwise
	// it leaves what is there.
	Empties bool `json:"empties,omitempty"`
}

// FoundSheet is a sheet with what was found in it. A plan has one sheet for each, in the
// same order.
type FoundSheet struct {
	File     int       `json:"file"`
	Sheet    int       `json:"sheet"`
	Name     string    `json:"name"`
	Hidden   bool      `json:"hidden,omitempty"`
	Analysis *Analysis `json:"analysis,omitempty"`
	Problem  string    `json:"problem,omitempty"`
	// Matches are the references proposed, by column.
	Matches map[int]Match `json:"matches,omitempty"`
}

// Propose makes a plan: an object for each sheet that is no object yet, a field for each
// column; sheets whose headings are those of an object go into it.
func Propose(found []FoundSheet, m *model.Model) Plan {
	var p Plan
	taken := p.taken(m)
	for i := range found {
		f := &found[i]
		s := SheetPlan{File: f.File, Sheet: f.Sheet, Mode: ModeAdd, Skip: f.Hidden || f.Analysis == nil}
		if f.Analysis == nil {
			p.Sheets = append(p.Sheets, s)
			continue
		}
		if o := alike(f, m); o != nil {
			s.into(f, o)
		} else {
			s.anew(f, taken)
		}
		p.Sheets = append(p.Sheets, s)
	}
	for i := range found {
		p.yield(found, i)
	}
	for i := range found {
		p.referAll(found, i)
	}
	return p
}

// yield takes another key for a new sheet, or none, where its key is what another sheet or an
// object is recognised by: it names those then.
func (p *Plan) yield(found []FoundSheet, sheet int) {
	s := &p.Sheets[sheet]
	at := slices.IndexFunc(s.Columns, func(c ColumnPlan) bool { return c.New && c.Field == s.Key })
	if !s.New || at < 0 {
		return
	}
	match, ok := found[sheet].Matches[at]
	if !ok || match.Target.Object == "" && !p.recognises(found, match.Target, sheet, at) {
		return
	}
	s.Columns[at].Unique, s.Columns[at].Required, s.Key, s.LabelField = false, false, "", ""
	for i := range s.Columns {
		c := &found[sheet].Analysis.Columns[i]
		_, refers := found[sheet].Matches[i]
		if c.mayBeKey(i) && !refers && !s.Columns[i].Skip {
			s.Columns[i].Unique, s.Columns[i].Required, s.Key = true, true, s.Columns[i].Field
			break
		}
	}
	s.standIn(at)
}

// recognises says whether a column of another sheet is that by which its records are told, and
// not the other way round.
func (p *Plan) recognises(found []FoundSheet, to Target, sheet, column int) bool {
	other := &p.Sheets[to.Sheet]
	if to.Sheet == sheet || other.Skip || other.Columns[to.Column].Field != other.Key {
		return false
	}
	back, ok := found[to.Sheet].Matches[to.Column]
	if !ok || back.Target.Object != "" || back.Target.Sheet != sheet || back.Target.Column != column {
		return true
	}
	// They name each other: the one with fewer rows, or the later one, gives way.
	mine, theirs := found[sheet].Analysis.Rows, found[to.Sheet].Analysis.Rows
	return mine < theirs || mine == theirs && sheet > to.Sheet
}

// taken are the keys that a new object cannot have.
func (p *Plan) taken(m *model.Model) map[string]bool {
	out := map[string]bool{}
	for _, key := range m.Keys() {
		out[key] = true
	}
	for i := range p.Sheets {
		out[p.Sheets[i].Object] = true
	}
	return out
}

func (p *Plan) referAll(found []FoundSheet, sheet int) {
	for column, match := range found[sheet].Matches {
		p.refer(sheet, column, match)
	}
}

// alike finds an object that has most of the sheet's headings as fields.
func alike(f *FoundSheet, m *model.Model) *model.Object {
	var best *model.Object
	most := 0
	for _, key := range m.Keys() {
		o := m.Object(key)
		n := 0
		for _, c := range f.Analysis.Columns {
			if fieldLike(o, c.Heading) != nil {
				n++
			}
		}
		same := strings.EqualFold(f.Name, o.Label) || strings.EqualFold(f.Name, o.Plural)
		if n > most && (same || n > 2 && n*3 >= len(f.Analysis.Columns)*2) {
			best, most = o, n
		}
	}
	return best
}

func fieldLike(o *model.Object, heading string) *model.Field {
	for i := range o.Fields {
		f := &o.Fields[i]
		if f.Stored() && named(f, heading) {
			return f
		}
	}
	return nil
}

func (s *SheetPlan) into(f *FoundSheet, o *model.Object) {
	s.Object = o.Key
	for i := range f.Analysis.Columns {
		c := &f.Analysis.Columns[i]
		plan := ColumnPlan{Skip: true, Reading: c.Guess, Label: c.Heading}
		if field := fieldLike(o, c.Heading); field != nil {
			plan = c.into(field)
		}
		s.Columns = append(s.Columns, plan)
	}
	fullest := int64(0) // the key is what most rows have
	for i, plan := range s.Columns {
		c, field := &f.Analysis.Columns[i], o.Field(plan.Field)
		if !plan.Skip && field.Unique && c.Unique && field.Target() == "" && c.Filled > fullest {
			s.Key, s.Mode, fullest = field.Key, ModeBoth, c.Filled
		}
	}
	if s.Key == "" {
		s.byNumber(f, o)
	}
}

// byNumber lets records be recognised by their running number, where a column has it.
func (s *SheetPlan) byNumber(f *FoundSheet, o *model.Object) {
	for i := range f.Analysis.Columns {
		c := &f.Analysis.Columns[i]
		for n := range o.Fields {
			number := &o.Fields[n]
			if number.Type == model.Number && named(number, c.Heading) && c.Unique && c.Empty == 0 {
				s.Columns[i] = ColumnPlan{Field: number.Key, Reading: Reading{Type: model.Text}, Label: number.Label}
				s.Key, s.Mode = number.Key, ModeUpdate
				return
			}
		}
	}
}

func named(f *model.Field, heading string) bool {
	return strings.EqualFold(f.Label, heading) || f.Key == KeyOf(heading)
}

func (c *Column) into(f *model.Field) ColumnPlan {
	r := c.ReadingFor(f)
	return ColumnPlan{Field: f.Key, Reading: r, Undecided: c.Undecided && r == c.Guess, Label: f.Label,
		Refers: f.Target()}
}

// ReadingFor is the reading of a column that suits the type of a field best.
func (c *Column) ReadingFor(f *model.Field) Reading {
	best, most := Reading{Type: f.Type}, int64(0)
	for _, e := range c.Evidence {
		if e.Reading.Type == f.Type && (e.Fits > most || e.Fits == most && e.Reading == c.Guess) {
			best, most = e.Reading, e.Fits
		}
	}
	if most == 0 {
		switch f.Type {
		case model.Whole, model.Decimal, model.Money:
			best.Form = Point
		case model.Date, model.DateTime:
			best.Form = YMD
		}
	}
	return best
}

func (s *SheetPlan) anew(f *FoundSheet, taken map[string]bool) {
	s.New = true
	s.Plural = titled(f.Name)
	s.Label = inflect.Singular(s.Plural)
	s.Object = freeKey(KeyOf(s.Label), func(k string) bool {
		return taken[k] || model.KeyProblem(k) != "" ||
			k == model.PersonObject
	})
	taken[s.Object] = true
	keys := map[string]bool{}
	for i := range f.Analysis.Columns {
		c := &f.Analysis.Columns[i]
		plan := c.anew(func(k string) bool { return keys[k] })
		key := plan.Field
		keys[key] = true
		if s.Key == "" && f.Analysis.Rows > 1 && c.mayBeKey(i) {
			s.Key, plan.Unique, plan.Required = key, true, true
		}
		s.Columns = append(s.Columns, plan)
	}
	s.standIn(-1)
}

// standIn chooses what stands for a record: the key, or else the first text, but for one column.
func (s *SheetPlan) standIn(but int) {
	s.LabelField = s.Key
	for i, c := range s.Columns {
		if s.LabelField == "" && i != but && !c.Skip && c.Reading.Type == model.Text {
			s.LabelField = c.Field
		}
	}
	for i, c := range s.Columns {
		if s.LabelField == "" && i != but && !c.Skip {
			s.LabelField = c.Field
		}
	}
	if s.LabelField == "" && len(s.Columns) > 0 {
		s.LabelField = s.Columns[0].Field
	}
}

// anew plans a field of a column's own.
func (c *Column) anew(taken func(string) bool) ColumnPlan {
	key := freeKey(KeyOf(c.Heading), func(k string) bool {
		return taken(k) || model.KeyProblem(k) != "" || slices.Contains(model.Reserved, k)
	})
	plan := ColumnPlan{New: true, Field: key, Label: c.Heading, Skip: c.Filled == 0}
	plan.read(c, c.Guess)
	plan.Undecided = c.Undecided
	return plan
}

// read gives the cells of a column another reading.
func (p *ColumnPlan) read(c *Column, r Reading) {
	p.Reading, p.Undecided, p.Choices, p.Refers, p.Match = r, false, nil, "", ""
	switch r.Type {
	case model.Choice:
		p.Choices = choicesOf(c.Choices)
	case model.Choices:
		p.Choices = choicesOf(apart(c.Choices))
	}
}

// mayBeKey says whether records may be told by a column: its cells are all there and all
// different, and name something rather than measure it. Whole numbers name something where they
// come first or their heading says so.
func (c *Column) mayBeKey(place int) bool {
	if !c.Unique || c.Empty > 0 {
		return false
	}
	switch c.Guess.Type {
	case model.Text, model.Email:
		return true
	case model.Whole:
		return place == 0 || slices.ContainsFunc(strings.Split(KeyOf(c.Heading), "_"),
			func(w string) bool { return slices.Contains(numbering, w) })
	}
	return false
}

// numbering are words of headings above numbers that name something.
var numbering = []string{"id", "no", "nr", "num", "number", "code", "key", "ref", "reference", "serial"}

// refer makes a column a reference, to a sheet brought in with it or an object there is.
// A column that goes into a field there is only learns what its cells name records by.
func (p *Plan) refer(sheet, column int, m Match) {
	c := &p.Sheets[sheet].Columns[column]
	object, field := m.Target.Object, m.Target.Field
	if object == "" {
		to := &p.Sheets[m.Target.Sheet]
		if to.Skip || to.Columns[m.Target.Column].Skip {
			return
		}
		object, field = to.Object, to.Columns[m.Target.Column].Field
	}
	switch {
	case !c.New && c.Refers == object && !c.Skip:
		c.Match = field
	case c.New && c.Field != p.Sheets[sheet].Key && c.Field != p.Sheets[sheet].LabelField:
		c.read(nil, Reading{Type: model.Reference})
		c.Refers, c.Match = object, field
	}
}

// Sequence puts the sheets in an order in which each comes behind those it refers to.
func (p *Plan) Sequence() ([]int, error) {
	var out []int
	state := make([]int, len(p.Sheets)) // 0 not seen, 1 being gone into, 2 done
	var visit func(i int) error
	visit = func(i int) error {
		if p.Sheets[i].Skip || state[i] == 2 {
			return nil
		}
		if state[i] == 1 {
			return fmt.Errorf("the sheets refer to each other in a circle through %q; leave one of the references out and bring it in afterwards", p.Sheets[i].Object)
		}
		state[i] = 1
		for _, c := range p.Sheets[i].Columns {
			for j := range p.Sheets {
				if i == j || c.Skip || c.Refers == "" || c.Refers != p.Sheets[j].Object || p.Sheets[j].Skip {
					continue
				}
				if err := visit(j); err != nil {
					return err
				}
			}
		}
		state[i] = 2
		out = append(out, i)
		return nil
	}
	for i := range p.Sheets {
		if err := visit(i); err != nil {
			return nil, err
		}
	}
	return out, nil
}

// Object is the object a sheet makes anew.
func (s *SheetPlan) NewObject() *model.Object {
	o := &model.Object{Key: s.Object, Label: s.Label, Plural: s.Plural, LabelField: s.LabelField}
	for _, c := range s.Columns {
		if !c.Skip && c.New {
			o.Fields = append(o.Fields, c.NewField())
		}
	}
	return o
}

// NewField is the field a column makes anew.
func (c *ColumnPlan) NewField() model.Field {
	return model.Field{Key: c.Field, Label: c.Label, Type: c.Reading.Type, Unique: c.Unique, Required: c.Required,
		Choices: c.Choices, Object: c.Refers}
}
