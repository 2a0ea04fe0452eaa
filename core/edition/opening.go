package edition

import (
	"fmt"
	"slices"

	"plainpath/core/act"
	"plainpath/core/definition"
	"plainpath/core/screen"
	"plainpath/core/table"
	"plainpath/core/walk"
)

// checkOpening looks at what tables name outside themselves, those in rows too: the
// walkthroughs that buttons open and what these take, and the roles that buttons and views
// are for.
func (e *Edition) checkOpening(document string, in walk.At, bands []screen.Band) {
	o := opening{e, e.check.For(document).In(in.Step)}
	for part, at := range screen.Parts(bands) {
		if part.Table != nil {
			o.table(in.Pointer+at+"/table", part.Table)
		}
	}
}

// opening is the check of one surface.
type opening struct {
	*Edition
	*definition.Check
}

func (e opening) table(at string, t *table.Table) {
	for i, v := range t.Views {
		e.Check.Roles(e.roleKeys(), v.Roles, fmt.Sprintf("%s/views/%d/roles", at, i),
			"The people meant would not get the view “"+v.Label+"”.", true)
	}
	for i, b := range t.Buttons {
		e.Check.Roles(e.roleKeys(), b.Roles, fmt.Sprintf("%s/buttons/%d/roles", at, i),
			"The people meant could not press “"+b.Label+"”.", true)
		for n, l := range b.Do {
			if l.Run != nil && l.Run.Walkthrough != "" {
				e.handing(fmt.Sprintf("%s/buttons/%d/do/%d/run", at, i, n), b, l.Run)
			}
		}
	}
	if t.Inside != nil {
		e.table(at+"/inside/table", &t.Inside.Table)
	}
}

func (e opening) handing(at string, b table.Button, run *act.Run) {
	w := e.Walkthroughs[run.Walkthrough]
	if w == nil {
		e.Find(definition.Stop, at+"/walkthrough", fmt.Sprintf("there is no walkthrough %q", run.Walkthrough),
			"Pressing “"+b.Label+"” would open nothing.", nil)
		return
	}
	e.Refers(at+"/walkthrough", run.Walkthrough, definition.Walkthrough, run.Walkthrough, "")
	for i, h := range run.Hand {
		if n := slices.IndexFunc(w.Def.Takes, func(t walk.Take) bool { return t.Key == h.To }); n >= 0 {
			e.Refers(fmt.Sprintf("%s/hand/%d/to", at, i), h.To, definition.Walkthrough, run.Walkthrough,
				fmt.Sprintf("/takes/%d", n))
		} else {
			e.Find(definition.Stop, fmt.Sprintf("%s/hand/%d/to", at, i), fmt.Sprintf("“%s” takes no %q", w.Def.Label,
				h.To),
				"It would not open.",
				&definition.Mend{Label: "Do not hand it over",
					Patch: []definition.Op{{Op: "remove", Path: fmt.Sprintf("%s/hand/%d", at, i)}}})
		}
	}
	for _, t := range w.Def.Takes {
		if t.Required && !slices.ContainsFunc(run.Hand, func(h act.Handing) bool { return h.To == t.Key }) {
			e.Find(definition.Stop, at+"/hand", fmt.Sprintf("“%s” needs %s and is not handed one", w.Def.Label,
				t.Label),
				"It would not open.", nil)
		}
	}
}
