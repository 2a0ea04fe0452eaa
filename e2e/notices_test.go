package e2e

import (
	"testing"
)

// Who reports a fault has the dispatchers told: they see it without asking, read it once, and it leads to the call.
func TestDispatchersAreTold(t *testing.T) {
	t.Parallel() // most of it is waiting
	s := newSite(t)
	dana := s.browser(t)
	dana.signIn("Dana Merrowdale")
	dana.pressIn("button", "Notices")
	dana.see("Nobody has told you anything.")
	b := s.browser(t)
	b.signIn("Mara Stillwater")
	b.pressIn("button", "Report a fault")
	b.pick("Lift", "QL-10", "QL-10")
	b.enter("What happens?", "The bell rings by itself")
	b.press("Report")
	b.see("Thank you.")
	dana.open("/use")
	dana.see("What would you like to do?")
	dana.until(`[...document.querySelectorAll('header button')].some((x) => x.getAttribute('aria-label') === 'Notices, 1 of them new')`,
		"there is nothing new")
	dana.pressIn("button", "Notices, 1 of them new")
	dana.see("is reported: The bell rings by itself, lift QL-1")
	dana.axe("notices")
	dana.pressIn("a", "is reported: The bell rings by itself")
	dana.see("The bell rings by itself")
	dana.until(`location.pathname.startsWith('/use/record/service_call/')`, "it does not lead to the call")
	dana.until(`[...document.querySelectorAll('header button')].some((x) => x.getAttribute('aria-label') === 'Notices')`,
		"what was read is still new")
	if n := s.count(t, `SELECT count(*) FROM plainpath.notice`); n != s.count(t, `SELECT count(*) FROM plainpath.member WHERE app = 'liftcare' AND space = 'production' AND 'dispatcher' = ANY(roles)`) {
		t.Errorf("%d people were told", n)
	}
}
