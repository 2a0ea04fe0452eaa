package tables

import (
	"context"
	"fmt"
	"maps"
	"strings"
	"sync"
	"time"

	"golang.org/x/sync/singleflight"

	"plainpath/core/query"
	"plainpath/core/table"
	"plainpath/postgres"
	"plainpath/postgres/sqlgen"
)

// Counts keeps how many records lists have until records they are made of change. Whoever asks
// the same with the same rights at the same time waits for one answer.
type Counts struct {
	ctx     context.Context
	changes *Changes
	flights singleflight.Group
	begin   sync.Once

	mu   sync.Mutex
	kept map[string]kept
	// told numbers the changes heard of, and last is the number of the latest of each table.
	told int64
	last map[string]int64
}

type kept struct {
	sql string
	n   int64
}

// mostKept bounds the counts that are kept.
const mostKept = 5000

// countFor bounds how long a count may take.
const countFor = 30 * time.Second

// NewCounts keeps counts until the context ends.
func NewCounts(ctx context.Context, changes *Changes) *Counts {
	return &Counts{ctx: ctx, changes: changes, kept: map[string]kept{}, last: map[string]int64{}}
}

// listen lets changes drop what is kept, from the first count on.
func (c *Counts) listen() {
	told, leave := c.changes.Listen()
	go func() {
		defer leave()
		for {
			select {
			case <-c.ctx.Done():
				return
			case what := <-told:
				c.drop(what)
			}
		}
	}()
}

// drop forgets the counts of lists that look at what changed.
func (c *Counts) drop(what ChangedObject) {
	c.mu.Lock()
	defer c.mu.Unlock()
	table := ""
	if what.Object != "" {
		table = sqlgen.Quote(what.Schema) + "." + sqlgen.Quote(what.Object)
	}
	c.told++
	c.last[table] = c.told
	maps.DeleteFunc(c.kept, func(_ string, k kept) bool { return strings.Contains(k.sql, table) })
}

// unchanged says whether nothing that a statement looks at has changed since.
func (c *Counts) unchanged(sql string, since int64) bool {
	for table, n := range c.last {
		if n > since && strings.Contains(sql, table) {
			return false
		}
	}
	return true
}

// of gives the number that a statement counts.
func (c *Counts) of(ctx context.Context, s sqlgen.Statement,
	count func(context.Context) (int64, error)) (int64, error) {
	c.begin.Do(c.listen)
	key := fmt.Sprintf("%s %q", s.SQL, s.Args)
	c.mu.Lock()
	have, ok := c.kept[key]
	since, heard := c.told, c.changes.listening.Load()
	c.mu.Unlock()
	if ok {
		return have.n, nil
	}
	// What changed meanwhile is counted by those who ask afterwards.
	flight := c.flights.DoChan(fmt.Sprint(since, " ", key), func() (any, error) {
		alone, done := context.WithTimeout(context.WithoutCancel(ctx), countFor)
		defer done()
		n, err := count(alone)
		if err != nil {
			return n, err
		}
		c.mu.Lock()
		defer c.mu.Unlock()
		if heard && c.changes.listening.Load() && c.unchanged(s.SQL, since) {
			if len(c.kept) >= mostKept {
				clear(c.kept)
			}
			c.kept[key] = kept{s.SQL, n}
		}
		return n, nil
	})
	select {
	case <-ctx.Done():
		return 0, ctx.Err()
	case r := <-flight:
		if r.Err != nil {
			return 0, r.Err
		}
		return r.Val.(int64), nil
	}
}

// Count counts all rows of a table, which its first page leaves open when there are more.
func (t *Tables) Count(ctx context.Context, p postgres.Caller, at TableAt, look table.Look) (int64, error) {
	var out int64
	err := t.At(ctx, p, at, func(found ShownTable) error {
		var err error
		if _, alone := found.Db.(*postgres.DB); !alone || t.Counts == nil {
			out, err = found.List.Count(ctx, found, look, nil)
			return err
		}
		out, err = found.List.Count(ctx, counting{found, t.Counts}, look, nil)
		return err
	})
	return out, err
}

// counting is a repository whose counts are kept.
type counting struct {
	ShownTable
	counts *Counts
}

func (c counting) Count(ctx context.Context, q query.Query) (int64, error) {
	s, err := sqlgen.Count(c.Space(), q)
	if err != nil || q.Waits() {
		return 0, err
	}
	return c.counts.of(ctx, s, func(ctx context.Context) (int64, error) { return c.Unit.Number(ctx, s) })
}
