package screen

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"maps"
	"strings"

	"plainpath/core/expr"
	"plainpath/core/model"
	"plainpath/core/query"
	"plainpath/core/records"
	"plainpath/core/table"
)

// chooser is a part on which records may be chosen.
type chooser interface {
	chooses() bool
	// offered are the records that can be chosen.
	offered(ctx context.Context, r records.Reader, values expr.Values) (query.Query, error)
}

func (p *input) chooses() bool { return p.object != "" && !p.field.HoldsFile() }

func (p *input) offered(ctx context.Context, r records.Reader, values expr.Values) (query.Query, error) {
	return p.among(ctx, r, values)
}

func (p *tabled) chooses() bool { return true }

func (p *tabled) offered(ctx context.Context, r records.Reader, values expr.Values) (query.Query, error) {
	l, err := p.table.Listing(ctx, r, values)
	if err != nil {
		return query.Query{}, err
	}
	return l.Of(r, table.Chosen{All: &table.Look{}})
}

// Named is an answer in which records are named by what they are called instead of by their keys, so that it holds
// where other records are stored. One that shares its name with another stays as it is; pinned counts those.
func (s *Surface) Named(ctx context.Context, r records.Reader, values expr.Values, a Answers,
	fields func(part string) []model.Path) (out Answers, pinned int, err error) {
	if _, err := s.Look(ctx, r, values, a, fields); err != nil {
		return nil, 0, err
	}
	known := func(Answers) error { return nil }
	out, err = s.renamed(ctx, r, values, a, known, func(raw json.RawMessage,
		of func() (query.Query, error)) (json.RawMessage, error) {
		named, kept, err := NamedRefs(ctx, r, raw, of)
		pinned += kept
		return named, err
	})
	return out, pinned, err
}

// Found is an answer in which the records named by what they are called are found. The error is a *CalledError
// where there is none or more than one.
func (s *Surface) Found(ctx context.Context, r records.Reader, values expr.Values, a Answers,
	fields func(part string) []model.Path) (Answers, error) {
	look := func(found Answers) error {
		_, err := s.Look(ctx, r, values, found, fields)
		return err
	}
	return s.renamed(ctx, r, values, a, look, func(raw json.RawMessage,
		of func() (query.Query, error)) (json.RawMessage, error) {
		return FoundRefs(ctx, r, raw, of)
	})
}

// NamedRefs is a reference, or several, that name records of a query by what they are called; pinned counts those
// that share their name with another and stay as they are.
func NamedRefs(ctx context.Context, r records.Reader, raw json.RawMessage,
	of func() (query.Query, error)) (out json.RawMessage, pinned int, err error) {
	out, err = renamedRefs(raw, true, of, func(ref map[string]any, label string, q query.Query) error {
		found, err := records.Called(ctx, r, q, label)
		if err != nil || len(found) != 1 {
			pinned++
			return err
		}
		delete(ref, "id")
		return nil
	})
	return out, pinned, err
}

// FoundRefs is a reference, or several, with the keys of the records of a query that are named by what they are
// called. The error is a *CalledError where there is none or more than one.
func FoundRefs(ctx context.Context, r records.Reader, raw json.RawMessage,
	of func() (query.Query, error)) (json.RawMessage, error) {
	return renamedRefs(raw, false, of, func(ref map[string]any, label string, q query.Query) error {
		found, err := records.Called(ctx, r, q, label)
		if err != nil {
			return err
		}
		if len(found) != 1 {
			return &CalledError{r.Model().Object(q.Object).Label, label, len(found)}
		}
		ref["id"] = found[0].ID
		return nil
	})
}

// CalledError says that there is not just one record of a name.
type CalledError struct {
	Object, Label string
	Found         int
}

func (e *CalledError) Error() string {
	if e.Found == 0 {
		return fmt.Sprintf("there is no %s “%s” to choose", strings.ToLower(e.Object), e.Label)
	}
	return fmt.Sprintf("there is more than one %s “%s” to choose", strings.ToLower(e.Object), e.Label)
}

// renamed goes through the answers of parts on which records are chosen, each after those that it follows; look makes
// known what was gone through before one that follows something.
func (s *Surface) renamed(ctx context.Context, r records.Reader, values expr.Values, a Answers,
	look func(Answers) error, each func(raw json.RawMessage,
		of func() (query.Query, error)) (json.RawMessage, error)) (Answers, error) {
	out := maps.Clone(a)
	for _, key := range s.order {
		raw, given := a[key]
		if !given || s.parts[key] == nil {
			continue
		}
		c, ok := s.parts[key].content.(chooser)
		if !ok || !c.chooses() {
			continue
		}
		if len(s.needs[key]) > 0 {
			if err := look(out); err != nil {
				return nil, err
			}
		}
		var err error
		if out[key], err = each(raw, func() (query.Query, error) { return c.offered(ctx, r, values) }); err != nil {
			return nil, err
		}
	}
	return out, nil
}

// renamedRefs goes through references that have a key, or those that have none. What they are of is asked only
// where there are any.
func renamedRefs(raw json.RawMessage, keyed bool, of func() (query.Query, error),
	each func(ref map[string]any, label string, q query.Query) error) (json.RawMessage, error) {
	refs, v := refsOf(raw, keyed)
	if len(refs) == 0 {
		return raw, nil
	}
	q, err := of()
	if err != nil {
		return nil, err
	}
	for _, ref := range refs {
		if err := each(ref, ref["label"].(string), q); err != nil {
			return nil, err
		}
	}
	out, err := json.Marshal(v)
	if err != nil {
		return nil, fmt.Errorf("writing what was chosen: %w", err)
	}
	return out, nil
}

// refsOf are the references in an answer that have a key, or those that have none, to be changed in place, and the
// answer that they are in.
func refsOf(raw json.RawMessage, keyed bool) (refs []map[string]any, v any) {
	d := json.NewDecoder(bytes.NewReader(raw))
	d.UseNumber() // numbers stay as they are written
	if d.Decode(&v) != nil {
		return nil, nil
	}
	all, ok := v.([]any)
	if !ok {
		all = []any{v}
	}
	for _, one := range all {
		ref, _ := one.(map[string]any)
		label, _ := ref["label"].(string)
		if _, has := ref["id"]; has == keyed && label != "" {
			refs = append(refs, ref)
		}
	}
	return refs, v
}
