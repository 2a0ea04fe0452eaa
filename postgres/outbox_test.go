package postgres_test

import (
	"testing"

	"plainpath/demo"
	"plainpath/postgres"
	"plainpath/postgres/documents"
	"plainpath/postgres/imports"
	"plainpath/testdb"
)

// Work in the background is in the queue when what makes it necessary is stored, and not where that is
// taken back at the last moment.
func TestWorkIsQueuedWithWhatMakesItNecessary(t *testing.T) {
	db := testdb.New(t)
	b := &bringer{t, db, &imports.Intakes{DB: db, Editions: documents.NewEditions(db)},
		postgres.Caller{App: demo.App, Space: postgres.Trial, Person: personID(t, db, "bo")}}
	queued := func() (n int) {
		if err := db.Get(&n, `SELECT count(*) FROM plainpath.river_job WHERE kind = 'intake'`); err != nil {
			t.Fatal(err)
		}
		return n
	}
	if _, err := db.Exec(`CREATE FUNCTION plainpath.no() RETURNS trigger LANGUAGE plpgsql AS $$ BEGIN RAISE 'not now'; END $$;
		CREATE CONSTRAINT TRIGGER no AFTER UPDATE ON plainpath.intake DEFERRABLE INITIALLY DEFERRED FOR EACH ROW WHEN (NEW.state = 'analysing') EXECUTE FUNCTION plainpath.no()`); err != nil {
		t.Fatal(err)
	}
	body := []byte("Name,Size\nA,1\n")
	in, err := b.intakes.Begin(t.Context(), b.place, []imports.UploadFile{{Name: "a.csv", Size: int64(len(body))}})
	if err != nil {
		t.Fatal(err)
	}
	if _, err := b.intakes.Part(t.Context(), b.place, in.ID, 0, 0, body); err == nil || queued() != 0 {
		t.Errorf("%v, and %d are queued", err, queued())
	}
	if _, err := db.Exec(`DROP TRIGGER no ON plainpath.intake`); err != nil {
		t.Fatal(err)
	}
	if _, err := b.intakes.Part(t.Context(), b.place, in.ID, 0, 0, body); err != nil || queued() != 1 {
		t.Errorf("%v, and %d are queued", err, queued())
	}
}
