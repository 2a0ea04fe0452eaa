package e2e

import (
	"fmt"
	"testing"
	"time"

	"github.com/chromedp/cdproto/emulation"
	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
)

// Times are entered and shown in the zone of the house, from wherever somebody looks, also on
// the days on which its clocks change.
func TestTimesAreThoseOfTheHouse(t *testing.T) {
	t.Parallel()
	s := newSite(t)
	b := s.browser(t)
	if _, err := chromedp.Call(b.ctx, emulation.SetTimezoneOverride,
		emulation.SetTimezoneOverrideParams{TimezoneID: "America/Los_Angeles"}); err != nil {
		t.Fatal(err)
	}
	b.signIn("Bo Lindqvale")
	b.open("/build/object/service_call/records")
	b.see("650 records")
	b.row("SC-7")
	house, err := time.LoadLocation("Europe/Dublin")
	if err != nil {
		t.Fatal(err)
	}
	const label = "Opened"
	stored := func(at time.Time) string {
		return fmt.Sprintf(`SELECT count(*) FROM liftcare_trial.service_call WHERE opened = '%s'`,
			at.UTC().Format(time.RFC3339))
	}
	save := func(words, shown string, at time.Time) {
		t.Helper()
		b.enter(label, words)
		b.keys(kb.Tab)
		b.until(fmt.Sprintf(`[...document.querySelectorAll('input')].some(e => e.value === %q)`, shown),
			"%q is not shown as %s", words, shown)
		b.press("Save")
		b.eventually(stored(at), 1)
	}
	save("3 dec 2025 14:30", "3 Dec 2025, 14:30", time.Date(2025, 12, 3, 14, 30, 0, 0, house))
	save("2026-06-03 09:05", "3 Jun 2026, 09:05", time.Date(2026, 6, 3, 9, 5, 0, 0, house))
	tomorrow := time.Now().In(house).AddDate(0, 0, 1)
	save("tomorrow 9", tomorrow.Format("2 Jan 2006")+", 09:00", time.Date(tomorrow.Year(), tomorrow.Month(),
		tomorrow.Day(), 9, 0, 0, 0, house))

	// Clocks go from 2:00 back to 1:00: half past one is there twice, and both can be meant.
	first := time.Date(2026, 10, 25, 0, 30, 0, 0, time.UTC)
	save("25 Oct 2026 1:30", "25 Oct 2026, 01:30", first)
	b.press("take the second")
	b.press("Save")
	b.eventually(stored(first.Add(time.Hour)), 1)

	// Clocks go from 1:00 to 2:00: half past one is not there.
	b.enter(label, "29 mar 2026 1:30")
	b.see("There is no such time on that day")
	b.press("Save")
	b.see("Please look again")
	b.eventually(stored(first.Add(time.Hour)), 1)
}

// Who works elsewhere enters and sees times as it is there; others still see those of the house.
func TestTimesAreThoseOfThePersonWhereTheySaySo(t *testing.T) {
	t.Parallel()
	s := newSite(t)
	b := s.browser(t)
	b.signIn("Bo Lindqvale")
	b.open("/build/object/service_call/records")
	b.see("650 records")
	b.press("Bo Lindqvale")
	b.see("Times are entered and shown")
	b.pressIn("[aria-label='Your times'] [role=combobox], .p-popover [role=combobox]", "")
	b.keys("Tokyo")
	b.pressIn("[role=option]", "Asia/Tokyo")
	b.until(`document.querySelector('[title="Times are those of Asia/Tokyo"]') !== null`, "the zone is not taken")
	b.row("SC-7")
	b.enter("Opened", "3 dec 2025 14:30")
	b.keys(kb.Tab)
	b.press("Save")
	b.eventually(`SELECT count(*) FROM liftcare_trial.service_call WHERE opened = '2025-12-03T05:30:00Z'`, 1)
	b.until(`document.body.innerText.includes('Dec 3, 2025, 2:30 PM')`, "the list shows another time")
	var zones []string
	if err := s.db.Select(&zones, `SELECT DISTINCT zone FROM plainpath.person ORDER BY 1`); err != nil ||
		len(zones) != 2 || zones[1] != "Asia/Tokyo" {
		t.Errorf("%q, %v", zones, err)
	}
}
