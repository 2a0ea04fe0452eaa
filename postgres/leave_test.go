package postgres_test

import (
	"encoding/json"
	"errors"
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"plainpath/core/access"
	"plainpath/core/definition"
	"plainpath/core/model"
	"plainpath/core/records"
	"plainpath/demo"
	"plainpath/postgres"
	"plainpath/postgres/accounts"
	"plainpath/postgres/drafts"
	"plainpath/postgres/repository"
)

// rowRules are row rules with what they are in SQL.
var rowRules = map[string]string{
	`{"field":"kind","op":"is","value":{"literal":"goods"}}`:                                                         `l.kind = 'goods'`,
	`{"field":"state","op":"is_not","value":{"literal":"running"}}`:                                                  `l.state IS DISTINCT FROM 'running'`,
	`{"field":"building.name","op":"contains","value":{"literal":"house"}}`:                                          `b.name ILIKE '%house%'`,
	`{"expression":"record.serial_number.endsWith(\"7\")"}`:                                                          `l.serial_number LIKE '%7'`,
	`{"any":[{"field":"label","op":"is_empty"},{"field":"serial_number","op":"contains","value":{"literal":"11"}}]}`: `(l.label IS NULL OR l.serial_number LIKE '%11%')`,
	``: `TRUE`,
}

// randomRole is a role over lifts, made at random, with what its rule is in SQL.
func randomRole(r *rand.Rand, key string) (access.Role, string) {
	rules := []string{}
	for rule := range rowRules {
		rules = append(rules, rule)
	}
	slices.Sort(rules)
	rule := rules[r.IntN(len(rules))]
	yes := func() bool { return r.IntN(2) == 0 }
	right := access.Right{See: r.IntN(4) > 0, Add: yes(), Change: yes(), Remove: yes(),
		Fields: map[string]access.FieldRight{}}
	if rule != "" {
		right.Rows = &model.Condition{}
		if err := json.Unmarshal([]byte(rule), right.Rows); err != nil {
			panic(err)
		}
	}
	if yes() {
		right.Fields["model"] = access.FieldRight{Fixed: true}
	}
	return access.Role{Key: key, Label: key, Objects: map[string]access.Right{"lift": right, "building": {See: true},
		"customer": {See: true}}}, rowRules[rule]
}

// What several roles of a person allow adds up, each over the records of its own rule: nobody
// changes or takes away what only another of their roles shows them, sets a field that is fixed in
// the role that lets them change the record, or adds what the role that lets them add does not
// hold. The explanation of rights says the same.
func TestEachRoleAllowsWhatItAllowsOverItsOwnRecords(t *testing.T) {
	o := newOffice(t)
	ctx := t.Context()
	r := rand.New(rand.NewPCG(44, 6))
	bo := o.place
	person, err := accounts.AddPerson(ctx, o.db, accounts.NewPerson{Name: "Two Roles", Email: "two@quillmere.example"},
		"x")
	if err != nil {
		t.Fatal(err)
	}
	o.place.Person = person
	allowed, refused := map[string]int{}, map[string]int{}
	for round := range 12 {
		var keys, see []string
		may := map[string][]string{}
		for n := range 1 + r.IntN(3) {
			role, sql := randomRole(r, fmt.Sprintf("any%d_%d", round, n))
			raw, err := json.Marshal(role)
			if err != nil {
				t.Fatal(err)
			}
			if err := drafts.AddDocument(ctx, o.db, demo.App, bo.Person, definition.Document{Kind: definition.Role,
				Key: role.Key, Body: raw}); err != nil {
				t.Fatal(err)
			}
			keys = append(keys, role.Key)
			right := role.Objects["lift"]
			for what, ok := range map[string]bool{"add": right.Add, "change": right.Change, "remove": right.Remove,
				"model": right.Change && !right.Fields["model"].Fixed} {
				if ok {
					may[what] = append(may[what], sql)
				}
			}
			if right.See {
				see = append(see, sql)
			}
		}
		if err := accounts.Join(ctx, o.db, demo.App, postgres.Trial, person, keys, 0); err != nil {
			t.Fatal(err)
		}
		holds := func(id int64, of []string) bool {
			return len(of) > 0 && count(t, o.db,
				`SELECT count(*) FROM liftcare_trial.lift l LEFT JOIN liftcare_trial.building b ON b.id = l.building WHERE l.id = $1 AND (`+strings.Join(of, " OR ")+`)`, id) == 1
		}
		// same holds what was done, or why not, against what should be.
		same := func(doing string, id int64, err error, want bool) {
			t.Helper()
			var not *records.ProblemsError
			if err != nil && !errors.As(err, &not) && !errors.Is(err, postgres.ErrNotFound) {
				t.Fatalf("%v %s lift %d: %v", keys, doing, id, err)
			}
			if (err == nil) != want {
				t.Fatalf("roles %v, see %v, may %v: %s lift %d: %v, want %t", keys, see, may, doing, id, err, want)
			}
			if want {
				allowed[doing]++
			} else {
				refused[doing]++
			}
		}
		for range 14 {
			id := int64(1 + r.IntN(400))
			sees, change := holds(id, see), holds(id, may["change"])
			_, err := o.records.Record(ctx, o.place, "lift", id)
			same("see", id, err, sees)
			why, err := o.records.Why(ctx, bo, repository.WhyQuestion{Person: person, Object: "lift", Record: id})
			if err != nil || why.Sees != sees || why.Change != (sees && change) ||
				why.Remove != (sees && holds(id, may["remove"])) {
				t.Fatalf("roles %v of lift %d: explained as %+v, %v; sees %t, may %v", keys, id, why, err, sees, may)
			}
			if sees {
				form, err := o.records.Form(ctx, o.place, "lift", id)
				if err != nil || form.MayChange != why.Change || form.MayRemove != why.Remove {
					t.Fatalf("roles %v of lift %d: the form says %t and %t, the explanation %+v, %v", keys, id,
						form.MayChange, form.MayRemove, why, err)
				}
			}
			_, err = o.save("lift", id, fmt.Sprintf(`{"stops":%d}`, 2+r.IntN(20)), "")
			same("change", id, err, sees && change)
			_, err = o.save("lift", id, fmt.Sprintf(`{"model":"M%d"}`, r.IntN(1000)), "")
			same("model", id, err, sees && holds(id, may["model"]))
			// What the builder adds is like what the person tries to add.
			like := fmt.Sprintf(`%d-%d","building":{"id":%d},"kind":%q,"state":%q,"label":"x"}`, round, r.IntN(100000),
				1+r.IntN(60), []string{"goods", "passenger"}[r.IntN(2)], []string{"running", "stopped"}[r.IntN(2)])
			o.place = bo
			twin, err := o.save("lift", 0, `{"serial_number":"T`+like, "")
			if err != nil {
				t.Fatal(err)
			}
			o.place.Person = person
			_, err = o.save("lift", 0, `{"serial_number":"U`+like, "")
			same("add", twin.ID, err, holds(twin.ID, may["add"]) && holds(twin.ID, see))
			gone := holds(twin.ID, see) && holds(twin.ID, may["remove"])
			same("remove", twin.ID, o.records.Remove(ctx, o.place, "lift", twin.ID), gone)
		}
	}
	for _, doing := range []string{"see", "change", "model", "add", "remove"} {
		if allowed[doing] < 10 || refused[doing] < 10 {
			t.Errorf("%s: %d times allowed, %d refused: the test tries too little", doing, allowed[doing],
				refused[doing])
		}
	}
}
