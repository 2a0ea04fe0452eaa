package edition

import (
	"fmt"
	"slices"

	"plainpath/core/act"
	"plainpath/core/definition"
	"plainpath/core/surface"
	"plainpath/core/walk"
)

// checkOpening looks at what tables name outside themselves, those in rows too: the
// walkthroughs that buttons open and what these take, and the roles that buttons and views
// are for.
func (e *Edition) checkOpening(document string, in walk.At, bands []surface.Band) {
	o := opening{e, document, in.Step}
	for part, at := range surface.Parts(bands) {
		if part.Table != nil {
			o.table(in.Pointer+at+"/table", part.Table)
		}
	}
}

// opening is the check of one surface.
type opening struct {
	*Edition
	document, step string
}

func (e opening) table(at string, t *surface.Table) {
	for i, v := range t.Views {
		e.roles(fmt.Sprintf("%s/views/%d/roles", at, i), v.Roles,
			"The people meant would not get the view “"+v.Label+"”.")
	}
	for i, b := range t.Buttons {
		e.roles(fmt.Sprintf("%s/buttons/%d/roles", at, i), b.Roles, "The people meant could not press “"+b.Label+"”.")
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

func (e opening) roles(at string, roles []string, consequence string) {
	for i, r := range roles {
		if !e.HasRole(r) {
			pointer := fmt.Sprintf("%s/%d", at, i)
			var mend *definition.Mend
			if len(roles) > 1 { // without the only one, it would be for everybody
				mend = &definition.Mend{Label: "Leave it out", Patch: []definition.Op{{Op: "remove", Path: pointer}}}
			}
			e.find(pointer, fmt.Sprintf("there is no role %q", r), consequence, mend)
		}
	}
}

func (e opening) find(at, text, consequence string, mend *definition.Mend) {
	e.Findings = append(e.Findings, definition.Finding{Document: e.document, Step: e.step, Pointer: at,
		Severity: definition.Stop, Text: text, Consequence: consequence, Mend: mend})
}

func (e opening) handing(at string, b surface.Button, run *act.Run) {
	w := e.Walkthroughs[run.Walkthrough]
	if w == nil {
		e.find(at+"/walkthrough", fmt.Sprintf("there is no walkthrough %q", run.Walkthrough),
			"Pressing “"+b.Label+"” would open nothing.", nil)
		return
	}
	for i, h := range run.Hand {
		if !slices.ContainsFunc(w.Def.Takes, func(t walk.Take) bool { return t.Key == h.To }) {
			e.find(fmt.Sprintf("%s/hand/%d/to", at, i), fmt.Sprintf("“%s” takes no %q", w.Def.Label, h.To),
				"It would not open.",
				&definition.Mend{Label: "Do not hand it over",
					Patch: []definition.Op{{Op: "remove", Path: fmt.Sprintf("%s/hand/%d", at, i)}}})
		}
	}
	for _, t := range w.Def.Takes {
		if t.Required && !slices.ContainsFunc(run.Hand, func(h act.Handing) bool { return h.To == t.Key }) {
			e.find(at+"/hand", fmt.Sprintf("“%s” needs %s and is not handed one", w.Def.Label, t.Label),
				"It would not open.", nil)
		}
	}
}
