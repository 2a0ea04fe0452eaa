// Command bench measures Plain Path against the same work written by hand in SQL
// through the same driver, and writes docs/benchmarks.md.
package main

import (
	"context"
	"flag"
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
	"plainpath/postgres"
	"plainpath/postgres/migrate"
)

const calls = 1_000_000

func main() {
	only := flag.String("only", "", "what is measured, by name, with commas between; the report is printed and not kept")
	size := flag.Int("calls", calls, "how many service calls there are")
	flag.Parse()
	var err error
	if *only == "" {
		err = run(context.Background())
	} else {
		err = some(context.Background(), *size, strings.Split(*only, ","))
	}
	if err != nil {
		log.Fatal(err)
	}
}

// some measures a few things and prints them.
func some(ctx context.Context, size int, only []string) error {
	w, err := newWorld(ctx, os.Getenv("PLAINPATH_TEST_DATABASE"), size)
	if err != nil {
		return err
	}
	defer w.drop()
	results, err := measure(ctx, w.db, w.address, only)
	if err != nil {
		return err
	}
	fmt.Print(written(results))
	return nil
}

func run(ctx context.Context) error {
	server := os.Getenv("PLAINPATH_TEST_DATABASE")
	var grown []growth
	for _, size := range sizes[:len(sizes)-1] {
		w, err := newWorld(ctx, server, size)
		if err != nil {
			return err
		}
		g, err := w.grow(ctx)
		w.drop()
		if err != nil {
			return fmt.Errorf("%d service calls: %w", size, err)
		}
		grown = append(grown, g)
	}
	w, err := newWorld(ctx, server, calls)
	if err != nil {
		return err
	}
	defer w.drop()
	g, err := w.grow(ctx)
	if err != nil {
		return err
	}
	results, err := measure(ctx, w.db, w.address, nil)
	if err != nil {
		return err
	}
	return report(results, append(grown, g))
}

// world is a database with the demo and many service calls.
type world struct {
	db      *postgres.DB
	address string
	size    int
	drop    func()
}

func newWorld(ctx context.Context, server string, size int) (*world, error) {
	admin, err := sqlx.Open("pgx", server)
	if err != nil {
		return nil, err
	}
	name := fmt.Sprintf("plainpath_bench_%d_%d", time.Now().Unix(), size)
	if _, err := admin.ExecContext(ctx, "CREATE DATABASE "+name); err != nil {
		return nil, err
	}
	w := &world{size: size, drop: func() {
		_, _ = admin.Exec("DROP DATABASE " + name + " WITH (FORCE)")
		_ = admin.Close()
	}}
	if err := w.fill(ctx, server, name); err != nil {
		w.drop()
		return nil, fmt.Errorf("making %d service calls: %w", size, err)
	}
	return w, nil
}

func (w *world) fill(ctx context.Context, server, name string) error {
	u, err := url.Parse(server)
	if err != nil {
		return err
	}
	u.Path = "/" + name
	w.address = u.String()
	if w.db, err = postgres.Open(ctx, w.address, 1); err != nil { // one connection, so that settings of a session hold
		return err
	}
	if err := migrate.Migrate(ctx, w.db); err != nil {
		return err
	}
	w.db.SetMaxOpenConns(4)
	if err := demo.Install(ctx, w.db); err != nil {
		return err
	}
	w.db.SetMaxOpenConns(1)
	log.Printf("making %d service calls …", w.size)
	if err := large(ctx, w.db, w.size); err != nil {
		return err
	}
	w.db.SetMaxOpenConns(4)
	return nil
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

func report(results []result, grown []growth) error {
	var b strings.Builder
	fmt.Fprintf(&b, "# Benchmarks\n\nMade by `make bench` on %s: %d cores, Go %s, PostgreSQL on the same machine, %d service calls.\n",
		time.Now().Format(time.DateOnly), runtime.NumCPU(), strings.TrimPrefix(runtime.Version(), "go"), calls)
	b.WriteString("Medians; both sides ran in turn in one run. “By hand” is the same work in SQL through the same driver.\n\n")
	b.WriteString(written(results))
	writeGrowth(&b, grown)
	if err := os.WriteFile("docs/growth.svg", []byte(plot(grown)), 0o644); err != nil {
		return fmt.Errorf("drawing the plot: %w", err)
	}
	fmt.Print(b.String())
	return os.WriteFile("docs/benchmarks.md", []byte(b.String()), 0o644)
}

// written writes results as a table in Markdown.
func written(results []result) string {
	var b strings.Builder
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
	return b.String()
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
