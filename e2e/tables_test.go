package e2e

import (
	"encoding/csv"
	"fmt"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"

	"plainpath/testdb"
)

// cell puts the keyboard on a cell, lines and columns counted from nought.
func (b *browser) cell(line, column int) {
	b.t.Helper()
	js := fmt.Sprintf(`(e => { e?.focus(); return !!e })(document.querySelector('[data-line="%d"] [data-column="%d"]'))`, line, column)
	b.until(js, "there is no cell %d in line %d", column, line)
}

// head opens the menu of a column and takes something from it.
func (b *browser) head(column, what string) {
	b.t.Helper()
	// The menu of another column that is just closing has the same words.
	b.until(`!document.querySelector('[role=menuitem]')`, "a menu does not close")
	b.until(fmt.Sprintf(`(e => { e?.click(); return !!e })(document.querySelector('[aria-label="What to do with %s"]'))`, column), "no column %q", column)
	b.pressIn(`[role=menuitem]`, what)
}

// A person arranges a table and keeps it as a view; it is there when they come back, and
// theirs alone. Groups and totals are those of SQL.
func TestATableIsArrangedAndComesBack(t *testing.T) {
	t.Parallel() // most of it is waiting
	s := newSite(t)
	b := s.browser(t)
	b.signIn("Dana Merrowdale")
	b.open("/use/page/calls")
	b.see("650 records")
	b.enter("Search in Calls", "door")
	doors := s.count(t, `SELECT count(*) FROM liftcare_production.service_call c JOIN liftcare_production.lift l ON l.id = c.lift JOIN liftcare_production.building b ON b.id = l.building
		WHERE c.problem ILIKE '%door%' OR b.name ILIKE '%door%' OR l.serial_number ILIKE '%door%'`)
	b.see(fmt.Sprintf("%d records", doors))
	b.head("Priority", "Filter")
	b.choose("Comparison", "is not")
	b.pressIn("label", "Low")
	b.press("Show those")
	b.see("Filtered by Priority is not Low")
	want := s.count(t, `SELECT count(*) FROM liftcare_production.service_call c JOIN liftcare_production.lift l ON l.id = c.lift JOIN liftcare_production.building b ON b.id = l.building
		WHERE c.priority <> 'low' AND (c.problem ILIKE '%door%' OR b.name ILIKE '%door%' OR l.serial_number ILIKE '%door%')`)
	b.see(fmt.Sprintf("%d records", want))
	b.head("State", "Group by it")
	b.see("in groups of State")
	for state, n := range s.counted(t, `SELECT coalesce(c.state, ''), count(*) FROM liftcare_production.service_call c JOIN liftcare_production.lift l ON l.id = c.lift JOIN liftcare_production.building b ON b.id = l.building
		WHERE c.priority <> 'low' AND (c.problem ILIKE '%door%' OR b.name ILIKE '%door%' OR l.serial_number ILIKE '%door%') GROUP BY 1`) {
		label := map[string]string{"": "no state", "reported": "Reported", "planned": "Planned", "on_site": "On site",
			"waiting_for_parts": "Waiting for parts", "done": "Done", "cancelled": "Cancelled"}[state]
		b.until(fmt.Sprintf(`[...document.querySelectorAll('tr.group')].some(r => r.innerText.replace(/\s+/g, ' ').startsWith(%q))`, fmt.Sprintf("%s %d", label, n)), "no group %s of %d", label, n)
	}
	// A group without a value opens to its own rows, like every other.
	b.until(`(e => { e?.click(); return !!e })([...document.querySelectorAll('tr.group td')].find(e => e.innerText.includes('no state')))`, "no group without a state")
	without := s.count(t, `SELECT count(*) FROM liftcare_production.service_call c JOIN liftcare_production.lift l ON l.id = c.lift JOIN liftcare_production.building b ON b.id = l.building
		WHERE c.state IS NULL AND c.priority <> 'low' AND (c.problem ILIKE '%door%' OR b.name ILIKE '%door%' OR l.serial_number ILIKE '%door%')`)
	b.until(fmt.Sprintf(`document.querySelectorAll('tbody tr[aria-rowindex]').length === %d`, without),
		"%d rows have no state", without)
	b.head("Problem", "Hide")
	b.gone("Stops between floors")
	b.press("Views")
	b.enter("Name of the view", "Doors by state")
	b.press("Keep this view")
	b.see("View: Doors by state")
	b.open("/use")
	b.see("Where would you like to look?")
	b.pressIn("main a", "Service calls")
	b.see("View: Doors by state")
	b.see("in groups of State")
	b.see("Priority is not Low")
	b.until(`!document.querySelector('thead').innerText.includes('Problem')`, "the hidden column is back")
	b.press("Sign out")
	b.signIn("Mara Stillwater")
	b.open("/use/page/calls")
	b.see("650 records")
	if strings.Contains(b.text("main"), "Doors by state") {
		t.Error("somebody else's view is there")
	}
}

// Rows are changed by keyboard and saved together; one that is refused and one that
// somebody else changed keep all of them from being written.
func TestRowsAreEditedTogether(t *testing.T) {
	t.Parallel() // most of it is waiting
	s := newSite(t)
	b := s.browser(t)
	b.signIn("Dana Merrowdale")
	b.open("/use/page/calls")
	b.see("650 records")
	problem := func(id int) (text string) {
		if err := s.db.Get(&text, `SELECT problem FROM liftcare_production.service_call WHERE id = $1`,
			id); err != nil {
			t.Fatal(err)
		}
		return text
	}
	b.cell(0, 1)
	for i := range 5 { // typing begins to edit, Enter goes on below
		b.keys(fmt.Sprintf("Rattles %d", i))
		b.keys(kb.Enter)
	}
	b.see("5 rows changed, not saved yet")
	if _, err := s.db.Exec(`UPDATE liftcare_production.service_call SET problem = 'Theirs' WHERE id = 648`); err != nil {
		t.Fatal(err)
	}
	b.cell(3, 8) // an engineer, who must be one that fits
	b.keys(kb.Delete)
	b.press("Save")
	b.see("none was")
	b.see("SC-648: somebody else set Problem to “Theirs” meanwhile")
	if got := problem(650); got == "Rattles 0" {
		t.Error("a row was written although another could not be")
	}
	b.press("Take theirs")
	b.gone("somebody else set Problem")
	b.press("Save")
	b.gone("not saved yet")
	if got := []string{problem(650), problem(649), problem(648), problem(646)}; strings.Join(got,
		",") != "Rattles 0,Rattles 1,Theirs,Rattles 4" {
		t.Errorf("%v", got)
	}
	// A block from a spreadsheet shows first what it changes.
	b.cell(0, 1)
	run(b, chromedp.Evaluate[any](`(d => { d.setData('text/plain', 'Creaks\tx\nHowls\ty'); document.activeElement.dispatchEvent(new ClipboardEvent('paste', { clipboardData: d, bubbles: true })) })(new DataTransfer())`))
	b.see("2 cells in 2 rows would change")
	b.see("cannot be changed here")
	b.press("Change 2 cells")
	b.see("2 rows changed, not saved yet")
	b.keys("z", chromedp.KeyModifiers(2))
	b.gone("not saved yet")
}

// newPage makes a page that has nothing yet.
func (b *browser) newPage(label string) {
	b.t.Helper()
	run(b, chromedp.Evaluate[any](`[...document.querySelectorAll('nav section')].find(s => s.innerText.startsWith('Pages')).querySelector('button').click()`))
	b.enter("What is it called?", label)
	b.press("Make it")
	b.see("This page is empty")
}

// forDispatchers lets dispatchers open the page that is being built.
func (b *browser) forRole(role string) {
	b.t.Helper()
	b.press("For nobody yet")
	b.until(`(e => { e?.click(); return !!e })(document.querySelector('.about .p-multiselect'))`,
		"no roles can be chosen")
	b.pressIn("[role=option]", role)
	b.keys(kb.Escape)
	b.see("For " + role)
	b.keys(kb.Escape)
	b.see("no findings")
}

// A chain of tables is set up with nothing but picking; rows open to what lies in them.
func TestAPageIsBuiltAndUsed(t *testing.T) {
	t.Parallel() // most of it is waiting
	s := newSite(t)
	b := s.browser(t)
	b.signIn("Bo Lindqvale")
	b.newPage("Customers at work")
	b.see("no role may open this page")
	add := func(edge, object string) {
		t.Helper()
		b.press(edge)
		b.choose("A table of", object)
	}
	add("+ add", "Customers")
	b.see("40 records")
	add("+ a band below", "Buildings")
	b.see("120 records")
	b.press("Condition")
	b.pick("Field", "Customer", "Customer")
	b.pick("Value", "chosen", "Customers › the row chosen")
	b.see("It waits for")
	b.see("0 records")
	b.choose("What a row opens to", "Lifts (by building)")
	b.pressIn(".builds .grip", "Customers")
	b.see("What is chosen here goes to")
	b.forRole("Dispatcher")
	b.press("Release…")
	b.see("“Customers at work” is added")
	b.press("Release 2")
	b.see("Release 2 is in force")
	b.press("Sign out")

	b.signIn("Dana Merrowdale")
	b.pressIn("main a", "Customers at work")
	b.see("40 records")
	var customer string
	var buildings, lifts int
	if err := s.db.QueryRow(`SELECT c.name, count(*), (SELECT count(*) FROM liftcare_production.lift l WHERE l.building = min(b.id)) FROM liftcare_production.customer c
		JOIN liftcare_production.building b ON b.customer = c.id GROUP BY c.id, c.name ORDER BY c.id LIMIT 1`).Scan(&customer, &buildings, &lifts); err != nil {
		t.Fatal(err)
	}
	b.row(customer)
	b.see(fmt.Sprintf("%d record", buildings))
	b.until(`(e => { e?.click(); return !!e })(document.querySelector('.opens button'))`, "no row opens")
	b.see(fmt.Sprintf("%d record", lifts))

	// To depth three by keyboard, on the page of the demo.
	b.open("/use/page/buildings")
	b.see("120 records")
	for depth := range 3 {
		inside := strings.Repeat(".nested ", depth)
		b.until(fmt.Sprintf(`(e => { e?.focus(); return !!e })(document.querySelector('%s[data-line="%d"] [data-column="0"]'))`, inside, map[bool]int{true: 1, false: 0}[depth == 0]), "no row at depth %d", depth)
		b.keys(kb.ArrowDown, chromedp.KeyModifiers(1))
		b.until(fmt.Sprintf(`!!document.querySelector('%s.nested table')`, inside), "nothing opens at depth %d", depth)
	}
}

// Several rows that are chosen feed the next search, by picking alone; what was compared with
// before is taken along and can be seen.
func TestSeveralChosenRowsFeedTheNextSearch(t *testing.T) {
	t.Parallel()
	s := newSite(t)
	b := s.browser(t)
	b.signIn("Bo Lindqvale")
	b.newPage("Several customers")
	b.press("+ add")
	b.choose("A table of", "Customers")
	b.see("40 records")
	b.choose("How many rows are chosen", "several rows are chosen")
	b.press("+ a band below")
	b.choose("A table of", "Buildings")
	b.see("120 records")
	b.press("Condition")
	b.pick("Field", "Customer", "Customer")
	stored := func(path string, want int) {
		t.Helper()
		b.eventually(`SELECT count(*) FROM plainpath.document d, jsonb_path_query(d.body, '$.searches[*].search.where.all[*] ? (`+path+`)') WHERE d.kind = 'page' AND d.body ->> 'label' = 'Several customers'`, want)
	}
	b.choose("Value: where from", "typed in")
	b.pick("Value", "Lantern", "Lantern Hotels")
	stored(`exists(@.value.literal.id)`, 1)
	b.choose("Comparison", "is one of")
	b.see("Lantern Hotels")
	stored(`exists(@.values[*].literal.id) && !exists(@.value)`, 1)
	b.choose("One of what", "a list")
	b.pick("List", "chosen", "Customers › the rows chosen")
	stored(`@.op == "one_of" && exists(@.value.expression) && !exists(@.values)`, 1)
	b.see("0 records")
	b.forRole("Dispatcher")
	b.press("Release…")
	b.press("Release 2")
	b.see("Release 2 is in force")
	b.press("Sign out")

	b.signIn("Dana Merrowdale")
	b.pressIn("main a", "Several customers")
	b.see("40 records")
	var rows []struct {
		Name      string
		Buildings int
	}
	if err := s.db.Select(&rows, `SELECT c.name, count(b.id) AS buildings FROM liftcare_production.customer c LEFT JOIN liftcare_production.building b ON b.customer = c.id
		WHERE c.name IN ('Lantern Hotels', 'Harbour Homes') GROUP BY c.id ORDER BY c.name`); err != nil || len(rows) != 2 {
		t.Fatal(rows, err)
	}
	b.row(rows[0].Name)
	b.see(fmt.Sprintf("%d record", rows[0].Buildings))
	b.row(rows[1].Name)
	b.see("2 chosen")
	b.see(fmt.Sprintf("%d records", rows[0].Buildings+rows[1].Buildings))
}

// What is taken out is what SQL gives, in the order shown.
func TestATableIsTakenOutAsShown(t *testing.T) {
	t.Parallel() // most of it is waiting
	s := newSite(t)
	b := s.browser(t)
	b.signIn("Dana Merrowdale")
	b.open("/use/page/buildings")
	b.see("120 records")
	b.pressIn("thead button", "Town")
	b.see("Ordered by Town, from A to Z")
	b.press("Download")
	run(b, chromedp.Evaluate[any](`window.taken = ''; HTMLAnchorElement.prototype.click = function () { window.taken = this.href }`))
	b.press("CSV")
	b.until(`!!window.taken`, "nothing is taken out")
	address := run(b, chromedp.Evaluate[string](`new URL(window.taken).pathname`))
	var file string
	if status, err := testdb.SignIn(t, s.address, "dana@quillmere.example").Do("GET", address, nil, "",
		&file); err != nil || status != 200 {
		t.Fatal(status, err)
	}
	got, err := csv.NewReader(strings.NewReader(strings.TrimPrefix(file, "\ufeff"))).ReadAll()
	if err != nil || len(got) != 121 {
		t.Fatalf("%d lines, %v", len(got), err)
	}
	var want []string
	if err := s.db.Select(&want, `SELECT concat_ws('|', b.name, c.name, b.town, coalesce(b.floors::text, '')) FROM liftcare_production.building b LEFT JOIN liftcare_production.customer c ON c.id = b.customer
		ORDER BY b.town COLLATE "und-x-icu", b.id`); err != nil {
		t.Fatal(err)
	}
	for i, row := range got[1:] {
		if line := strings.Join(row[:4], "|"); line != want[i] {
			t.Fatalf("line %d is %q, want %q", i, line, want[i])
		}
	}
	b.see("120 rows written")
}

func (s site) counted(t *testing.T, query string) map[string]int {
	t.Helper()
	rows, err := s.db.Query(query)
	if err != nil {
		t.Fatal(err)
	}
	defer func() { _ = rows.Close() }()
	out := map[string]int{}
	for rows.Next() {
		var key, n string
		if err := rows.Scan(&key, &n); err != nil {
			t.Fatal(err)
		}
		out[key], _ = strconv.Atoi(n)
	}
	if err := rows.Err(); err != nil {
		t.Fatal(err)
	}
	return out
}

// tabTo presses Tab until what has the focus is meant.
func (b *browser) tabTo(what string) {
	b.t.Helper()
	for range 60 {
		if run(b, chromedp.Evaluate[bool](`(e => !!(`+what+`))(document.activeElement)`)) {
			return
		}
		b.keys(kb.Tab)
	}
	b.fail("Tab never comes to %s", what)
}

// step presses a key until something is so. The key is pressed again once the keyboard has moved, or has
// had the time to: a page that is slow just then must not be overtaken.
func (b *browser) step(key, js string, modifiers ...chromedp.KeyOption) {
	b.t.Helper()
	for range 40 {
		if run(b, chromedp.Evaluate[bool](`window.stoodAt = document.activeElement, !!(`+js+`)`)) {
			return
		}
		b.keys(key, modifiers...)
		for range 12 {
			time.Sleep(30 * time.Millisecond)
			if run(b, chromedp.Evaluate[bool](`document.activeElement !== window.stoodAt || !!(`+js+`)`)) {
				break
			}
		}
	}
	b.fail("the key leads nowhere: %s", js)
}

// Everything that is done with a table day by day is done without a mouse: searching,
// ordering, grouping, opening a group, moving a row to another, saving, the proof of a
// group, choosing rows and pressing a button.
func TestATableByKeyboardAlone(t *testing.T) {
	s := newSite(t)
	b := s.browser(t)
	b.signIn("Dana Merrowdale")
	b.open("/use/page/calls")
	b.see("650 records")
	const inGrid = `e.closest('[data-line]')`
	b.tabTo(`e.getAttribute('aria-label') === 'Search in Calls'`)
	b.keys("door")
	doors := s.count(t, `SELECT count(*) FROM liftcare_production.service_call c JOIN liftcare_production.lift l ON l.id = c.lift JOIN liftcare_production.building b ON b.id = l.building
		WHERE c.problem ILIKE '%door%' OR b.name ILIKE '%door%' OR l.serial_number ILIKE '%door%'`)
	b.see(fmt.Sprintf("%d records", doors))
	b.tabTo(inGrid)
	b.keys(kb.ArrowUp)
	b.step(kb.ArrowRight, `document.activeElement.tagName === 'TH' && document.activeElement.innerText.startsWith('State')`)
	b.keys(kb.Enter)
	b.see("Ordered by State")
	b.keys(kb.ArrowDown, chromedp.KeyModifiers(1))
	b.step(kb.ArrowDown, `document.querySelector('[role=menu] .p-focus')?.innerText.trim() === 'Group by it'`)
	b.keys(kb.Enter)
	b.see("in groups of State")
	planned := s.counted(t, `SELECT coalesce(c.state, ''), count(*) FROM liftcare_production.service_call c JOIN liftcare_production.lift l ON l.id = c.lift JOIN liftcare_production.building b ON b.id = l.building
		WHERE c.problem ILIKE '%door%' OR b.name ILIKE '%door%' OR l.serial_number ILIKE '%door%' GROUP BY 1`)["planned"]

	// A row of the first group goes to the second as soon as its state is another.
	b.tabTo(inGrid)
	b.step(kb.ArrowDown, `document.activeElement.closest('[data-line]')?.dataset.line === '0'`)
	b.keys(kb.ArrowRight)
	b.until(`!!document.querySelector('tbody tr[aria-rowindex]')`, "the group stays closed")
	b.keys(kb.ArrowDown)
	b.until(`document.activeElement.closest('[data-line]')?.dataset.line === '1'`,
		"the keyboard is not on the first row")
	number := run(b, chromedp.Evaluate[string](`document.activeElement.closest('tr').querySelector('[data-column="0"]').innerText`))
	b.step(kb.ArrowRight, `document.activeElement.dataset.column === '5'`)
	b.keys(kb.F2)
	b.until(`!!document.querySelector('.editor') && document.querySelector('.editor').contains(document.activeElement)`,
		"the cell is not edited")
	b.keys(kb.ArrowDown)
	b.step(kb.ArrowDown, `document.querySelector('[role=option].p-focus')?.innerText.trim() === 'Planned'`)
	b.keys(kb.Enter)
	b.until(fmt.Sprintf(`[...document.querySelectorAll('tr.group')].some(r => r.innerText.replace(/\s+/g, ' ').startsWith('Planned %d +1 not saved'))`, planned+1), "the row is in its old group")
	b.until(fmt.Sprintf(`document.activeElement.closest('tr')?.innerText.includes(%q)`, number),
		"the keyboard is not with the row")
	b.keys("s", chromedp.KeyModifiers(2))
	b.gone("not saved")
	b.eventually(fmt.Sprintf(`SELECT count(*) FROM liftcare_production.service_call WHERE 'SC-' || number = '%s' AND state = 'planned'`, number), 1)

	// The proof of a group, then a row of it is chosen and marked as done.
	b.tabTo(inGrid)
	b.step(kb.ArrowUp, `document.activeElement.closest('tr')?.innerText.startsWith('Planned')`)
	b.keys(kb.Enter, chromedp.KeyModifiers(1))
	b.see("where State is Planned")
	b.keys(kb.Escape)
	b.gone("where State is Planned")
	b.tabTo(inGrid)
	b.step(kb.ArrowDown, `document.activeElement.closest('tr')?.hasAttribute('aria-rowindex')`)
	number = run(b, chromedp.Evaluate[string](`document.activeElement.closest('tr').querySelector('[data-column="0"]').innerText`))
	b.keys(" ")
	b.see("1 chosen")
	for range 20 {
		if run(b, chromedp.Evaluate[bool](`document.activeElement.innerText === 'Mark as done'`)) {
			break
		}
		b.keys(kb.Tab, chromedp.KeyModifiers(8))
	}
	b.keys(kb.Enter)
	b.see("Mark what is chosen as done?")
	b.tabTo(`e.closest('[role=alertdialog]') && e.innerText === 'Mark as done'`)
	b.keys(kb.Enter)
	b.eventually(fmt.Sprintf(`SELECT count(*) FROM liftcare_production.service_call WHERE 'SC-' || number = '%s' AND state = 'done'`, number), 1)
}

// Totals of groups are those of SQL; a bar of a chart says where it comes from; a table is
// switched to another object and is still that when somebody comes back.
func TestTotalsChartsAndSwitching(t *testing.T) {
	t.Parallel() // most of it is waiting
	s := newSite(t)
	b := s.browser(t)
	b.signIn("Fenn Oakenrow")
	b.open("/use/page/customers")
	b.see("40 records")
	b.head("Credit limit", "Show the sum")
	b.head("Line of business", "Group by it")
	b.see("n groups of Line of business")
	labels := map[string]string{"housing": "Housing", "offices": "Offices", "hotels": "Hotels", "health": "Health",
		"retail": "Retail", "public": "Public"}
	for key, sum := range s.counted(t,
		`SELECT line_of_business, sum(credit_limit)::bigint FROM liftcare_production.customer WHERE line_of_business IS NOT NULL GROUP BY 1`) {
		b.until(fmt.Sprintf(`[...document.querySelectorAll('tr.group')].some(r => r.innerText.startsWith(%q) && (r.querySelector('.value')?.innerText ?? '').replace(/\D/g, '') === '%d00')`, labels[key], sum), "%s do not come to %d", key, sum)
	}
	whole := s.count(t, `SELECT sum(credit_limit)::bigint FROM liftcare_production.customer`)
	b.until(fmt.Sprintf(`document.querySelector('.totals .value')?.innerText.replace(/\D/g, '') === '%d00'`, whole),
		"all do not come to %d", whole)
	b.press("as it was")
	b.until(`(e => { e?.click(); return !!e })(document.querySelector('.opens button'))`, "no row opens")
	b.see("how many by town")
	var town string
	var of int
	if err := s.db.QueryRow(`SELECT b.town, count(*) FROM liftcare_production.building b WHERE b.customer = (SELECT id FROM liftcare_production.customer ORDER BY name COLLATE "und-x-icu" LIMIT 1) GROUP BY 1 ORDER BY 1 LIMIT 1`).Scan(&town, &of); err != nil {
		t.Fatal(err)
	}
	b.pressIn(".nested button", "As a table")
	b.pressIn(".nested .says", fmt.Sprint(of))
	b.see("where Town is “" + town + "”")
	b.press("Sign out")

	b.signIn("Dana Merrowdale")
	b.open("/use/page/buildings")
	b.see("120 records")
	b.choose("What the table shows", "Lifts")
	b.see("400 records")
	b.open("/use")
	b.open("/use/page/buildings")
	b.see("400 records")
	b.see("Serial number")
}
