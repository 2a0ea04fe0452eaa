package server_test

import (
	"log/slog"
	"net"
	"strings"
	"testing"
	"time"

	"github.com/gofiber/fiber/v3"

	"plainpath/demo"
	"plainpath/server"
	"plainpath/testdb"
)

// A request whose time is over ends, in the database as well, and says what would help; others
// are answered meanwhile and afterwards.
func TestRequestsEndWhenTheirTimeIsOver(t *testing.T) {
	db := testdb.New(t)
	app := server.New(server.Config{DB: db, Jobs: testdb.Jobs(t, db), App: demo.App, Log: slog.New(slog.DiscardHandler),
		Limits: server.Limits{Reading: 300 * time.Millisecond}})
	ln, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	go func() { _ = app.Listener(ln, fiber.ListenConfig{DisableStartupMessage: true}) }()
	t.Cleanup(func() { _ = app.ShutdownWithTimeout(time.Second) })
	dana := testdb.SignIn(t, "http://"+ln.Addr().String(), "dana@quillmere.example")
	ask := map[string]any{"at": map[string]any{"object": "service_call"}, "look": map[string]any{}}

	// Nobody can read the calls while somebody else holds their table.
	holder, err := db.Connx(t.Context())
	if err != nil {
		t.Fatal(err)
	}
	for _, sql := range []string{`BEGIN`, `LOCK TABLE liftcare_production.service_call IN ACCESS EXCLUSIVE MODE`} {
		if _, err := holder.ExecContext(t.Context(), sql); err != nil {
			t.Fatal(err)
		}
	}
	var body string
	status, err := dana.Do("POST", "/api/use/tables/rows", ask, "", &body)
	if err != nil || status != 504 || !strings.Contains(body, "took too long") || !strings.Contains(body, "fewer conditions") {
		t.Errorf("%d %s %v", status, body, err)
	}
	waiting := 1
	for range 50 { // the database hears of it a moment later
		if err := holder.GetContext(t.Context(), &waiting, `SELECT count(*) FROM pg_stat_activity WHERE datname = current_database() AND wait_event_type = 'Lock'`); err != nil || waiting == 0 {
			break
		}
		time.Sleep(20 * time.Millisecond)
	}
	if waiting != 0 {
		t.Errorf("%d statements go on in the database", waiting)
	}
	ask["at"] = map[string]any{"object": "building"}
	if status, err := dana.Do("POST", "/api/use/tables/rows", ask, "", &body); err != nil || status != 200 {
		t.Errorf("another table meanwhile: %d %s %v", status, body, err)
	}
	if _, err := holder.ExecContext(t.Context(), `ROLLBACK`); err != nil {
		t.Fatal(err)
	}
	if err := holder.Close(); err != nil {
		t.Fatal(err)
	}
	ask["at"] = map[string]any{"object": "service_call"}
	if status, err := dana.Do("POST", "/api/use/tables/rows", ask, "", &body); err != nil || status != 200 {
		t.Errorf("the table afterwards: %d %s %v", status, body, err)
	}
}
