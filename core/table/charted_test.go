package table

import (
	"fmt"
	"testing"
	"time"

	"plainpath/core/model"
	"plainpath/core/query"
	"plainpath/core/value"
)

// Where a chart has no records between others there is a place all the same, and those without a value come last.
func TestWhereAChartHasPlaces(t *testing.T) {
	day := func(m, d int) value.Value {
		return value.DateOf(time.Date(2026, time.Month(m), d, 0, 0, 0, 0, time.UTC))
	}
	state := model.Path{Fields: []*model.Field{{Key: "state", Type: model.Choice,
		Choices: []model.ChoiceValue{{Key: "new"},
			{Key: "old", Retired: true}, {Key: "done"}}}}}
	due := model.Path{Fields: []*model.Field{{Key: "due", Type: model.Date}}}
	opened := model.Path{Fields: []*model.Field{{Key: "opened", Type: model.DateTime}}}
	for _, c := range []struct {
		by    query.Grouping
		empty bool
		keys  []value.Value
		want  string
	}{
		{query.Grouping{Path: due, Span: query.Month}, false, []value.Value{day(1, 1), day(4, 1), nil},
			"[2026-01-01 2026-02-01 2026-03-01 2026-04-01 <nil>]"},
		{query.Grouping{Path: due, Span: query.Month, Desc: true}, false, []value.Value{day(3, 1), day(1, 1)},
			"[2026-03-01 2026-02-01 2026-01-01]"},
		{query.Grouping{Path: due}, false, []value.Value{day(1, 30), day(2, 2)},
			"[2026-01-30 2026-01-31 2026-02-01 2026-02-02]"},
		{query.Grouping{Path: opened, Span: query.Week}, false, []value.Value{day(1, 5), day(1, 19)},
			"[2026-01-05 2026-01-12 2026-01-19]"},
		{query.Grouping{Path: due}, false, []value.Value{day(1, 1), day(40, 1)}, "[2026-01-01 2029-04-01]"},
		{query.Grouping{Path: due, Span: query.Year}, false, []value.Value{nil}, "[<nil>]"},
		{query.Grouping{Path: state}, false, []value.Value{value.Text("done")}, "[done]"},
		{query.Grouping{Path: state}, true, []value.Value{value.Text("done"), nil}, "[new done <nil>]"},
		{query.Grouping{Path: state, Desc: true}, true, []value.Value{value.Text("old")}, "[done old new]"},
		{query.Grouping{Path: state}, true, nil, "[new done]"},
	} {
		if got := fmt.Sprint(filled(c.keys, c.by, c.empty)); got != c.want {
			t.Errorf("%v by %s, %q: %s, want %s", c.keys, c.by.Path, c.by.Span, got, c.want)
		}
	}
}
