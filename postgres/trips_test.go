package postgres_test

import (
	"context"
	"fmt"
	"strings"
	"sync"
	"testing"

	"github.com/jackc/pgx/v5"

	"plainpath/demo"
	"plainpath/postgres"
	"plainpath/postgres/documents"
	pgruns "plainpath/postgres/runs"
	"plainpath/testdb"
)

// trips notes every statement that is sent and waited for.
type trips struct {
	mu   sync.Mutex
	sent []string
}

func (t *trips) TraceQueryStart(ctx context.Context, _ *pgx.Conn, q pgx.TraceQueryStartData) context.Context {
	t.mu.Lock()
	defer t.mu.Unlock()
	if !strings.HasPrefix(q.SQL, "-- ping") {
		t.sent = append(t.sent, q.SQL)
	}
	return ctx
}

func (t *trips) TraceQueryEnd(context.Context, *pgx.Conn, pgx.TraceQueryEndData) {}

// Each answer of a walkthrough waits for the database no more often than it must: nine times, and where it writes as
// often as that takes today.
func TestRoundTripsOfAnAnswer(t *testing.T) {
	config, err := pgx.ParseConfig(testdb.Address(t))
	if err != nil {
		t.Fatal(err)
	}
	seen := &trips{}
	config.Tracer = seen
	db, err := postgres.Connect(t.Context(), config, 4)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { _ = db.Close() })
	runs := &pgruns.Runs{DB: db, Editions: documents.NewEditions(db)}
	dana := personID(t, db, "dana")
	place, name := building(t, db)
	for round := range 2 { // the second time what is kept is warm
		run, err := runs.Start(t.Context(), demo.App, "book_a_visit", nil, dana, fmt.Sprint("start", round))
		if err != nil {
			t.Fatal(err)
		}
		step := func(screen string, most int, pairs ...any) {
			t.Helper()
			seen.sent = nil
			next, err := runs.Answer(t.Context(), run.ID, dana, run.Revision, fmt.Sprint(round, screen), screen,
				answers(t, pairs...))
			if err != nil {
				t.Fatal(err)
			}
			run = next
			if round > 0 && len(seen.sent) > most {
				t.Errorf("%s takes %d round trips, want at most %d:\n%s", screen, len(seen.sent), most,
					strings.Join(seen.sent, "\n"))
			}
		}
		step("which", 9, "part", name)
		step("choose_building", 8, "building", map[string]any{"id": place})
		lifts := tableOf(t, run.View).Rows.Rows
		step("choose_lifts", 9, "lifts", []map[string]any{{"id": lifts[0].ID}, {"id": lifts[1].ID}}, "certificate",
			"electrical")
		engineer := tableOf(t, run.View).Rows.Rows[0].ID
		step("choose_engineer", 9, "engineer", map[string]any{"id": engineer}, "starts", "2027-01-05T09:30:00Z",
			"minutes", 45)
	}
}
