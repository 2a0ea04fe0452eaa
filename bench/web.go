package main

import (
	"context"
	"fmt"
	"io"
	"net/http"
	"time"

	"github.com/jackc/pgx/v5/stdlib"

	"plainpath/core/query"
	"plainpath/postgres"
	"plainpath/postgres/apps"
)

// web is a server, and somebody signed in who looks at a million calls over HTTP.
type web struct {
	ctx     context.Context
	db      *postgres.DB
	visitor *visitor
}

// overHTTP measures what a person gets, against the same statements by hand without HTTP.
func overHTTP(ctx context.Context, db *postgres.DB) ([]result, error) {
	v, stop, err := visit(ctx, db)
	if err != nil {
		return nil, err
	}
	defer stop()
	w := &web{ctx, db, v}
	var out []result
	for _, one := range []func() ([]result, error){w.firstPage, w.orders} {
		r, err := one()
		if err != nil {
			return nil, err
		}
		out = append(out, r...)
	}
	return out, nil
}

func (w *web) ask(what string, look m, into any) func() error {
	return func() error {
		base, at := w.visitor.at()
		return w.visitor.post(w.ctx, base+"/tables/"+what, m{"at": at, "look": look}, into)
	}
}

// both sends the rows and their count, each as its own request.
func both(rows, count func() error) func() error {
	return func() error {
		if err := rows(); err != nil {
			return err
		}
		return count()
	}
}

// firstPage is the first rows with their exact count, which is computed anew each time because
// what is asked for differs, and then once more as the next person gets it.
func (w *web) firstPage() ([]result, error) {
	n := 0
	var count struct {
		Total int64 `json:"total"`
	}
	look := func() m {
		return m{"order": []m{{"path": "opened", "desc": true}},
			"filter": []m{{"field": "state", "op": "is_not", "value": m{"literal": "cancelled"}},
				{"field": "lift.building.town", "op": "one_of",
					"values": []m{{"literal": "Quillmere"}, {"literal": "Sandholt"}}},
				{"field": "opened", "op": "more",
					"value": m{"literal": time.Date(1990, 1, 1, 0, n, 0, 0, time.UTC).Format(time.RFC3339)}}}}
	}
	ours := func() error {
		n++
		l := look()
		return both(w.ask("rows", l, &struct{}{}), w.ask("count", l, &count))()
	}
	const from = ` FROM liftcare_production.service_call c JOIN liftcare_production.lift l ON l.id = c.lift JOIN liftcare_production.building b ON b.id = l.building `
	const where = ` WHERE c.state IS DISTINCT FROM 'cancelled' AND b.town = ANY('{Quillmere,Sandholt}') AND c.opened > '1990-01-01'`
	b := &bench{ctx: w.ctx, db: w.db}
	rows := b.byHand(51, `SELECT c.id, c.number, c.problem, b.id, b.name, l.id, l.serial_number, c.priority, c.state, c.opened, c.due, e.id, e.first_name || ' ' || e.last_name`+from+
		`LEFT JOIN liftcare_production.engineer e ON e.id = c.engineer`+where+` ORDER BY c.opened DESC, c.id LIMIT 51`)
	counted := b.byHand(1, `SELECT count(*)`+from+where)
	a, hand, err := pair(7, ours, both(rows, counted))
	if err != nil {
		return nil, err
	}
	last := look()
	alone, _, err := pair(20, w.ask("rows", last, &struct{}{}), func() error { return nil })
	if err != nil {
		return nil, err
	}
	kept, _, err := pair(20, w.ask("count", last, &count), func() error { return nil })
	return []result{{"First 50 rows and their exact count over HTTP, filter on own and referenced fields", a, hand,
		"both by hand, without HTTP", "≤ 1.15 ×",
		fmt.Sprintf("%d records; the rows alone, which come first, %s; the count as whoever asks next gets it %s",
			count.Total, show(alone), show(kept))}}, err
}

// orders reads the first page, one 200 pages on and the last, in every order that the page
// offers.
func (w *web) orders() ([]result, error) {
	var dana int64
	if err := w.db.GetContext(w.ctx, &dana, `SELECT id FROM plainpath.person WHERE email LIKE 'dana@%'`); err != nil {
		return nil, err
	}
	reader, err := apps.RecordsOf(w.ctx, w.db, "liftcare", postgres.Production, dana)
	if err != nil {
		return nil, err
	}
	b := &bench{w.ctx, w.db, reader, reader.Model()}
	var out []result
	for _, o := range []struct{ path, words string }{{"opened", "a time"}, {"engineer", "a label across a reference"},
		{"state", "a choice"}, {"problem", "a text"}, {"due", "a date, some of them empty"}} {
		if o.path == "due" {
			if _, err := w.db.ExecContext(w.ctx,
				`SET session_replication_role = replica; UPDATE liftcare_production.service_call SET due = NULL WHERE id % 10 = 0; SET session_replication_role = origin; ANALYZE liftcare_production.service_call`); err != nil {
				return nil, err
			}
		}
		for _, desc := range []bool{false, true} {
			place := func(desc bool, behind int) (string, error) {
				page, err := reader.Select(w.ctx, query.Query{Object: "service_call", Limit: behind,
					Order: []query.Order{{Path: b.paths("service_call", o.path)[0], Desc: desc}}})
				if err != nil {
					return "", err
				}
				c, err := page.After(behind - 1)
				return c.String(), err
			}
			far, err := place(desc, 200*50)
			if err != nil {
				return nil, err
			}
			look := m{"order": []m{{"path": o.path, "desc": desc}}}
			first, further, err := pair(5, w.ask("rows", look, &struct{}{}),
				w.ask("rows", m{"order": look["order"], "after": far}, &struct{}{}))
			if err != nil {
				return nil, err
			}
			direction := "upwards"
			if desc {
				direction = "downwards"
			}
			out = append(out, result{fmt.Sprintf("In the order of %s, %s: 200 pages on, over HTTP", o.words, direction),
				further, first, "first page", "same", ""})
		}
	}
	return out, nil
}

// out takes a million calls out over HTTP under a row rule, against COPY TO of the same query.
func outOverHTTP(ctx context.Context, db *postgres.DB, person int64) ([]result, error) {
	if err := narrow(ctx, db, person); err != nil {
		return nil, err
	}
	v, stop, err := visit(ctx, db)
	if err != nil {
		return nil, err
	}
	defer stop()
	hand := func() error {
		conn, err := db.Connx(ctx)
		if err != nil {
			return err
		}
		defer func() { _ = conn.Close() }()
		return conn.Raw(func(driver any) error {
			_, err := driver.(*stdlib.Conn).Conn().PgConn().CopyTo(ctx, io.Discard, `COPY (SELECT 'SC-' || c.number, c.problem, (ARRAY['Urgent','High','Normal','Low'])[array_position(ARRAY['urgent','high','normal','low'], c.priority)],
				to_char(c.opened, 'YYYY-MM-DD"T"HH24:MI:SS.USTZH:TZM'), c.due, l.serial_number,
					b.town FROM liftcare_production.service_call c JOIN liftcare_production.lift l ON l.id = c.lift
				JOIN liftcare_production.building b ON b.id = l.building WHERE b.town IS DISTINCT FROM 'Nowhere' ORDER BY c.opened, c.id) TO STDOUT WITH (FORMAT csv)`)
			return err
		})
	}
	var out []result
	for _, format := range []string{"csv", "xlsx"} {
		memory := watch(ctx)
		var first, row time.Duration
		var size int64
		a, z, err := pair(1, func() error {
			var err error
			first, row, size, err = v.takeOut(ctx, format)
			return err
		}, hand)
		most := memory.most()
		if err != nil {
			return nil, err
		}
		out = append(out, result{fmt.Sprintf("%s out over HTTP, 1,000,000 rows, under a row rule", format), a, z,
			"COPY TO of the same query", "≤ 1.5 ×, first byte ≤ 200 ms, ≤ 50 MB",
			fmt.Sprintf("%d MB; first byte after %s, more than 16 kB after %s; at most %d MB of memory beyond what the benchmark itself holds", size>>20, show(first), show(row), most)})
	}
	return out, nil
}

// takeOut asks for a file and reads it, and says when its first byte came, and when rows, which
// lie behind its headings.
func (v *visitor) takeOut(ctx context.Context, format string) (first, rows time.Duration, size int64, err error) {
	start := time.Now()
	var asked struct {
		ID string `json:"id"`
	}
	look := m{"order": []m{{"path": "opened"}}, "columns": []m{{"path": "number"}, {"path": "problem"},
		{"path": "priority"}, {"path": "opened"}, {"path": "due"}, {"path": "lift"}, {"path": "lift.building.town"}}}
	_, at := v.at()
	if err := v.post(ctx, "/use/tables/out", m{"at": at, "format": format, "look": look}, &asked); err != nil {
		return 0, 0, 0, err
	}
	req, err := http.NewRequestWithContext(ctx, http.MethodGet, v.base+"/use/outgoing/"+asked.ID+"/file", nil)
	if err != nil {
		return 0, 0, 0, err
	}
	req.Header.Set("Accept-Encoding", "identity")
	res, err := v.http.Do(req)
	if err != nil {
		return 0, 0, 0, err
	}
	defer func() { _ = res.Body.Close() }()
	one := make([]byte, 1)
	if _, err := io.ReadFull(res.Body, one); err != nil {
		return 0, 0, 0, err
	}
	first = time.Since(start)
	if _, err := io.CopyN(io.Discard, res.Body, 16<<10); err != nil {
		return 0, 0, 0, err
	}
	rows = time.Since(start)
	size, err = io.Copy(io.Discard, res.Body)
	return first, rows, size + 16<<10 + 1, err
}
