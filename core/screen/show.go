package screen

import (
	"context"
	"encoding/json"
	"fmt"
	"iter"

	"plainpath/core/expr"
	"plainpath/core/records"
	"plainpath/core/table"
	"plainpath/core/value"
)

// BandView is a band as a person sees it.
type BandView struct {
	Title   string       `json:"title,omitempty"`
	Columns []ColumnView `json:"columns"`
}

// ColumnView is a column of a band as a person sees it.
type ColumnView struct {
	Parts []PartView `json:"parts"`
}

// PartView is a part as a person sees it, with its values.
type PartView struct {
	Key   string   `json:"key"`
	Kind  PartKind `json:"kind"`
	Label string   `json:"label,omitempty"`
	// Text is what a text says.
	Text  expr.Sentence `json:"text,omitempty"`
	Input *Input        `json:"input,omitempty"`
	// Value is what an input holds at first.
	Value   any          `json:"value,omitempty"`
	Table   *table.View  `json:"table,omitempty"`
	Details []DetailView `json:"details,omitempty"`
	// Same says that the part is as it was and the rest is left out.
	Same bool `json:"same,omitempty"`
	// Lost says that an earlier choice no longer holds and must be made again.
	Lost string `json:"lost,omitempty"`
}

// DetailView is one field of details.
type DetailView struct {
	Heading table.HeadingView `json:"heading"`
	Value   any               `json:"value"`
}

// Answers are what a person gave on a surface, by part, as it came.
type Answers map[string]json.RawMessage

// Given is what a person has done on a page so far: what was entered and chosen, how
// tables are looked at, both by part.
type Given struct {
	Answers Answers               `json:"answers,omitempty"`
	Looks   map[string]table.Look `json:"looks,omitempty"`
	// Edited are the keys of rows that were changed and not saved.
	Edited map[string][]int64 `json:"edited,omitempty"`
}

// Show computes what a person sees. Earlier answers fill the inputs in as far as
// they still hold.
func (s *Surface) Show(ctx context.Context, r records.Reader, values expr.Values, earlier Answers) ([]BandView, error) {
	return s.ShowOf(ctx, r, values, Given{Answers: earlier}, nil)
}

// ShowOf computes what a person sees of a page, but for what need not be shown anew; nil shows everything.
func (s *Surface) ShowOf(ctx context.Context, r records.Reader, values expr.Values, g Given,
	anew map[string]bool) ([]BandView, error) {
	out := make([]BandView, len(s.Bands))
	for i, b := range s.Bands {
		out[i] = BandView{Title: b.Title, Columns: make([]ColumnView, len(b.Columns))}
		for j, c := range b.Columns {
			out[i].Columns[j].Parts = []PartView{}
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
				if anew == nil || anew[def.Key] {
					if view, err = p.show(ctx, r, values, g); err != nil {
						return nil, fmt.Errorf("showing %q: %w", def.Label, err)
					}
				}
				out[i].Columns[j].Parts = append(out[i].Columns[j].Parts, view)
			}
		}
	}
	return out, nil
}

func (p *part) isOffered(values expr.Values) (bool, error) {
	if p.offered == nil {
		return true, nil
	}
	return p.offered.True(values)
}

func (p *part) show(ctx context.Context, r records.Reader, values expr.Values, g Given) (PartView, error) {
	view := PartView{Key: p.Key, Kind: p.Kind, Label: p.Label}
	kind := kindOf(p.Kind)
	if kind == nil { // which a finding says
		return view, nil
	}
	err := kind.show(ctx, p, r, values, g, &view)
	return view, err
}

// Looked makes known what is known of tables from how they are looked at alone.
func (s *Surface) Looked(r records.Reader, values expr.Values, g Given) {
	for key, p := range s.parts {
		if p.Kind == TablePart {
			values[key] = p.lookedAt(r, g.Looks[key])
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
	kind := kindOf(p.Kind)
	if kind == nil || kind.known == nil {
		return nil
	}
	return kind.known(ctx, p, r, values, g, used)
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

// IsTable says whether there is a table by a key.
func (s *Surface) IsTable(key string) bool {
	p := s.parts[key]
	return p != nil && p.Kind == TablePart
}

// Listing is the list behind one of the tables.
func (s *Surface) Listing(ctx context.Context, r records.Reader, values expr.Values, key string) (*table.Listing,
	error) {
	p := s.parts[key]
	if p == nil || p.table == nil {
		return nil, &table.MissingError{Kind: "table", Key: key}
	}
	return p.table.Listing(ctx, r, values)
}

// Options finds records for a reference input as the person types.
func (s *Surface) Options(ctx context.Context, r records.Reader, values expr.Values, key,
	text string) ([]value.Ref, error) {
	p := s.parts[key]
	if p == nil || p.Kind != InputPart || p.object == "" {
		return nil, &table.MissingError{Kind: "input that offers records", Key: key}
	}
	q, err := p.among(ctx, r, values)
	if err != nil {
		return nil, err
	}
	return records.OptionsAmong(ctx, r, q, text)
}
