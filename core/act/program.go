package act

import (
	"context"
	"errors"
	"fmt"
	"time"

	"plainpath/core/expr"
	"plainpath/core/model"
	"plainpath/core/query"
	"plainpath/core/records"
	"plainpath/core/value"
)

// Instruction is one thing that a program does: an act, a branch, a jump, or waiting for somebody.
type Instruction struct {
	// Key is the name that what it gives is known by from then on, "" when it is known by none.
	Key  string
	Kind Kind
	// Title is what people call it, Through what the history names.
	Title, Through string
	Plan           Plan
	// When is the condition under which the plan is carried out, nil for always.
	When *expr.Program
	// Ways are where a branch may go on.
	Ways []Way
	// Loop says that it begins a loop, Again that it ends a turn of one; Loops are where those begin that it is in, the
	// outermost first.
	Loop  *Loop
	Again bool
	Loops []int
	// Fails is where it goes on when what it does is refused, 0 where all stops then.
	Fails int
	// Alongside says that what it leaves to the browser does not wait for what was left to it before.
	Alongside bool
	// Waits says that it goes on only when somebody has answered.
	Waits bool
	// Next is where it goes on; the number of instructions ends the program.
	Next int
}

// Way is where a branch goes on when a condition holds; the last has none.
type Way struct {
	When  *expr.Program
	Title string
	Next  int
}

// Program is a row of instructions: the steps of a walkthrough, or what a button does. It is safe for use
// by several goroutines.
type Program struct {
	Code []Instruction
	// Uses are the fields used later of what each instruction gives, by its key.
	Uses map[string][]model.Path
	at   map[string]int
}

// Emit adds an instruction, which goes on to the next one, and gives its place.
func (p *Program) Emit(i Instruction) int {
	here := len(p.Code)
	if i.Next == 0 {
		i.Next = here + 1
	}
	p.Code = append(p.Code, i)
	if i.Key != "" {
		if p.at == nil {
			p.at = map[string]int{}
		}
		p.at[i.Key] = here
	}
	return here
}

// At is the place of an instruction by its key.
func (p *Program) At(key string) (int, bool) {
	at, ok := p.at[key]
	return at, ok
}

// Visit is an instruction that was carried out.
type Visit struct {
	Step string    `json:"step"`
	At   time.Time `json:"at"`
	// LeftOut says that its condition did not hold, so that it gave nothing.
	LeftOut bool `json:"left_out,omitempty"`
	// Failed is why what it did was refused, where it went on all the same.
	Failed string `json:"failed,omitempty"`
	// Turn is the turn of a loop that begins here, one more than there are where it is left; 0 for what begins none.
	Turn int `json:"turn,omitempty"`
	Kept
}

// Entry is what one instruction did, for a trace.
type Entry struct {
	Step  string `json:"step"`
	Kind  Kind   `json:"kind"`
	Title string `json:"title"`
	Report
	// Turn is that of the loop it is in where somebody is waited for, 0 in none.
	Turn int `json:"turn,omitempty"`
	// Micros is the time taken in microseconds.
	Micros int64 `json:"micros"`
}

// Machine carries a program out in one unit of work, from one wait to the next. It is used by one
// goroutine.
type Machine struct {
	Program *Program
	Writer  records.Writer
	// Values are what is known.
	Values expr.Values
	// Rows is the query of the rows that a button is about.
	Rows query.Query
	// Trail are the instructions carried out, Effects what they leave to the browser, Written the most
	// records that one of them wrote.
	Trail   []Visit
	Effects []Effect
	Written int64
	// Trace is told what each instruction did; nil when nobody asks.
	Trace func(Entry)
	// turnings are the loops that are under way, the innermost last.
	turnings []*turning
}

// Run carries instructions out from one on until one waits, and gives its place, or the end of the
// program.
func (m *Machine) Run(ctx context.Context, at int) (int, error) {
	for at < len(m.Program.Code) {
		i := &m.Program.Code[at]
		left, err := m.leaveOut(i)
		if err == nil && (i.Loop != nil || i.Again) {
			if at, err = m.turn(ctx, at); err == nil {
				continue
			}
		}
		switch {
		case err != nil:
			return at, fmt.Errorf("at the step %q: %w", i.Title, err)
		case left:
			at = i.Next
			continue
		case i.Waits:
			m.trace(Entry{Step: i.Key, Kind: i.Kind, Title: i.Title})
			asked, err := m.Asked(ctx, i)
			for n := range asked {
				asked[n].Line = at
			}
			m.Effects = append(m.Effects, asked...)
			return at, err
		case i.Plan == nil && len(i.Ways) == 0:
			at = i.Next
			continue
		}
		next, err := m.try(ctx, i)
		if err != nil {
			return at, fmt.Errorf("at the step %q: %w", i.Title, err)
		}
		at = next
	}
	return at, nil
}

// FailureName is what is known of why an act was refused, by those that are done instead.
const FailureName = "failure"

// Failure is why an act was refused, as it is known to those that are done instead.
func Failure() expr.Name {
	return expr.Name{Key: FailureName, Label: "Why it failed", Type: expr.Type{Kind: value.KindText}}
}

// try carries an instruction out. Where it is refused and something is done instead, what it wrote is taken back, and
// the place of that is given.
func (m *Machine) try(ctx context.Context, i *Instruction) (int, error) {
	if i.Fails == 0 {
		return m.work(ctx, i)
	}
	next := i.Next
	err := m.Writer.Try(ctx, func() error {
		var err error
		next, err = m.work(ctx, i)
		return err
	})
	var refused *RefusedError
	if !errors.As(err, &refused) {
		return next, err
	}
	m.Failed(i, refused.Text)
	m.Trail = append(m.Trail, Visit{Step: i.Key, At: m.Writer.Now(), LeftOut: true, Failed: refused.Text})
	return i.Fails, nil
}

// Failed says that an instruction was refused, and why.
func (m *Machine) Failed(i *Instruction, why string) {
	m.Fail(i, why)
	m.trace(Entry{Step: i.Key, Kind: i.Kind, Title: i.Title, Report: Report{Note: "failed: " + why}})
}

// Fail makes known that an instruction gave nothing, and why.
func (m *Machine) Fail(i *Instruction, why string) {
	m.Values[i.Key] = nil
	m.Values[FailureName] = value.Text(why)
}

// leaveOut says whether the condition of an act does not hold, and notes that it gave nothing.
func (m *Machine) leaveOut(i *Instruction) (bool, error) {
	if i.When == nil {
		return false, nil
	}
	holds, err := i.When.True(m.Values)
	if err != nil || holds {
		return false, err
	}
	if i.Key != "" {
		m.Values[i.Key] = nil
	}
	m.trace(Entry{Step: i.Key, Kind: i.Kind, Title: i.Title,
		Report: Report{Note: fmt.Sprintf("left out: %s does not hold", i.When.Source)}})
	if !i.Waits { // nobody was asked, so there is nothing to come back to
		m.Trail = append(m.Trail, Visit{Step: i.Key, At: m.Writer.Now(), LeftOut: true})
	}
	return true, nil
}

// Asked is what an act that waits leaves to the browser.
func (m *Machine) Asked(ctx context.Context, i *Instruction) ([]Effect, error) {
	if i.Plan == nil {
		return nil, nil
	}
	done, err := i.Plan.Do(ctx, m.Writer, m.in(i))
	return done.Effects, err
}

func (m *Machine) work(ctx context.Context, i *Instruction) (int, error) {
	start := time.Now()
	visit := Visit{Step: i.Key, At: m.Writer.Now()}
	entry := Entry{Step: i.Key, Kind: i.Kind, Title: i.Title}
	next := i.Next
	if i.Plan != nil {
		done, err := i.Plan.Do(ctx, m.Writer, m.in(i))
		if err != nil {
			return 0, err
		}
		visit.Kept, entry.Report = done.Kept, done.Report
		if len(done.Effects) > 0 {
			done.Effects[0].Alongside = i.Alongside
		}
		m.Effects = append(m.Effects, done.Effects...)
		m.Written = max(m.Written, done.Report.Written)
		if i.Key != "" {
			m.Values[i.Key] = done.Value
		}
	} else {
		var err error
		if next, entry.Note, err = m.branch(i); err != nil {
			return 0, err
		}
	}
	entry.Micros = time.Since(start).Microseconds()
	if m.Trace != nil && i.Plan != nil && m.inOneGo() == nil {
		var err error
		if entry.Records, err = m.written(ctx, i.Plan.Writes(), visit.Kept); err != nil {
			return 0, err
		}
	}
	m.trace(entry)
	m.Trail = append(m.Trail, visit)
	return next, nil
}

func (m *Machine) branch(i *Instruction) (next int, title string, err error) {
	for _, w := range i.Ways {
		if w.When == nil {
			return w.Next, "otherwise", nil
		}
		holds, err := w.When.True(m.Values)
		if err != nil {
			return 0, "", err
		}
		if holds {
			return w.Next, w.Title, nil
		}
	}
	return i.Next, "", nil
}

// Restore makes known again what an instruction gave.
func (m *Machine) Restore(ctx context.Context, i *Instruction, kept Kept) error {
	if m.over(i) {
		return m.restoreAll(ctx, i, kept)
	}
	v, err := i.Plan.Restore(ctx, m.Writer, m.in(i), kept)
	if err == nil {
		m.Values[i.Key] = v
	}
	return err
}

// in is what an act is carried out with.
func (m *Machine) in(i *Instruction) In {
	return In{Values: m.Values, Through: i.Through, Title: i.Title, Rows: m.Rows, Columns: m.Program.Uses[i.Key],
		Within: m.within(i.Key), Written: m.Written, Figures: m.Trace != nil && m.inOneGo() == nil}
}

func (m *Machine) within(step string) func(key string) []model.Path {
	return func(key string) []model.Path { return m.Program.Uses[step+"."+key] }
}

// inOneGo is the loop under way, the innermost one, if nobody is waited for in it.
func (m *Machine) inOneGo() *turning {
	if n := len(m.turnings); n > 0 && !m.Program.Code[m.turnings[n-1].begin].Loop.Waits {
		return m.turnings[n-1]
	}
	return nil
}

func (m *Machine) trace(e Entry) {
	t := m.inOneGo()
	switch n := len(m.turnings); {
	case m.Trace == nil:
	case t != nil:
		t.note(e)
	case n > 0:
		e.Turn = m.turnings[n-1].turn
		m.Trace(e)
	default:
		m.Trace(e)
	}
}
