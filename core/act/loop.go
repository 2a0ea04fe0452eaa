package act

import (
	"context"
	"fmt"

	"plainpath/core/expr"
	"plainpath/core/predicate"
	"plainpath/core/query"
	"plainpath/core/records"
	"plainpath/core/value"
)

// Loop does the instructions up to Exit for each of a list: all at once where that comes to the same, else turn by
// turn.
type Loop struct {
	List *expr.Program
	Item string
	// Exit is the place behind it.
	Exit int
	// AtOnce is how it is done for all at once; nil where Turns says why it cannot be.
	AtOnce *AtOnce
	Turns  string
	// Waits says that somebody is waited for in its turns, which are kept one by one then.
	Waits bool
	// Rows are what is known afterwards of all turns of what writes nothing, such as a screen, by its key.
	Rows map[string]TurnRows
}

// TurnRows are the rows that are known of something when a loop is over: one of each turn, or Several.
type TurnRows struct {
	Columns
	Several bool
}

// AtOnce is a loop whose acts are each done for all records at once.
type AtOnce struct {
	// Freezes says that which records there are is looked up before anything is written.
	Freezes bool
	Parts   []Subset
	Code    []Instruction
}

// Subset is the records of the list that conditions on them make it go a way for, known by a name meanwhile.
type Subset struct {
	Name  string
	Conds []Cond
}

// Cond is a condition on a record that must hold, or must not.
type Cond struct {
	Program *expr.Program
	Not     bool
}

// set does the acts of a loop for all records at once.
func (m *Machine) set(ctx context.Context, i *Instruction, q query.Query) error {
	set := i.Loop.AtOnce
	q.Columns = nil
	for _, subset := range set.Parts { // all are found before anything is written
		of, err := m.subset(ctx, i.Loop, subset, q)
		if err != nil {
			return err
		}
		m.Values[subset.Name] = &value.List{Object: q.Object, Source: &records.Listed{Context: ctx, Reader: m.Writer,
			Query: of}}
		defer delete(m.Values, subset.Name)
	}
	for n := range set.Code {
		if _, err := m.work(ctx, &set.Code[n]); err != nil {
			return fmt.Errorf("at the step %q: %w", set.Code[n].Title, err)
		}
	}
	return nil
}

// subset is the records of a list that go a way, by their keys where acts before may change which they are.
func (m *Machine) subset(ctx context.Context, loop *Loop, s Subset, q query.Query) (query.Query, error) {
	if len(s.Conds) == 0 && !loop.AtOnce.Freezes {
		return q, nil
	}
	if q.Limit > 0 && len(s.Conds) > 0 { // only so many, and those of them
		keys, err := records.Keys(ctx, m.Writer, q)
		if err != nil {
			return q, err
		}
		q = query.Query{Object: q.Object, Where: predicate.Keys(keys)}
	}
	all := predicate.All{}
	if q.Where != nil {
		all = append(all, q.Where)
	}
	for _, c := range s.Conds {
		var p predicate.Predicate = predicate.Formula{Program: c.Program, Values: m.Values, Record: loop.Item}
		if c.Not {
			p = predicate.Not{Of: p}
		}
		all = append(all, p)
	}
	q.Where = all
	keys, err := records.Keys(ctx, m.Writer, q)
	return query.Query{Object: q.Object, Where: predicate.Keys(keys)}, err
}
