package e2e

import (
	"os"
	"path/filepath"
	"testing"
	"time"

	"github.com/chromedp/chromedp"

	"plainpath/testdb"
)

// axe runs axe-core on the page and fails on anything serious.
func (b *browser) axe(view string) {
	b.t.Helper()
	script, err := os.ReadFile(filepath.Join(testdb.Root(b.t), "web", "node_modules", "axe-core", "axe.min.js"))
	if err != nil {
		b.t.Fatal(err)
	}
	time.Sleep(500 * time.Millisecond) // what fades in has to have its colours
	run(b, chromedp.Evaluate[any](string(script)+`; null`))
	found := run(b, chromedp.Evaluate[[]string](`axe.run(document, { resultTypes: ['violations'] }).then(r => r.violations
		.filter(v => v.impact === 'serious' || v.impact === 'critical')
		.flatMap(v => v.nodes.map(n => v.id + ': ' + n.target.join(' ') + ' — ' + (n.any[0]?.message || n.all[0]?.message || v.help))))`, chromedp.EvalAwaitPromise))
	for _, f := range found {
		b.t.Errorf("%s: %s", view, f)
	}
}

// axeInBoth runs it in the light and in the dark.
func (b *browser) axeInBoth(view string) {
	b.t.Helper()
	b.axe(view)
	run(b, chromedp.Evaluate[any](`document.documentElement.classList.add('dark')`))
	time.Sleep(500 * time.Millisecond) // colours change by and by
	b.axe(view + ", dark")
	run(b, chromedp.Evaluate[any](`document.documentElement.classList.remove('dark')`))
}

func TestNothingSeriousForAxe(t *testing.T) {
	t.Parallel() // most of it is waiting
	s := newSite(t)
	b := s.browser(t)
	b.open("/sign-in")
	b.see("This is the demo")
	b.axe("sign-in")
	b.signIn("Bo Lindqvale")
	b.axe("build")
	b.open("/build/walkthrough/book_a_visit")
	b.see("Part of the building’s name")
	b.axe("sheet")
	b.pressIn("[data-row=engineers]", "")
	b.known("engineers")
	b.axe("search step")
	b.pressIn("[data-row=choose_building]", "")
	b.known("choose_building")
	b.axe("screen step")
	b.pressIn("[data-row=visits]", "")
	b.known("visits")
	b.axe("add step")
	b.press("Release…")
	b.see("Nothing has changed")
	b.axe("release")
	b.open("/build/object/service_call")
	b.see("Refers to this")
	b.see("records in trial, looked at")
	b.axe("object")
	b.pressIn("[data-field=engineer]", "")
	b.see("can be chosen")
	b.axe("reference field")
	b.pressIn("[data-field=priority]", "")
	b.see("retire")
	b.axe("choice field")
	b.open("/build/object/lift/records")
	b.row("QL-10000")
	b.see("Why may")
	b.axe("records")
	b.bring(workbook(t))
	b.axe("intake")
	b.press("Try it")
	b.see("would be refused")
	b.axe("intake tried")
	b.open("/build/people")
	b.see("What each role may do")
	b.axe("people")
	b.pressIn("main button", "Orla Northcape")
	b.see("Sign-ins")
	b.axe("person")
	b.open("/build/role/owners_desk")
	b.see("3 of 120")
	b.find("tr", "Buildings", false)
	run(b, chromedp.Click(`[data-e2e] button.link`))
	b.see("are theirs for which")
	b.axe("role")
	b.open("/build/page/calls")
	b.see("650 records")
	b.row("SC-649")
	b.see("What is chosen here goes to")
	b.axe("page being built")
	walkToEngineer(b)
	b.axe("walkthrough")
	b.press("Book")
	b.see("is required")
	b.axe("walkthrough with problems")
	b.open("/use")
	b.see("Not finished yet")
	b.axe("home")
	b.open("/use/page/calls")
	b.see("650 records")
	b.head("State", "Group by it")
	b.see("n groups of State")
	b.axe("page in groups")
	b.press("650 records")
	b.see("service calls there are")
	b.axe("proof")
	b.open("/use/record/engineer/20")
	b.see("History")
	b.axe("record")
	run(b, chromedp.Evaluate[any](`document.documentElement.classList.add('dark')`))
	b.axe("record, dark")
	b.open("/nowhere")
	b.see("nothing at this address")
	b.axe("not found")
}
