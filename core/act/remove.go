package act

import (
	"context"
	"fmt"
	"strings"

	"plainpath/core/definition"
	"plainpath/core/expr"
	"plainpath/core/model"
	"plainpath/core/query"
	"plainpath/core/records"
	"plainpath/core/value"
)

// Remove removes a record or all records of a list. Those that others refer to stay, and are named, unless
// Referring says otherwise.
type Remove struct {
	// Of is an expression that gives the record or the list; without it, the rows a button is about.
	Of string `json:"of,omitempty"`
	// Their removes the records that refer to those instead.
	Their *Their `json:"their,omitempty"`
	// Referring says what becomes of the records that refer to what is removed.
	Referring []Referring `json:"referring,omitempty"`
}

// Referring says what becomes of the records of an object that refer by a field to what is removed.
type Referring struct {
	Object string         `json:"object"`
	Field  string         `json:"field"`
	Then   ReferringMeans `json:"then"`
}

// ReferringMeans says what becomes of what refers to a record that is removed.
type ReferringMeans string

// What refers to a record is removed with it, or refers to nothing any more.
const (
	ReferringRemoved ReferringMeans = "remove"
	ReferringEmptied ReferringMeans = "empty"
)

type removePlan struct {
	basis
	*target
	referring []referring
}

// referring is what is done first to the records that refer to what is removed.
type referring struct {
	*owned
	object *model.Object
	then   ReferringMeans
}

func checkRemove(c *check, a *Act, at string) Plan {
	if !given(c, a, a.Remove, at) {
		return nil
	}
	at += "/remove"
	t := c.target(a.Remove.Of, a.Remove.Their, at, "Nothing would be removed.")
	if t == nil {
		return nil
	}
	p := &removePlan{basis{uses: c.uses, gives: &expr.Type{Kind: value.KindWhole}, writes: t.object.Key}, t, nil}
	for i := range a.Remove.Referring {
		if r, ok := c.referring(&a.Remove.Referring[i], t.object, fmt.Sprintf("%s/referring/%d", at, i)); ok {
			p.referring = append(p.referring, r)
		}
	}
	return p
}

func (c *check) referring(def *Referring, to *model.Object, at string) (referring, bool) {
	const consequence = "What refers to the records would keep them from being removed."
	from, via := c.their(&Their{Object: def.Object, Field: def.Field}, to, at, consequence)
	switch {
	case from == nil:
		return referring{}, false
	case def.Then != ReferringRemoved && def.Then != ReferringEmptied:
		c.Find(definition.Stop, at+"/then", fmt.Sprintf("%q is nothing that can become of what refers to a record", def.Then),
			consequence, definition.Replace("Remove it, too", at+"/then", string(ReferringRemoved)))
		return referring{}, false
	case def.Then == ReferringEmptied && via.via.Required:
		c.Find(definition.Stop, at+"/then", fmt.Sprintf("%s of %s is required and cannot be emptied", via.via.Label,
			strings.ToLower(from.Plural)), "Nothing could be removed to which one refers.",
			definition.Replace("Remove them, too", at+"/then", string(ReferringRemoved)))
		return referring{}, false
	}
	return referring{via, from, def.Then}, true
}

// Do removes the records; how many is known afterwards.
func (p *removePlan) Do(ctx context.Context, u records.Writer, in In) (Done, error) {
	out := Done{Report: Report{Object: p.object.Key}}
	n, note, err := p.remove(ctx, u, in)
	if err != nil {
		return out, refused(in, p.not("removed"), err)
	}
	out.Kept.Removed, out.Value = n, value.Whole(n)
	out.Report.Written, out.Report.Note = n, note
	return out, nil
}

func (p *removePlan) remove(ctx context.Context, u records.Writer, in In) (n int64, note string, err error) {
	m, any, err := p.query(ctx, u, in)
	if err != nil || !any {
		return 0, "", err
	}
	q := m.Query
	if len(p.referring) > 0 { // what is done first may change which they are
		keys, err := records.Keys(ctx, u, q)
		if err != nil {
			return 0, "", err
		}
		q = query.ByKeys(p.object, keys)
	}
	var also []string
	for _, r := range p.referring {
		done, err := r.do(ctx, u, in.Through, q)
		if err != nil {
			return 0, "", err
		}
		also = append(also, done)
	}
	if n, err = u.RemoveAll(ctx, in.Through, q); err == nil && p.one() && n == 0 {
		err = goneError{p.object}
	}
	notes := []string{count(n, p.object) + " removed"}
	if who := p.note(m, n); who != "" {
		notes[0] += ": " + who
	}
	return n, strings.Join(append(notes, also...), "; "), err
}

// do sees to the records that refer to those of a query.
func (r referring) do(ctx context.Context, u records.Writer, through string, q query.Query) (string, error) {
	theirs := r.of(r.object.Key, q)
	if r.then == ReferringRemoved {
		n, err := u.RemoveAll(ctx, through, theirs)
		if err != nil {
			return "", fmt.Errorf("removing %s: %w", strings.ToLower(r.object.Plural), err)
		}
		return count(n, r.object) + " removed with them", nil
	}
	keys, err := u.ChangeAll(ctx, through, query.Change{Query: theirs, Sets: []query.Assignment{{Field: r.via}}})
	if err != nil {
		return "", fmt.Errorf("emptying %s of %s: %w", r.via.Label, strings.ToLower(r.object.Plural), err)
	}
	n := int64(len(keys))
	return fmt.Sprintf("%s no longer %s to them", count(n, r.object), refers(n)), nil
}

func refers(n int64) string {
	if n == 1 {
		return "refers"
	}
	return "refer"
}

// Restore knows how many were removed.
func (p *removePlan) Restore(_ context.Context, _ records.Writer, _ In, kept Kept) (value.Value, error) {
	return value.Whole(kept.Removed), nil
}
