package screen

import (
	"encoding/json"

	"plainpath/core/value"
)

// GivenFiles are the keys of the files in an answer.
func (s *Surface) GivenFiles(a Answers) []int64 {
	var out []int64
	for _, key := range s.order {
		p, ok := s.parts[key]
		if !ok {
			continue
		}
		in, ok := p.content.(*input)
		if !ok || in.field == nil || !in.field.HoldsFile() {
			continue
		}
		var given []json.RawMessage
		if !in.Input.Several {
			given = append(given, a[key])
		} else if json.Unmarshal(a[key], &given) != nil {
			continue
		}
		for _, raw := range given {
			if len(raw) == 0 {
				continue
			}
			if v, err := value.Parse(value.KindRecord, raw); err == nil {
				if file, _ := v.(*value.Record); file != nil {
					out = append(out, file.ID)
				}
			}
		}
	}
	return out
}
