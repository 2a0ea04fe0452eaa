package edition

import (
	"fmt"

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
	}
}

func (e opening) handing(at, consequence string, run *act.Run) {
	w := e.Walkthroughs[run.Walkthrough]
	if w == nil {
		e.Find(definition.Stop, at+"/walkthrough", fmt.Sprintf("there is no walkthrough %q", run.Walkthrough),
			consequence, nil)
		return
	}
	walk.CheckHanding(e.Check, w.Def, run, at, "It would not open.")
}
