package screen

import (
	"context"
	"encoding/json"
	"fmt"
	"iter"
	"strings"

	"plainpath/core/act"
	"plainpath/core/expr"
	"plainpath/core/model"
	"plainpath/core/records"
	"plainpath/core/table"
	"plainpath/core/value"
)

// Answers are what a person gave on a surface, by part, as it came.
type Answers map[string]json.RawMessage

// Given is what a person has done on a page so far: what was entered and chosen, how
// tables are looked at, both by part.
type Given struct {
	Answers Answers               `json:"answers,omitempty"`
	Looks   map[string]table.Look `json:"looks,omitempty"`
	// Edited are the keys of rows that were changed and not saved.
	Edited map[string][]int64 `json:"edited,omitempty"`
	// Taken is what the page was handed when it was opened.
	Taken Answers `json:"taken,omitempty"`
	// Loaded are the searches on demand that were asked for.
	Loaded []string `json:"loaded,omitempty"`
}

// Show computes what a person sees. Earlier answers fill the inputs in as far as
// they still hold.
func (s *Surface) Show(ctx context.Context, r records.Reader, values expr.Values, earlier Answers) ([]BandView, error) {
	return s.ShowOf(ctx, r, values, Given{Answers: earlier}, Some{})
}

// Some says which parts of a page are shown.
type Some struct {
	// Anew are those that are not as they were; nil means all.
	Anew map[string]bool
	// Waiting are those that are not read before something asks for it.
	Waiting map[string]Waiting
	// Refused are those that take something of a search which cannot be made.
	Refused Refusals
	// Used is what is taken of the parts.
	Used Used
}

// Refusals are searches that could not be made with what is known, and what takes something of them, by key, each with
// why in words.
type Refusals map[string]string

// Of are the refusals that something takes part in by what it uses.
func (r Refusals) Of(uses ...string) error {
	for _, key := range uses {
		part, _, _ := strings.Cut(key, ".") // a part may show several lists
		if why, refused := r[part]; refused {
			return &act.RefusedError{Text: why}
		}
	}
	return nil
}

// Waiting is the search on demand that a part waits for, by its key.
type Waiting struct {
	Search string `json:"search"`
}

// ShowOf computes what a person sees of a page, but for what need not be shown anew or waits.
func (s *Surface) ShowOf(ctx context.Context, r records.Reader, values expr.Values, g Given,
	some Some) ([]BandView, error) {
	out := make([]BandView, len(s.Bands))
	for i, b := range s.Bands {
		out[i] = b.view()
		if p := s.offered[i]; p != nil {
			there, err := p.True(values)
			if err != nil {
				return nil, fmt.Errorf("whether band %d is there: %w", i+1, err)
			}
			if out[i].Absent = !there; !there {
				continue
			}
		}
		for j, c := range b.Columns {
			for _, def := range c.Parts {
				p := s.parts[def.Key]
				offered, err := p.isOffered(values)
				if err != nil {
					return nil, err
				}
				if !offered {
					continue
				}
				view := PartView{Key: p.Key, Kind: p.Kind, Same: true}
				if w, waits := some.Waiting[def.Key]; waits {
					view = PartView{Key: p.Key, Kind: p.Kind, Label: p.Label, Waiting: &w}
				} else if why, refused := some.Refused[def.Key]; refused {
					view = PartView{Key: p.Key, Kind: p.Kind, Label: p.Label, Refused: why}
				} else if some.Anew == nil || some.Anew[def.Key] {
					if view, err = p.show(ctx, r, values, g); err != nil {
						return nil, fmt.Errorf("showing %q: %w", def.Label, err)
					}
					if view.Chart != nil {
						view.Chart.Gives = some.Used.Takes(def.Key, Matching)
					}
				}
				out[i].Columns[j].Parts = append(out[i].Columns[j].Parts, view)
			}
		}
	}
	return out, nil
}

// isOffered says whether the part is there, which it is in no band that is not.
func (p *part) isOffered(values expr.Values) (bool, error) {
	for _, when := range []*expr.Program{p.band, p.offered} {
		if when == nil {
			continue
		}
		if holds, err := when.True(values); !holds || err != nil {
			return false, err
		}
	}
	return true, nil
}

func (p *part) show(ctx context.Context, r records.Reader, values expr.Values, g Given) (PartView, error) {
	view := PartView{Key: p.Key, Kind: p.Kind, Label: p.Label}
	if p.content == nil { // which a finding says
		return view, nil
	}
	err := p.content.show(ctx, r, values, g, &view)
	return view, err
}

// Looked makes known what is known of tables from how they are looked at alone.
func (s *Surface) Looked(r records.Reader, values expr.Values, g Given) {
	for key, p := range s.parts {
		switch x := p.content.(type) {
		case *tabled:
			values[key] = x.lookedAt(r, g.Looks[key])
		case *chart:
			values[key] = &value.Record{Fields: map[string]value.Value{}}
		}
	}
}

// Know makes known what a part gives out on a page. What a person gave that does not hold, or no
// longer, is empty.
func (s *Surface) Know(ctx context.Context, r records.Reader, values expr.Values, g Given, key string,
	used Used) error {
	p := s.parts[key]
	if p == nil {
		return nil
	}
	if k, ok := p.content.(knower); ok {
		return k.know(ctx, r, values, g, used)
	}
	return nil
}

// UsesOf are the known values that each part depends on, by key.
func (s *Surface) UsesOf() iter.Seq2[string, [][]string] {
	return func(yield func(string, [][]string) bool) {
		for key, p := range s.parts {
			if !yield(key, p.uses) {
				return
			}
		}
	}
}

// Rows is the object of the rows of a table, "" where there is no such table.
func (s *Surface) Rows(key string) string {
	if p := s.parts[key]; p != nil {
		if t, ok := p.content.(*tabled); ok {
			return t.table.Object()
		}
	}
	return ""
}

// Has says whether there is a part by a key.
func (s *Surface) Has(key string) bool { return s.parts[key] != nil }

// Of is what has the key of a part.
func (s *Surface) Of(key string) model.Referent { return s.parts[key].at }

// KindOf is the kind of a part by its key, "" where there is none.
func (s *Surface) KindOf(key string) PartKind {
	if p := s.parts[key]; p != nil {
		return p.Kind
	}
	return ""
}

// Listing is the list behind one of the parts that show one; of a figure, <key>.against is what it is compared with.
func (s *Surface) Listing(ctx context.Context, r records.Reader, values expr.Values, key string) (*table.Listing,
	error) {
	part, which, _ := strings.Cut(key, ".")
	if p := s.parts[part]; p != nil {
		if c, ok := p.content.(*cards); ok && which == "" {
			return c.Listing(ctx, r, values)
		}
		if l, ok := p.content.(lister); ok && l.list(which) != nil {
			return l.list(which).Listing(ctx, r, values)
		}
	}
	return nil, &table.MissingError{Kind: "table", Key: key}
}

// Options finds records for a reference input as the person types.
func (s *Surface) Options(ctx context.Context, r records.Reader, values expr.Values, key,
	text string) ([]value.Ref, error) {
	var in *input
	if p := s.parts[key]; p != nil {
		in, _ = p.content.(*input)
	}
	if in == nil || in.object == "" {
		return nil, &table.MissingError{Kind: "input that offers records", Key: key}
	}
	q, err := in.among(ctx, r, values)
	if err != nil {
		return nil, err
	}
	return records.OptionsAmong(ctx, r, q, text)
}
