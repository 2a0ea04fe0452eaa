package act

import (
	"context"
	"fmt"
	"time"

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

// turning is a loop that is being done turn by turn.
type turning struct {
	begin int
	items []*value.Record
	turn  int
	// trail is where its visits begin.
	trail   int
	entries []Entry
}

// note adds what an instruction did in one turn to what it did in those before.
func (t *turning) note(e Entry) {
	for n := range t.entries {
		if all := &t.entries[n]; all.Step == e.Step {
			all.Found += e.Found
			all.Written += e.Written
			all.Micros += e.Micros
			return
		}
	}
	e.Note = fmt.Sprintf("in %d turns", len(t.items))
	t.entries = append(t.entries, e)
}

// restoreAll makes known again what an act did in all turns of a loop together.
func (m *Machine) restoreAll(ctx context.Context, i *Instruction, kept Kept) error {
	keys := kept.Added
	if len(keys) == 0 {
		keys = kept.Changed
	}
	object := i.Plan.Writes()
	if object == "" {
		delete(m.Values, i.Key)
		return nil
	}
	list, err := records.List(ctx, m.Writer, object, keys, m.Program.Uses[i.Key])
	if err == nil {
		m.Values[i.Key] = list
	}
	return err
}

// turn begins a loop or its next turn, and gives the place where it goes on.
func (m *Machine) turn(ctx context.Context, at int) (int, error) {
	if m.Program.Code[at].Again {
		return m.again(ctx)
	}
	return m.loop(ctx, at)
}

// loop begins a loop and gives the place where it goes on.
func (m *Machine) loop(ctx context.Context, at int) (int, error) {
	i := &m.Program.Code[at]
	start := time.Now()
	v, err := found(i.Loop.List, m.Values)
	if err != nil {
		return at, err
	}
	if list, ok := v.(*value.List); ok && i.Loop.AtOnce != nil {
		q, err := records.QueryOf(list)
		if err != nil {
			return at, err
		}
		m.trace(Entry{Step: i.Key, Kind: i.Kind, Title: i.Title, Report: Report{Note: "all at once"}})
		return i.Loop.Exit, m.set(ctx, i, q)
	}
	items, err := itemsOf(v)
	if err != nil {
		return at, err
	}
	m.trace(Entry{Step: i.Key, Kind: i.Kind, Title: i.Title, Micros: time.Since(start).Microseconds(),
		Report: Report{Object: i.Loop.List.Type.Object, Found: int64(len(items)), Looked: int64(len(items)),
			Note: "turn by turn: " + i.Loop.Turns}})
	t := &turning{begin: at, items: items, trail: len(m.Trail)}
	m.turnings = append(m.turnings, t)
	if len(items) == 0 {
		return m.leave(ctx)
	}
	m.Values[i.Loop.Item] = items[0]
	return i.Next, nil
}

// again goes on with the next turn, or leaves the loop.
func (m *Machine) again(ctx context.Context) (int, error) {
	t := m.turnings[len(m.turnings)-1]
	loop := m.Program.Code[t.begin].Loop
	if t.turn++; t.turn == len(t.items) {
		return m.leave(ctx)
	}
	m.Values[loop.Item] = t.items[t.turn]
	return m.Program.Code[t.begin].Next, nil
}

// leave ends a loop: what its turns did comes together.
func (m *Machine) leave(ctx context.Context) (int, error) {
	t := m.turnings[len(m.turnings)-1]
	m.turnings = m.turnings[:len(m.turnings)-1]
	loop := m.Program.Code[t.begin].Loop
	delete(m.Values, loop.Item)
	visits := m.Trail[t.trail:]
	together := map[string]*Visit{}
	var order []*Visit
	for n := t.begin + 1; n < loop.Exit; n++ {
		if i := &m.Program.Code[n]; i.Plan != nil {
			v := &Visit{Step: i.Key, At: m.Writer.Now()}
			together[i.Key] = v
			order = append(order, v)
		}
	}
	for _, v := range visits {
		if all := together[v.Step]; all != nil {
			all.Added = append(all.Added, v.Added...)
			all.Changed = append(all.Changed, v.Changed...)
			all.Removed += v.Removed
		}
	}
	m.Trail = m.Trail[:t.trail:t.trail]
	for _, v := range order {
		at, _ := m.Program.At(v.Step)
		if err := m.Restore(ctx, &m.Program.Code[at], v.Kept); err != nil {
			return 0, err
		}
		m.Trail = append(m.Trail, *v)
	}
	for _, e := range t.entries {
		m.trace(e)
	}
	return loop.Exit, nil
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
