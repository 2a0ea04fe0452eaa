package act

import (
	"context"

	"plainpath/core/definition"
	"plainpath/core/records"
)

// Hold shows a text, such as “Please wait”, until the lines that follow it are done.
type Hold struct {
	Text string `json:"text"`
}

// HoldPlan is a checked Hold, whose text the browser shows from the press on.
type HoldPlan struct {
	basis
	Text string
}

// Do does nothing: the text is shown already.
func (p *HoldPlan) Do(context.Context, records.Writer, In) (Done, error) { return Done{}, nil }

func checkHold(c *check, a *Act, at string) Plan {
	if !given(c, a, a.Hold, at) {
		return nil
	}
	if a.Hold.Text == "" {
		c.Find(definition.Care, at+"/hold/text", "nothing is said while the person waits",
			"They would not know that something is going on.", nil)
	}
	return &HoldPlan{Text: a.Hold.Text}
}
