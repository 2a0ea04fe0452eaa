package page

import (
	"context"
	"errors"
	"fmt"
	"maps"
	"slices"

	"plainpath/core/act"
	"plainpath/core/expr"
	"plainpath/core/model"
	"plainpath/core/records"
	"plainpath/core/screen"
	"plainpath/core/table"
	"plainpath/core/value"
)

// Show computes what a person sees. When changed names parts, only those that depend on
// them are shown anew; the others are marked as the same.
func (p *Program) Show(ctx context.Context, r records.Reader, g screen.Given, changed []string) ([]screen.BandView,
	error) {
	values, refused, err := p.values(ctx, r, g)
	if err != nil {
		return nil, err
	}
	some := screen.Some{Waiting: p.waiting(g), Refused: refused, Used: p.used}
	if len(changed) > 0 {
		some.Anew = p.affected(changed)
	}
	return p.surface.ShowOf(ctx, r, values, g, some)
}

// waiting are what is not read yet, for nothing asked for a search on demand that it needs.
func (p *Program) waiting(g screen.Given) map[string]screen.Waiting {
	out := map[string]screen.Waiting{}
	for _, s := range p.Def.Searches {
		if s.OnDemand && !slices.Contains(g.Loaded, s.Key) {
			out[s.Key] = screen.Waiting{Search: s.Key}
		}
	}
	for _, key := range p.order {
		for _, n := range p.needs[key] {
			if w, waits := out[n]; waits {
				out[key] = w
				break
			}
		}
	}
	return out
}

// NotOpenedError says that a page cannot be opened with what it was handed.
type NotOpenedError struct {
	Page     string
	Problems []model.Problem
}

func (e *NotOpenedError) Error() string {
	return fmt.Sprintf("“%s” cannot be opened with that: %s", e.Page, e.Problems[0].Text)
}

// affected are the parts and searches that depend on what changed, directly or not.
func (p *Program) affected(changed []string) map[string]bool {
	out := map[string]bool{}
	for _, key := range p.order {
		out[key] = slices.ContainsFunc(p.needs[key], func(n string) bool { return slices.Contains(changed, n) }) ||
			slices.ContainsFunc(p.waits[key], func(n string) bool { return out[n] })
	}
	return out
}

// values makes the known values of the page. What a person gave that does not hold, or no
// longer, is empty; so is what a search finds that is refused.
func (p *Program) values(ctx context.Context, r records.Reader, g screen.Given) (expr.Values, screen.Refusals,
	error) {
	values := maps.Clone(r.Base())
	taken, problems, err := screen.TakeAll(ctx, r, p.Def.Handed(), g.Taken, func(key string) []model.Path {
		n, _ := p.Scope.Find(key)
		return records.FieldsUsed(p.Scope.Model, n.Type.Object, []string{key}, p.used.Paths)
	})
	if err != nil {
		return nil, nil, err
	}
	if len(problems) > 0 {
		return nil, nil, &NotOpenedError{p.Def.Label, problems}
	}
	maps.Copy(values, taken)
	p.surface.Looked(r, values, g)
	waiting, refused := p.waiting(g), screen.Refusals{}
	for _, key := range p.order {
		var why *act.RefusedError
		if errors.As(refused.Of(p.needs[key]...), &why) {
			refused[key] = why.Text
		}
		if s := p.searches[key]; s != nil {
			_, waits := waiting[key]
			none := &value.List{Object: s.Def.Object, Source: value.Records(nil)}
			if values[key] = none; waits || why != nil {
				continue
			}
			list, err := s.Bind(ctx, r, values, records.FieldsUsed(p.Scope.Model, s.Def.Object, []string{key},
				p.used.Paths))
			switch {
			case errors.As(err, &why):
				refused[key] = why.Text
			case err != nil:
				return nil, nil, fmt.Errorf("searching for %q: %w", p.label(key), err)
			default:
				values[key] = list
			}
			continue
		}
		if err := p.surface.Know(ctx, r, values, g, key, p.used); err != nil {
			return nil, nil, err
		}
	}
	return values, refused, nil
}

// Looked are the tables of which something depends on how they are looked at, or on what
// is being changed in them.
func (p *Program) Looked() []string {
	out := []string{}
	for part := range screen.Parts(p.Def.Bands) {
		if part.Kind == screen.TablePart && slices.ContainsFunc(
			[]string{screen.Matching, screen.Edited, screen.Words, screen.Ordered},
			func(v string) bool { return p.used.Takes(part.Key, v) }) {
			out = append(out, part.Key)
		}
	}
	return out
}

// Listing is the list behind one of the tables.
func (p *Program) Listing(ctx context.Context, r records.Reader, g screen.Given, key string) (*table.Listing, error) {
	values, refused, err := p.values(ctx, r, g)
	if err == nil {
		err = refused.Of(key)
	}
	if err != nil {
		return nil, err
	}
	return p.surface.Listing(ctx, r, values, key)
}

// Options finds records for a reference input as the person types.
func (p *Program) Options(ctx context.Context, r records.Reader, g screen.Given, key, text string) ([]value.Ref,
	error) {
	values, refused, err := p.values(ctx, r, g)
	if err == nil {
		err = refused.Of(key)
	}
	if err != nil {
		return nil, err
	}
	return p.surface.Options(ctx, r, values, key, text)
}

// Form is one of the forms on the page.
func (p *Program) Form(ctx context.Context, r records.Reader, g screen.Given, key string) (*screen.OpenForm, error) {
	values, refused, err := p.values(ctx, r, g)
	if err == nil {
		err = refused.Of(key)
	}
	if err != nil {
		return nil, err
	}
	return p.surface.Form(values, key)
}

// Reactions are those of the page, for the browser.
func (p *Program) Reactions() []screen.ReactionView { return p.surface.Reactions() }

// React carries out a reaction.
func (p *Program) React(ctx context.Context, u records.Writer, g screen.Given, to screen.Reacting) (act.Outcome,
	error) {
	values, refused, err := p.values(ctx, u, g)
	if err == nil {
		err = refused.Of(p.surface.TakenBy(to.Key)...)
	}
	if err != nil {
		return act.Outcome{}, err
	}
	return p.surface.React(ctx, u, values, to)
}
