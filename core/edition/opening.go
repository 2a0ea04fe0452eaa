package edition

import (
	"fmt"
	"slices"

	"plainpath/core/checkup"
	"plainpath/core/surface"
	"plainpath/core/walk"
)

// checkOpening looks at the walkthroughs that buttons of a page open: whether there are
// such, and whether they are handed what they take.
func (e *Edition) checkOpening(page *surface.Page) {
	for part, at := range surface.Parts(page.Bands) {
		if part.Table == nil {
			continue
		}
		for i, b := range part.Table.Buttons {
			for n, l := range b.Do {
				if l.Kind == surface.WalkthroughLine && l.Walkthrough != "" {
					e.checkHanding("page/"+page.Key, fmt.Sprintf("%s/table/buttons/%d/do/%d", at, i, n), b, l)
				}
			}
		}
	}
}

func (e *Edition) checkHanding(document, at string, b surface.Button, l surface.Line) {
	w := e.Walkthroughs[l.Walkthrough]
	if w == nil {
		e.find(document, at+"/walkthrough", fmt.Sprintf("there is no walkthrough %q", l.Walkthrough), "Pressing “"+b.Label+"” would open nothing.")
		return
	}
	for i, h := range l.Hand {
		if !slices.ContainsFunc(w.Def.Takes, func(t walk.Take) bool { return t.Key == h.To }) {
			e.Findings = append(e.Findings, checkup.Finding{Document: document, Pointer: fmt.Sprintf("%s/hand/%d/to", at, i), Severity: checkup.Stop,
				Text: fmt.Sprintf("“%s” takes no %q", w.Def.Label, h.To), Consequence: "It would not open.",
				Mend: &checkup.Mend{Label: "Do not hand it over", Patch: []checkup.Op{{Op: "remove", Path: fmt.Sprintf("%s/hand/%d", at, i)}}}})
		}
	}
	for _, t := range w.Def.Takes {
		if t.Required && !slices.ContainsFunc(l.Hand, func(h surface.Handing) bool { return h.To == t.Key }) {
			e.find(document, at+"/hand", fmt.Sprintf("“%s” needs %s and is not handed one", w.Def.Label, t.Label), "It would not open.")
		}
	}
}
