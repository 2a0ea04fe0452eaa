package sqlgen

import (
	"slices"
	"testing"
	"time"

	"plainpath/core/model"
	"plainpath/core/query"
	"plainpath/core/value"
)

// A number with something before it is no number to a spreadsheet, which could take it for
// a formula.
func TestANumberWithAPrefixIsTakenOutAsText(t *testing.T) {
	m := lifts()
	lift := m.Object("lift")
	lift.Fields = append(lift.Fields, model.Field{Key: "no", Label: "No", Type: model.Number, Prefix: "-"},
		model.Field{Key: "stops", Label: "Stops", Type: model.Whole})
	var columns []model.Path
	for _, key := range []string{"no", "stops", "kind", "price"} {
		columns = append(columns, path(t, m, "lift", key))
	}
	out, err := Texts(space(t, m, everything), query.Query{Object: "lift", Columns: columns})
	if want := []value.Kind{value.KindText, value.KindWhole, value.KindText, value.KindMoney}; err != nil ||
		!slices.Equal(out.Kinds, want) {
		t.Errorf("%v, %v; want %v", out, err, want)
	}
}

// Values stand in the SQL as the database reads them; one that looks like the place of
// another is left alone.
func TestReadableSQL(t *testing.T) {
	sql := "SELECT $1::text, $2::bigint, $3::text[], $4::bigint[], $5::boolean, $6::timestamptz, $7::numeric, $10::text, $11::text, '$1'"
	args := []any{"O'Dell $2::x", int64(-3), []string{"a", "b'c"}, []int64{1, 2}, true,
		time.Date(2026, 3, 4, 5, 6, 7, 80_000_000, time.FixedZone("", 3600)), nil, 0, 0, "ten"}
	want := `SELECT 'O''Dell $2::x'::text, -3::bigint, ARRAY['a', 'b''c']::text[], ARRAY[1, 2]::bigint[], true::boolean, '2026-03-04T05:06:07.08+01:00'::timestamptz, NULL::numeric, 'ten'::text, $11::text, '$1'`
	if got := (Statement{SQL: sql, Args: args}).Readable(); got != want {
		t.Errorf("\n%s, want\n%s", got, want)
	}
}
