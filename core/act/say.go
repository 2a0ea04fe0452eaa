package act

import (
	"context"
	"fmt"
	"maps"
	"slices"

	"plainpath/core/definition"
	"plainpath/core/expr"
	"plainpath/core/records"
	"plainpath/core/value"
)

// Say shows a brief message.
type Say struct {
	// Text has values in braces; {n} is how many records were written before it.
	Text string `json:"text"`
	// As is what kind of message it is, plain news when empty.
	As Tone `json:"as,omitempty"`
}

// Tone is the kind of a brief message.
type Tone string

// A message tells that something was done, that care is needed, or that something failed; that stays until it was read.
const (
	ToneDone   Tone = "done"
	ToneCare   Tone = "care"
	ToneFailed Tone = "failed"
)

// writtenName is how many records were written before, in texts.
const writtenName = "n"

type sayPlan struct {
	basis
	text *expr.Template
	as   Tone
}

func checkSay(c *check, a *Act, at string) Plan {
	if !given(c, a, a.Say, at) {
		return nil
	}
	if a.Say.Text == "" {
		c.Find(definition.Care, at+"/say/text", "nothing is said", "The person would not know what was done.", nil)
	}
	text := c.message(a.Say.Text, at+"/say/text", "Nothing could be said.")
	if text == nil {
		return nil
	}
	if as := a.Say.As; as != "" && as != ToneDone && as != ToneCare && as != ToneFailed {
		c.Find(definition.Stop, at+"/say/as", fmt.Sprintf("there is no kind of message %q", as),
			"It would be said as plain news.", definition.Replace("Say it as done", at+"/say/as", string(ToneDone)))
	}
	return &sayPlan{basis{uses: questionUses(text)}, text, a.Say.As}
}

// message checks a text that may say how many records were written.
func (c *check) message(text, at, consequence string) *expr.Template {
	return c.Text(c.Scope.With(expr.Name{Key: writtenName, Label: "How many records were written",
		Type: expr.Type{Kind: value.KindWhole}}), text, at, consequence)
}

func questionUses(t *expr.Template) [][]string {
	return slices.DeleteFunc(slices.Clone(t.Uses), func(u []string) bool { return u[0] == writtenName })
}

func withWritten(in In) expr.Values {
	values := maps.Clone(in.Values)
	if values == nil {
		values = expr.Values{}
	}
	values[writtenName] = value.Whole(in.Written)
	return values
}

// Do says it.
func (p *sayPlan) Do(_ context.Context, _ records.Writer, in In) (Done, error) {
	text, err := p.text.Render(withWritten(in))
	return Done{Effects: []Effect{{Kind: SayAct, Message: text, As: p.as}}}, err
}
