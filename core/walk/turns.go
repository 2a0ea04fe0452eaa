package walk

import (
	"strconv"
	"strings"
)

// turnsOf are the turns of the repeats under way that a step is in, as in "2" or "2.1", "" where it is in none.
func (r *Run) turnsOf(step string) string {
	at, ok := r.program.At(step)
	if !ok {
		return ""
	}
	var turns []string
	waiting := r.machine.Waiting()
	for _, loop := range r.program.Code[at].Loops {
		if turn, under := waiting[loop]; under {
			turns = append(turns, strconv.Itoa(turn.Number))
		}
	}
	return strings.Join(turns, ".")
}

// turns are those of the repeats under way where the run stands; those inside a walkthrough that it runs stand behind
// a stroke.
func (r *Run) turns() string {
	own := r.turnsOf(r.State.Place)
	if r.inside == nil {
		return own
	}
	within := r.inside.turns()
	if own == "" && within == "" {
		return ""
	}
	return own + inside + within
}

// done counts the steps that were carried out.
func (r *Run) done() int {
	n := len(r.State.Trail)
	if r.inside != nil {
		n += r.inside.done()
	}
	return n
}

// answered is what answers of a screen are kept by.
func (r *Run) answered(screen string) string { return placed(screen, r.turnsOf(screen)) }

// placed is what answers of a place in some turns of repeats are kept by.
func placed(place, turns string) string {
	key, place, deeper := strings.Cut(place, inside)
	own, turns, _ := strings.Cut(turns, inside)
	if own != "" {
		key += "@" + own
	}
	if deeper {
		key += inside + placed(place, turns)
	}
	return key
}
