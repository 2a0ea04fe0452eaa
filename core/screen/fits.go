package screen

import (
	"context"
	"fmt"

	"plainpath/core/act"
	"plainpath/core/definition"
	"plainpath/core/expr"
	"plainpath/core/query"
	"plainpath/core/records"
	"plainpath/core/value"
)

// Fits makes a reference input offer what a reference field of a record may point at, as if
// that record were being edited.
type Fits struct {
	Object string `json:"object"`
	Field  string `json:"field"`
	// Record is an expression for the record; without it a new one is meant.
	Record string `json:"record,omitempty"`
	// Values are what its fields are to be, over what is stored.
	Values []act.Assignment `json:"values,omitempty"`
}

// Candidater knows the candidate rules of references. A Reader that is none has no rules.
type Candidater interface {
	// Candidates is the search for the records that a reference may point at.
	Candidates(ctx context.Context, e records.Editing, field string) (query.Query, error)
	// Misfit says why a record cannot be chosen, "" when it can.
	Misfit(ctx context.Context, e records.Editing, field string, chosen int64) (string, error)
}

// fitting is Fits, checked.
type fitting struct {
	object, field string
	record        *expr.Program
	values        []assignment
}

type assignment struct {
	field   string
	program *expr.Program
	literal value.Value
}

func (c *compiler) fits(p *input, f *Fits, at string) {
	const consequence = "It would not be known which records can be chosen."
	o := c.Object(c.scope.Model, f.Object, at+"/object", consequence)
	if o == nil {
		return
	}
	field := c.Field(o, f.Field, at+"/field", consequence)
	if field == nil {
		return
	}
	if field.Target() != p.object || field.HoldsFile() {
		c.Find(definition.Stop, at+"/field", fmt.Sprintf("%s of %s does not refer to what is chosen here", field.Label,
			o.Label), consequence,
			&definition.Mend{Label: "Offer all", Patch: []definition.Op{{Op: "remove", Path: at}}})
		return
	}
	out := &fitting{object: f.Object, field: f.Field}
	if f.Record != "" {
		out.record = c.program(f.Record, expr.Type{Kind: value.KindRecord, Object: f.Object}, at+"/record", consequence)
	}
	for i, v := range f.Values {
		at := fmt.Sprintf("%s/values/%d", at, i)
		of := c.Field(o, v.Field, at+"/field", consequence)
		switch {
		case of == nil:
		case v.Value.Expression != "":
			out.values = append(out.values,
				assignment{field: v.Field, program: c.program(v.Value.Expression, expr.OfField(of),
					at+"/value/expression", consequence)})
		default:
			literal, err := value.Parse(of.Kind(), v.Value.Literal)
			if err != nil {
				c.Fail(err, at+"/value/literal", "", consequence)
				continue
			}
			c.Mention(of.ChoiceMentions(o.Key, v.Value.Literal, at+"/value/literal")...)
			out.values = append(out.values, assignment{field: v.Field, literal: literal})
		}
	}
	p.fits = out
}

// editing is the record as it would be edited here.
func (f *fitting) editing(values expr.Values) (records.Editing, error) {
	out := records.Editing{Object: f.object, Values: map[string]value.Value{}}
	if f.record != nil {
		v, err := f.record.Eval(values)
		if err != nil {
			return out, err
		}
		if r, ok := v.(*value.Record); ok && r != nil {
			out.ID = r.ID
		}
	}
	for _, v := range f.values {
		out.Values[v.field] = v.literal
		if v.program == nil {
			continue
		}
		var err error
		if out.Values[v.field], err = v.program.Eval(values); err != nil {
			return out, err
		}
	}
	return out, nil
}

// among is the search for what a reference input offers.
func (p *input) among(ctx context.Context, r records.Reader, values expr.Values) (query.Query, error) {
	rules, ok := r.(Candidater)
	if p.fits == nil || !ok {
		return query.Query{Object: p.object}, nil
	}
	e, err := p.fits.editing(values)
	if err != nil {
		return query.Query{}, err
	}
	return rules.Candidates(ctx, e, p.fits.field)
}

// misfits is the first of the records given that cannot be chosen, and why; nil when all can.
func (p *input) misfits(ctx context.Context, r records.Reader, values expr.Values,
	v value.Value) (*value.Record, string, error) {
	rules, ok := r.(Candidater)
	if p.fits == nil || !ok {
		return nil, "", nil
	}
	chosen, err := records.RecordsOf(v)
	if err != nil || len(chosen) == 0 {
		return nil, "", err
	}
	e, err := p.fits.editing(values)
	if err != nil {
		return nil, "", err
	}
	for _, record := range chosen {
		if why, err := rules.Misfit(ctx, e, p.fits.field, record.ID); err != nil || why != "" {
			return record, why, err
		}
	}
	return nil, "", nil
}
