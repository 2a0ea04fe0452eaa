package expr

import (
	"fmt"

	"plainpath/core/value"
)

var dayFunctions = []function{
	{name: "date", signatures: []signature{gives(dateType, str)},
		compute: func(a []value.Value) (value.Value, error) {
			d, err := value.ParseDate(string(a[0].(value.Text)))
			if err != nil {
				return nil, value.Failure{Why: err.Error()}
			}
			return d, nil
		}},
	{name: "add_minutes", signatures: []signature{gives(instant, instant, whole)},
		compute: func(a []value.Value) (value.Value, error) {
			moved, err := a[0].(value.Instant).Minutes(int64(a[1].(value.Whole)))
			if err != nil {
				return nil, err
			}
			return moved, nil
		},
		sql: func(a []Column) (Column, error) {
			moved := "plainpath.moment(" + a[0].SQL + ", " + a[1].SQL + ")"
			return Column{Kind: value.KindInstant, SQL: moved, Why: fmt.Sprintf("CASE WHEN %s IS NULL AND %s IS NOT NULL AND %s IS NOT NULL THEN %s END",
				moved, a[0].SQL, a[1].SQL, said(value.BeyondCalendar))}, nil
		}},
}
