package edition

import (
	"fmt"
	"strings"

	"plainpath/core/definition"
	"plainpath/core/model"
)

// Changed is a field that an older edition cannot work with any more, as the tables are now.
type Changed struct {
	Object, Field string
	// Text says what became of it.
	Text string
}

// Over compiles an older edition so that it works on tables that are those of a newer one: its
// objects and fields are found under the keys they have now, and what has become required since
// gets its default. Changed is what it cannot work with.
func Over(documents []definition.Document, now *Edition) (*Edition, []Changed, error) {
	var changed []Changed
	e, err := compile(documents, &Edition{over: now.Model, read: func(objects []*model.Object) {
		for _, o := range objects {
			to := now.Model.Now(o.Key)
			if to == nil {
				continue // its table stays until it is dropped for good
			}
			o.StandsAs(to.Key)
			known := map[string]bool{}
			for i := range o.Fields {
				f := &o.Fields[i]
				g := to.Now(f.Key)
				if g == nil {
					continue // hidden, and still there
				}
				f.StandsAs(g.Key)
				known[g.Key] = true
				if text := otherwise(f, g, now.Model); text != "" {
					changed = append(changed, Changed{o.Key, f.Key, text})
				}
			}
			for i := range to.Fields {
				g := to.Fields[i]
				if known[g.Key] || !g.Required || !g.Stored() {
					continue
				}
				if !g.HasDefault() || o.Field(g.Key) != nil {
					changed = append(changed,
						Changed{Object: o.Key, Text: fmt.Sprintf("%s is required of every %s now", g.Label,
							strings.ToLower(to.Label))})
					continue
				}
				o.Fields = append(o.Fields, g)
			}
		}
	}})
	if err != nil {
		return nil, nil, err
	}
	return e, changed, nil
}

// otherwise says what became of a field that cannot be read and written as before, "" where it can.
func otherwise(was, is *model.Field, now *model.Model) string {
	switch {
	case was.Type == model.WorkedOut:
		return "" // it is worked out from what the older edition knows
	case was.Kind() != is.Kind() || is.Type == model.WorkedOut || is.Type.Chosen() && !was.Type.Chosen():
		return fmt.Sprintf("%s holds something else now", is.Label)
	case was.Object != "" && now.Now(was.Object) != now.Object(is.Object):
		return fmt.Sprintf("%s refers to something else now", is.Label)
	case is.Required && !was.Required && was.Stored():
		return fmt.Sprintf("%s is required now", is.Label)
	}
	if !is.Type.Chosen() {
		return ""
	}
	for _, c := range was.Choices {
		if !is.HasChoice(c.Key) {
			return fmt.Sprintf("the value %s of %s is another now", c.Label, is.Label)
		}
	}
	return ""
}
