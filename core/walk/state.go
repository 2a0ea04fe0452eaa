package walk

import (
	"plainpath/core/act"
	"plainpath/core/expr"
	"plainpath/core/model"
	"plainpath/core/screen"
)

// State is where a run stands. It is all that is kept of a run between two screens:
// records are read again when they are needed.
type State struct {
	// Place is the key of the screen that waits for an answer, or of the Finish step
	// reached.
	Place string `json:"place"`
	// Taken is what was handed over when the run began.
	Taken screen.Answers `json:"taken,omitempty"`
	// Trail lists the steps carried out, in order.
	Trail []act.Visit `json:"trail"`
	// Answers are what the person gave, by screen; behind the key of one in a repeat stands the turn, as in
	// "check@2" or "check@2.1". Those of screens ahead are kept when the person goes back.
	Answers map[string]screen.Answers `json:"answers"`
	// Inside is where the walkthrough stands that the step at Place runs, nil where it runs none.
	Inside *State `json:"inside,omitempty"`
	// Closed says that the walkthrough has come to its end.
	Closed bool `json:"closed"`
}

// View is what the person sees of a run.
type View struct {
	Step  string `json:"step"`
	Title string `json:"title"`
	// Screen counts this screen, Of how many there are at most, 0 where that depends on what comes.
	Screen int `json:"screen"`
	Of     int `json:"of"`
	// Turns are the turns of the repeats that the screen is in, the outermost first.
	Turns []act.Turn        `json:"turns,omitempty"`
	Bands []screen.BandView `json:"bands"`
	// Feeds are the parts that others on the screen follow when what is given in them changes.
	Feeds []string `json:"feeds,omitempty"`
	// Reactions are what may be set going on the screen.
	Reactions []screen.ReactionView `json:"reactions,omitempty"`
	Next      string                `json:"next,omitempty"`
	// Back is the screen before this one, empty when there is none to go back to; BackLabel is what the button
	// says that leads there.
	Back      string `json:"back,omitempty"`
	BackLabel string `json:"back_label,omitempty"`
	// Cancel, Later and Second are buttons besides, see [Screen].
	Cancel     string  `json:"cancel,omitempty"`
	Later      string  `json:"later,omitempty"`
	Second     *Second `json:"second,omitempty"`
	NoProgress bool    `json:"no_progress,omitempty"`
	Closed     bool    `json:"closed"`
	// Message is the closing message.
	Message expr.Sentence `json:"message,omitempty"`
	Go      string        `json:"go,omitempty"`
	// Question is what is asked before it goes on, in the place of a screen.
	Question expr.Sentence `json:"question,omitempty"`
	// Effects are what the steps before it leave to the browser, once.
	Effects []act.Effect `json:"effects,omitempty"`
}

// InvalidError says which parts of an answer cannot be taken. Pointers name parts.
type InvalidError struct{ Problems []model.Problem }

func (e *InvalidError) Error() string {
	if len(e.Problems) == 1 {
		return e.Problems[0].Text
	}
	return "some of what was entered cannot be taken"
}

// MovedError says that the run is at another place than the answer was meant for.
type MovedError struct{ Step string }

func (e *MovedError) Error() string {
	return "this walkthrough has gone on elsewhere; what you see here is no longer its place"
}
