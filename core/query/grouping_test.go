package query

import (
	"testing"
	"time"

	"plainpath/core/value"
)

// Periods follow one another without a gap, and each day is in the one that begins last before it.
func TestPeriods(t *testing.T) {
	for _, span := range Spans[1:] {
		begins := span.Begins(value.Date{Year: 2023, Month: time.December, Day: 20})
		for at := time.Date(2023, 12, 20, 0, 0, 0, 0, time.UTC); at.Year() < 2029; at = at.AddDate(0, 0, 1) {
			day := value.DateOf(at)
			next := span.Next(begins)
			if day.Compare(next) >= 0 {
				begins = next
			}
			got := span.Begins(day)
			if got != begins || span.Begins(got) != got || span.Next(begins).Compare(day) <= 0 {
				t.Fatalf("the %s of %s begins on %s, not on %s", span, day, got, begins)
			}
		}
	}
	for span, want := range map[Span]value.Date{Week: {Year: 2026, Month: 11, Day: 30},
		Quarter: {Year: 2026, Month: 10, Day: 1}, Year: {Year: 2026, Month: 1, Day: 1}} {
		if got := span.Begins(value.Date{Year: 2026, Month: 12, Day: 1}); got != want {
			t.Errorf("the %s of 2026-12-01 begins on %s, want %s", span, got, want)
		}
	}
}
