// Package definition is what all definitions have in common: documents and their kinds, what an
// examination of them finds and how to mend it, and what changes from one to another, in words.
package definition

import (
	"cmp"
	"encoding/json"
	"slices"

	"plainpath/core/model"
)

// Severity says how bad a finding is.
type Severity string

// A stop keeps a document from running and from being released; care does not.
const (
	Stop Severity = "stop"
	Care Severity = "care"
)

// Finding is one thing an examination found.
type Finding struct {
	// Document is the kind and key of the document, as in "walkthrough/book_a_visit".
	Document string `json:"document"`
	// Pointer is a JSON Pointer (RFC 6901) to the place in it.
	Pointer string `json:"pointer"`
	// Step is the key of the step the place belongs to, in a walkthrough.
	Step     string   `json:"step,omitempty"`
	Severity Severity `json:"severity"`
	// Text says what is wrong; Consequence what will happen to the person using it.
	Text        string `json:"text"`
	Consequence string `json:"consequence"`
	Mend        *Mend  `json:"mend,omitempty"`
	// Place is where inside the expression or text at the pointer, when it is known.
	Position *model.Position `json:"position,omitempty"`
}

// Mend is a JSON Patch (RFC 6902) that would put the finding right.
type Mend struct {
	Label string `json:"label"`
	Patch []Op   `json:"patch"`
}

// Op is one operation of a JSON Patch.
type Op struct {
	Op    string          `json:"op"`
	Path  string          `json:"path"`
	From  string          `json:"from,omitempty"`
	Value json.RawMessage `json:"value,omitempty"`
}

// Replace is a mend that puts a text in place of what is there.
func Replace(label, pointer, text string) *Mend {
	raw, _ := json.Marshal(text)
	return &Mend{label, []Op{{Op: "replace", Path: pointer, Value: raw}}}
}

// Blocks says whether any finding is a stop.
func Blocks(findings []Finding) bool {
	return slices.ContainsFunc(findings, func(f Finding) bool { return f.Severity == Stop })
}

// FromProblems turns problems of a definition into findings of one consequence.
func FromProblems(document, step, consequence string, problems []model.Problem) []Finding {
	out := make([]Finding, len(problems))
	for i, p := range problems {
		out[i] = FromProblem(document, step, consequence, p)
	}
	return out
}

// FromProblem turns one problem into a finding that stops.
func FromProblem(document, step, consequence string, p model.Problem) Finding {
	f := Finding{Document: document, Pointer: p.Pointer, Step: step, Severity: Stop, Text: p.Text,
		Consequence: consequence, Position: p.Position}
	if p.Instead != "" {
		f.Mend = Replace("Use "+p.Instead, p.Pointer, p.Instead)
	}
	return f
}

// Sort puts stops first, then by place.
func Sort(findings []Finding) {
	slices.SortStableFunc(findings, func(a, b Finding) int {
		return cmp.Or(-cmp.Compare(a.Severity, b.Severity), cmp.Compare(a.Document, b.Document))
	})
}

// BlockedError says that a document cannot be used because of findings.
type BlockedError struct {
	// What cannot be done, such as "the walkthrough cannot run".
	What     string
	Findings []Finding
}

func (e *BlockedError) Error() string {
	for _, f := range e.Findings {
		if f.Severity == Stop {
			return e.What + ": " + f.Text
		}
	}
	return e.What
}
