package act

import (
	"context"
	"encoding/json"

	"plainpath/core/expr"
	"plainpath/core/records"
)

// Effect is something the browser does after what was set going has been carried out.
type Effect struct {
	Kind        Kind                       `json:"kind"`
	Walkthrough string                     `json:"walkthrough,omitempty"`
	Dialog      bool                       `json:"dialog,omitempty"`
	Hand        map[string]json.RawMessage `json:"hand,omitempty"`
	Object      string                     `json:"object,omitempty"`
	Record      int64                      `json:"record,omitempty"`
	// Edit says that the record opens to be changed.
	Edit bool   `json:"edit,omitempty"`
	Page string `json:"page,omitempty"`
	// Beside says that a page opens beside what is there.
	Beside  bool          `json:"beside,omitempty"`
	Format  string        `json:"format,omitempty"`
	Message expr.Sentence `json:"message,omitempty"`
	// As is what kind of message it is.
	As Tone `json:"as,omitempty"`
	// Part is one of the page or screen, Value what is put into it.
	Part  string          `json:"part,omitempty"`
	Value json.RawMessage `json:"value,omitempty"`
	// Yes is what the button says that goes on, Line which of the lines asks.
	Yes  string `json:"yes,omitempty"`
	Line int    `json:"line,omitempty"`
	// Alongside says that it does not wait for the one before it.
	Alongside bool `json:"alongside,omitempty"`
	// Link is an address on the web.
	Link string `json:"link,omitempty"`
}

// effectPlan is an act that is always the same effect.
type effectPlan struct {
	basis
	effect Effect
}

// Do hands the effect to the browser.
func (p *effectPlan) Do(context.Context, records.Writer, In) (Done, error) {
	return Done{Effects: []Effect{p.effect}}, nil
}

// row says whether an act is about one row at a time.
func (c *check) row() bool { return c.Rows != "" && c.One }
