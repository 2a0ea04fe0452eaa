package edition

import (
	"fmt"
	"maps"
	"slices"

	"plainpath/core/act"
	"plainpath/core/definition"
	"plainpath/core/screen"
	"plainpath/core/table"
)

// openings looks at what documents name outside themselves: the walkthroughs and pages that acts open and what these
// take, and the roles that buttons and views are for.
func (e *Edition) openings() {
	for _, key := range slices.Sorted(maps.Keys(e.Walkthroughs)) {
		w := e.Walkthroughs[key].Def
		check := e.check.For(definition.Name(definition.Walkthrough, key))
		for at, bands := range w.Surfaces() {
			opening{e, check.In(at.Step)}.surface(at.Pointer, bands)
		}
		for at, s := range w.All() {
			if s.Open != nil && s.Open.Page != "" {
				opening{e, check.In(s.Key)}.page(at+"/open", "Nothing would open.", s.Open)
			}
		}
	}
	for _, key := range slices.Sorted(maps.Keys(e.Pages)) {
		p := e.Pages[key].Def
		o := opening{e, e.check.For(definition.Name(definition.Page, key))}
		o.surface("", p.Bands)
		for i, r := range p.Reactions {
			o.lines(fmt.Sprintf("/reactions/%d/do", i), r.Do, "The reaction would open nothing.")
		}
	}
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
		e.lines(fmt.Sprintf("%s/buttons/%d/do", at, i), b.Do, "Pressing “"+b.Label+"” would open nothing.")
	}
	if t.Inside != nil {
		e.table(at+"/inside/table", &t.Inside.Table)
	}
}

// lines looks at what a button or a reaction does.
func (e opening) lines(at string, lines []act.Line, consequence string) {
	for i, l := range lines {
		if l.Notify != nil {
			e.Check.Roles(e.roleKeys(), l.Notify.Roles, fmt.Sprintf("%s/%d/notify/roles", at, i),
				"The people meant would not be told.", true)
		}
		if l.Run != nil && l.Run.Walkthrough != "" {
			e.handing(fmt.Sprintf("%s/%d/run", at, i), consequence, l.Run)
		}
		if l.Open != nil && l.Open.Page != "" {
			e.page(fmt.Sprintf("%s/%d/open", at, i), consequence, l.Open)
		}
	}
}

// page looks at a page that is opened.
func (e opening) page(at, consequence string, open *act.Open) {
	p := e.Pages[open.Page]
	if p == nil {
		e.Find(definition.Stop, at+"/page", fmt.Sprintf("there is no page %q", open.Page), consequence, nil)
		return
	}
	screen.CheckHanding(e.Check, p.Def.Handed(), open.Hand, at, consequence)
}

func (e opening) handing(at, consequence string, run *act.Run) {
	w := e.Walkthroughs[run.Walkthrough]
	if w == nil {
		e.Find(definition.Stop, at+"/walkthrough", fmt.Sprintf("there is no walkthrough %q", run.Walkthrough),
			consequence, nil)
		return
	}
	screen.CheckHanding(e.Check, w.Def.Handed(), run.Hand, at, "It would not open.")
}
