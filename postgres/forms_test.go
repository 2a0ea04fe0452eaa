package postgres_test

import (
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"

	"plainpath/core/model"
	"plainpath/core/records"
	"plainpath/core/table"
	"plainpath/demo"
	"plainpath/postgres"
	"plainpath/postgres/documents"
	"plainpath/postgres/repository"
	"plainpath/postgres/tables"
	"plainpath/testdb"
)

// office is somebody at the records of trial.
type office struct {
	*testing.T
	db      *postgres.DB
	records *repository.Repositories
	place   postgres.Caller
}

func newOffice(t *testing.T) *office {
	db := testdb.New(t)
	return &office{t, db, &repository.Repositories{DB: db, Editions: documents.NewEditions(db)},
		postgres.Caller{App: demo.App, Space: postgres.Trial, Person: personID(t, db, "bo")}}
}

// define puts a member into the definition of a field or object, by its path.
func (o *office) tables() *tables.Tables { return &tables.Tables{Repositories: o.records} }

// list reads the records of an object as somebody looks at them.
func (o *office) list(object string, look table.Look) (table.RowsView, error) {
	return o.tables().Rows(o.Context(), o.place, tables.TableAt{Object: object}, look, nil)
}

func (o *office) define(object, path, value string) {
	o.Helper()
	if _, err := o.db.Exec(`UPDATE plainpath.document SET body = jsonb_set(body, $2::text[], $3), revision = revision + 1 WHERE kind = 'object' AND key = $1`, object, path, value); err != nil {
		o.Fatal(err)
	}
}

func (o *office) save(object string, id int64, values, seen string) (records.FormView, error) {
	o.Helper()
	in := records.Saving{}
	for raw, into := range map[string]*map[string]json.RawMessage{values: &in.Values, seen: &in.Before} {
		if raw == "" {
			continue
		}
		if err := json.Unmarshal([]byte(raw), into); err != nil {
			o.Fatal(err)
		}
	}
	return o.records.Save(o.Context(), o.place, object, id, in)
}

// refused checks that what was wanted was not taken, and why.
func (o *office) refused(err error, pointer, says string) {
	o.Helper()
	var record *records.ProblemsError
	if !errors.As(err, &record) || !slices.ContainsFunc(record.Problems,
		func(p model.Problem) bool { return p.Pointer == pointer && strings.Contains(p.Text, says) }) {
		o.Errorf("%v; want %q at %q", err, says, pointer)
	}
}

// suitable is the candidate rule of the scenario: active engineers of the record's own
// kind of certificate that has not run out.
const suitable = `{"all":[{"field":"active","op":"is","value":{"literal":true}},
	{"related":{"object":"certificate","field":"engineer","where":{"all":[{"field":"kind","op":"is","value":{"expression":"edited.problem == \"Ropes worn\" ? \"ropes\" : \"electrical\""}},{"field":"expires_on","op":"more_or_equal","value":{"expression":"today"}}]}}}]}`

func TestRecordsAreHeldToTheirRules(t *testing.T) {
	o := newOffice(t)
	o.define("service_call", "{fields,8,candidates}", suitable)
	o.define("service_call", "{rules}",
		`[{"expression":"empty(due) || due >= date(\"2020-01-01\")","message":"it cannot have been due before 2020"}]`)
	var fit, unfit int64
	const holds = `EXISTS (SELECT 1 FROM liftcare_trial.certificate c WHERE c.engineer = e.id AND c.kind = 'ropes' AND c.expires_on >= current_date)`
	if err := o.db.QueryRow(`SELECT (SELECT min(id) FROM liftcare_trial.engineer e WHERE active AND `+holds+`), (SELECT min(id) FROM liftcare_trial.engineer e WHERE NOT (active AND `+holds+`))`).Scan(&fit, &unfit); err != nil {
		t.Fatal(err)
	}
	number := func(id int64) string { raw, _ := json.Marshal(map[string]int64{"id": id}); return string(raw) }
	call := func(engineer int64, due string) string {
		return `{"lift":{"id":1},"problem":"Ropes worn","priority":"normal","opened":"2026-01-01T10:00:00Z","due":"` +
			due + `","engineer":` + number(engineer) + `}`
	}
	for condition, why := range map[string]string{
		`NOT active`: " cannot be chosen as Engineer: “Active is yes” does not hold; Active is no",
		`active AND NOT ` + holds: " cannot be chosen as Engineer: “has a certificate (by Engineer) where Kind is Ropes and Expires on is on or after " +
			time.Now().UTC().Format(time.DateOnly) + "” does not hold",
	} {
		var who struct {
			ID   int64
			Name string
		}
		if err := o.db.Get(&who, `SELECT id, first_name || ' ' || last_name AS name FROM liftcare_trial.engineer e WHERE `+condition+` ORDER BY id LIMIT 1`); err != nil {
			t.Fatal(err)
		}
		_, err := o.save("service_call", 0, call(who.ID, "2026-02-01"), "")
		o.refused(err, "/engineer", who.Name+why)
	}
	_, err := o.save("service_call", 0, call(fit, "2019-02-01"), "")
	o.refused(err, "", "before 2020")
	_, err = o.save("service_call", 0, `{"problem":"x"}`, "")
	o.refused(err, "/lift", "is required")
	_, err = o.save("service_call", 0,
		`{"lift":{"id":99999},"problem":"x","priority":"rather","opened":"2026-01-01T10:00:00Z"}`, "")
	o.refused(err, "/priority", "choose one")
	o.refused(err, "/lift", "cannot be found")
	form, err := o.save("service_call", 0, call(fit, "2026-02-01"), "")
	if err != nil {
		t.Fatal(err)
	}

	// A change of the problem changes who is suitable: the form is told, and saving refused.
	in := repository.Editing{ID: form.ID,
		Values: map[string]json.RawMessage{"engineer": json.RawMessage(number(unfit))}}
	if p, err := o.records.Fit(t.Context(), o.place, "service_call", in); err != nil || len(p) != 1 ||
		p[0].Pointer != "/engineer" {
		t.Errorf("fit: %v, %v", p, err)
	}
	options, err := o.records.Options(t.Context(), o.place, "service_call", "engineer",
		repository.Editing{ID: form.ID}, "")
	if want := count(t, o.db, `SELECT count(*) FROM liftcare_trial.engineer e WHERE active AND `+holds); err != nil ||
		len(options) != want {
		t.Errorf("%d engineers are offered, want %d, %v", len(options), want, err)
	}
	var rule model.Condition
	if err := json.Unmarshal([]byte(suitable), &rule); err != nil {
		t.Fatal(err)
	}
	tried, err := o.records.Candidates(t.Context(), o.place, "service_call",
		repository.CandidateQuestion{Field: "engineer",
			Rule: &rule, Editing: repository.Editing{ID: form.ID}, Record: unfit})
	if err != nil || tried.Offered || tried.All != 26 || int(tried.Chosen) != len(options) || len(tried.Why) != 2 ||
		tried.Why[0].Holds && tried.Why[1].Holds {
		t.Errorf("tried: %+v, %v", tried, err)
	}
	if r := tried.Related[0]; r.Matched < r.Distinct || int(r.Matched) != count(t, o.db,
		`SELECT count(*) FROM liftcare_trial.certificate WHERE kind = 'ropes' AND expires_on >= current_date`) {
		t.Errorf("related: %+v", r)
	}
	// A rule that cannot be a search is refused with the place.
	bad := model.Condition{Field: "depot", Op: model.Is, Value: &model.Operand{Expression: "edited.deopt"}}
	if tried, err = o.records.Candidates(t.Context(), o.place, "service_call",
		repository.CandidateQuestion{Field: "engineer",
			Rule: &bad}); err != nil || len(tried.Findings) != 1 {
		t.Errorf("a rule with an unknown name: %+v, %v", tried.Findings, err)
	}

	// A value someone else changed meanwhile is not overwritten; another field is.
	if _, err := o.save("service_call", form.ID, `{"problem":"Door sticks"}`, `{"problem":"Noise"}`); err == nil {
		t.Error("a change made meanwhile was overwritten")
	} else if theirs := new(records.MeanwhileError); !errors.As(err, &theirs) ||
		string(theirs.Theirs) != `"Ropes worn"` {
		t.Errorf("%v", err)
	}
	if _, err := o.save("service_call", form.ID, `{"due":"2026-03-01"}`, `{"due":"2026-02-01"}`); err != nil {
		t.Error(err)
	}
	if n := count(t, o.db, `SELECT count(*) FROM liftcare_trial.history WHERE object = 'service_call' AND record = $1 AND person = $2 AND cause->>'by_hand' = 'yes'`, form.ID, o.place.Person); n != 2 {
		t.Errorf("%d lines of history", n)
	}
	if err := o.records.Remove(t.Context(), o.place, "lift", 1); err == nil || !strings.Contains(err.Error(),
		"still refer to it") {
		t.Errorf("removing a lift with calls: %v", err)
	}
	if err := o.records.Remove(t.Context(), o.place, "service_call", form.ID); err != nil {
		t.Error(err)
	}
}

// The profile counts what is stored.
func TestProfiles(t *testing.T) {
	o := newOffice(t)
	p, err := o.records.Profile(t.Context(), o.place, "service_call", false)
	if err != nil || p.Records != 650 || len(p.Fields) != 9 {
		t.Fatalf("%+v, %v", p, err)
	}
	for _, f := range p.Fields {
		if n := count(t, o.db, `SELECT count("`+f.Field+`") FROM liftcare_trial.service_call`); int64(n) != f.Filled ||
			len(f.Samples) == 0 {
			t.Errorf("%+v, filled %d", f, n)
		}
	}
	lift := p.Fields[1]
	if lift.Field != "lift" || !strings.HasPrefix(lift.Samples[0], "QL-") || lift.Least != "" {
		t.Errorf("a reference is shown by its label: %+v", lift)
	}
}

// Fields hidden from a role are empty to it everywhere, fixed ones cannot be set.
func TestRightsOnFields(t *testing.T) {
	o := newOffice(t)
	if _, err := o.db.Exec(`UPDATE plainpath.document SET body = jsonb_set(body, '{objects,engineer}', '{"see":true,"change":true,"fields":{"phone":{"hidden":true},"depot":{"fixed":true}}}'), revision = revision + 1 WHERE kind = 'role' AND key = 'dispatcher'`); err != nil {
		t.Fatal(err)
	}
	o.place.Person = personID(t, o.db, "dana")
	form, err := o.records.Form(t.Context(), o.place, "engineer", 1)
	if err != nil || form.Values["phone"] != nil || form.Values["depot"] == nil || !slices.Contains(form.Fixed,
		"depot") || !slices.Contains(form.Fixed, "phone") {
		t.Errorf("%+v, %v", form, err)
	}
	for field, value := range map[string]string{"phone": `"+44 1632 960001"`, "depot": `"varrow"`} {
		_, err := o.save("engineer", 1, `{"`+field+`":`+value+`}`, "")
		o.refused(err, "/"+field, "may not set")
	}
	list, err := o.list("engineer", table.Look{Text: "+44", Order: []table.LookOrder{{Path: "phone"}}})
	if err != nil || list.Total != 0 {
		t.Errorf("a hidden field can be searched: %d, %v", list.Total, err)
	}
	if list, err = o.list("engineer", table.Look{Order: []table.LookOrder{{Path: "phone"}}}); err != nil ||
		list.Total != 26 || list.Rows[0].Cells[6] != nil {
		t.Errorf("%+v, %v", list.Total, err)
	}
	calls, err := o.list("service_call", table.Look{})
	if err != nil || calls.Rows[0].Cells[8] == nil {
		t.Errorf("the engineer of a call is still named: %v", err)
	}
}

// The page of a record says what became of each field that the person may see, references by
// the name they know them by.
func TestTheHistoryOfARecord(t *testing.T) {
	db := testdb.New(t)
	repositories := &repository.Repositories{DB: db, Editions: documents.NewEditions(db)}
	for _, sql := range []string{
		`UPDATE liftcare_production.service_call SET problem = 'Hums', priority = 'high', engineer = NULL, due = '2026-05-06' WHERE id = 3`,
		`UPDATE liftcare_production.service_call SET engineer = 4, lift = 9, due = NULL WHERE id = 3`,
	} {
		db.MustExec(sql)
	}
	read := func(who string, id int64) string {
		t.Helper()
		v, err := repositories.History(t.Context(), postgres.Caller{App: demo.App, Space: postgres.Production,
			Person: personID(t, db, who)}, "service_call", id, repository.HistoryAsk{})
		if err != nil {
			t.Fatal(err)
		}
		var out []string
		for _, c := range v.Entries[0].Changes {
			out = append(out, fmt.Sprintf("%s: %v to %v", c.Heading.Label, c.Before, c.After))
		}
		return strings.Join(out, "; ")
	}
	var lift, was, engineer string
	if err := errors.Join(db.Get(&lift, `SELECT serial_number FROM liftcare_production.lift WHERE id = 9`),
		db.Get(&engineer, `SELECT first_name || ' ' || last_name FROM liftcare_production.engineer WHERE id = 4`),
		db.Get(&was, `SELECT l.serial_number FROM liftcare_production.history h JOIN liftcare_production.lift l ON l.id = (h.before->>'lift')::bigint WHERE h.object = 'service_call' AND h.record = 3 ORDER BY h.id DESC LIMIT 1`)); err != nil {
		t.Fatal(err)
	}
	if got := read("dana", 3); !strings.Contains(got, "{9 "+lift+"}") || !strings.Contains(got, was+"}") ||
		!strings.Contains(got, "Due: 2026-05-06 to <nil>") || !strings.Contains(got,
		"Engineer: <nil> to {4 "+engineer+"}") || strings.Count(got, ";") != 2 {
		t.Errorf("a dispatcher reads %s", got)
	}
	db.MustExec(`UPDATE plainpath.document SET body = jsonb_set(body, '{objects,service_call,fields}', '{"due":{"hidden":true}}'), revision = revision + 1 WHERE kind = 'role' AND key = 'dispatcher'`)
	place := postgres.Caller{App: demo.App, Space: postgres.Trial, Person: personID(t, db, "dana")}
	db.MustExec(`UPDATE liftcare_trial.service_call SET due = NULL, priority = 'low', problem = 'Hums' WHERE id = 3`)
	v, err := repositories.History(t.Context(), place, "service_call", 3, repository.HistoryAsk{})
	if err != nil || len(v.Entries[0].Changes) == 0 {
		t.Fatalf("%+v, %v", v, err)
	}
	for _, c := range v.Entries[0].Changes {
		if c.Heading.Label == "Due" {
			t.Error("the history tells what became of a hidden field")
		}
	}
	if _, err := repositories.History(t.Context(), place, "service_call", 3,
		repository.HistoryAsk{Field: "due"}); !errors.Is(err, postgres.ErrNotFound) {
		t.Errorf("the changes of a hidden field: %v", err)
	}
}

// What happened to a record is read a part at a time, and of its changes those of one field, by any key that it had.
func TestTheHistoryIsReadInParts(t *testing.T) {
	o := newOffice(t)
	for n := range 120 {
		o.db.MustExec(`UPDATE liftcare_trial.customer SET notes = $1 WHERE id = 3`, fmt.Sprint("Note ", n))
		if n%40 == 0 {
			o.db.MustExec(`UPDATE liftcare_trial.customer SET name = $1 WHERE id = 3`, fmt.Sprint("Name ", n))
		}
	}
	read := func(ask repository.HistoryAsk) repository.HistoryPage {
		t.Helper()
		page, err := o.records.History(t.Context(), o.place, "customer", 3, ask)
		if err != nil {
			t.Fatal(err)
		}
		return page
	}
	var all []repository.HistoryView
	for page := read(repository.HistoryAsk{}); ; page = read(repository.HistoryAsk{Before: all[len(all)-1].ID}) {
		if all = append(all, page.Entries...); !page.More {
			break
		}
	}
	n := count(t, o.db, `SELECT count(*) FROM liftcare_trial.history WHERE object = 'customer' AND record = 3`)
	if len(all) != n {
		t.Errorf("%d entries were read, there are %d", len(all), n)
	}
	named := read(repository.HistoryAsk{Field: "name"})
	if !slices.ContainsFunc(named.Fields, func(h table.HeadingView) bool { return h.Path == "name" }) {
		t.Errorf("changes of the name cannot be asked for: %+v", named.Fields)
	}
	var to []string
	for _, e := range named.Entries {
		for _, c := range e.Changes {
			to = append(to, fmt.Sprint(c.Heading.Label, " ", c.After))
		}
	}
	if got := strings.Join(to, ", "); got != "Name Name 80, Name Name 40, Name Name 0" || named.More {
		t.Errorf("changes of the name: %s", got)
	}
	for _, ask := range []repository.HistoryAsk{{Field: "nothing"}, {Field: "name'); --"}} {
		_, err := o.records.History(t.Context(), o.place, "customer", 3, ask)
		if !errors.Is(err, postgres.ErrNotFound) {
			t.Errorf("%+v: %v", ask, err)
		}
	}
	if _, err := o.records.History(t.Context(), o.place, "customer", 99_999,
		repository.HistoryAsk{}); !errors.Is(err, postgres.ErrNotFound) {
		t.Errorf("a record that is not there: %v", err)
	}
}
