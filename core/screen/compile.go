package screen

import (
	"fmt"
	"iter"

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
	Uses [][]string
	// Nameable are what acts may name: the parts and others.
	Nameable []act.Part
	// offered says of each band when it is there, nil for always.
	offered []*expr.Program
	parts   map[string]*part
	// order has the keys of the parts, on a screen with those of the searches and each after those that it takes
	// something of, which needs are; own is the key of the screen.
	order []string
	needs map[string][]string
	own   string
	// searches are those of a screen, by their keys.
	searches map[string]*searched
	// reactions are what is done when something happens, by their keys, which react has in order; ReactionUses are the
	// known values that they depend on.
	reactions    map[string]*reaction
	react        []string
	ReactionUses [][]string
}

type part struct {
	*Part
	at model.Referent
	// offered says when the part is there, band when the band is that it stands in; nil for always.
	offered, band *expr.Program
	// content is nil for what cannot be shown.
	content content
	// uses are the known values the part depends on.
	uses [][]string
}

// Compile checks the parts against what is known. Pointers are below the given one. Others are what acts may name
// besides the parts.
func Compile(check *definition.Check, s expr.Scope, bands []Band, pointer string, others ...act.Part) *Surface {
	c := &compiler{Check: check, scope: s, out: &Surface{Bands: bands, parts: map[string]*part{}}}
	c.parts = append(c.parts, others...)
	for part, at := range Parts(bands) {
		n := act.Part{Name: expr.Name{Key: part.Key, Label: part.Title(),
			Of: model.Referent{Document: c.Document, At: pointer + at}}, Table: part.Kind == TablePart}
		if part.Kind == InputPart && part.Input != nil {
			n.Type = part.Gives()
		}
		c.parts = append(c.parts, n)
	}
	for i := range bands {
		at := fmt.Sprintf("%s/bands/%d", pointer, i)
		c.out.offered = append(c.out.offered, c.band(&bands[i], at))
		for part, below := range bands[i].parts() {
			c.part(part, at+below, c.out.offered[i])
		}
	}
	c.out.Nameable = c.parts
	return c.out
}

// Parts goes through the parts of bands with their pointers.
func Parts(bands []Band) iter.Seq2[*Part, string] {
	return func(yield func(*Part, string) bool) {
		for i := range bands {
			for part, below := range bands[i].parts() {
				if !yield(part, fmt.Sprintf("/bands/%d%s", i, below)) {
					return
				}
			}
		}
	}
}

// parts goes through the parts of a band with their pointers below it.
func (b *Band) parts() iter.Seq2[*Part, string] {
	return func(yield func(*Part, string) bool) {
		for j := range b.Columns {
			for k := range b.Columns[j].Parts {
				if !yield(&b.Columns[j].Parts[k], fmt.Sprintf("/columns/%d/parts/%d", j, k)) {
					return
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
	parts []act.Part
}

func (c *compiler) part(def *Part, at string, band *expr.Program) {
	p := &part{Part: def, at: model.Referent{Document: c.Document, At: at}, band: band}
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
	c.out.order = append(c.out.order, def.Key)
	before := len(c.out.Uses)
	defer func() { p.uses = c.out.Uses[before:] }()
	if band != nil {
		c.out.Uses = append(c.out.Uses, band.Uses...)
	}
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
	p.content = kind.check(c, p, at+"/"+string(def.Kind))
	if n := len(c.out.Answers) - 1; (p.offered != nil || band != nil) && n >= 0 && c.out.Answers[n].Key == def.Key {
		c.out.Answers[n].Type.Empty = true // nothing is given where it is not there
	}
}

func (c *compiler) program(source string, want expr.Type, at, consequence string) *expr.Program {
	if source == "" {
		c.Find(definition.Stop, at, "nothing is said here", consequence, nil)
		return nil
	}
	p := c.ExpressionOf(want, c.scope, source, at, consequence)
	if p != nil {
		c.out.Uses = append(c.out.Uses, p.Uses...)
	}
	return p
}
