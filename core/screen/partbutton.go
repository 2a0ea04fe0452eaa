package screen

import (
	"context"

	"plainpath/core/definition"
	"plainpath/core/expr"
	"plainpath/core/records"
)

// PressButton is a button that stands by itself on a page or a screen. What its press does, reactions say.
type PressButton struct {
	// Main says that it stands out.
	Main bool `json:"main,omitempty"`
}

var buttonKind = partKind{ButtonPart, func(def *Part) bool { return def.Button != nil }, checkButton}

type button struct{ *PressButton }

func checkButton(c *compiler, p *part, at string) content {
	if p.Label == "" {
		c.Find(definition.Care, at, "the button says nothing", "People would not know what it does.", nil)
	}
	return &button{p.Button}
}

func (b *button) show(_ context.Context, _ records.Reader, _ expr.Values, _ Given, view *PartView) error {
	view.Button = b.PressButton
	return nil
}
