package exports

import (
	"bytes"
	"time"

	"plainpath/core/value"
)

// instants writes points in time as RFC 3339 has them. The database writes them as it does by itself, which costs it a
// fraction of what a format of its own does.
type instants struct {
	columns []int
	made    []byte
}

func newInstants(kinds []value.Kind) *instants {
	out := &instants{}
	for i, k := range kinds {
		if k == value.KindInstant {
			out.columns = append(out.columns, i)
		}
	}
	return out
}

// write changes the cells of a row; they hold until the next row.
func (t *instants) write(cells [][]byte) {
	t.made = t.made[:0]
	for _, i := range t.columns {
		from := len(t.made)
		if t.made = appendInstant(t.made, cells[i]); len(t.made) > from {
			cells[i] = t.made[from:len(t.made):len(t.made)]
		}
	}
}

// odd is how PostgreSQL writes a zone that is apart by seconds, which RFC 3339 has no way to.
const odd = "2006-01-02 15:04:05.999999-07:00:00"

// appendInstant appends what PostgreSQL writes as 2026-03-01 10:00:00.5+01 as 2026-03-01T10:00:00.5+01:00; in UTC
// where the zone is apart by odd seconds. It appends nothing for what is no such text, as the reason is that stands in
// the place of one.
func appendInstant(to, text []byte) []byte {
	const second = len("2006-01-02 15:04:05")
	if len(text) < second || text[4] != '-' || text[10] != ' ' || text[13] != ':' {
		return to
	}
	zone := bytes.LastIndexAny(text, "+-")
	if zone < second {
		return to
	}
	switch len(text) - zone {
	case len("+01"), len("+05:30"):
		to = append(append(append(to, text[:10]...), 'T'), text[11:]...)
		if len(text)-zone == len("+01") {
			to = append(to, ":00"...)
		}
	case len("+00:53:28"):
		if at, err := time.Parse(odd, string(text)); err == nil {
			to = at.UTC().AppendFormat(to, time.RFC3339Nano)
		}
	}
	return to
}
