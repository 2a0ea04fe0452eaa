package postgres_test

import (
	"fmt"
	"slices"
	"strings"
)

// going is where a walkthrough comes to with the answers that were given, by its words alone.
type going struct {
	given map[string]answered
	left  []string
	// at is the step that waits, or that ended it; place is what it is called there, as in "r1/s2" or "s2@3".
	at    anyStep
	place string
	// trail are the screens answered, with "" where something was written; calls are those that were added.
	trail, calls []string
	// places are where what steps gave was given, or where it was in each turn.
	places map[string]string
	turns  map[string][]string
	added  map[string][2]int
	// since are the calls when somebody was last waited for, or when what catches a refusal began.
	since []string
	lift  int64
}

type ending int

const (
	goesOn ending = iota
	waits
	refused
	finished
)

// goes carries the steps out as they are written: with the answers given, in order, it comes to the next screen or the
// end, and adds what it adds.
func goes(steps []anyStep, given map[string]answered, path []string) *going {
	g := &going{given: given, left: slices.Clone(path), places: map[string]string{}, turns: map[string][]string{},
		added: map[string][2]int{}}
	g.through(steps, "", "")
	return g
}

func (g *going) of(step string) answered { return g.given[g.places[step]] }

func (g *going) through(steps []anyStep, prefix, turn string) ending {
	for _, s := range steps {
		if how := g.step(s, prefix, turn); how != goesOn {
			return how
		}
	}
	return goesOn
}

func (g *going) step(s anyStep, prefix, turn string) ending {
	switch {
	case s.finish:
		g.at = s
		return finished
	case s.runs != "":
		return g.runs(s, prefix, turn)
	case s.each != "":
		for n, id := range g.of(s.each).lifts {
			g.lift = id
			if how := g.through(s.last, prefix, fmt.Sprint("@", n+1)); how != goesOn {
				return how
			}
		}
	case s.problem != "":
		return g.adds(s, prefix, turn)
	case s.changes != "":
		of := g.added[s.changes]
		for i := of[0]; i < of[1]; i++ {
			g.calls[i] += "+" + g.of(s.works).t
		}
		g.wrote(of[1] > of[0])
	case len(s.ways) > 0:
		taken := s.last
		for _, way := range s.ways {
			a := g.of(way.screen)
			if way.asks == "n" && a.n != nil && *a.n > 3 || way.asks == "b" && a.b != nil && *a.b ||
				way.asks == "t" && a.t == "" {
				taken = way.steps
				break
			}
		}
		return g.through(taken, prefix, turn)
	default:
		place := prefix + s.key + turn
		if len(g.left) == 0 {
			g.at, g.place = s, place
			return waits
		}
		g.left, g.trail = g.left[1:], append(g.trail, place)
		g.places[s.key], g.since = place, slices.Clone(g.calls)
		if turn != "" {
			g.turns[s.key] = append(g.turns[s.key], place)
		}
	}
	return goesOn
}

func (g *going) wrote(any bool) {
	if any {
		g.trail = append(g.trail, "")
	}
}

func (g *going) adds(s anyStep, prefix, turn string) ending {
	text, lifts := g.of(s.problem).t, []int64{1}
	switch {
	case s.needs && text == "" && s.catches:
		return g.through(s.fails, prefix, turn)
	case s.needs && text == "":
		return refused
	case s.forEach != "":
		lifts = g.of(s.forEach).lifts
	case s.lift != "":
		lifts[0] = g.lift
	}
	for _, id := range lifts {
		g.calls = append(g.calls, fmt.Sprint(id, " ", text, " ", s.key))
	}
	g.added[s.key] = [2]int{len(g.calls) - len(lifts), len(g.calls)}
	g.wrote(len(lifts) > 0)
	return goesOn
}

// runs goes through the walkthrough that a step runs, whose writing is all there is no way back behind.
func (g *going) runs(s anyStep, prefix, turn string) ending {
	began, calls := len(g.trail), slices.Clone(g.calls)
	if s.catches {
		g.since = calls
	}
	how := g.through(s.last, prefix+s.key+"/", "")
	if how == waits || how == refused && !s.catches {
		return how
	}
	if how == refused {
		g.calls, g.trail = slices.Clone(g.since), g.trail[:began]
	}
	g.wrote(!slices.Equal(calls, g.calls))
	if how == refused {
		return g.through(s.fails, prefix, turn)
	}
	g.places[s.key] = g.places[s.last[0].key]
	return goesOn
}

// named is what a place is called in the program, and in which turns of repeats it is.
func named(place string) (screen, turns string) {
	var keys, numbers []string
	for _, segment := range strings.Split(place, "/") {
		key, turn, _ := strings.Cut(segment, "@")
		keys, numbers = append(keys, key), append(numbers, turn)
	}
	if turns = strings.Join(numbers, "/"); strings.Trim(turns, "/") == "" {
		turns = ""
	}
	return strings.Join(keys, "/"), turns
}
