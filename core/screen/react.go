package screen

import (
	"context"
	"fmt"
	"slices"

	"plainpath/core/act"
	"plainpath/core/definition"
	"plainpath/core/expr"
	"plainpath/core/model"
	"plainpath/core/records"
	"plainpath/core/table"
)

// Event is something that happens on a page or a screen.
type Event string

// The events: it was opened, or come back to; a button was pressed; what is given or chosen in a part changed; a row of
// a table was pressed; rows of a table were saved or changed; a dialog of it is over; minutes have passed.
const (
	Opened     Event = "opened"
	CameBack   Event = "came_back"
	Pressed    Event = "pressed"
	Changed    Event = "changed"
	RowPressed Event = "row_pressed"
	Written    Event = "written"
	DialogOver Event = "dialog_over"
	Every      Event = "every"
)

// Events are all events there are.
var Events = []Event{Opened, CameBack, Pressed, Changed, RowPressed, Written, DialogOver, Every}

// about are the events that happen to a part.
func (e Event) about() bool { return e == Pressed || e == Changed || e == RowPressed || e == Written }

// Reaction is what is done when something happens.
type Reaction struct {
	Key  string     `json:"key"`
	When When       `json:"when"`
	Do   []act.Line `json:"do"`
}

// When is what sets a reaction going.
type When struct {
	Event Event `json:"event"`
	// Part is what it happens to, for events that happen to parts.
	Part string `json:"part,omitempty"`
	// Minutes is how many pass between two times, for Every.
	Minutes int `json:"minutes,omitempty"`
}

// ReactionView is what the browser knows of a reaction.
type ReactionView struct {
	Key  string `json:"key"`
	When When   `json:"when"`
	// Hold is shown while it is carried out.
	Hold string `json:"hold,omitempty"`
}

type reaction struct {
	*Reaction
	lines *act.Lines
}

// mostMinutes is a day.
const mostMinutes = 24 * 60

// CheckReactions checks what is done when something happens on the surface, with pointers below the given one. In the
// scope is what is known then.
func (s *Surface) CheckReactions(c *definition.Check, scope expr.Scope, defs []Reaction, pointer string) {
	s.reactions = map[string]*reaction{}
	for i := range defs {
		def, at := &defs[i], fmt.Sprintf("%s/%d", pointer, i)
		problem := model.KeyProblem(def.Key)
		if problem == "" && s.reactions[def.Key] != nil {
			problem = fmt.Sprintf("two reactions have the key %q", def.Key)
		}
		if problem != "" {
			c.Find(definition.Stop, at+"/key", problem, "One would be taken for the other.", nil)
			continue
		}
		if !s.when(c, &def.When, at+"/when") {
			continue
		}
		if len(def.Do) == 0 {
			c.Find(definition.Care, at+"/do", "nothing is done then", "The reaction would do nothing.", nil)
		}
		env := act.Environment{Where: act.InReactions, Scope: scope, Check: c, Parts: s.Nameable, Outset: at}
		if def.When.Event == RowPressed {
			env.Rows, env.One = s.Rows(def.When.Part), true
			env.Scope = env.Scope.With(act.Row(env.Rows))
		}
		lines := act.CompileLines(env, def.Do, "", at+"/do")
		s.ReactionUses = append(s.ReactionUses, lines.Uses...)
		s.reactions[def.Key] = &reaction{def, lines}
		s.react = append(s.react, def.Key)
	}
}

// when checks what sets a reaction going.
func (s *Surface) when(c *definition.Check, w *When, at string) bool {
	const consequence = "It would never happen."
	switch {
	case !slices.Contains(Events, w.Event):
		c.Find(definition.Stop, at+"/event", fmt.Sprintf("there is no event %q", w.Event), consequence, nil)
		return false
	case w.Event == Every && (w.Minutes < 1 || w.Minutes > mostMinutes):
		c.Find(definition.Stop, at+"/minutes", fmt.Sprintf("%d minutes cannot be kept to; from 1 to %d can", w.Minutes,
			mostMinutes), consequence, &definition.Mend{Label: "Every 5 minutes",
			Patch: []definition.Op{{Op: "add", Path: at + "/minutes", Value: []byte("5")}}})
		return false
	case !w.Event.about():
		return true
	}
	n := slices.IndexFunc(s.Nameable, func(p act.Part) bool { return p.Key == w.Part })
	if n < 0 || !s.Has(w.Part) {
		c.Find(definition.Stop, at+"/part", fmt.Sprintf("there is no part %q here", w.Part), consequence, nil)
		return false
	}
	c.Mention(model.TextMention(at+"/part", w.Part, s.Nameable[n].Of))
	happens := false
	switch s.KindOf(w.Part) {
	case TablePart:
		happens = w.Event != Pressed
	case InputPart:
		happens = w.Event == Changed
	case ButtonPart:
		happens = w.Event == Pressed
	case FormPart:
		happens = w.Event == Written
	}
	if !happens {
		c.Find(definition.Stop, at+"/part", fmt.Sprintf("this does not happen to %s", s.Nameable[n].Label),
			consequence, nil)
		return false
	}
	return true
}

// Reactions are those of the surface, for the browser.
func (s *Surface) Reactions() []ReactionView {
	out := []ReactionView{}
	for _, key := range s.react {
		r := s.reactions[key]
		out = append(out, ReactionView{key, r.When, r.lines.Hold})
	}
	return out
}

// TakenBy are the known values that a reaction takes something of; on a screen, the parts and searches of it.
func (s *Surface) TakenBy(reaction string) []string {
	var out []string
	if r := s.reactions[reaction]; r != nil {
		for _, use := range r.lines.Uses {
			if use[0] == s.own && len(use) > 1 {
				use = use[1:]
			}
			out = append(out, use[0])
		}
	}
	return out
}

// Reacting is a reaction being set going.
type Reacting struct {
	Key string
	// Row is the row that was pressed, where one was.
	Row int64
	// Confirmed are the lines whose questions were answered with yes.
	Confirmed []int
	Trace     func(act.Entry)
}

// React carries out a reaction with what is known.
func (s *Surface) React(ctx context.Context, u records.Writer, values expr.Values, to Reacting) (act.Outcome, error) {
	r := s.reactions[to.Key]
	if r == nil {
		return act.Outcome{}, &table.MissingError{Kind: "reaction", Key: to.Key}
	}
	doing := act.Doing{Values: values, Confirmed: to.Confirmed, Trace: to.Trace}
	if r.When.Event == RowPressed {
		l, err := s.Listing(ctx, u, values, r.When.Part)
		if err != nil {
			return act.Outcome{}, err
		}
		if doing.Rows, err = l.Of(u, table.Chosen{Keys: []int64{to.Row}}); err != nil {
			return act.Outcome{}, err
		}
		n, err := records.Count(ctx, u, doing.Rows)
		if err != nil {
			return act.Outcome{}, err
		}
		if n != 1 {
			return act.Outcome{}, &act.NotOfferedError{Text: "The row is not in the table any more."}
		}
	}
	return r.lines.Do(ctx, u, doing)
}
