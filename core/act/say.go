package act

import (
	"context"
	"fmt"
	"strings"

	"plainpath/core/records"
)

// Say shows a brief message.
type Say struct {
	// Text may have {n}, which is how many records were written before it.
	Text string `json:"text"`
}

type sayPlan struct {
	basis
	text string
}

func checkSay(c *check, a *Act, at string) Plan {
	if !given(c, a, a.Say, at) {
		return nil
	}
	return &sayPlan{text: a.Say.Text}
}

// Do says it.
func (p *sayPlan) Do(_ context.Context, _ records.Writer, in In) (Done, error) {
	return Done{Effects: []Effect{{Kind: SayAct, Message: strings.ReplaceAll(p.text, "{n}", fmt.Sprint(in.Written))}}},
		nil
}
