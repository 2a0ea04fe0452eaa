package table

import (
	"errors"
	"slices"

	"plainpath/core/query"
	"plainpath/core/records"
)

// Arrangement is how somebody set a table up: what they look at and how it is laid out.
type Arrangement struct {
	Look Look `json:"look"`
	// Widths are those of columns, in pixels, by path.
	Widths map[string]int `json:"widths,omitempty"`
	// Pinned is how many columns stay in sight at the left.
	Pinned int `json:"pinned,omitempty"`
	// Numbers shows the rows' numbers.
	Numbers bool `json:"numbers,omitempty"`
}

// ShippedView is an arrangement that the builder gives to roles; none means everybody.
type ShippedView struct {
	Label string      `json:"label"`
	Roles []string    `json:"roles,omitempty"`
	Body  Arrangement `json:"body"`
}

// Shipped are the views that the builder gives to somebody with these roles.
func (l *Listing) Shipped(roles []string) []ShippedView {
	var out []ShippedView
	for _, v := range l.views {
		if len(v.Roles) == 0 || slices.ContainsFunc(v.Roles, func(r string) bool { return slices.Contains(roles, r) }) {
			out = append(out, v)
		}
	}
	return out
}

// Fit takes out of a look what does not hold any more and says what that was: it was
// kept before a field was removed, for example.
func (l *Listing) Fit(r records.Reader, look Look) (Look, []string) {
	var problems []string
	holds := func(part Look) bool {
		_, err := l.look(r, part)
		var wrong *query.LookError
		if errors.As(err, &wrong) {
			problems = append(problems, wrong.Text)
		}
		return err == nil
	}
	columns := len(look.Columns)
	look.Columns = slices.DeleteFunc(slices.Clone(look.Columns),
		func(c Column) bool { return !holds(Look{Columns: []Column{c}}) })
	if columns > 0 && len(look.Columns) == 0 {
		look.Columns = nil
	}
	filter := look.Filter
	look.Filter = nil
	for _, c := range filter {
		if holds(Look{Filter: append(slices.Clone(look.Filter), c)}) {
			look.Filter = append(look.Filter, c)
		}
	}
	look.Order = slices.DeleteFunc(slices.Clone(look.Order),
		func(o LookOrder) bool { return !holds(Look{Order: []LookOrder{o}}) })
	look.Totals = slices.DeleteFunc(slices.Clone(look.Totals),
		func(t LookTotal) bool { return !holds(Look{Totals: []LookTotal{t}}) })
	if look.Group != nil && !holds(Look{Group: look.Group}) {
		look.Group = nil
	}
	look.After, look.Within, look.Deeper = "", nil, nil
	return look, problems
}
