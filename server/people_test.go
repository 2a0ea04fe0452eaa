package server_test

import (
	"fmt"
	"net/http"
	"slices"
	"strings"
	"testing"

	"plainpath/core/definition"
	"plainpath/core/value"
	"plainpath/demo"
	"plainpath/postgres"
	"plainpath/postgres/accounts"
	"plainpath/postgres/repository"
	"plainpath/server"
	"plainpath/testdb"
)

// do sends a request and checks the status.
func do(t *testing.T, c *testdb.Client, method, path string, body any, want int, out any) {
	t.Helper()
	var raw string
	if out == nil {
		out = &raw
	}
	if status, err := c.Do(method, path, body, "", out); err != nil || status != want {
		t.Fatalf("%s %s: %d %s %v, want %d", method, path, status, raw, err, want)
	}
}

// tokenIn is the token in a link to choose a password.
func tokenIn(t *testing.T, link string) string {
	t.Helper()
	token, ok := strings.CutPrefix(link, "/password/")
	if !ok {
		t.Fatalf("%q leads nowhere", link)
	}
	return token
}

// reset resets somebody's password and gives the token of the link.
func reset(t *testing.T, bo *testdb.Client, id int64) string {
	t.Helper()
	var p server.PersonView
	do(t, bo, "POST", fmt.Sprintf("/api/build/people/%d/reset", id), nil, 200, &p)
	return tokenIn(t, p.Link)
}

func TestInvitingResettingAndShuttingOut(t *testing.T) {
	_, base := serve(t)
	bo := testdb.SignIn(t, base, "bo@quillmere.example")
	nobody := &testdb.Client{Base: base, HTTP: http.DefaultClient}
	change := accounts.AccountChange{Name: "Nell Ferrow", Email: "nell@quillmere.example", Active: true,
		Spaces: []accounts.MembershipView{{Space: "production", Roles: []string{"owners_desk"}, Organisation: 5},
			{Space: "trial", Roles: []string{"dispatcher"}}}}
	var all server.InvitedView
	do(t, bo, "POST", "/api/build/people", change, 201, &all)
	var nell accounts.AccountView
	for _, p := range all.People.People {
		if p.Email == change.Email {
			nell = p
		}
	}
	if nell.ID == 0 || nell.LastSignIn != nil || nell.Spaces[0].OrganisationLabel == "" ||
		nell.Spaces[1].Roles[0] != "dispatcher" {
		t.Fatalf("%+v", nell)
	}
	do(t, bo, "POST", "/api/build/people", change, 422, nil) // the address is taken
	bad := change
	bad.Email, bad.Spaces = "nell",
		[]accounts.MembershipView{{Space: "trial", Roles: []string{"nobody"}, Organisation: 999_999}}
	var problem string
	if status, err := bo.Do("POST", "/api/build/people", bad, "", &problem); err != nil || status != 422 {
		t.Errorf("%d, %v", status, err)
	}
	for _, says := range []string{"an e-mail address", "no role \\\"nobody\\\"", "belong to in trial"} {
		if !strings.Contains(problem, says) {
			t.Errorf("%q does not say %q", problem, says)
		}
	}

	first := tokenIn(t, all.Link)
	do(t, nobody, "POST", "/api/password", map[string]string{"token": first, "password": "too short"}, 422, nil)
	const words = "seven ropes and a bell"
	do(t, nobody, "POST", "/api/password", map[string]string{"token": first, "password": words}, 204, nil)
	do(t, nobody, "POST", "/api/password", map[string]string{"token": first, "password": words}, 410, nil) // once only
	sign := func(password string, want int) *testdb.Client {
		t.Helper()
		c := testdb.SignIn(t, base, "dana@quillmere.example") // a client with a jar of its own
		var me struct{ CSRF string }
		do(t, c, "POST", "/api/session", map[string]string{"email": change.Email, "password": password}, want, &me)
		c.CSRF = me.CSRF
		return c
	}
	sign(demo.Password, 401)
	her := sign(words, 200)
	do(t, her, "GET", "/api/use/home", nil, 200, nil)

	// A reset ends her session and the old password; so does shutting her out.
	again := reset(t, bo, nell.ID)
	do(t, her, "GET", "/api/use/home", nil, 401, nil)
	sign(words, 401)
	do(t, nobody, "POST", "/api/password", map[string]string{"token": again, "password": words + "s"}, 204, nil)
	her = sign(words+"s", 200)
	change.Active = false
	do(t, bo, "PUT", fmt.Sprintf("/api/build/people/%d", nell.ID), change, 200, nil)
	do(t, her, "GET", "/api/use/home", nil, 401, nil)
	sign(words+"s", 401)
	do(t, bo, "POST", fmt.Sprintf("/api/build/people/%d/reset", nell.ID), nil, 404, nil) // nothing to reset
	change.Active = true
	do(t, bo, "PUT", fmt.Sprintf("/api/build/people/%d", nell.ID), change, 200, nil)
	last := reset(t, bo, nell.ID)
	change.Active = false
	do(t, bo, "PUT", fmt.Sprintf("/api/build/people/%d", nell.ID), change, 200, nil)
	do(t, nobody, "POST", "/api/password", map[string]string{"token": last, "password": words}, 410, nil)
	var history server.PersonView
	do(t, bo, "GET", fmt.Sprintf("/api/build/people/%d", nell.ID), nil, 200, &history)
	if n := len(history.SignIns); n != 5 {
		t.Errorf("%d tries to sign in are listed, want 5", n)
	}
	var me struct{ ID int64 }
	do(t, bo, "GET", "/api/session", nil, 200, &me)
	do(t, bo, "PUT", fmt.Sprintf("/api/build/people/%d", me.ID),
		accounts.AccountChange{Name: "Bo", Email: "bo@quillmere.example", Active: false}, 422, nil)
}

// The label of a customer may be worked out by the program, which the table has no
// column for.
func TestOrganisationsByALabelThatIsWorkedOut(t *testing.T) {
	_, base := serve(t)
	bo := testdb.SignIn(t, base, "bo@quillmere.example")
	var d definition.Document
	do(t, bo, "GET", "/api/build/documents/object/customer", nil, 200, &d)
	called := map[string]any{"key": "called", "label": "Called", "type": "worked_out", "result": "text",
		"expression": `name + (credit_limit > money("0", "EUR") ? ", on account" : "")`}
	edit := map[string]any{"base": d.Revision,
		"patch": []any{map[string]any{"op": "add", "path": "/fields/-", "value": called},
			map[string]any{"op": "replace", "path": "/label_field", "value": "called"}}}
	do(t, bo, "PATCH", "/api/build/documents/object/customer", edit, 200, nil)
	var all server.PeopleView
	do(t, bo, "GET", "/api/build/people", nil, 200, &all)
	seen := false
	for _, p := range all.People {
		for _, s := range p.Spaces {
			seen = seen || s.Space == postgres.Trial && strings.Contains(s.OrganisationLabel, ", on account")
		}
	}
	if !seen {
		t.Errorf("%+v", all.People)
	}
}

// A builder sees what somebody else sees, and can change nothing meanwhile.
func TestSeeingAsSomebodyElse(t *testing.T) {
	db, base := serve(t)
	bo := testdb.SignIn(t, base, "bo@quillmere.example")
	dana := testdb.SignIn(t, base, "dana@quillmere.example")
	var orla int64
	if err := db.Get(&orla, `SELECT id FROM plainpath.person WHERE email LIKE 'orla@%'`); err != nil {
		t.Fatal(err)
	}
	var mine, theirs server.CountView
	buildings := map[string]any{"at": map[string]any{"object": "building"}, "look": map[string]any{}}
	do(t, bo, "POST", "/api/build/spaces/trial/tables/count", buildings, 200, &mine)
	bo.As, dana.As = fmt.Sprint(orla), fmt.Sprint(orla)
	do(t, bo, "POST", "/api/build/spaces/trial/tables/count", buildings, 200, &theirs)
	var want int64
	if err := db.Get(&want, `SELECT count(*) FROM liftcare_trial.building WHERE customer = 5`); err != nil {
		t.Fatal(err)
	}
	if mine.Total != 120 || theirs.Total != want {
		t.Errorf("Bo sees %d buildings, Orla %d of %d", mine.Total, theirs.Total, want)
	}
	var home server.HomeView
	do(t, bo, "GET", "/api/use/home", nil, 200, &home)
	if len(home.Walkthroughs) != 1 || home.Walkthroughs[0].Key != "report_a_fault" {
		t.Errorf("her home: %+v", home.Walkthroughs)
	}
	do(t, bo, "POST", "/api/use/runs", map[string]string{"walkthrough": "report_a_fault"}, 403, nil)
	do(t, dana, "GET", "/api/use/home", nil, 403, nil)
}

// Why somebody may see a record is said condition by condition; the matrix counts.
func TestRightsAreExplained(t *testing.T) {
	db, base := serve(t)
	bo := testdb.SignIn(t, base, "bo@quillmere.example")
	var orla, own, strange int64
	if err := db.QueryRow(`SELECT (SELECT id FROM plainpath.person WHERE email LIKE 'orla@%'), (SELECT min(id) FROM liftcare_trial.building WHERE customer = 5),
		(SELECT min(id) FROM liftcare_trial.building WHERE customer <> 5)`).Scan(&orla, &own, &strange); err != nil {
		t.Fatal(err)
	}
	for id, sees := range map[int64]bool{own: true, strange: false} {
		var why repository.WhyView
		do(t, bo, "POST", "/api/build/spaces/trial/why", repository.WhyQuestion{Person: orla, Object: "building",
			Record: id}, 200, &why)
		if why.Sees != sees || why.Change || len(why.Roles) != 1 || len(why.Roles[0].Why) != 1 ||
			why.Roles[0].Why[0].Holds != sees || why.Roles[0].Why[0].Looked == nil {
			t.Errorf("%+v", why)
		}
	}
	var rights repository.RightsView
	do(t, bo, "GET", "/api/build/rights", nil, 200, &rights)
	if len(rights.Objects) != 18 || len(rights.Roles) != 6 {
		t.Fatalf("%d objects, %d roles", len(rights.Objects), len(rights.Roles))
	}
	for _, row := range rights.Objects {
		for i, cell := range row.Cells {
			if (cell.Sees > 0) && !cell.See || cell.Sees > row.Total || cell.See && !cell.Ruled &&
				cell.Sees != row.Total {
				t.Errorf("%s for %s: %+v of %d", row.Object, rights.Roles[i].Key, cell, row.Total)
			}
		}
	}
}

// Whoever is from outside is offered nobody but whom they know of.
func TestPeopleAreNotListedOutside(t *testing.T) {
	db, base := serve(t)
	orla, dana := testdb.SignIn(t, base, "orla@customer05.example"), testdb.SignIn(t, base, "dana@quillmere.example")
	offered := func(c *testdb.Client) []int64 {
		t.Helper()
		var refs []value.Ref
		do(t, c, "POST", "/api/use/tables/options",
			map[string]any{"at": map[string]any{"page": map[string]any{"page": "buildings", "part": "buildings",
				"given": map[string]any{}}}, "path": "customer.account_manager"}, 200, &refs)
		var out []int64
		for _, r := range refs {
			out = append(out, r.ID)
		}
		slices.Sort(out)
		return out
	}
	var known []int64
	if err := db.Select(&known,
		`SELECT 6 UNION SELECT account_manager FROM liftcare_production.customer WHERE id = 5 AND account_manager IS NOT NULL ORDER BY 1`); err != nil {
		t.Fatal(err)
	}
	if got := offered(dana); len(got) != 6 {
		t.Errorf("Dana is offered %v", got)
	}
	if got := offered(orla); !slices.Equal(got, known) || len(got) > 3 {
		t.Errorf("Orla is offered %v, want %v", got, known)
	}
}

// A document of the draft that the program cannot read is named in Build, and shuts nobody out of Use.
func TestADocumentThatCannotBeRead(t *testing.T) {
	db, base := serve(t)
	bo, dana := testdb.SignIn(t, base, "bo@quillmere.example"), testdb.SignIn(t, base, "dana@quillmere.example")
	if _, err := db.Exec(`UPDATE plainpath.document SET body = body || '{"hologram": true}', revision = revision + 1 WHERE kind = 'page' AND key = 'calls'`); err != nil {
		t.Fatal(err)
	}
	var says string
	do(t, bo, "GET", "/api/build/contents", nil, 422, &says)
	if !strings.Contains(says, "cannot read the document page/calls") || !strings.Contains(says, "hologram") {
		t.Error(says)
	}
	do(t, dana, "GET", "/api/use/home", nil, 200, nil)
	do(t, testdb.SignIn(t, base, "dana@quillmere.example"), "GET", "/api/session", nil, 200, nil)
}
