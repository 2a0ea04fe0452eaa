// Command bench measures Plain Path against the same work written by hand in SQL
// through the same driver, and writes docs/benchmarks.md.
package main

import (
	"context"
	"fmt"
	"log"
	"net/url"
	"os"
	"runtime"
	"slices"
	"strings"
	"time"

	"github.com/jmoiron/sqlx"

	"plainpath/demo"
	"plainpath/store"
)

const calls = 1_000_000

func main() {
	if err := run(context.Background()); err != nil {
		log.Fatal(err)
	}
}

func run(ctx context.Context) error {
	server := os.Getenv("PLAINPATH_TEST_DATABASE")
	admin, err := sqlx.Open("pgx", server)
	if err != nil {
		return err
	}
	name := fmt.Sprintf("plainpath_bench_%d", time.Now().Unix())
	if _, err := admin.ExecContext(ctx, "CREATE DATABASE "+name); err != nil {
		return err
	}
	defer func() { _, _ = admin.Exec("DROP DATABASE " + name + " WITH (FORCE)") }()
	u, err := url.Parse(server)
	if err != nil {
		return err
	}
	u.Path = "/" + name
	db, err := store.Open(ctx, u.String(), 1) // one connection, so that settings of a session hold
	if err != nil {
		return err
	}
	defer func() { _ = db.Close() }()
	if err := db.Migrate(ctx); err != nil {
		return err
	}
	db.SetMaxOpenConns(4)
	if err := demo.Install(ctx, db); err != nil {
		return err
	}
	db.SetMaxOpenConns(1)
	log.Printf("making %d service calls …", calls)
	if err := large(ctx, db, calls); err != nil {
		return err
	}
	db.SetMaxOpenConns(4)

	results, err := measure(ctx, db, u.String())
	if err != nil {
		return err
	}
	return report(results)
}

// result is one line of the report.
type result struct {
	work        string
	ours, byOne time.Duration
	against     string
	atMost      string
	note        string
}

// pair times two pieces of work in turn and gives the medians.
func pair(rounds int, ours, theirs func() error) (time.Duration, time.Duration, error) {
	var a, b []time.Duration
	for i := range rounds + 3 {
		for _, side := range []struct {
			work func() error
			took *[]time.Duration
		}{{ours, &a}, {theirs, &b}} {
			start := time.Now()
			if err := side.work(); err != nil {
				return 0, 0, err
			}
			if i >= 3 { // the first are for warming up
				*side.took = append(*side.took, time.Since(start))
			}
		}
	}
	return median(a), median(b), nil
}

func median(d []time.Duration) time.Duration {
	slices.Sort(d)
	return d[len(d)/2]
}

func report(results []result) error {
	var b strings.Builder
	fmt.Fprintf(&b, "# Benchmarks\n\nMade by `make bench` on %s: %d cores, Go %s, PostgreSQL on the same machine, %d service calls.\n",
		time.Now().Format(time.DateOnly), runtime.NumCPU(), strings.TrimPrefix(runtime.Version(), "go"), calls)
	b.WriteString("Medians; both sides ran in turn in one run. “By hand” is the same work in SQL through the same driver.\n\n")
	b.WriteString("| Work | Plain Path | Against | Ratio | Wanted | |\n|---|---|---|---|---|---|\n")
	for _, r := range results {
		ratio := "–"
		if r.byOne > 0 {
			ratio = fmt.Sprintf("%.2f ×", float64(r.ours)/float64(r.byOne))
		}
		against := r.against
		if r.byOne > 0 {
			against += ": " + show(r.byOne)
		}
		fmt.Fprintf(&b, "| %s | %s | %s | %s | %s | %s |\n", r.work, show(r.ours), against, ratio, r.atMost, r.note)
	}
	b.WriteString("\nNot measured yet: the first page in the browser, the keyword search from key press to rows, the plot over 10³ … 10⁶ records.\n")
	fmt.Print(b.String())
	return os.WriteFile("docs/benchmarks.md", []byte(b.String()), 0o644)
}

func show(d time.Duration) string {
	if d == 0 {
		return "–"
	}
	if d < 10*time.Microsecond {
		return fmt.Sprintf("%.2f µs", float64(d.Nanoseconds())/1000)
	}
	return fmt.Sprintf("%.2f ms", float64(d.Nanoseconds())/1e6)
}
