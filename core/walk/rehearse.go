package walk

import (
	"context"
	"errors"
	"regexp"
	"strconv"

	"plainpath/core/surface"
)

// RehearsedKeys is where the keys of records added in a rehearsal begin: the nth record
// added gets this and n. The range fits the whole numbers of a browser.
const RehearsedKeys = 9_000_000_000_000_000

// Recorded is an answer given in an earlier rehearsal.
type Recorded struct {
	Screen  string          `json:"screen"`
	Answers surface.Answers `json:"answers"`
}

// Rehearsal is a run replayed from the start.
type Rehearsal struct {
	Run   *Run
	Trace []Entry
	// Taken counts the recorded answers that could be replayed.
	Taken int
	// Stopped says why the rest could not be, nil when all were.
	Stopped error
}

// Rehearse starts a run and replays recorded answers until one does not fit, or the
// screen named upto is reached. Remembered answers only fill screens in. The host's transaction decides whether what it wrote
// is kept.
func (p *Program) Rehearse(ctx context.Context, h Host, taken surface.Answers, recorded, remembered []Recorded, upto string) (*Rehearsal, error) {
	out := &Rehearsal{}
	run, err := p.Start(ctx, h, taken, func(e Entry) { out.Trace = append(out.Trace, e) })
	if err != nil {
		return nil, err
	}
	out.Run = run
	for _, a := range remembered {
		run.State.Answers[a.Screen] = a.Answers
	}
	for _, a := range recorded {
		if run.State.Closed || upto != "" && run.State.Place == upto {
			break
		}
		if a.Screen != run.State.Place {
			out.Stopped = &MovedError{run.State.Place}
			break
		}
		before := len(run.State.Trail)
		if err := run.Answer(ctx, a.Screen, run.real(a.Answers)); err != nil {
			var invalid *InvalidError
			if errors.As(err, &invalid) && len(run.State.Trail) == before {
				out.Stopped = err
				break
			}
			return out, err
		}
		out.Taken++
	}
	return out, nil
}

var rehearsedKey = regexp.MustCompile(`\b9[0-9]{15}\b`)

// real puts the keys that records have now in the place of those they had in the
// rehearsals before: the nth record added then is the nth added now.
func (r *Run) real(a surface.Answers) surface.Answers {
	var added []int64
	for _, v := range r.State.Trail {
		added = append(added, v.Added...)
	}
	if len(added) == 0 || added[0] > RehearsedKeys {
		return a
	}
	out := surface.Answers{}
	for part, raw := range a {
		out[part] = rehearsedKey.ReplaceAllFunc(raw, func(key []byte) []byte {
			n, err := strconv.ParseInt(string(key), 10, 64)
			if i := n - RehearsedKeys - 1; err == nil && i >= 0 && i < int64(len(added)) {
				return strconv.AppendInt(nil, added[i], 10)
			}
			return key
		})
	}
	return out
}
