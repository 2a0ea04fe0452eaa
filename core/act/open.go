package act

import (
	"context"

	"plainpath/core/definition"
	"plainpath/core/expr"
	"plainpath/core/records"
	"plainpath/core/value"
)

// Open opens a record.
type Open struct {
	// Record is an expression that gives it; without it, the row a button is about.
	Record string `json:"record,omitempty"`
}

type openPlan struct {
	basis
	rows   string
	record *expr.Program // nil for the row
}

func checkOpen(c *check, a *Act, at string) Plan {
	var source string
	if a.Open != nil {
		source = a.Open.Record
	}
	if !c.row() && (c.Rows != "" || source == "") {
		c.Find(definition.Stop, at, "a record is opened from one row", "It would not be known which.", nil)
		return nil
	}
	p := &openPlan{rows: c.Rows}
	if source == "" {
		return p
	}
	pointer := at + "/open/record"
	program := c.RecordOrList(c.Scope, false, source, pointer, "Nothing would open.")
	if program == nil {
		return nil
	}
	p.record, p.uses = program, program.Uses
	return p
}

// Do opens it, where the person may still see it.
func (p *openPlan) Do(ctx context.Context, u records.Writer, in In) (Done, error) {
	if p.record == nil {
		keys, err := records.Keys(ctx, u, in.Rows)
		if err != nil || len(keys) == 0 {
			return Done{}, err
		}
		return opened(p.rows, keys[0]), nil
	}
	values, err := rowKnown(ctx, u, in, p.rows, p.record.Uses)
	if err != nil || values == nil {
		return Done{}, err
	}
	v, err := p.record.Eval(values)
	rec, ok := v.(*value.Record)
	if err != nil || !ok || rec == nil {
		return Done{Effects: []Effect{{Kind: SayAct, Message: expr.Say("There is none to open.")}}}, err
	}
	return opened(p.record.Type.Object, rec.ID), nil
}

func opened(object string, key int64) Done {
	return Done{Effects: []Effect{{Kind: OpenAct, Object: object, Record: key}}}
}
