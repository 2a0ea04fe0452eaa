package store_test

import (
	"testing"
	"time"

	"plainpath/testdb"
)

// Sessions that have ended and old attempts to sign in are removed in the background; those that
// hold stay.
func TestWhatHasExpiredIsRemoved(t *testing.T) {
	db := testdb.New(t)
	dana := personID(t, db, "dana")
	for _, sql := range []string{
		`INSERT INTO plainpath.session (token_hash, person, csrf, expires_at) SELECT decode(lpad(n::text, 8, '0'), 'hex'), $1, 'x', now() + CASE WHEN n <= 40 THEN interval '-1 minute' ELSE interval '1 hour' END FROM generate_series(1, 50) n`,
		`INSERT INTO plainpath.sign_in (email, at, ok) SELECT 'x@quillmere.example', now() - n * interval '10 days', false FROM generate_series(1, 20) n WHERE $1 > 0`,
	} {
		if _, err := db.Exec(sql, dana); err != nil {
			t.Fatal(err)
		}
	}
	testdb.Jobs(t, db)
	for deadline := time.Now().Add(2 * time.Minute); ; time.Sleep(50 * time.Millisecond) {
		sessions, attempts := count(t, db, `SELECT count(*) FROM plainpath.session`), count(t, db, `SELECT count(*) FROM plainpath.sign_in`)
		if sessions == 10 && attempts == 8 {
			return
		}
		if time.Now().After(deadline) {
			t.Fatalf("%d sessions, %d attempts", sessions, attempts)
		}
	}
}
