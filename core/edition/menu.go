package edition

import (
	"cmp"
	"fmt"
	"slices"

	"plainpath/core/access"
	"plainpath/core/definition"
)

// MenuGroup is a group of the menu in Use. One without a label is pages that stand by themselves.
type MenuGroup struct {
	Label string `json:"label,omitempty"`
	Icon  Icon   `json:"icon,omitempty"`
	// Pages are the keys of the pages, in their order.
	Pages []string `json:"pages"`
}

// Icon is a small picture in the menu.
type Icon string

// Icons are the pictures there are.
var Icons = []Icon{"home", "building", "calendar", "chart", "clock", "file", "flag", "money", "people", "phone", "star",
	"tool"}

// checkMenu checks what the menu is made of, once the pages are there.
func (e *Edition) checkMenu() {
	c := e.appCheck()
	seen := map[string]bool{}
	for i, g := range e.App.Menu {
		at := fmt.Sprintf("/menu/%d", i)
		if g.Icon != "" && !slices.Contains(Icons, g.Icon) {
			c.Find(definition.Care, at+"/icon", fmt.Sprintf("there is no icon %q", g.Icon), "It stands there without one.",
				&definition.Mend{Label: "No icon", Patch: []definition.Op{{Op: "remove", Path: at + "/icon"}}})
		}
		for j, key := range g.Pages {
			at := fmt.Sprintf("%s/pages/%d", at, j)
			leave := &definition.Mend{Label: "Leave it out", Patch: []definition.Op{{Op: "remove", Path: at}}}
			switch p := e.Pages[key]; {
			case p == nil:
				c.Find(definition.Care, at, fmt.Sprintf("there is no page %q", key), "It is not in the menu.", leave)
				continue
			case seen[key]:
				c.Find(definition.Care, at, fmt.Sprintf("%s stands in the menu twice", p.Def.Label),
					"People would wonder what is the difference.", leave)
			case p.Def.Needs():
				c.Find(definition.Care, at, fmt.Sprintf("%s needs something that a menu does not hand over", p.Def.Label),
					"It is not in the menu.", leave)
			}
			seen[key] = true
			c.Refers(at, key, definition.Page, key, "")
		}
	}
}

// MenuItem is something in the menu that opens.
type MenuItem struct {
	Key   string `json:"key"`
	Label string `json:"label"`
	Note  string `json:"note"`
}

// MenuShown is a group of the menu with the pages that somebody may open.
type MenuShown struct {
	Label string     `json:"label,omitempty"`
	Icon  Icon       `json:"icon,omitempty"`
	Pages []MenuItem `json:"pages"`
}

// MenuFor is the menu of a person: groups as the app has them, then the pages of which it says nothing, by name. The
// page that they begin with is not in it, nor are groups in which they may open nothing.
func (e *Edition) MenuFor(person access.Person) []MenuShown {
	home := e.HomePage(person)
	open := map[string]MenuItem{}
	for key, p := range e.Pages {
		if MayOpen(person, p.Def) && !p.Def.Needs() && key != home {
			open[key] = MenuItem{key, p.Def.Label, p.Def.Note}
		}
	}
	out := []MenuShown{}
	for _, g := range e.App.Menu {
		shown := MenuShown{Label: g.Label, Icon: g.Icon, Pages: []MenuItem{}}
		for _, key := range g.Pages {
			if item, ok := open[key]; ok {
				shown.Pages = append(shown.Pages, item)
				delete(open, key)
			}
		}
		if len(shown.Pages) > 0 {
			out = append(out, shown)
		}
	}
	if len(open) == 0 {
		return out
	}
	rest := MenuShown{}
	for _, item := range open {
		rest.Pages = append(rest.Pages, item)
	}
	slices.SortFunc(rest.Pages, func(a, b MenuItem) int {
		return cmp.Or(cmp.Compare(a.Label, b.Label), cmp.Compare(a.Key, b.Key))
	})
	return append(out, rest)
}
