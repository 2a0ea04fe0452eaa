package postgres_test

import (
	"slices"
	"testing"

	"plainpath/postgres"
)

// Records are found anywhere by what they are called: some of each object, and only those that somebody may see.
func TestAnywhere(t *testing.T) {
	o := newOffice(t)
	o.place.Space = postgres.Production
	for who, own := range map[string]string{"dana": `TRUE`, "orla": `b.customer = 5`} {
		o.place.Person = personID(t, o.db, who)
		var want []int64
		if err := o.db.Select(&want, `SELECT l.id FROM liftcare_production.lift l JOIN liftcare_production.building b ON b.id = l.building
			WHERE l.serial_number LIKE '%QL-1%' AND `+own+` ORDER BY l.serial_number, l.id LIMIT 4`); err != nil {
			t.Fatal(err)
		}
		found, err := o.records.Anywhere(t.Context(), o.place, "ql-1", nil)
		if err != nil {
			t.Fatal(err)
		}
		var got []int64
		for _, r := range found {
			if r.Object == "lift" && r.Kind == "Lift" {
				got = append(got, r.ID)
			}
		}
		if !slices.Equal(got, want) {
			t.Errorf("%s finds the lifts %v, want %v", who, got, want)
		}
		several, err := o.records.Anywhere(t.Context(), o.place, "er", nil)
		kinds := map[string]int{}
		for _, r := range several {
			kinds[r.Object]++
		}
		if err != nil || len(several) > 12 || who == "dana" && len(kinds) < 3 {
			t.Errorf("%s finds %v, %v", who, kinds, err)
		}
		for object, n := range kinds {
			if n > 4 {
				t.Errorf("%s finds %d of %s", who, n, object)
			}
		}
		if few, err := o.records.Anywhere(t.Context(), o.place, " q ", nil); err != nil || len(few) > 0 {
			t.Errorf("one letter finds %v, %v", few, err)
		}
	}
}
