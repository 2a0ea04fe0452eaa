package postgres_test

import (
	"errors"
	"fmt"
	"strings"
	"testing"

	"plainpath/core/act"
)

const everyEngineer = `{"key":"all","kind":"search","search":{"object":"engineer","where":{}}},`

// What refers to records is changed with one statement, however it is named; those with none are passed over
// or stop it, as the builder says, and the trace says who has how many.
func TestWhatRefersToRecordsIsChanged(t *testing.T) {
	r := newRehearsing(t, "mara")
	engineers := count(t, r.db, `SELECT count(*) FROM liftcare_trial.engineer`)
	badges := count(t, r.db, `SELECT count(*) FROM liftcare_trial.badge`)
	r.db.MustExec(`DELETE FROM liftcare_trial.badge WHERE id IN (SELECT id FROM liftcare_trial.badge ORDER BY id LIMIT 2)`)
	badges -= 2
	change := func(none string) string {
		return everyEngineer + `{"key":"theirs","kind":"change","change":{"of":"all","their":{"object":"badge","field":"engineer"` +
			none + `},"item":"each","values":[{"field":"suspended","value":{"literal":true}},
			{"field":"reason","value":{"expression":"\"of \" + each.engineer.name"}}]}},{"key":"done","kind":"finish","finish":{"message":"{size(theirs)}"}}`
	}
	r.add("suspend", change(""))
	history := count(t, r.db, `SELECT count(*) FROM liftcare_trial.history`)
	done, err := r.play("suspend", true)
	if err != nil || done.View.Message.String() != fmt.Sprint(badges) {
		t.Fatalf("%q, %v; want %d", done.View.Message, err, badges)
	}
	if n := count(t, r.db, `SELECT count(*) FROM liftcare_trial.badge b JOIN liftcare_trial.engineer e ON e.id = b.engineer
		WHERE b.suspended AND b.reason = 'of ' || e.first_name || ' ' || e.last_name`); n != badges {
		t.Errorf("%d badges are suspended with their engineer's name, want %d", n, badges)
	}
	if n := count(t, r.db, `SELECT count(*) FROM liftcare_trial.history`) - history; n != badges {
		t.Errorf("the history has %d entries more, want %d", n, badges)
	}
	want := fmt.Sprintf("one set of %d: %[1]d engineers have %[1]d badges; %[2]d have none", badges,
		engineers-badges)
	if e := done.Trace[1]; e.Note != want || int(e.Written) != badges {
		t.Errorf("%q, want %q", e.Note, want)
	}

	r.add("strict", change(`,"none":"stop"`))
	var refused *act.RefusedError
	if _, err := r.play("strict", true); !errors.As(err, &refused) || !strings.Contains(refused.Text,
		fmt.Sprintf("The badges could not be changed: %d engineers have no badge. Nothing was written.", engineers-badges)) {
		t.Errorf("%v", err)
	}
}

// What refers to a record that is removed keeps it, goes with it or refers to nothing any more, as the builder says.
func TestRemovingSaysWhatBecomesOfWhatRefers(t *testing.T) {
	r := newRehearsing(t, "mara")
	r.db.MustExec(`INSERT INTO liftcare_trial.customer (name, status) SELECT 'Gone ' || n, 'active' FROM generate_series(1, 2) n`)
	r.db.MustExec(`INSERT INTO liftcare_trial.contact (customer, first_name, last_name) SELECT c.id, 'Of', c.name || n FROM liftcare_trial.customer c, generate_series(1, 3) n WHERE c.name LIKE 'Gone %'`)
	remove := func(referring string) string {
		return `{"key":"old","kind":"search","search":{"object":"customer","where":{"field":"name","op":"starts_with","value":{"literal":"Gone"}}}},
			{"key":"gone","kind":"remove","remove":{"of":"old"` + referring + `}},{"key":"done","kind":"finish","finish":{"message":"{gone} gone"}}`
	}
	r.add("kept", remove(""))
	var refused *act.RefusedError
	if _, err := r.play("kept", true); !errors.As(err, &refused) ||
		!strings.Contains(refused.Text, "could not be removed") {
		t.Errorf("%v", err)
	}
	r.db.MustExec(`UPDATE liftcare_trial.building SET key_holder = (SELECT min(id) FROM liftcare_trial.contact WHERE first_name = 'Of') WHERE id IN (SELECT id FROM liftcare_trial.building LIMIT 2)`)
	r.add("theirs", remove(`,"their":{"object":"contact","field":"customer"},"referring":[{"object":"building","field":"key_holder","then":"empty"}]`))
	holders := count(t, r.db, `SELECT count(key_holder) FROM liftcare_trial.building`)
	done, err := r.play("theirs", false)
	if err != nil || done.View.Message.String() != "6 gone" {
		t.Fatalf("%q, %v", done.View.Message, err)
	}
	if e := done.Trace[1]; e.Note != "6 contacts removed: 2 customers have 6 contacts; 2 buildings no longer refer to them" {
		t.Errorf("%q", e.Note)
	}
	if n := count(t, r.db, `SELECT count(key_holder) FROM liftcare_trial.building`); n != holders {
		t.Errorf("a rehearsal left %d key holders of %d", n, holders)
	}
	r.db.MustExec(`UPDATE liftcare_trial.building SET key_holder = NULL WHERE key_holder IN (SELECT id FROM liftcare_trial.contact WHERE first_name = 'Of')`)
	r.add("with", remove(`,"referring":[{"object":"contact","field":"customer","then":"remove"}]`))
	contacts := count(t, r.db, `SELECT count(*) FROM liftcare_trial.contact`)
	done, err = r.play("with", true)
	if err != nil || done.View.Message.String() != "2 gone" {
		t.Fatalf("%q, %v", done.View.Message, err)
	}
	if e := done.Trace[1]; e.Note != "2 customers removed; 6 contacts removed with them" {
		t.Errorf("%q", e.Note)
	}
	if n := count(t, r.db, `SELECT count(*) FROM liftcare_trial.contact`); n != contacts-6 {
		t.Errorf("%d contacts are left, want %d", n, contacts-6)
	}
	if n := count(t, r.db, `SELECT count(*) FROM liftcare_trial.customer WHERE name LIKE 'Gone %'`); n != 0 {
		t.Errorf("%d customers are left", n)
	}
}
