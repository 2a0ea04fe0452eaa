package postgres_test

import (
	"strings"
	"testing"

	"plainpath/demo"
	"plainpath/postgres"
	"plainpath/postgres/notices"
)

// People are told something once each, with the records that were written meanwhile or not at all; a rehearsal lists
// what would be said and sends nothing.
func TestPeopleAreTold(t *testing.T) {
	r := newRehearsing(t, "dana")
	told := func(who string) notices.Notices {
		t.Helper()
		n, err := notices.Of(t.Context(), r.db, postgres.Caller{App: demo.App, Space: postgres.Trial,
			Person: personID(t, r.db, who)})
		if err != nil {
			t.Fatal(err)
		}
		return n
	}
	const call = `{"key":"ask","kind":"screen","screen":{"bands":[{"columns":[{"parts":[{"key":"lift","kind":"input","label":"Lift","input":{"type":"reference","object":"lift","required":true}},
		{"key":"problem","kind":"input","label":"Problem","input":{"type":"long_text"}}]}]}]}},
		{"key":"tell","kind":"notify","notify":{"roles":["dispatcher","service_manager"],"people":"ask.lift.building.customer.account_manager","text":"{ask.lift.serial_number}: {ask.problem}","record":"ask.lift"}},`
	r.add("tell", call+`{"key":"done","kind":"finish","finish":{"message":"told"}}`)
	r.add("refuse", call+`{"key":"call","kind":"add","add":{"object":"lift","values":[{"field":"serial_number","value":{"expression":"ask.lift.serial_number"}},
		{"field":"building","value":{"expression":"ask.lift.building"}}]}},{"key":"done","kind":"finish","finish":{"message":"told"}}`)
	gave := given(t, "ask", "lift", map[string]any{"id": 7}, "problem", "stuck")
	done, err := r.play("tell", false, gave)
	if err != nil || !done.View.Closed {
		t.Fatalf("%+v, %v", done, err)
	}
	entry := done.Trace[1]
	if !strings.Contains(entry.Note, "told to Dana Merrowdale, ") || len(entry.Values) != 1 ||
		strings.Count(entry.Note, "Mara Stillwater") != 1 ||
		!strings.HasSuffix(entry.Values[0].Value, ": stuck") {
		t.Errorf("the trace says %+v", entry)
	}
	if _, err := r.play("refuse", true, gave); err == nil {
		t.Error("a second lift of a serial number was added")
	}
	for _, who := range []string{"dana", "mara"} {
		if n := told(who); len(n.Notices) > 0 || n.Unread > 0 {
			t.Errorf("%s was told in a rehearsal: %+v", who, n)
		}
	}
	for range 2 {
		if _, err := r.play("tell", true, gave); err != nil {
			t.Fatal(err)
		}
	}
	n := told("dana")
	if len(n.Notices) != 2 || n.Unread != 2 || n.Notices[0].Object != "lift" || n.Notices[0].Record != 7 ||
		!strings.HasSuffix(n.Notices[0].Text.String(), ": stuck") || n.Notices[0].ID < n.Notices[1].ID {
		t.Errorf("dana was told %+v", n)
	}
	if err := notices.Read(t.Context(), r.db, postgres.Caller{App: demo.App, Space: postgres.Trial,
		Person: personID(t, r.db, "dana")}, n.Notices[1].ID); err != nil {
		t.Fatal(err)
	}
	if n = told("dana"); n.Unread != 1 || n.Notices[0].Read || !n.Notices[1].Read || told("mara").Unread != 2 ||
		len(told("bo").Notices) > 0 {
		t.Errorf("after one was read: %+v", n)
	}
}
