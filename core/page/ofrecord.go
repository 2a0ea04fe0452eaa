package page

import (
	"context"
	"fmt"
	"maps"
	"slices"

	"plainpath/core/definition"
	"plainpath/core/expr"
	"plainpath/core/model"
	"plainpath/core/records"
	"plainpath/core/screen"
	"plainpath/core/value"
)

// RecordName is what the record is known as on the page that shows it.
const RecordName = "record"

// OfRecord says that a page is how people see the records of an object.
type OfRecord struct {
	Object string `json:"object"`
	// When is a condition, in CEL, on the record; the page is that of those for which it holds.
	When string `json:"when,omitempty"`
}

// Handed are the values that whatever opens the page hands over, the record that it is of before all others.
func (p *Page) Handed() []screen.Take {
	if p.Record == nil {
		return p.Takes
	}
	return append([]screen.Take{{Key: RecordName, Label: "The record", Type: model.Reference, Object: p.Record.Object,
		Required: true}}, p.Takes...)
}

// ofRecord checks which records the page is of, and gives what is known with that.
func (p *Program) ofRecord(c *definition.Check, base expr.Scope) expr.Scope {
	def := p.Def.Record
	if def == nil {
		return base
	}
	for i, t := range p.Def.Takes {
		if t.Required {
			at := fmt.Sprintf("/takes/%d/required", i)
			c.Find(definition.Stop, at, "a page of records is handed the record alone", "It could not be opened.",
				&definition.Mend{Label: "It may be left out", Patch: []definition.Op{{Op: "remove", Path: at}}})
		}
	}
	if c.Object(base.Model, def.Object, "/record/object", "No record would be shown by it.") == nil {
		return base
	}
	base = base.With(expr.Name{Key: RecordName, Label: "The record",
		Type: expr.Type{Kind: value.KindRecord, Object: def.Object},
		Of:   model.Referent{Document: c.Document, At: "/record"}})
	if def.When != "" {
		p.when = c.ExpressionOf(expr.Type{Kind: value.KindYesNo}, base, def.When, "/record/when",
			"No record would be shown by it.")
	}
	return base
}

// Shows says whether the page is how a record is seen.
func (p *Program) Shows(ctx context.Context, r records.Reader, object string, id int64) (bool, error) {
	if p.Def.Record == nil || p.Def.Record.Object != object {
		return false, nil
	}
	if p.Def.Record.When == "" || p.when == nil {
		return p.Def.Record.When == "", nil
	}
	fields := records.FieldsUsed(r.Model(), object, []string{RecordName}, p.when.Uses)
	found, err := records.ByKey(ctx, r, object, []int64{id}, fields)
	if err != nil || len(found) == 0 {
		return false, err
	}
	values := maps.Clone(r.Base())
	values[RecordName] = found[0]
	return p.when.True(values)
}

// MayOpen says whether one of the roles may open the page.
func (p *Page) MayOpen(roles []string) bool {
	return slices.ContainsFunc(p.Roles, func(r string) bool { return slices.Contains(roles, r) })
}
