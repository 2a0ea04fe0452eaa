package act

import (
	"context"
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
}

// writtenName is how many records were written before, in texts.
const writtenName = "n"

type sayPlan struct {
	basis
	text *expr.Template
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
	return &sayPlan{basis{uses: questionUses(text)}, text}
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
	return Done{Effects: []Effect{{Kind: SayAct, Message: text}}}, err
}
