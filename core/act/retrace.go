package act

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"

	"plainpath/core/records"
	"plainpath/core/value"
)

// Retrace takes up what a trail came to. For each visit known is called, which makes known again what it gave; what
// was done in turns that are over is known together.
func (m *Machine) Retrace(ctx context.Context, trail []Visit, known func(v Visit, at int) error) error {
	for n := 0; n < len(trail); n++ {
		v := trail[n]
		at, ok := m.Program.At(v.Step)
		if !ok {
			return fmt.Errorf("the walkthrough no longer has a step %q", v.Step)
		}
		if err := known(v, at); err != nil {
			return err
		}
		if m.Program.Code[at].Loop == nil {
			m.Trail = append(m.Trail, v)
			continue
		}
		last, err := m.rejoin(ctx, at, trail[n:])
		if err != nil {
			return err
		}
		n += last
	}
	return nil
}

// rejoin takes up a loop whose visits a trail begins with, and gives the place of the last of them that it is known by:
// that where the turn began, or where it was left.
func (m *Machine) rejoin(ctx context.Context, at int, trail []Visit) (int, error) {
	i := &m.Program.Code[at]
	t := &turning{begin: at, trail: len(m.Trail)}
	var keys records.Ranges
	if err := json.Unmarshal(trail[0].Value, &keys); err != nil {
		return 0, fmt.Errorf("reading what %q is done for: %w", i.Title, err)
	}
	if t.keys, t.turns = keys, len(keys); i.Loop.List.Type.Kind == value.KindRows {
		v, err := found(i.Loop.List, m.Values)
		if err != nil {
			return 0, err
		}
		if t.items, err = itemsOf(v); err != nil {
			return 0, err
		}
		t.turns = len(t.items)
	}
	last := 0
	for n, v := range trail {
		if v.Step == i.Key {
			last, t.turn = n, v.Turn
			if t.turn > t.turns {
				break
			}
		}
	}
	m.Trail = append(m.Trail, trail[:last+1]...)
	t.since = len(m.Trail)
	m.turnings = append(m.turnings, t)
	if t.turn > t.turns {
		_, err := m.leave(ctx)
		return last, err
	}
	return last, m.atHand(ctx, t)
}

// Known is what a step did as it is known now, and where in the trail it was done last: in all turns of loops that are
// over, else in this one.
func (m *Machine) Known(step string) (Visit, int, bool) {
	at, ok := m.Program.At(step)
	if !ok {
		return Visit{}, 0, false
	}
	since, over := 0, -1
	for _, loop := range m.Program.Code[at].Loops {
		if !m.Program.Code[loop].Loop.Waits {
			break
		}
		if n := slices.IndexFunc(m.turnings, func(t *turning) bool { return t.begin == loop }); n >= 0 {
			since = m.turnings[n].since
		} else if over < 0 {
			over = loop
		}
	}
	for n := len(m.Trail) - 1; n >= since; n-- {
		switch v := m.Trail[n]; {
		case v.Step != step:
		case over >= 0:
			return together(m.Trail[m.begun(over):], step), n, true
		default:
			return v, n, true
		}
	}
	return Visit{}, 0, false
}

// begun is where in the trail the last run of a loop began.
func (m *Machine) begun(loop int) int {
	key := m.Program.Code[loop].Key
	for n := len(m.Trail) - 1; n > 0; n-- {
		if m.Trail[n].Step == key && m.Trail[n].Turn == 1 {
			return n
		}
	}
	return 0
}

// over says whether an instruction is in a loop that is over, so that it is known what all turns did together.
func (m *Machine) over(i *Instruction) bool {
	return slices.ContainsFunc(i.Loops, func(loop int) bool {
		return !slices.ContainsFunc(m.turnings, func(t *turning) bool { return t.begin == loop })
	})
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
