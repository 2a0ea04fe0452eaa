package act

import (
	"context"
	"encoding/json"
	"fmt"
	"maps"
	"slices"
	"time"

	"plainpath/core/predicate"
	"plainpath/core/records"
	"plainpath/core/value"
)

// mostWaited is how many turns somebody can be led through.
const mostWaited = 1000

// turning is a loop that is being done turn by turn.
type turning struct {
	begin int
	// turn counts from one; there are so many.
	turn, turns int
	// items are what the turns are about. Where somebody is waited for only the keys of records are known, and
	// each record is read when its turn comes.
	items []*value.Record
	keys  []int64
	// trail is where its visits begin, since where those of this turn do.
	trail, since int
	entries      []Entry
}

// Turn is a turn of a loop, in words.
type Turn struct {
	// What is one of the list, such as "Lift", or what the loop is called; Item is which one, where it has a name.
	What string `json:"what"`
	Item string `json:"item,omitempty"`
	// Number counts from one.
	Number int `json:"number"`
	Of     int `json:"of"`
}

// Turns are the turns of the loops under way in which somebody is waited for, the outermost first.
func (m *Machine) Turns() []Turn {
	var out []Turn
	for _, t := range m.turnings {
		i := &m.Program.Code[t.begin]
		if !i.Loop.Waits {
			continue
		}
		turn := Turn{What: i.Title, Number: t.turn, Of: t.turns}
		if o := m.Writer.Model().Object(i.Loop.List.Type.Object); o != nil {
			turn.What = o.Label
		}
		if item, ok := m.Values[i.Loop.Item].(*value.Record); ok && item != nil {
			turn.Item = item.Label
		}
		out = append(out, turn)
	}
	return out
}

// Waiting are the loops under way in which somebody is waited for, by where they begin, with their turns.
func (m *Machine) Waiting() map[int]Turn {
	out := map[int]Turn{}
	for _, t := range m.turnings {
		if m.Program.Code[t.begin].Loop.Waits {
			out[t.begin] = Turn{Number: t.turn, Of: t.turns}
		}
	}
	return out
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
	e.Note = fmt.Sprintf("in %d turns", t.turns)
	t.entries = append(t.entries, e)
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
	t := &turning{begin: at, trail: len(m.Trail)}
	kept, err := m.items(ctx, i, t, v)
	if err != nil {
		return at, err
	}
	note := "turn by turn: " + i.Loop.Turns
	if i.Loop.Waits {
		note = fmt.Sprintf("%d turns", t.turns)
	}
	m.trace(Entry{Step: i.Key, Kind: i.Kind, Title: i.Title, Micros: time.Since(start).Microseconds(),
		Report: Report{Object: i.Loop.List.Type.Object, Found: int64(t.turns), Looked: int64(t.turns), Note: note}})
	if i.Loop.Waits {
		m.Trail = append(m.Trail, Visit{Step: i.Key, At: m.Writer.Now(), Turn: 1, Kept: Kept{Value: kept}})
	}
	m.turnings = append(m.turnings, t)
	return m.nextTurn(ctx)
}

// items are what a loop is done for. It gives what is kept of them where somebody is waited for.
func (m *Machine) items(ctx context.Context, i *Instruction, t *turning, v value.Value) (json.RawMessage, error) {
	list, stored := v.(*value.List)
	var err error
	if i.Loop.Waits && stored {
		q, err := records.QueryOf(list)
		if err != nil {
			return nil, err
		}
		if t.keys, err = records.Keys(ctx, m.Writer, q); err != nil {
			return nil, err
		}
		t.turns = len(t.keys)
	} else if t.items, err = itemsOf(v); err != nil {
		return nil, err
	} else {
		t.turns = len(t.items)
	}
	if !i.Loop.Waits {
		return nil, nil
	}
	if t.turns > mostWaited {
		return nil, &RefusedError{Step: i.Key, Text: fmt.Sprintf(
			"There are %d; one by one, with somebody to wait for, it is done for at most %d.", t.turns, mostWaited)}
	}
	return json.Marshal(records.Ranges(t.keys))
}

// again ends a turn and begins the next one, or leaves the loop.
func (m *Machine) again(ctx context.Context) (int, error) {
	t := m.turnings[len(m.turnings)-1]
	i := &m.Program.Code[t.begin]
	if i.Loop.Waits {
		visit := Visit{Step: i.Key, At: m.Writer.Now(), Turn: t.turn + 1}
		rows := map[string]any{}
		for key, of := range i.Loop.Rows {
			if kept := of.ofTurn(m.Values[key], i.Loop.Item, m.Values[i.Loop.Item]); kept != nil {
				rows[key] = kept
			}
		}
		var err error
		if visit.Value, err = json.Marshal(rows); err != nil {
			return 0, fmt.Errorf("keeping what was given in the turn: %w", err)
		}
		m.Trail = append(m.Trail, visit)
	}
	return m.nextTurn(ctx)
}

// ofTurn are the rows of a turn as they are kept, each with what the turn is about; nil where there are none.
func (r TurnRows) ofTurn(v value.Value, item string, about value.Value) any {
	whole := func(row *value.Record) []any {
		fields := map[string]value.Value{item: about}
		maps.Copy(fields, row.Fields)
		return r.wire(&value.Record{Fields: fields})
	}
	switch x := v.(type) {
	case *value.Record:
		if x != nil {
			return whole(x)
		}
	case value.Rows:
		out := make([][]any, len(x))
		for n, row := range x {
			out[n] = whole(row)
		}
		return out
	}
	return nil
}

// parse reads the rows of a turn as they were kept.
func (r TurnRows) parse(raw json.RawMessage) (value.Rows, error) {
	kept := [][]json.RawMessage{nil}
	var into any = &kept[0]
	if r.Several {
		into = &kept
	}
	if err := json.Unmarshal(raw, into); err != nil {
		return nil, fmt.Errorf("reading the rows of a turn: %w", err)
	}
	return r.parseAll(kept)
}

// nextTurn begins the next turn, or leaves the loop when there is none.
func (m *Machine) nextTurn(ctx context.Context) (int, error) {
	t := m.turnings[len(m.turnings)-1]
	loop := m.Program.Code[t.begin].Loop
	t.turn++
	t.since = len(m.Trail)
	for n := t.begin + 1; n < loop.Exit; n++ { // nothing is known of what the turn before did
		delete(m.Values, m.Program.Code[n].Key)
	}
	if t.turn > t.turns {
		return m.leave(ctx)
	}
	return m.Program.Code[t.begin].Next, m.atHand(ctx, t)
}

// atHand makes known what the turn is about.
func (m *Machine) atHand(ctx context.Context, t *turning) error {
	loop := m.Program.Code[t.begin].Loop
	if t.items != nil {
		m.Values[loop.Item] = t.items[t.turn-1]
		return nil
	}
	v, err := found(loop.List, m.Values)
	if err != nil {
		return err
	}
	key := t.keys[t.turn-1]
	gone := &value.Record{Object: loop.List.Type.Object, ID: key, Label: "no longer there"}
	m.Values[loop.Item] = gone
	list, ok := v.(*value.List)
	if !ok {
		return nil
	}
	if held, is := list.Source.(value.Records); is {
		if n := slices.IndexFunc(held, func(r *value.Record) bool { return r.ID == key }); n >= 0 {
			m.Values[loop.Item] = held[n]
		}
		return nil
	}
	q, err := records.QueryOf(list)
	if err != nil {
		return err
	}
	q.Where, q.Order, q.Limit = predicate.Keys{key}, nil, 0
	found, err := records.Select(ctx, m.Writer, q)
	if err == nil && len(found) > 0 {
		m.Values[loop.Item] = found[0]
	}
	return err
}

// leave ends a loop: what its turns did comes together.
func (m *Machine) leave(ctx context.Context) (int, error) {
	t := m.turnings[len(m.turnings)-1]
	m.turnings = m.turnings[:len(m.turnings)-1]
	loop := m.Program.Code[t.begin].Loop
	delete(m.Values, loop.Item)
	visits := m.Trail[t.trail:]
	if !loop.Waits {
		m.Trail = m.Trail[:t.trail:t.trail]
	}
	for n := t.begin + 1; n < loop.Exit; n++ {
		i := &m.Program.Code[n]
		if i.Plan == nil {
			continue
		}
		all := together(visits, i.Key)
		all.At = m.Writer.Now()
		if err := m.Restore(ctx, i, all.Kept); err != nil {
			return 0, err
		}
		if !loop.Waits {
			m.Trail = append(m.Trail, all)
		}
	}
	for _, e := range t.entries {
		m.trace(e)
	}
	return loop.Exit, m.rows(ctx, t.begin, visits)
}

// together is what an instruction did in several visits.
func together(visits []Visit, step string) Visit {
	all := Visit{Step: step}
	for _, v := range visits {
		if v.Step == step {
			all.Added = append(all.Added, v.Added...)
			all.Changed = append(all.Changed, v.Changed...)
			all.Removed += v.Removed
		}
	}
	return all
}

// rows makes known what all turns of a loop gave that wrote nothing.
func (m *Machine) rows(ctx context.Context, begin int, visits []Visit) error {
	i := &m.Program.Code[begin]
	for key, of := range i.Loop.Rows {
		rows := value.Rows{}
		for _, v := range visits {
			if v.Step != i.Key || v.Turn < 2 {
				continue
			}
			var kept map[string]json.RawMessage
			if err := json.Unmarshal(v.Value, &kept); err != nil {
				return fmt.Errorf("reading what was given in turn %d: %w", v.Turn-1, err)
			}
			if kept[key] == nil {
				continue
			}
			turn, err := of.parse(kept[key])
			if err != nil {
				return err
			}
			rows = append(rows, turn...)
		}
		if err := of.read(ctx, m.Writer, m.within(key), rows); err != nil {
			return err
		}
		m.Values[key] = rows
	}
	return nil
}
