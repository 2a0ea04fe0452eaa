package main

import (
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"plainpath/testdb"
)

// tool is a program of PostgreSQL, which Debian does not put where programs are looked for.
func tool(t *testing.T, name string) string {
	t.Helper()
	if path, err := exec.LookPath(name); err == nil {
		return path
	}
	found, err := filepath.Glob("/usr/lib/postgresql/*/bin/" + name)
	if err != nil || len(found) == 0 {
		t.Fatalf("%s is not there", name)
	}
	return found[len(found)-1]
}

func do(t *testing.T, name string, args ...string) {
	t.Helper()
	if out, err := exec.CommandContext(t.Context(), tool(t, name), args...).CombinedOutput(); err != nil {
		t.Fatalf("%s: %v\n%s", name, err, out)
	}
}

// A dump that was taken while people worked is restored as docs/operating.md says, and serves.
func TestBackupAndRestore(t *testing.T) {
	database, again := testdb.Address(t), testdb.Empty(t)
	s := serveAt(t, database)
	address := "http://" + s.waits(t, served)[1]
	dana := testdb.SignIn(t, address, "dana@quillmere.example")
	var run struct{ ID string }
	if status, err := dana.Do("POST", "/api/use/runs", map[string]string{"walkthrough": "book_a_visit"}, "start",
		&run); err != nil || status != 201 {
		t.Fatal(status, err)
	}
	dump := filepath.Join(t.TempDir(), "plainpath.dump")
	do(t, "pg_dump", "--format=custom", "--file="+dump, database)
	do(t, "pg_restore", "--no-owner", "--dbname="+again, dump)
	if out := says(t, again, "fine   release 1, which is in force", "check"); strings.Contains(out, "WRONG") {
		t.Error(out)
	}
	first, second := t.TempDir(), t.TempDir()
	says(t, database, "documents are in", "export", first)
	says(t, again, "documents are in", "export", second)
	same(t, first, second)
	restored := serveAt(t, again)
	there := testdb.SignIn(t, "http://"+restored.waits(t, served)[1], "dana@quillmere.example")
	if status, err := there.Do("GET", "/api/use/runs/"+run.ID, nil, "", nil); err != nil || status != 200 {
		t.Errorf("the walkthrough that was begun: %d %v", status, err)
	}
}

// A database of an earlier version of the program is brought up to date with all that is in it. The
// dumps in testdata are small ones that earlier versions made.
func TestDatabasesOfEarlierVersions(t *testing.T) {
	dumps, err := filepath.Glob("testdata/*.sql.gz")
	if err != nil || len(dumps) == 0 {
		t.Fatal("there are no dumps", err)
	}
	for _, dump := range dumps {
		t.Run(filepath.Base(dump), func(t *testing.T) {
			database := testdb.Empty(t)
			raw, err := os.Open(dump)
			if err != nil {
				t.Fatal(err)
			}
			defer func() { _ = raw.Close() }()
			unpack := exec.CommandContext(t.Context(), "gunzip", "-c")
			unpack.Stdin = raw
			text, err := unpack.Output()
			if err != nil {
				t.Fatal(err)
			}
			load := exec.CommandContext(t.Context(), tool(t, "psql"), "-q", "-v", "ON_ERROR_STOP=1", database)
			load.Stdin = strings.NewReader(string(text))
			if out, err := load.CombinedOutput(); err != nil {
				t.Fatalf("%v\n%s", err, out)
			}
			fails(t, database, "earlier version of the program", "check")
			s := serveAt(t, database)
			address := "http://" + s.waits(t, served)[1]
			if out := says(t, database, "which is in force", "check"); strings.Contains(out, "WRONG") {
				t.Error(out)
			}
			// Its people, records, files, unfinished walkthroughs and history are there.
			bo := testdb.SignIn(t, address, "bo@quillmere.example")
			for _, path := range []string{"/api/build/contents", "/api/build/people", "/api/build/audit",
				"/api/build/release", "/api/build/rights", "/api/build/spaces/trial/objects/lift/records/1"} {
				var body string
				if status, err := bo.Do("GET", path, nil, "", &body); err != nil || status != http.StatusOK {
					t.Errorf("%s: %d %.300s %v", path, status, body, err)
				}
			}
			dana := testdb.SignIn(t, address, "dana@quillmere.example")
			var home struct{ Open []struct{ ID string } }
			if status, err := dana.Do("GET", "/api/use/home", nil, "", &home); err != nil || status != 200 ||
				len(home.Open) != 1 {
				t.Fatalf("home: %d %v, %d walkthroughs are open", status, err, len(home.Open))
			}
			if status, err := dana.Do("GET", "/api/use/runs/"+home.Open[0].ID, nil, "", nil); err != nil ||
				status != 200 {
				t.Errorf("an unfinished walkthrough: %d %v", status, err)
			}
			var rows struct{ Total int }
			ask := map[string]any{"at": map[string]any{"page": map[string]any{"page": "calls", "part": "calls",
				"given": map[string]any{}}}, "look": map[string]any{}}
			for deadline := time.Now().Add(20 * time.Second); ; time.Sleep(200 * time.Millisecond) {
				status, err := dana.Do("POST", "/api/use/tables/count", ask, "", &rows)
				if err == nil && status == 200 && rows.Total > 0 {
					break
				}
				if time.Now().After(deadline) {
					t.Fatalf("calls: %d %v, %d", status, err, rows.Total)
				}
			}
			// What buttons did before there were acts, they do still.
			var page struct{ Rows []struct{ ID int64 } }
			planned := map[string]any{"filter": []any{map[string]any{"field": "state", "op": "is",
				"value": map[string]any{"literal": "planned"}}}}
			if status, err := dana.Do("POST", "/api/use/tables/rows", map[string]any{"at": ask["at"], "look": planned},
				"", &page); err != nil || status != 200 || len(page.Rows) == 0 {
				t.Fatalf("planned calls: %d %v", status, err)
			}
			var done struct{ Changed int }
			press := map[string]any{"at": ask["at"], "button": "done",
				"chosen": map[string]any{"keys": []int64{page.Rows[0].ID}}}
			if status, err := dana.Do("POST", "/api/use/press", press, "press-1", &done); err != nil || status != 200 ||
				done.Changed != 1 {
				t.Errorf("pressing: %d %v, %d changed", status, err, done.Changed)
			}
			s.stop(t)
		})
	}
}
