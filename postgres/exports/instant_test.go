package exports

import "testing"

func TestInstantsAreWrittenAsRFC3339HasThem(t *testing.T) {
	for text, want := range map[string]string{
		"2026-03-01 10:00:00+01":           "2026-03-01T10:00:00+01:00",
		"2026-03-01 10:00:00.5-03":         "2026-03-01T10:00:00.5-03:00",
		"2026-03-01 10:00:00.000001+05:30": "2026-03-01T10:00:00.000001+05:30",
		"1890-01-01 00:00:00+00:53:28":     "1889-12-31T23:06:32Z",
		"":                                 "", "infinity": "", "2026-03-01": "", "cannot be added: EUR and USD": "",
	} {
		if got := string(appendInstant(nil, []byte(text))); got != want {
			t.Errorf("%q became %q, want %q", text, got, want)
		}
	}
}
