package postgres_test

import (
	"testing"
	"time"

	"plainpath/testdb"
)

// What is over is removed in the background, as long after as the settings say; the rest stays.
func TestWhatHasExpiredIsRemoved(t *testing.T) {
	db := testdb.New(t)
	dana := personID(t, db, "dana")
	for _, sql := range []string{
		`INSERT INTO plainpath.session (token_hash, person, csrf, expires_at) SELECT decode(lpad(n::text, 8, '0'), 'hex'), $1, 'x', now() + CASE WHEN n <= 40 THEN interval '-1 minute' ELSE interval '1 hour' END FROM generate_series(1, 50) n`,
		`INSERT INTO plainpath.sign_in (email, at, ok) SELECT 'x@quillmere.example', now() - n * interval '10 days', false FROM generate_series(1, 20) n WHERE $1 > 0`,
		`INSERT INTO plainpath.request (person, key, at) SELECT $1, n::text, now() - n * interval '1 hour' FROM generate_series(1, 30) n`,
		`INSERT INTO plainpath.outgoing (app, space, person, ask, created_at) SELECT 'liftcare', 'trial', $1, '{}', now() - n * interval '1 hour' FROM generate_series(1, 30) n`,
		`INSERT INTO plainpath.device (token_hash, person, expires_at) SELECT sha256(n::text::bytea), $1, now() + (n - 5) * interval '1 hour' FROM generate_series(1, 9) n`,
	} {
		if _, err := db.Exec(sql, dana); err != nil {
			t.Fatal(err)
		}
	}
	db.Keep.Attempts = 60 * 24 * time.Hour
	testdb.Jobs(t, db)
	for deadline := time.Now().Add(2 * time.Minute); ; time.Sleep(50 * time.Millisecond) {
		var left string
		if err := db.Get(&left, `SELECT concat_ws(' ', (SELECT count(*) FROM plainpath.session), (SELECT count(*) FROM plainpath.sign_in), (SELECT count(*) FROM plainpath.request),
			(SELECT count(*) FROM plainpath.outgoing), (SELECT count(*) FROM plainpath.device))`); err != nil {
			t.Fatal(err)
		}
		if left == "10 5 23 23 4" {
			return
		}
		if time.Now().After(deadline) {
			t.Fatalf("sessions, tries, requests, files and browsers: %s", left)
		}
	}
}
