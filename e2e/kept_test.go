package e2e

import (
	"testing"
)

// A rehearsal is kept with what came of it, holds until something changes, says what is otherwise, and stops a release
// unless a reason is given, which is kept with it.
func TestARehearsalIsKept(t *testing.T) {
	t.Parallel() // most of it is waiting
	s := newSite(t)
	b := s.browser(t)
	b.signIn("Bo Lindqvale")
	b.open("/build/walkthrough/report_a_fault")
	b.see("Screen 1 of 1")
	b.pick("Lift", "QL-10037", "QL-10037")
	b.enter("What happens?", "It hums")
	b.press("Report")
	b.see("Finished")
	b.enter("Keep what was rehearsed, as", "A humming lift")
	b.press("Keep it")
	b.see("Kept.")
	b.press("Run all")
	b.see("3 of 3 as expected")
	if n := s.count(t, `SELECT count(*) FROM plainpath.document WHERE key = 'report_a_fault' AND body->'examples'->2->>'name' = 'A humming lift'
		AND body->'examples'->2->'given'->0->'answers'->'lift' = '{"label": "QL-10037"}'`); n != 1 {
		t.Error("the lift is not kept by what it is called")
	}

	s.db.MustExec(`UPDATE liftcare_trial.lift SET serial_number = 'QL-1' WHERE serial_number = 'QL-10037'`)
	b.press("Run all")
	b.see("2 of 3 as expected")
	b.see("there is no lift “QL-10037” to choose")
	b.press("Release…")
	b.see("1 of 11 kept rehearsals does not come out as expected")
	b.until(`[...document.querySelectorAll('button')].find((e) => e.innerText.trim() === 'Release 2')?.disabled`,
		"it can be released without a reason")
	b.enter("It is released all the same, because", "That lift has a new number")
	b.enter("Note", "Kept")
	b.press("Release 2")
	b.see("Release 2 is in force")
	b.open("/build")
	b.see("released despite kept rehearsals: That lift has a new number")

	s.db.MustExec(`UPDATE liftcare_trial.lift SET serial_number = 'QL-10037' WHERE serial_number = 'QL-1'`)
	s.db.MustExec(`UPDATE plainpath.document SET revision = revision + 1,
		body = jsonb_set(body, '{steps,3,finish,message}', '"Thanks."') WHERE key = 'report_a_fault'`)
	b.open("/build/walkthrough/report_a_fault")
	b.press("Run all")
	b.see("1 of 3 as expected")
	b.see("Thanks.")
	b.press("What comes of it now is right")
	b.see("2 of 3 as expected")
	b.press("What comes of it now is right")
	b.see("3 of 3 as expected")
	b.press("Run all")
	b.see("3 of 3 as expected")
}
