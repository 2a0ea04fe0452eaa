// Package testdb gives each test a database of its own with the demo in it, copied
// from a template that is made once.
package testdb

import (
	"context"
	"crypto/sha256"
	"fmt"
	"io/fs"
	"log/slog"
	"net/url"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"plainpath/postgres"
	"plainpath/postgres/jobs"
	"plainpath/postgres/migrate"

	"github.com/jmoiron/sqlx"

	"plainpath/demo"
)

// connections is how many a test has: as few as show it when work that holds one waits for more.
const connections = 2

// New is a database with the demo in it, dropped when the test ends.
func New(t testing.TB) *postgres.DB {
	t.Helper()
	db, err := postgres.Open(t.Context(), Address(t), connections)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { _ = db.Close() })
	return db
}

// Jobs carries out the work in the background of a database until the test ends.
func Jobs(t testing.TB, db *postgres.DB) *jobs.Jobs {
	t.Helper()
	jobs, err := jobs.Work(context.Background(), db, slog.New(slog.DiscardHandler))
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() {
		ctx, cancel := context.WithTimeout(context.Background(), 10*time.Second)
		defer cancel()
		_ = jobs.Stop(ctx)
	})
	return jobs
}

// Address is the address of such a database.
func Address(t testing.TB) string {
	t.Helper()
	return copied(t, func(admin *sqlx.DB, server string) (string, error) {
		return ensureTemplate(t.Context(), admin,
			server)
	})
}

// Empty is the address of a database with nothing in it.
func Empty(t testing.TB) string {
	t.Helper()
	return copied(t, func(*sqlx.DB, string) (string, error) { return "template0", nil })
}

// copied is the address of a copy of a database, dropped when the test ends.
func copied(t testing.TB, of func(admin *sqlx.DB, server string) (string, error)) string {
	t.Helper()
	server := Server(t)
	admin, err := sqlx.Open("pgx", server)
	if err != nil {
		t.Fatal(err)
	}
	template, err := of(admin, server)
	if err != nil {
		t.Fatal(err)
	}
	name := fmt.Sprintf("plainpath_test_%d_%d", os.Getpid(), time.Now().UnixNano())
	if _, err := admin.ExecContext(t.Context(), "CREATE DATABASE "+name+" TEMPLATE "+template); err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { // after the test's own context has ended
		_, _ = admin.Exec("DROP DATABASE IF EXISTS " + name + " WITH (FORCE)")
		_ = admin.Close()
	})
	return inDatabase(server, name)
}

// Root is the folder of the checkout.
func Root(t testing.TB) string {
	t.Helper()
	dir, err := os.Getwd()
	if err != nil {
		t.Fatal(err)
	}
	for dir != filepath.Dir(dir) {
		if _, err := os.Stat(filepath.Join(dir, "go.mod")); err == nil {
			return dir
		}
		dir = filepath.Dir(dir)
	}
	t.Fatal("the checkout was not found")
	return ""
}

// Server is the address of the PostgreSQL that tests use, started when it is not running.
func Server(t testing.TB) string {
	t.Helper()
	if s := os.Getenv("PLAINPATH_TEST_DATABASE"); s != "" {
		return s
	}
	out, err := exec.CommandContext(t.Context(), filepath.Join(Root(t), "scripts", "postgres"), "start",
		"test").Output()
	if err != nil {
		t.Fatalf("starting PostgreSQL: %v", err)
	}
	return strings.TrimSpace(string(out))
}

func inDatabase(server, name string) string {
	u, err := url.Parse(server)
	if err != nil {
		panic(err)
	}
	u.Path = "/" + name
	return u.String()
}

// ensureTemplate makes the template unless one from the same code and day is there.
// Packages tested side by side wait for each other.
func ensureTemplate(ctx context.Context, admin *sqlx.DB, server string) (string, error) {
	name, err := templateName()
	if err != nil {
		return "", err
	}
	conn, err := admin.Connx(ctx)
	if err != nil {
		return "", err
	}
	defer func() { _ = conn.Close() }()
	if _, err := conn.ExecContext(ctx, "SELECT pg_advisory_lock(42)"); err != nil {
		return "", err
	}
	defer func() { _, _ = conn.ExecContext(ctx, "SELECT pg_advisory_unlock(42)") }()
	var ready bool
	if err := conn.GetContext(ctx, &ready,
		"SELECT EXISTS (SELECT 1 FROM pg_database WHERE datname = $1 AND datistemplate)", name); err != nil || ready {
		return name, err
	}
	if err := dropOthers(ctx, conn); err != nil {
		return "", err
	}
	for _, sql := range []string{"DROP DATABASE IF EXISTS " + name + " WITH (FORCE)", "CREATE DATABASE " + name} {
		if _, err := conn.ExecContext(ctx, sql); err != nil {
			return "", err
		}
	}
	if err := fill(ctx, inDatabase(server, name)); err != nil {
		return "", err
	}
	_, err = conn.ExecContext(ctx, "ALTER DATABASE "+name+" IS_TEMPLATE true")
	return name, err
}

func fill(ctx context.Context, address string) error {
	db, err := postgres.Open(ctx, address, 4)
	if err != nil {
		return err
	}
	defer func() { _ = db.Close() }()
	if err := migrate.Migrate(ctx, db); err != nil {
		return err
	}
	return demo.Install(ctx, db)
}

// templateName holds the day and a digest of the code that makes the demo.
func templateName() (string, error) {
	sum := sha256.New()
	program, err := os.Executable()
	if err != nil {
		return "", err
	}
	built, err := os.Stat(program)
	if err != nil {
		return "", err
	}
	root, err := os.Getwd()
	if err != nil {
		return "", err
	}
	for {
		if _, err := os.Stat(filepath.Join(root, "go.mod")); err == nil {
			break
		}
		root = filepath.Dir(root)
	}
	other := ""
	for _, dir := range []string{"core", "postgres", "demo"} {
		err := filepath.WalkDir(filepath.Join(root, dir), func(path string, d fs.DirEntry, err error) error {
			if err != nil || d.IsDir() || strings.HasSuffix(path, "_test.go") {
				return err
			}
			// this program is of other code
			if info, err := d.Info(); err == nil && info.ModTime().After(built.ModTime()) {
				other = fmt.Sprint("_", built.ModTime().UnixNano())
			}
			raw, err := os.ReadFile(path)
			sum.Write(raw)
			return err
		})
		if err != nil {
			return "", err
		}
	}
	return fmt.Sprintf("%s%s_%x%s", templates, time.Now().Format("20060102"), sum.Sum(nil)[:6], other), nil
}

const templates = "plainpath_demo_"

// dropOthers drops the templates of other days, and all but the latest of today: each takes room.
func dropOthers(ctx context.Context, conn *sqlx.Conn) error {
	var old []string
	if err := conn.SelectContext(ctx, &old, `SELECT datname FROM pg_database WHERE datname LIKE $1 || '%' AND datname NOT LIKE $1 || $2 || '%'
		UNION ALL (SELECT datname FROM pg_database WHERE datname LIKE $1 || $2 || '%' ORDER BY oid DESC OFFSET 4)`, templates, time.Now().Format("20060102")); err != nil {
		return err
	}
	for _, name := range old {
		for _, sql := range []string{"ALTER DATABASE " + name + " IS_TEMPLATE false", "DROP DATABASE IF EXISTS " +
			name} {
			if _, err := conn.ExecContext(ctx, sql); err != nil {
				break // a run from before midnight is still at it; the next one drops it
			}
		}
	}
	return nil
}
