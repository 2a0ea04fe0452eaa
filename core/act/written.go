package act

import (
	"context"
	"fmt"

	"plainpath/core/records"
	"plainpath/core/value"
)

// mostShown is how many of the records that an act wrote are shown in a trace.
const mostShown = 5

// written reads some of the records that an act wrote, for whoever rehearses: they may be put back before anybody could
// open them.
func (m *Machine) written(ctx context.Context, object string, kept Kept) ([]WrittenRecord, error) {
	keys := append(append([]int64{}, kept.Added...), kept.Changed...)
	if object == "" || len(keys) == 0 {
		return nil, nil
	}
	o := m.Writer.Model().Object(object)
	if o == nil {
		return nil, nil
	}
	paths, err := records.FieldPaths(m.Writer.Model(), o)
	if err != nil {
		return nil, err
	}
	found, err := records.ByKey(ctx, m.Writer, object, keys[:min(len(keys), mostShown)], paths)
	if err != nil {
		return nil, fmt.Errorf("reading what was written: %w", err)
	}
	out := make([]WrittenRecord, len(found))
	for n, rec := range found {
		out[n] = WrittenRecord{Label: rec.Label, Values: []NamedValue{}}
		for _, f := range o.Fields {
			if v := rec.Get(f.Key); v != nil {
				out[n].Values = append(out[n].Values, NamedValue{f.Label, value.Display(v)})
			}
		}
	}
	return out, nil
}
