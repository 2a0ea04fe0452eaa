package act

import (
	"context"

	"plainpath/core/definition"
	"plainpath/core/expr"
	"plainpath/core/records"
)

// Confirm asks the person whether to go on. Whoever says no stops what was set going.
type Confirm struct {
	// Question is a text with values in braces; {n} is how many records were written before it.
	Question string `json:"question"`
	// Yes is what the button says that goes on, "Go on" when it is empty.
	Yes string `json:"yes,omitempty"`
}

type confirmPlan struct {
	basis
	question *expr.Template
	yes      string
}

func checkConfirm(c *check, a *Act, at string) Plan {
	if !given(c, a, a.Confirm, at) {
		return nil
	}
	if a.Confirm.Question == "" {
		c.Find(definition.Stop, at+"/confirm/question", "nothing is asked", "The person would not know what they agree to.",
			nil)
		return nil
	}
	question := c.message(a.Confirm.Question, at+"/confirm/question", "Nothing could be asked.")
	if question == nil {
		return nil
	}
	return &confirmPlan{basis{uses: questionUses(question)}, question, a.Confirm.Yes}
}

// Do asks; what follows waits for the answer.
func (p *confirmPlan) Do(_ context.Context, _ records.Writer, in In) (Done, error) {
	question, err := p.question.Render(withWritten(in))
	return Done{Effects: []Effect{{Kind: ConfirmAct, Message: question, Yes: p.yes}}}, err
}
