package edition

import (
	"fmt"
	"maps"
	"slices"

	"plainpath/core/act"
	"plainpath/core/definition"
	"plainpath/core/expr"
	"plainpath/core/screen"
	"plainpath/core/table"
)

// openings looks at what documents name outside themselves: the walkthroughs and pages that acts run and open and what
// these take, and the roles that buttons and views are for.
func (e *Edition) openings() {
	for _, o := range e.check.Openings() {
		e.opening(e.check.For(o.Document).In(o.Step), o)
	}
	for _, key := range slices.Sorted(maps.Keys(e.Walkthroughs)) {
		e.rights(key)
		check := e.check.For(definition.Name(definition.Walkthrough, key))
		for at, bands := range e.Walkthroughs[key].Def.Surfaces() {
			opening{e, check.In(at.Step)}.surface(at.Pointer, bands)
		}
		for at, s := range e.Walkthroughs[key].Def.All() {
			if s.Screen != nil {
				opening{e, check.In(s.Key)}.reactions(at+"/screen", s.Screen.Reactions)
			}
		}
	}
	for _, key := range slices.Sorted(maps.Keys(e.Pages)) {
		p := e.Pages[key].Def
		o := opening{e, e.check.For(definition.Name(definition.Page, key))}
		o.surface("", p.Bands)
		o.reactions("", p.Reactions)
	}
}

// opening looks at what something is handed that is run or opened.
func (e *Edition) opening(c *definition.Check, o definition.Opening) {
	const consequence = "It would not open."
	label, takes, there := e.takes(o.Kind, o.Key)
	at := o.At + "/" + string(o.Kind)
	if !there {
		c.Find(definition.Stop, at, fmt.Sprintf("there is no %s %q", o.Kind, o.Key), consequence, nil)
		return
	}
	c.Refers(at, o.Key, o.Kind, o.Key, "")
	for i, h := range o.Hand {
		pointer := fmt.Sprintf("%s/hand/%d", o.At, i)
		n := slices.IndexFunc(takes, func(t screen.Take) bool { return t.Key == h.To })
		if n < 0 {
			c.Find(definition.Stop, pointer+"/to", fmt.Sprintf("“%s” takes no %q", label, h.To), consequence,
				&definition.Mend{Label: "Do not hand it over", Patch: []definition.Op{{Op: "remove", Path: pointer}}})
			continue
		}
		c.Refers(pointer+"/to", h.To, o.Kind, o.Key, fmt.Sprintf("/takes/%d", n))
		if h.Type == nil {
			continue
		}
		if want := takes[n].Gives(); !expr.Fits(*h.Type, want) {
			c.Find(definition.Stop, pointer+"/value", fmt.Sprintf("this gives %s, but %s takes %s",
				expr.Describe(e.Model, *h.Type), takes[n].Label, expr.Describe(e.Model, want)), consequence, nil)
		}
	}
	for _, t := range takes {
		if t.Required && !slices.ContainsFunc(o.Hand, func(h definition.Handed) bool { return h.To == t.Key }) {
			c.Find(definition.Stop, o.At+"/hand", fmt.Sprintf("“%s” needs %s and is not handed one", label, t.Label),
				consequence, nil)
		}
	}
}

// takes is what a walkthrough or a page is called and takes, false where there is none.
func (e *Edition) takes(kind definition.Kind, key string) (label string, takes []screen.Take, there bool) {
	if w := e.Walkthroughs[key]; kind == definition.Walkthrough && w != nil {
		return w.Def.Label, w.Def.Takes, true
	}
	if p := e.Pages[key]; kind == definition.Page && p != nil {
		return p.Def.Label, p.Def.Handed(), true
	}
	return "", nil, false
}

// opening is the check of one surface.
type opening struct {
	*Edition
	*definition.Check
}

// surface looks at the tables of a surface, those in rows too.
func (e opening) surface(at string, bands []screen.Band) {
	for part, below := range screen.Parts(bands) {
		if part.Table != nil {
			e.table(at+below+"/table", part.Table)
		}
	}
}

func (e opening) table(at string, t *table.Table) {
	for i, v := range t.Views {
		e.Check.Roles(e.roleKeys(), v.Roles, fmt.Sprintf("%s/views/%d/roles", at, i),
			"The people meant would not get the view “"+v.Label+"”.", true)
	}
	for i, b := range t.Buttons {
		e.Check.Roles(e.roleKeys(), b.Roles, fmt.Sprintf("%s/buttons/%d/roles", at, i),
			"The people meant could not press “"+b.Label+"”.", true)
		e.lines(fmt.Sprintf("%s/buttons/%d/do", at, i), b.Do)
	}
	if t.Inside != nil {
		e.table(at+"/inside/table", &t.Inside.Table)
	}
}

func (e opening) reactions(at string, reactions []screen.Reaction) {
	for i, r := range reactions {
		e.lines(fmt.Sprintf("%s/reactions/%d/do", at, i), r.Do)
	}
}

// lines looks at whom a button or a reaction tells something.
func (e opening) lines(at string, lines []act.Line) {
	for at, l := range act.EveryLine(lines, at) {
		if l.Notify != nil {
			e.Check.Roles(e.roleKeys(), l.Notify.Roles, at+"/notify/roles", "The people meant would not be told.", true)
		}
	}
}
