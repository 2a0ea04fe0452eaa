package main

import (
	"context"
	"fmt"
	"strconv"
	"strings"

	"plainpath/postgres"
)

// large fills production with service calls and what belongs to them. The history is left
// out: it is no part of what is measured here.
func large(ctx context.Context, db *postgres.DB, calls int) error {
	one := func(each int) string { return strconv.Itoa(max(10, calls/each)) }
	fill := strings.NewReplacer("SCHEMA", "liftcare_production", "CALLS", strconv.Itoa(calls), "CUSTOMERS", one(500),
		"CONTACTS", one(250), "BUILDINGS", one(100), "LIFTS", one(25), "ENGINEERS", one(3333))
	for _, sql := range []string{
		`SET session_replication_role = replica`,
		`INSERT INTO SCHEMA.customer (name, status) SELECT 'Customer ' || i, 'active' FROM generate_series(1, CUSTOMERS) i`,
		`INSERT INTO SCHEMA.contact (first_name, last_name, customer) SELECT 'First' || i, 'Last' || i, (SELECT min(id) FROM SCHEMA.customer) + i % CUSTOMERS FROM generate_series(1, CONTACTS) i`,
		`INSERT INTO SCHEMA.building (name, town, customer) SELECT 'Building ' || i, (ARRAY['Quillmere','Sandholt','Varrow','Ester Bay'])[1 + i % 4], 1 + i % CUSTOMERS FROM generate_series(1, BUILDINGS) i`,
		`INSERT INTO SCHEMA.lift (serial_number, building, kind, state) SELECT 'XL-' || i, (SELECT min(id) FROM SCHEMA.building) + i % BUILDINGS, 'passenger', 'running' FROM generate_series(1, LIFTS) i`,
		`INSERT INTO SCHEMA.engineer (first_name, last_name, depot, active) SELECT 'E' || i, 'Large' || i, 'varrow', true FROM generate_series(1, ENGINEERS) i`,
		`INSERT INTO SCHEMA.service_call (lift, reported_by, problem, priority, state, opened, due, engineer)
			SELECT 1 + (i * 7919::bigint) % LIFTS, 1 + i % CONTACTS, 'Problem ' || md5(i::text), (ARRAY['urgent','high','normal','low'])[1 + i % 4],
			(ARRAY['reported','planned','on_site','waiting_for_parts','done','done','done','cancelled'])[1 + i % 8],
			now() - i * interval '1 minute', current_date - i / 1440, 1 + i % ENGINEERS FROM generate_series(1, CALLS) i`,
		`SET session_replication_role = origin`,
		`VACUUM ANALYZE`,
	} {
		if _, err := db.ExecContext(ctx, fill.Replace(sql)); err != nil {
			return fmt.Errorf("making the large set: %w\n%s", err, sql)
		}
	}
	return nil
}
