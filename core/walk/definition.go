// Package walk is about walkthroughs: screens a person is walked through, and the
// work done between them. Compile checks a definition; a Program starts runs, takes
// answers and shows screens.
package walk

import (
	"fmt"
	"iter"

	"plainpath/core/act"
	"plainpath/core/screen"
)

// Walkthrough is the definition a builder edits.
type Walkthrough struct {
	Key   string `json:"key"`
	Label string `json:"label"`
	Note  string `json:"note,omitempty"`
	// Roles may start the walkthrough.
	Roles []string `json:"roles"`
	// Takes are values that whatever opens the walkthrough hands over.
	Takes []screen.Take `json:"takes,omitempty"`
	Steps []Step        `json:"steps"`
	// Gives are values that whatever runs the walkthrough gets back.
	Gives []Give `json:"gives,omitempty"`
	// Examples are the rehearsals that are kept.
	Examples []Example `json:"examples,omitempty"`
}

// DocumentKey is the key that the document gives itself.
func (w *Walkthrough) DocumentKey() string { return w.Key }

// The kinds of steps that are no acts: what waits for a person, and what says where it goes on.
const (
	ScreenStep act.Kind = "screen"
	BranchStep act.Kind = "branch"
	FinishStep act.Kind = "finish"
)

// Kinds are all kinds of steps and of acts.
func Kinds() []act.Kind {
	out := []act.Kind{ScreenStep, BranchStep, FinishStep, RepeatStep}
	for _, a := range act.Views() {
		out = append(out, a.Kind)
	}
	return out
}

// Step is one row of the sheet: an act, or one of those. The member named like its kind says the rest.
type Step struct {
	Key string `json:"key"`
	// Was are earlier keys, by which arrangements of its tables were kept.
	Was   []string `json:"was,omitempty"`
	Title string   `json:"title,omitempty"`
	act.Act
	// IfFails are steps that are done where the act is refused; without them all stops then.
	IfFails []Step  `json:"if_fails,omitempty"`
	Screen  *Screen `json:"screen,omitempty"`
	Branch  *Branch `json:"branch,omitempty"`
	Finish  *Finish `json:"finish,omitempty"`
	Repeat  *Repeat `json:"repeat,omitempty"`
}

// Screen shows parts to the person and waits for an answer.
type Screen struct {
	// Searches are made on the screen, with what is given on it by then.
	Searches []screen.Search `json:"searches,omitempty"`
	Bands    []screen.Band   `json:"bands"`
	// Next is the label of the button that goes on; "Next" when empty.
	Next string `json:"next,omitempty"`
	// Back is the label of the button that goes back, "Back" when empty; NoBack says that there is none.
	Back   string `json:"back,omitempty"`
	NoBack bool   `json:"no_back,omitempty"`
	// Cancel is the label of a button that ends the walkthrough, Later of one that leaves it to be taken up
	// again; there is none without a label.
	Cancel string `json:"cancel,omitempty"`
	Later  string `json:"later,omitempty"`
	// Second is another way on.
	Second *Second `json:"second,omitempty"`
	// NoProgress says that people are not told which screen it is.
	NoProgress bool `json:"no_progress,omitempty"`
	// Checks are held when somebody goes on.
	Checks []Check `json:"checks,omitempty"`
	// Reactions are what is done when something happens on the screen.
	Reactions []screen.Reaction `json:"reactions,omitempty"`
}

// Second is another button that goes on. Under its key the screen gives out whether it was pressed.
type Second struct {
	Key   string `json:"key"`
	Label string `json:"label"`
}

// Check must hold of what was given on a screen, of several inputs together if need be.
type Check struct {
	// Expression may name what is known, and what is given on the screen by the screen's key.
	Expression string `json:"expression"`
	// Message is a text with values in braces that is said where it does not hold.
	Message string `json:"message"`
	// Part is where it is said, above all when empty.
	Part string `json:"part,omitempty"`
}

// Branch goes one of several ways: the first whose condition holds, otherwise the last.
type Branch struct {
	Ways      []Way  `json:"ways"`
	Otherwise []Step `json:"otherwise"`
}

// Way is one way of a branch.
type Way struct {
	Title string `json:"title"`
	When  string `json:"when"`
	Steps []Step `json:"steps"`
}

// Finish ends the walkthrough with a closing screen.
type Finish struct {
	// Message is a text with values in braces.
	Message string        `json:"message"`
	Bands   []screen.Band `json:"bands,omitempty"`
	// Go says where the closing button leads, home when it is empty.
	Go string `json:"go,omitempty"`
}

// Where a closing button leads: to the person's home, or to the first screen once more.
const (
	GoHome  = "home"
	GoAgain = "again"
)

// All goes through all steps by their pointers, those of branches and repeats behind them.
func (w *Walkthrough) All() iter.Seq2[string, *Step] {
	return func(yield func(string, *Step) bool) { all(w.Steps, "/steps", yield) }
}

func all(steps []Step, at string, yield func(string, *Step) bool) bool {
	for i := range steps {
		s, pointer := &steps[i], fmt.Sprintf("%s/%d", at, i)
		if !yield(pointer, s) || !all(s.IfFails, pointer+"/if_fails", yield) {
			return false
		}
		if s.Repeat != nil && !all(s.Repeat.Steps, pointer+"/repeat/steps", yield) {
			return false
		}
		if s.Branch == nil {
			continue
		}
		for n := range s.Branch.Ways {
			if !all(s.Branch.Ways[n].Steps, fmt.Sprintf("%s/branch/ways/%d/steps", pointer, n), yield) {
				return false
			}
		}
		if !all(s.Branch.Otherwise, pointer+"/branch/otherwise", yield) {
			return false
		}
	}
	return true
}

// At is a place in a walkthrough: a step, and where it is in the document.
type At struct{ Step, Pointer string }

// Surfaces goes through all that a walkthrough shows to people.
func (w *Walkthrough) Surfaces() iter.Seq2[At, []screen.Band] {
	return func(yield func(At, []screen.Band) bool) {
		for pointer, s := range w.All() {
			switch {
			case s.Screen != nil:
				if !yield(At{s.Key, pointer + "/screen"}, s.Screen.Bands) {
					return
				}
			case s.Finish != nil:
				if !yield(At{s.Key, pointer + "/finish"}, s.Finish.Bands) {
					return
				}
			}
		}
	}
}
