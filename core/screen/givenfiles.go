package screen

import "encoding/json"

// GivenFiles are the keys of the files in an answer.
func (s *Surface) GivenFiles(a Answers) []int64 {
	var out []int64
	for _, key := range s.order {
		p := s.parts[key]
		if p == nil {
			continue
		}
		in, ok := p.content.(*input)
		if !ok || in.field == nil || !in.field.HoldsFile() {
			continue
		}
		given := a[key]
		if !in.Input.Several && len(given) > 0 {
			given = json.RawMessage("[" + string(given) + "]")
		}
		files, _ := keysOf(given)
		out = append(out, files...)
	}
	return out
}
