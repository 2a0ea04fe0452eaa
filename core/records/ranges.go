package records

import (
	"encoding/json"
	"fmt"
	"strconv"
	"strings"
)

// Ranges are keys of records in order. In JSON many of them are a text such as "1-50000,50003".
type Ranges []int64

// fewKeys are written one by one.
const fewKeys = 20

// MarshalJSON writes many keys as a text of ranges.
func (r Ranges) MarshalJSON() ([]byte, error) {
	if len(r) <= fewKeys {
		return json.Marshal([]int64(r))
	}
	var b strings.Builder
	for i := 0; i < len(r); {
		end := i
		for end+1 < len(r) && r[end+1] == r[end]+1 {
			end++
		}
		if i > 0 {
			b.WriteByte(',')
		}
		b.WriteString(strconv.FormatInt(r[i], 10))
		if end > i {
			b.WriteString("-" + strconv.FormatInt(r[end], 10))
		}
		i = end + 1
	}
	return json.Marshal(b.String())
}

// UnmarshalJSON reads keys one by one or as ranges.
func (r *Ranges) UnmarshalJSON(raw []byte) error {
	var text string
	if json.Unmarshal(raw, &text) != nil {
		return json.Unmarshal(raw, (*[]int64)(r))
	}
	if *r = nil; text == "" { // none at all
		return nil
	}
	for _, part := range strings.Split(text, ",") {
		from, to, several := strings.Cut(part, "-")
		first, err := strconv.ParseInt(from, 10, 64)
		last := first
		if err == nil && several {
			last, err = strconv.ParseInt(to, 10, 64)
		}
		if err != nil {
			return fmt.Errorf("reading keys %q: %w", part, err)
		}
		for k := first; k <= last; k++ {
			*r = append(*r, k)
		}
	}
	return nil
}
