package store_test

import (
	"errors"
	"fmt"
	"strings"
	"testing"

	"plainpath/core/act"
)

// Records are changed and removed in a walkthrough as they are added: a record, a list and what a search
// finds, each with one statement; what was done is known to what follows, on a later screen, too.
func TestRecordsAreChangedAndRemovedInAWalkthrough(t *testing.T) {
	r := newRehearsing(t, "mara")
	const ask = `{"key":"ask","kind":"screen","screen":{"bands":[{"columns":[{"parts":[{"key":"word","kind":"input","label":"Word","input":{"type":"text"}}]}]}]}},`
	const then = `{"key":"then","kind":"screen","screen":{"bands":[{"columns":[{"parts":[{"key":"said","kind":"text","text":"{size(raised)} of {total}"}]}]}]}},`
	r.add("raise", ask+`{"key":"dear","kind":"search","search":{"object":"repair_package","where":{"field":"price","op":"more_or_equal","value":{"literal":{"amount":"500","currency":"EUR"}}}}},
		{"key":"total","kind":"work_out","work_out":{"value":"size(dear) * 10"}},
		{"key":"raised","kind":"change","change":{"of":"dear","item":"each","values":[{"field":"price","value":{"expression":"each.price + each.price"}},{"field":"name","value":{"expression":"each.name + ask.word"}}]}},`+then+`
		{"key":"one","kind":"change","change":{"of":"first(raised)","values":[{"field":"name","value":{"expression":"\"Only \" + text(total)"}}]}},
		{"key":"done","kind":"finish","finish":{"message":"{size(raised)} of {total}: {one.name}"}}`)
	const dear = `SELECT count(*) FROM liftcare_trial.repair_package WHERE price >= 500`
	many := count(t, r.db, dear)
	history := count(t, r.db, `SELECT count(*) FROM liftcare_trial.history`)
	before := map[int64]string{}
	names(t, r, before)
	done, err := r.play("raise", true, given(t, "ask", "word", " now"), given(t, "then"))
	if want := fmt.Sprintf("%d of %d: Only %[2]d", many, many*10); err != nil || done.View.Message.String() != want || many < 3 {
		t.Fatalf("%q, %v; want %q", done.View.Message, err, want)
	}
	after := map[int64]string{}
	names(t, r, after)
	changed := 0
	for id, was := range before {
		is := after[id]
		name, price, _ := strings.Cut(was, "|")
		if is == was {
			continue
		}
		changed++
		if want := name + " now|" + price; strings.Split(is, "|")[0] != name+" now" && !strings.HasPrefix(is, "Only ") {
			t.Errorf("%s became %s, want %s and twice the price", was, is, want)
		}
	}
	if changed != many {
		t.Errorf("%d are changed, want %d", changed, many)
	}
	if n := count(t, r.db, `SELECT count(*) FROM liftcare_trial.history`) - history; n != many+1 {
		t.Errorf("the history has %d entries more, want %d", n, many+1)
	}
	for _, e := range done.Trace {
		if e.Step == "raised" && (int(e.Written) != many || e.Note != fmt.Sprintf("one set of %d", many)) {
			t.Errorf("%+v", e)
		}
	}

	// One that does not fit keeps all from being changed, and is told in words.
	r.add("same", `{"key":"all","kind":"search","search":{"object":"repair_package","where":{}}},
		{"key":"named","kind":"change","change":{"of":"all","values":[{"field":"name","value":{"literal":"Same"}}]}},{"key":"done","kind":"finish","finish":{"message":"x"}}`)
	var write *act.RefusedError
	if _, err := r.play("same", true); !errors.As(err, &write) || write.Step != "named" || !strings.Contains(write.Text, "could not be changed: there is a repair package with the same Name already. Nothing was written.") {
		t.Errorf("%v", err)
	}

	// What others refer to stays, and is told; the rest goes, and only so many as a search is limited to.
	r.add("away", `{"key":"two","kind":"search","search":{"object":"repair_package","where":{"field":"name","op":"contains","value":{"literal":"Spare"}},"order":[{"path":"name"}],"limit":2}},
		{"key":"gone","kind":"remove","remove":{"of":"two"}},{"key":"done","kind":"finish","finish":{"message":"{gone} gone"}}`)
	r.db.MustExec(`INSERT INTO liftcare_trial.repair_package (name, price, price_currency) SELECT 'Spare ' || n, 1, 'EUR' FROM generate_series(1, 3) n`)
	if done, err := r.play("away", true); err != nil || done.View.Message.String() != "2 gone" {
		t.Errorf("%q, %v", done.View.Message, err)
	}
	if n := count(t, r.db, `SELECT count(*) FROM liftcare_trial.repair_package WHERE name IN ('Spare 1', 'Spare 2', 'Spare 3')`); n != 1 {
		t.Errorf("%d of three are left, want one", n)
	}
}

func names(t *testing.T, r *rehearsing, into map[int64]string) {
	t.Helper()
	var rows []struct {
		ID         int64
		Name, Cost string
	}
	if err := r.db.Select(&rows, `SELECT id, name, price::text AS cost FROM liftcare_trial.repair_package`); err != nil {
		t.Fatal(err)
	}
	for _, row := range rows {
		into[row.ID] = row.Name + "|" + row.Cost
	}
}
