package e2e

import (
	"fmt"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
)

// hand builds as a person does, and counts what that takes: keys, pointings, changes between keyboard and mouse, and
// decisions. It types where the keyboard is and nowhere else.
type hand struct {
	*browser
	keyed, pointed, changed, decided int
	mouse                            bool
}

// seconds is a keystroke-level estimate (Card, Moran, Newell: The Keystroke-Level Model, 1980).
func (h *hand) seconds() float64 {
	return 0.28*float64(h.keyed) + 1.1*float64(h.pointed) + 0.4*float64(h.changed) + 1.35*float64(h.decided)
}

func (h *hand) use(mouse bool) {
	if h.mouse != mouse {
		h.mouse = mouse
		h.changed++
	}
}

// writes types a text, which is one decision, and perhaps a key behind it.
func (h *hand) writes(text, key string) {
	h.t.Helper()
	h.use(false)
	h.until(`['INPUT','TEXTAREA'].includes(document.activeElement?.tagName)`, "the keyboard is not where “%s” is to be typed", text)
	h.keyed += len([]rune(text + key))
	h.decided++
	h.keys(text)
	if key != "" {
		h.keys(key)
	}
}

// takes types words and takes the first thing offered for them.
func (h *hand) takes(words, offered string) {
	h.t.Helper()
	h.writes(words, "")
	h.until(fmt.Sprintf(`document.querySelector('[role=option].p-focus, [role=option].active')?.innerText.includes(%q)`, offered), "%q is not offered first for %q", offered, words)
	h.keyed++
	h.keys(kb.Enter)
}

// points presses something.
func (h *hand) points(selector, text string) {
	h.t.Helper()
	h.use(true)
	h.pointed++
	h.decided++
	h.tap(selector, text, false, "")
}

// next begins a step behind the one that the keyboard is on.
func (h *hand) next() {
	h.t.Helper()
	h.use(false)
	h.until(`document.activeElement?.dataset.row`, "the keyboard is on no step")
	h.keyed += 2
	h.keys(kb.Enter, chromedp.KeyModifiers(8))
}

// opens opens the settings of the step that the keyboard is on.
func (h *hand) opens() {
	h.t.Helper()
	h.use(false)
	h.keyed++
	h.keys(kb.Enter)
}

// leave goes from the settings of a step back to its row.
func (h *hand) leave() {
	h.t.Helper()
	h.use(false)
	h.until(`!document.querySelector('[role=listbox], .p-autocomplete-overlay, .p-select-overlay')`, "a list does not close")
	h.keyed++
	h.keys(kb.Escape)
}

// onRow waits until the keyboard is on a step that was made.
func (h *hand) onRow(step string) {
	h.t.Helper()
	h.until(fmt.Sprintf(`document.activeElement?.dataset.row === %q`, step), "the keyboard is not on %s", step)
}

// fromNothing is an empty walkthrough for service managers.
func fromNothing(t *testing.T, label string) *hand {
	t.Helper()
	s := newSite(t)
	b := s.browser(t)
	b.signIn("Bo Lindqvale")
	b.newWalkthrough(label, "Service manager")
	return &hand{browser: b}
}

// within says how long building took, which may be so many seconds at most.
func (h *hand) within(what string, most float64) {
	h.t.Helper()
	row := fmt.Sprintf("| %s | %.0f s | %.0f s | %d keys, %d pointings, %d changes of the hand, %d decisions |", what,
		h.seconds(), most, h.keyed, h.pointed, h.changed, h.decided)
	h.t.Log(row)
	if h.seconds() > most {
		h.t.Errorf("it takes too long: %s", row)
	}
}

// From an empty sheet to a rehearsed walkthrough: part of a name, choosing, what belongs to it.
func TestBuildingASearch(t *testing.T) {
	t.Parallel() // most of it is waiting
	h := fromNothing(t, "Lifts of a building")
	var house string
	if err := h.site.db.Get(&house, `SELECT b.name FROM liftcare_trial.building b JOIN liftcare_trial.lift l ON l.building = b.id
		WHERE b.name ILIKE '%mill%' ORDER BY b.name LIMIT 1`); err != nil {
		t.Fatal(err)
	}
	h.points("button", "Add the first step")
	h.takes("find buildings", "Find buildings")
	h.onRow("choose_building")
	h.next()
	h.takes("choose lifts of", "Choose lifts of the chosen building")
	h.onRow("choose_lifts")
	h.next()
	h.takes("finish", "Finish")
	h.see("no findings")
	h.points("label", "Part of the name")
	h.writes("mill", kb.Enter)
	h.see("Screen 2 of 3")
	h.points("tbody tr td", house)
	h.points("button", "Next")
	h.see("Screen 3 of 3")
	h.points("tbody tr td", "QL-")
	h.points("button", "Next")
	h.see("Finished")
	h.within("Search by a part of a name, choose, what belongs to it, finish", 70)
}

// From an empty sheet: what to do and for whom, and a related object changed for each of them.
func TestBuildingAChangeOfRelatedRecords(t *testing.T) {
	t.Parallel() // most of it is waiting
	h := fromNothing(t, "Badges")
	h.points("button", "Add the first step")
	h.takes("search engineers", "Search engineers")
	h.onRow("engineers")
	h.next()
	h.takes("screen: What and for whom?", "Screen")
	h.onRow("what_and_for_whom")
	h.points("button", "input")
	h.writes("Suspended", kb.Enter)
	h.points("[role=combobox]", "text")
	h.points("[role=option]", "yes/no")
	h.points(".settings .row button", "table")
	h.points("[role=combobox]", "one row is chosen")
	h.points("[role=option]", "several rows are chosen")
	h.leave()
	h.next()
	h.takes("change", "Change records")
	h.onRow("change_records")
	h.points(".settings input", "What is changed")
	h.takes("engineer", "what_and_for_whom.engineer")
	h.points("[role=combobox]", "They themselves, or what refers to them")
	h.points("[role=option]", "their badges")
	h.points("[role=combobox]", "Set a field")
	h.points("[role=option]", "Suspended")
	h.points("[role=combobox]", "Suspended: where from")
	h.points("[role=option]", "known value")
	h.points(".settings input", "Suspended")
	h.takes("what susp", "what_and_for_whom.suspended")
	h.see("on What and for whom?")
	h.leave()
	h.next()
	h.takes("finish", "Finish")
	h.see("no findings")
	h.points(".pane button", "Yes")
	for _, line := range []string{"1", "2"} {
		h.points("tbody tr:nth-child("+line+") td", "")
	}
	h.points("button", "Next")
	h.see("Finished")
	h.within("Choose what to do and for whom, change a related object", 90)

	h.releases("Badges")
	free := h.site.count(t, `SELECT count(*) FROM liftcare_production.badge WHERE NOT suspended`)
	h.signIn("Mara Stillwater")
	h.pressIn("button", "Badges")
	h.see("What and for whom?")
	h.pressIn("button", "Yes")
	h.row("")
	h.press("Next")
	h.see("Done.")
	if n := h.site.count(t, `SELECT count(*) FROM liftcare_production.badge WHERE NOT suspended`); n != free-1 {
		t.Errorf("%d badges are suspended", free-n)
	}
}

// From an empty sheet: two choosing screens, one of them with a quantity, gathered, read over with the total, and saved
// as a quote with its lines.
func TestBuildingAQuote(t *testing.T) {
	t.Parallel() // most of it is waiting
	h := fromNothing(t, "Offers")
	h.points("button", "Add the first step")
	h.takes("choose a service call", "Choose a service call")
	h.onRow("choose_service_call")
	h.next()
	h.takes("choose repair p", "Choose repair packages")
	h.onRow("choose_repair_packages")
	h.next()
	h.takes("choose spare p", "Choose spare parts")
	h.onRow("choose_spare_parts")
	h.opens()
	h.points(".settings input", "What each row asks for besides")
	h.writes("Quantity", kb.Enter)
	h.see("each row asks for")
	h.leave()
	h.next()
	h.takes("gather", "Gather rows")
	h.onRow("gather_rows")
	h.points(".settings input", "Put the rows of a list in")
	h.takes("packages", "choose_repair_packages.repair_packages")
	h.points(".settings input", "Put the rows of a list in")
	h.takes("spare", "choose_spare_parts.spare_parts")
	for _, name := range []string{"Name", "Price", "Quantity"} {
		h.points("[role=combobox]", "Take a value of the lists into each row")
		h.points("[role=option]", name)
		h.see(name)
	}
	h.points(".settings input", "Quantity of list 1")
	h.writes("1", kb.Enter)
	h.points(".settings input", "A value of your own in each row")
	h.writes("Amount", "")
	h.points("[role=combobox]", "Its type")
	h.points("[role=option]", "money")
	h.points("button", "Add it")
	h.points(".settings input", "Amount of list 1")
	h.takes("price", "each_repair_package.price")
	h.points(".settings input", "Amount of list 2")
	h.writes("each_row.row.price * each_row.quantity", kb.Enter)
	h.leave()
	h.next()
	h.takes("screen: Review", "Screen")
	h.onRow("review")
	h.points(".settings .row button", "lines")
	h.see("with its total")
	h.leave()
	h.next()
	h.takes("add quote", "Add quote")
	h.onRow("new_quote")
	h.points(".settings input", "Service call")
	h.takes("service", "choose_service_call.service_call")
	h.see("Service call: ")
	h.leave()
	h.next()
	h.takes("add quote line", "Add quote line")
	h.onRow("new_quote_line")
	h.points(".settings input", "For each of")
	h.takes("gather", "gather_rows")
	h.see("Quantity: ")
	h.points(".settings input", "Quote")
	for _, of := range [][3]string{{"Quote", "new quote", "new_quote"}, {"What", "name", "each_row.name"},
		{"Unit price", "price", "each_row.price"}} {
		h.until(fmt.Sprintf(`document.activeElement?.getAttribute('aria-label') === %q`, of[0]), "the keyboard is not on %s", of[0])
		h.takes(of[1], of[2])
		h.see(of[0] + ": ")
	}
	h.leave()
	h.next()
	h.takes("finish", "Finish")
	h.see("no findings")
	h.points("tbody tr:nth-child(1) td", "")
	h.points("button", "Next")
	h.see("Screen 2 of 4")
	h.points("tbody tr:nth-child(1) td", "")
	h.points("button", "Next")
	h.see("Screen 3 of 4")
	h.points("tbody tr:nth-child(1) input", "")
	h.writes("3", "")
	h.points("button", "Next")
	h.see("Screen 4 of 4")
	h.points("button", "Next")
	h.see("Finished")
	h.see("2 written")
	h.within("Two choosing screens, gather, review with total, save header and lines", 210)

	h.releases("Offers")
	h.signIn("Mara Stillwater")
	h.pressIn("button", "Offers")
	h.see("Screen 1 of 4")
	h.row("SC-7")
	h.press("Next")
	h.see("Screen 2 of 4")
	h.row("Brake service")
	h.press("Next")
	h.see("Screen 3 of 4")
	h.fill("quantity", "Brake lining, brass", "3")
	h.press("Next")
	h.see("€1,254.07")
	h.press("Next")
	h.see("Done.")
	if n := h.site.count(t, `SELECT count(*) FROM liftcare_production.quote_line l JOIN liftcare_production.quote q ON q.id = l.quote
		JOIN liftcare_production.service_call c ON c.id = q.service_call WHERE c.number = 7 AND q.id = (SELECT max(id) FROM liftcare_production.quote)
		AND (l.what, l.quantity, l.unit_price) IN (('Brake service', 1, 640), ('Brake lining, brass', 3, 204.69))`); n != 2 {
		t.Errorf("%d of two lines are saved", n)
	}
}

// From an empty sheet: four screens, several rows chosen on one feeding what follows, and a record added for each.
func TestBuildingARecordForEach(t *testing.T) {
	t.Parallel() // most of it is waiting
	h := fromNothing(t, "Visits")
	var house string
	if err := h.site.db.Get(&house, `SELECT b.name FROM liftcare_trial.building b JOIN liftcare_trial.lift l ON l.building = b.id
		GROUP BY b.id HAVING count(*) > 2 ORDER BY b.name LIMIT 1`); err != nil {
		t.Fatal(err)
	}
	h.points("button", "Add the first step")
	h.takes("find buildings", "Find buildings")
	h.onRow("choose_building")
	h.next()
	h.takes("choose lifts of", "Choose lifts of the chosen building")
	h.onRow("choose_lifts")
	h.next()
	h.takes("find engineers", "Find engineers")
	h.onRow("choose_engineer")
	h.next()
	h.takes("add visit", "Add visit")
	h.onRow("new_visit")
	h.points(".settings input", "For each of")
	h.takes("choose lifts", "choose_lifts.lifts")
	h.see("Lift: ")
	h.points(".settings input", "Engineer")
	h.takes("choose engineer", "choose_engineer.engineer")
	h.until(`document.activeElement?.getAttribute('aria-label') === 'Starts'`, "the keyboard has not gone on")
	h.takes("now", "now")
	h.see("Starts: ")
	h.leave()
	h.next()
	h.takes("finish", "Finish")
	h.see("no findings")
	h.points("label", "Part of the name")
	h.writes(house[:4], kb.Enter)
	h.see("Screen 2 of 5")
	h.points("tbody tr td", house)
	h.points("button", "Next")
	h.see("Screen 3 of 5")
	h.points("tbody tr:nth-child(1) td", "")
	h.points("tbody tr:nth-child(2) td", "")
	h.points("button", "Next")
	h.see("Screen 4 of 5")
	h.points("button", "Next")
	h.see("Screen 5 of 5")
	h.points("tbody tr:nth-child(1) td", "")
	h.points("button", "Next")
	h.see("Finished")
	h.see("2 written")
	h.within("Five screens, several chosen rows, a record added for each", 150)
}
