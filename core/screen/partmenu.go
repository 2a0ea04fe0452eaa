package screen

import (
	"context"

	"plainpath/core/definition"
	"plainpath/core/expr"
	"plainpath/core/records"
)

// Menu shows where somebody can go: what they began and did not finish, pages, walkthroughs.
type Menu struct {
	Unfinished   bool `json:"unfinished,omitempty"`
	Pages        bool `json:"pages,omitempty"`
	Walkthroughs bool `json:"walkthroughs,omitempty"`
}

var menuKind = partKind{MenuPart, func(def *Part) bool { return def.Menu != nil }, checkMenu}

type menu struct{ *Menu }

func checkMenu(c *compiler, p *part, at string) content {
	if *p.Menu == (Menu{}) {
		c.Find(definition.Care, at, "this menu leads nowhere", "People would see nothing of it.",
			&definition.Mend{Label: "Offer walkthroughs",
				Patch: []definition.Op{{Op: "add", Path: at + "/walkthroughs", Value: []byte("true")}}})
	}
	return menu{p.Menu}
}

// show says what is in the menu; where each leads depends on the person alone, and is read with what they find in Use.
func (m menu) show(_ context.Context, _ records.Reader, _ expr.Values, _ Given, view *PartView) error {
	view.Menu = m.Menu
	return nil
}
