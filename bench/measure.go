package main

import (
	"context"
	"encoding/json"
	"fmt"
	"log"
	"slices"
	"strings"
	"sync"
	"time"

	"github.com/jackc/pgx/v5"

	"plainpath/core/expr"
	"plainpath/core/model"
	"plainpath/core/predicate"
	"plainpath/core/query"
	"plainpath/core/records"
	"plainpath/core/screen"
	"plainpath/core/value"
	"plainpath/demo"
	"plainpath/postgres"
	"plainpath/postgres/apps"
	"plainpath/postgres/documents"
	"plainpath/postgres/runs"
)

// bench is one person’s records and the same connection by hand.
type bench struct {
	ctx    context.Context
	db     *postgres.DB
	reader apps.Records
	m      *model.Model
}

// measure measures what is asked for by name, everything where nothing is.
func measure(ctx context.Context, db *postgres.DB, address string, only []string) ([]result, error) {
	var out []result
	var orla, dana int64
	if err := db.QueryRow(`SELECT (SELECT id FROM plainpath.person WHERE email LIKE 'orla@%'), (SELECT id FROM plainpath.person WHERE email LIKE 'dana@%')`).Scan(&orla, &dana); err != nil {
		return nil, err
	}
	owner, err := apps.RecordsOf(ctx, db, demo.App, postgres.Production, orla)
	if err != nil {
		return nil, err
	}
	dispatcher, err := apps.RecordsOf(ctx, db, demo.App, postgres.Production, dana)
	if err != nil {
		return nil, err
	}
	b := &bench{ctx, db, owner, owner.Model()}
	d := &bench{ctx, db, dispatcher, owner.Model()}
	for _, one := range []struct {
		name string
		work func() ([]result, error)
	}{{"rows", b.firstRows}, {"pages", d.farPages}, {"contains", d.contains}, {"related", d.related},
		{"groups", d.groups}, {"chart", d.chart}, {"cards", d.cards}, {"expression", expression}, {"compile", compile},
		{"http", func() ([]result, error) { return overHTTP(ctx, db) }},
		{"totals", func() ([]result, error) { return totals(ctx, db, dana) }},
		{"answer", func() ([]result, error) { return answer(ctx, address, dana) }},
		{"load", func() ([]result, error) { return load(ctx, db) }},
		{"browser", func() ([]result, error) { return browser(ctx, db) }},
		{"change", func() ([]result, error) { return setChange(ctx, db, dana) }},
		{"walksets", func() ([]result, error) { return walkSets(ctx, db, dana) }},
		{"event", func() ([]result, error) { return event(ctx, address, dana) }},
		{"out", func() ([]result, error) { return outOverHTTP(ctx, db, dana) }},
		{"release", func() ([]result, error) { return whileReleased(ctx, db) }},
		{"in", func() ([]result, error) { return csvIn(ctx, db) }}} {
		if len(only) > 0 && !slices.Contains(only, one.name) {
			continue
		}
		r, err := one.work()
		if err != nil { // the others are worth knowing all the same
			log.Printf("not measured: %v", err)
			r = append(r, result{work: "One that failed", note: err.Error()})
		}
		log.Printf("%s:\n%s", one.name, written(r)) // whoever ends it early has these
		out = append(out, r...)
	}
	return out, nil
}

func (b *bench) paths(object string, names ...string) []model.Path {
	out := make([]model.Path, len(names))
	for i, n := range names {
		p, err := b.m.Path(object, n)
		if err != nil {
			panic(err)
		}
		out[i] = p
	}
	return out
}

// where checks and binds a condition as a walkthrough would.
func (b *bench) where(object, condition string) predicate.Predicate {
	var c predicate.Condition
	if err := json.Unmarshal([]byte(condition), &c); err != nil {
		panic(err)
	}
	checked, problems := predicate.Check(expr.Scope{Model: b.m}, object, c, "")
	if len(problems) > 0 {
		panic(problems[0].Text)
	}
	p, err := checked.Bind(expr.Values{"today": value.DateOf(time.Now()), "now": value.NewInstant(time.Now())})
	if err != nil {
		panic(err)
	}
	return p
}

func (b *bench) ours(q query.Query, want int) func() error {
	return func() error {
		records, err := records.Select(b.ctx, b.reader, q)
		if err == nil && len(records) < want {
			err = fmt.Errorf("%d records, want %d", len(records), want)
		}
		return err
	}
}

// byHand runs SQL and scans every column, as a program written for the purpose does.
func (b *bench) byHand(want int, sql string, args ...any) func() error {
	return func() error {
		rows, err := b.db.QueryxContext(b.ctx, sql, args...)
		if err != nil {
			return err
		}
		defer func() { _ = rows.Close() }()
		n := 0
		for rows.Next() {
			if _, err := rows.SliceScan(); err != nil {
				return err
			}
			n++
		}
		if n < want {
			return fmt.Errorf("%d rows by hand, want %d", n, want)
		}
		return rows.Err()
	}
}

func (b *bench) firstRows() ([]result, error) {
	q := query.Query{Object: "service_call", Limit: 51, Columns: b.paths("service_call", "number", "problem",
		"priority", "state", "opened", "lift", "reported_by", "lift.building"),
		Where: b.where("service_call",
			`{"all":[{"field":"state","op":"is_not","value":{"literal":"cancelled"}},{"field":"lift.building.town","op":"one_of","values":[{"literal":"Quillmere"},{"literal":"Sandholt"},{"literal":"Varrow"},{"literal":"Ester Bay"}]}]}`),
		Order: []query.Order{{Path: b.paths("service_call", "opened")[0], Desc: true},
			{Path: b.paths("service_call", "number")[0]}}}
	ours, hand, err := pair(40, b.ours(q, 51), b.byHand(51, `SELECT c.id, c.number, c.problem, c.priority, c.state, c.opened, l.id, l.serial_number, k.id, k.first_name || ' ' || k.last_name, b.id, b.name
		FROM liftcare_production.service_call c JOIN liftcare_production.lift l ON l.id = c.lift JOIN liftcare_production.building b ON b.id = l.building
		LEFT JOIN liftcare_production.contact k ON k.id = c.reported_by AND k.customer = $1
		WHERE c.state IS DISTINCT FROM 'cancelled' AND b.town = ANY($2) AND b.customer = $1 ORDER BY c.opened DESC, c.number, c.id LIMIT 51`,
		5, []string{"Quillmere", "Sandholt", "Varrow", "Ester Bay"}))
	return []result{{"First 50 rows, filter on own and referenced fields, two orders, labels of three references, row rule", ours, hand, "by hand", "≤ 1.15 ×", ""}}, err
}

func (b *bench) farPages() ([]result, error) {
	q := query.Query{Object: "service_call", Limit: 51, Columns: b.paths("service_call", "number", "problem", "state",
		"lift", "engineer"),
		Order: []query.Order{{Path: b.paths("service_call", "opened")[0], Desc: true}}}
	far := q
	for range 200 {
		page, err := b.reader.Select(b.ctx, far)
		if err != nil {
			return nil, err
		}
		if far.After, err = page.After(49); err != nil {
			return nil, err
		}
	}
	a, z, err := pair(40, b.ours(far, 51), b.ours(q, 51))
	return []result{{"The same 200 pages further on", a, z, "first page", "same", ""}}, err
}

func (b *bench) contains() ([]result, error) {
	q := query.Query{Object: "service_call", Limit: 51, Columns: b.paths("service_call", "number", "problem", "state"),
		Where: b.where("service_call", `{"field":"problem","op":"contains","value":{"literal":"abcde"}}`),
		Order: []query.Order{{Path: b.paths("service_call", "opened")[0], Desc: true}}}
	ours, hand, err := pair(40, b.ours(q, 1),
		b.byHand(1, `SELECT id, number, problem, state, opened FROM liftcare_production.service_call WHERE plainpath.folded(problem) LIKE $1 ORDER BY opened DESC, id LIMIT 51`, "%abcde%"))
	if err != nil {
		return nil, err
	}
	sql, err := b.reader.Written(q)
	if err != nil {
		return nil, err
	}
	var plan []string
	if err := b.db.SelectContext(b.ctx, &plan, "EXPLAIN "+sql); err != nil {
		return nil, err
	}
	note := "no index used"
	if strings.Contains(strings.Join(plan, "\n"), "service_call.problem.folded") {
		note = "uses the trigram index"
	}
	return []result{{"“Contains” in a text", ours, hand, "by hand", "≤ 1.15 ×, index", note}}, nil
}

func (b *bench) related() ([]result, error) {
	q := query.Query{Object: "lift", Limit: 51, Columns: b.paths("lift", "serial_number", "building"),
		Order: []query.Order{{Path: b.paths("lift", "serial_number")[0]}},
		Where: b.where("lift", `{"all":[{"field":"state","op":"is","value":{"literal":"running"}},{"related":{"object":"service_call","field":"lift","where":{"all":[{"field":"priority","op":"is","value":{"literal":"urgent"}},{"field":"opened","op":"within_last_days","value":{"literal":30}}]}}}]}`)}
	ours, hand, err := pair(20, b.ours(q, 51), b.byHand(51, `SELECT l.id, l.serial_number, b.id, b.name FROM liftcare_production.lift l JOIN liftcare_production.building b ON b.id = l.building
		WHERE l.state = 'running' AND EXISTS (SELECT 1 FROM liftcare_production.service_call c WHERE c.lift = l.id AND c.priority = 'urgent' AND c.opened BETWEEN now() - interval '30 days' AND now())
		ORDER BY l.serial_number COLLATE "und-x-icu", l.id LIMIT 51`))
	return []result{{"Candidates by a condition on related records", ours, hand, "by hand", "≤ 1.15 ×", ""}}, err
}

func expression() ([]result, error) {
	m := model.New("EUR", &model.Object{Key: "call", Label: "Call", LabelField: "state", Fields: []model.Field{
		{Key: "state", Label: "State", Type: model.Text}, {Key: "minutes", Label: "Minutes", Type: model.Whole}}})
	p, err := expr.Compile(expr.Scope{Model: m,
		Names: []expr.Name{{Key: "call", Type: expr.Type{Kind: value.KindRecord, Object: "call"}}}},
		`call.state == "planned" && call.minutes > 30`)
	if err != nil {
		return nil, err
	}
	values := expr.Values{"call": &value.Record{Object: "call",
		Fields: map[string]value.Value{"state": value.Text("planned"), "minutes": value.Whole(45)}}}
	const times = 200_000
	start := time.Now()
	for range times {
		if ok, err := p.True(values); !ok || err != nil {
			return nil, fmt.Errorf("computing: %t, %w", ok, err)
		}
	}
	return []result{{"A typical condition over a row", time.Since(start) / times, 0, "itself", "< 1 µs",
		"two comparisons and an “and”"}}, nil
}

// tracer notes every statement that is sent.
type tracer struct {
	mu   sync.Mutex
	on   bool
	sent []statement
}

type statement struct {
	sql  string
	args []any
}

// traced opens a database of which every statement is noted.
func traced(address string) (*postgres.DB, *tracer, error) {
	config, err := pgx.ParseConfig(address)
	if err != nil {
		return nil, nil, err
	}
	t := &tracer{}
	config.Tracer = t
	db, err := postgres.Connect(context.Background(), config, 4)
	return db, t, err
}

func (t *tracer) TraceQueryStart(ctx context.Context, _ *pgx.Conn, q pgx.TraceQueryStartData) context.Context {
	t.mu.Lock()
	defer t.mu.Unlock()
	if t.on && !strings.HasPrefix(q.SQL, "-- ping") {
		t.sent = append(t.sent, statement{q.SQL, q.Args})
	}
	return ctx
}

func (t *tracer) TraceQueryEnd(context.Context, *pgx.Conn, pgx.TraceQueryEndData) {}

// replay sends the statements bare, one after another.
func (t *tracer) replay(ctx context.Context, bare *pgx.Conn) func() error {
	return func() error {
		for _, s := range t.sent {
			rows, err := bare.Query(ctx, s.sql, s.args...)
			if err != nil {
				return err
			}
			for rows.Next() {
				if _, err := rows.Values(); err != nil {
					return err
				}
			}
			if err := rows.Err(); err != nil {
				return fmt.Errorf("%s: %w", s.sql, err)
			}
		}
		return nil
	}
}

// answer measures the last answer of Book a visit, which reads, writes two visits and
// shows the closing screen, against the statements it sends, sent bare.
func answer(ctx context.Context, address string, dana int64) ([]result, error) {
	db, t, err := traced(address)
	if err != nil {
		return nil, err
	}
	defer func() { _ = db.Close() }()
	runs := &runs.Runs{DB: db, Editions: documents.NewEditions(db)}
	last, err := prepared(ctx, runs, dana)
	if err != nil {
		return nil, err
	}
	t.on = true
	if err := last(); err != nil {
		return nil, err
	}
	t.on = false
	bare, err := pgx.Connect(ctx, address)
	if err != nil {
		return nil, err
	}
	defer func() { _ = bare.Close(ctx) }()
	var ready []func() error
	for range 53 {
		one, err := prepared(ctx, runs, dana)
		if err != nil {
			return nil, err
		}
		ready = append(ready, one)
	}
	n := 0
	ours, hand, err := pair(50, func() error { n++; return ready[n-1]() }, t.replay(ctx, bare))
	return []result{{"One answer in a walkthrough (search, write, next screen)", ours, hand,
		fmt.Sprintf("its %d statements sent bare", len(t.sent)), "rate ≥ 0.7 ×, so time ≤ 1.43 ×", ""}}, err
}

// prepared walks up to the last screen and gives the last answer, ready to be sent.
func prepared(ctx context.Context, runs *runs.Runs, dana int64) (func() error, error) {
	run, err := runs.Start(ctx, demo.App, "book_a_visit", nil, dana, "")
	if err != nil {
		return nil, err
	}
	var at struct {
		Building int64  `db:"building"`
		Name     string `db:"name"`
		A        int64  `db:"a"`
		B        int64  `db:"b"`
		Engineer int64  `db:"engineer"`
	}
	if err := runs.DB.GetContext(ctx, &at, `SELECT b.id AS building, b.name, min(l.id) AS a, max(l.id) AS b, (SELECT min(e.id) FROM liftcare_production.engineer e JOIN liftcare_production.certificate c ON c.engineer = e.id
		WHERE e.active AND c.kind = 'electrical' AND c.expires_on >= current_date) AS engineer
		FROM liftcare_production.building b JOIN liftcare_production.lift l ON l.building = b.id WHERE l.state = 'running' AND b.id BETWEEN 5 AND 100 GROUP BY b.id HAVING count(*) > 2 ORDER BY b.id LIMIT 1`); err != nil {
		return nil, err
	}
	for _, s := range []struct{ screen, answers string }{
		{"which", fmt.Sprintf(`{"part":%q}`, at.Name)},
		{"choose_building", fmt.Sprintf(`{"building":{"id":%d}}`, at.Building)},
		{"choose_lifts", fmt.Sprintf(`{"lifts":[{"id":%d},{"id":%d}],"certificate":"electrical"}`, at.A, at.B)},
	} {
		var a screen.Answers
		if err := json.Unmarshal([]byte(s.answers), &a); err != nil {
			return nil, err
		}
		if run, err = runs.Answer(ctx, run.ID, dana, run.Revision, "", s.screen, a); err != nil {
			return nil, err
		}
	}
	a := screen.Answers{"engineer": fmt.Appendf(nil, `{"id":%d}`, at.Engineer),
		"starts": []byte(`"2027-01-05T09:30:00Z"`), "minutes": []byte("45")}
	return func() error {
		_, err := runs.Answer(ctx, run.ID, dana, run.Revision, "", "choose_engineer", a)
		return err
	}, nil
}
