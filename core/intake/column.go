package intake

import (
	"fmt"
	"hash/maphash"
	"maps"
	"slices"
	"strings"
	"time"
	"unicode/utf8"

	"plainpath/core/model"
)

// Column is what is known of a column after all of its cells were looked at.
type Column struct {
	Heading string `json:"heading"`
	Filled  int64  `json:"filled"`
	Empty   int64  `json:"empty"`
	// Guess is the reading proposed, Why what speaks for it, in words.
	Guess Reading `json:"guess"`
	Why   string  `json:"why"`
	// Undecided says that cells fit two readings alike, so that somebody has to choose.
	Undecided bool `json:"undecided,omitempty"`
	// Evidence is there for every reading that some cell fits, the text last.
	Evidence []Evidence `json:"evidence"`
	Samples  []string   `json:"samples"`
	// Distinct counts the different values; nought when there are too many to hold.
	Distinct int  `json:"distinct,omitempty"`
	Unique   bool `json:"unique,omitempty"`
	// Choices are the values of a column with few, the commonest first.
	Choices []Counted `json:"choices,omitempty"`

	values map[string]int64
	// hashes stand for the values of a column in which none came again, when there are too many
	// to hold: all different hashes are all different values.
	hashes []uint64
}

// Evidence is how a reading fits the cells of a column.
type Evidence struct {
	Reading Reading `json:"reading"`
	Fits    int64   `json:"fits"`
	Misfits int64   `json:"misfits"`
	// Examples are the first cells that do not fit.
	Examples []Example `json:"examples,omitempty"`
}

// Example is a cell with its line.
type Example struct {
	Line  int    `json:"line"`
	Value string `json:"value"`
}

// Counted is a value with how often it is there.
type Counted struct {
	Value string `json:"value"`
	Count int64  `json:"count"`
}

const (
	shownExamples = 3
	shownSamples  = 3
	// mostHeld is how many different values of a column are held in memory.
	mostHeld = 200_000
	// mostChoices is how many values a choice may have to be guessed.
	mostChoices = 20
	// mostCached bounds the cells whose readings are remembered, for values come again.
	mostCached = 4096
	longText   = 200
)

// profiler looks at the cells of one column one after another.
type profiler struct {
	Column
	fits     [32]int64
	examples [32][]Example
	cache    map[string]mask
	// codes counts cells that look like numbers but must stay as they are written.
	codes   int64
	longest int
	seed    maphash.Seed
	// least is the share of cells that a reading must fit, in per cent.
	least    int64
	lines    bool
	repeated bool
	// excluded are readings that somebody ruled out.
	excluded mask
}

func newProfiler(heading string) *profiler {
	p := &profiler{cache: map[string]mask{}}
	p.Heading, p.values = heading, map[string]int64{}
	return p
}

func (p *profiler) take(line int, cell string) {
	trimmed := strings.TrimSpace(cell)
	if trimmed == "" {
		p.Empty++
		return
	}
	p.Filled++
	m, ok := p.cache[trimmed]
	if !ok {
		m = fits(trimmed) &^ p.excluded
		if len(p.cache) < mostCached {
			p.cache[strings.Clone(trimmed)] = m
		}
	}
	for i := range readings {
		switch {
		case m&(1<<i) != 0:
			p.fits[i]++
		case len(p.examples[i]) < shownExamples:
			p.examples[i] = append(p.examples[i], Example{line, clip(trimmed)})
		}
	}
	if m&numberBits == 0 && code(trimmed) {
		p.codes++
	}
	if len(p.Samples) < shownSamples && !slices.Contains(p.Samples, clip(trimmed)) {
		p.Samples = append(p.Samples, clip(trimmed))
	}
	p.longest = max(p.longest, len(trimmed))
	p.lines = p.lines || strings.IndexByte(trimmed, '\n') >= 0
	p.hold(trimmed)
}

// hold counts different values as long as they can be held.
func (p *profiler) hold(cell string) {
	if p.values == nil {
		if p.hashes != nil {
			p.hashes = append(p.hashes, maphash.String(p.seed, cell))
		}
		return
	}
	if n, held := p.values[cell]; held {
		p.values[cell] = n + 1
		p.repeated = true
		return
	}
	if len(p.values) >= mostHeld {
		if !p.repeated {
			p.seed = maphash.MakeSeed()
			for v := range p.values {
				p.hashes = append(p.hashes, maphash.String(p.seed, v))
			}
			p.hashes = append(p.hashes, maphash.String(p.seed, cell))
		}
		p.values = nil
		return
	}
	p.values[strings.Clone(cell)] = 1
}

// different says whether no value came twice.
func (p *profiler) different() bool {
	if p.values != nil {
		return !p.repeated && p.Filled > 0
	}
	if p.hashes == nil {
		return false
	}
	slices.Sort(p.hashes)
	return len(slices.Compact(p.hashes)) == int(p.Filled)
}

func clip(s string) string {
	if len(s) <= 80 {
		return strings.Clone(s)
	}
	cut := 77
	for cut > 0 && !utf8.RuneStart(s[cut]) {
		cut--
	}
	return s[:cut] + "…"
}

// code says whether a text of digits is a code rather than a number: it has leading
// noughts or more digits than numbers have.
func code(s string) bool {
	return allDigits(s) && (len(s) > mostDigits || len(s) > 1 && s[0] == '0')
}

// finish draws the conclusions.
func (p *profiler) finish() Column {
	p.Distinct = len(p.values)
	p.Unique = p.different()
	p.hashes = nil
	for i, r := range readings {
		if p.fits[i] > 0 {
			p.Evidence = append(p.Evidence, Evidence{r, p.fits[i], p.Filled - p.fits[i], p.examples[i]})
		}
	}
	text := Reading{Type: model.Text}
	if p.lines || p.longest > longText {
		text.Type = model.LongText
	}
	p.Evidence = append(p.Evidence, Evidence{Reading: text, Fits: p.Filled})
	if p.Distinct > 0 && p.Distinct <= 50 {
		for v, n := range p.values {
			p.Choices = append(p.Choices, Counted{v, n})
		}
		slices.SortFunc(p.Choices, func(a, b Counted) int {
			if a.Count != b.Count {
				return int(b.Count - a.Count)
			}
			return strings.Compare(a.Value, b.Value)
		})
	}
	p.Guess, p.Why, p.Undecided = p.guess(text)
	return p.Column
}

// fitting is the share of cells a reading must fit to be guessed where none fits all, in per
// cent: the few that do not are refused and listed, and can be mended.
const fitting = 90

// good says how many cells a reading fits, and whether that is enough of them.
func (p *profiler) good(r Reading) (int64, bool) {
	for i, x := range readings {
		if x == r {
			return p.fits[i], p.fits[i]*100 >= p.Filled*p.least && p.fits[i] > 0
		}
	}
	return 0, false
}

func (p *profiler) guess(text Reading) (Reading, string, bool) {
	if p.Filled == 0 {
		return text, "The column is empty.", false
	}
	// What fits all cells goes before what fits most of them.
	for _, p.least = range []int64{100, fitting} {
		if r, why, undecided, ok := p.special(); ok {
			return r, why, undecided
		}
	}
	if p.choice() {
		why := fmt.Sprintf("%d values come again and again in %d cells.", p.Distinct, p.Filled)
		if one := becomeOne(p.words(), strings.ToLower); one != "" {
			return Reading{Type: model.Choice}, why + " " + one + "; choose.", true
		}
		return Reading{Type: model.Choice}, why, false
	}
	if p.codes > 0 {
		return text, fmt.Sprintf("%d cells have leading noughts or more than %d digits, which a number would lose.",
			p.codes, mostDigits), false
	}
	return text, "", false
}

// special finds a reading that is not text.
func (p *profiler) special() (Reading, string, bool, bool) {
	if n, ok := p.good(Reading{Type: model.YesNo}); ok && !p.onlyDigits() && (n == p.Filled || !p.choice()) {
		r := Reading{Type: model.YesNo}
		if one := becomeOne(p.folded(), yesOrNo); one != "" {
			return r, p.share(r) + " " + one + "; choose.", true, true
		}
		return r, p.share(r), false, true
	}
	if p.codes == 0 {
		if r, why, undecided, ok := p.either(p.number(Point), p.number(Comma)); ok {
			return r, why, undecided, true
		}
		if r, why, undecided, ok := p.either(Reading{model.Money, Point}, Reading{model.Money, Comma}); ok {
			return r, why, undecided, true
		}
	}
	for _, t := range []model.FieldType{model.Date, model.DateTime} {
		if _, ok := p.good(Reading{t, YMD}); ok {
			return Reading{t, YMD}, p.share(Reading{t, YMD}), false, true
		}
		if r, why, undecided, ok := p.either(Reading{t, DMY}, Reading{t, MDY}); ok {
			return r, why, undecided, true
		}
	}
	for _, t := range []model.FieldType{model.Email, model.Phone, model.WebLink} {
		if _, ok := p.good(Reading{Type: t}); ok {
			return Reading{Type: t}, p.share(Reading{Type: t}), false, true
		}
	}
	return Reading{}, "", false, false
}

// yesOrNo is what a word in small letters means.
func yesOrNo(word string) string {
	switch {
	case yesWords[word]:
		return "yes"
	case noWords[word]:
		return "no"
	}
	return word
}

// becomeOne names different cells that would be one value, "" when there are none.
func becomeOne(cells []string, as func(string) string) string {
	first := map[string]string{}
	for _, cell := range cells {
		if other, ok := first[as(cell)]; ok {
			return fmt.Sprintf("“%s” and “%s” would be one value", other, cell)
		}
		first[as(cell)] = cell
	}
	return ""
}

// words are the different cells in order.
func (p *profiler) words() []string { return slices.Sorted(maps.Keys(p.values)) }

// folded are they in small letters.
func (p *profiler) folded() []string {
	words := p.words()
	for i, w := range words {
		words[i] = strings.ToLower(w)
	}
	slices.Sort(words)
	return slices.Compact(words)
}

func (p *profiler) onlyDigits() bool {
	for v := range p.values {
		if v != "0" && v != "1" {
			return false
		}
	}
	return true
}

func (p *profiler) share(r Reading) string {
	n, _ := p.good(r)
	if n == p.Filled {
		return fmt.Sprintf("All %d cells fit.", n)
	}
	return fmt.Sprintf("%d of %d cells fit.", n, p.Filled)
}

// number is the whole number or, when some cell has a fraction, the decimal of a form.
func (p *profiler) number(form string) Reading {
	whole, decimal := Reading{model.Whole, form}, Reading{model.Decimal, form}
	n, ok := p.good(whole)
	if all, _ := p.good(decimal); ok && n == all {
		return whole
	}
	return decimal
}

// either decides between two readings by the cells that fit only one of them.
func (p *profiler) either(a, b Reading) (Reading, string, bool, bool) {
	first, okA := p.good(a)
	second, okB := p.good(b)
	if !okA && !okB {
		return Reading{}, "", false, false
	}
	r, n, other, loser := a, first, second, b
	if second > first {
		r, n, other, loser = b, second, first, a
	}
	switch {
	case n > other:
		return r, p.share(r) + fmt.Sprintf(" %d of them fit only with %s.", n-other, formWords[r.Form]), false, true
	case p.alike(r, loser):
		return r, p.share(r), false, true
	}
	return r, fmt.Sprintf("%s They could as well have %s; choose.", p.share(r), formWords[loser.Form]), true, true
}

// alike says whether two readings give the same value for every cell, so that it does
// not matter which is taken.
func (p *profiler) alike(a, b Reading) bool {
	for v := range p.cache {
		x, errX := a.Value(v, time.UTC)
		y, errY := b.Value(v, time.UTC)
		if (errX == nil) != (errY == nil) || errX == nil && fmt.Sprint(x) != fmt.Sprint(y) {
			return false
		}
	}
	return len(p.cache) < mostCached
}

// choice says whether a few short values come again and again.
func (p *profiler) choice() bool {
	return p.repeated && p.Distinct > 1 && p.Distinct <= mostChoices && p.Filled >= int64(3*p.Distinct) &&
		p.longest <= 60 && !p.lines
}
