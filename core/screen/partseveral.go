package screen

import (
	"context"
	"encoding/json"
	"fmt"

	"plainpath/core/definition"
	"plainpath/core/expr"
	"plainpath/core/model"
	"plainpath/core/records"
	"plainpath/core/value"
)

// mostSeveral is how many records or files an input takes at most.
const mostSeveral = 200

// Gives is the type of what is given in an input.
func (p *Part) Gives() expr.Type {
	t := expr.OfField(p.Field())
	if p.Input.Several {
		return expr.Type{Kind: value.KindList, Object: t.Object}
	}
	return t
}

// several checks an input of several records.
func (c *compiler) several(p *input, at string) {
	in := p.Input
	if !in.Several {
		return
	}
	if p.object == "" {
		c.Find(definition.Stop, at+"/several", fmt.Sprintf("of %s one is given at a time; records and files can be several",
			p.Label), "Nobody could give them.", &definition.Mend{Label: "Take one",
			Patch: []definition.Op{{Op: "remove", Path: at + "/several"}}})
	}
	if in.Default != nil && in.Default.Expression == "" {
		c.Find(definition.Stop, at+"/default", fmt.Sprintf("%s begins with nothing or with a known list", p.Label),
			"It would begin empty.", &definition.Mend{Label: "Begin with nothing",
				Patch: []definition.Op{{Op: "remove", Path: at + "/default"}}})
	}
	if least, most := p.bounds(); least > most || most < 1 {
		c.Find(definition.Stop, at+"/least", fmt.Sprintf("at least %d and at most %d cannot both be", least, most),
			"Nobody could go on.", nil)
	}
}

// bounds are how many must and may be given.
func (p *input) bounds() (least, most int) {
	least, most = 0, mostSeveral
	if p.Input.Required {
		least = 1
	}
	if p.Input.Least != nil {
		least = max(least, int(*p.Input.Least))
	}
	if p.Input.Most != nil {
		most = min(most, int(*p.Input.Most))
	}
	return least, most
}

// keysOf are the keys of a list of records as it travels, each once; false where it is none.
func keysOf(raw json.RawMessage) ([]int64, bool) {
	var given []json.RawMessage
	if len(raw) > 0 && json.Unmarshal(raw, &given) != nil {
		return nil, false
	}
	var ids []int64
	seen := map[int64]bool{}
	for _, one := range given {
		v, err := value.Parse(value.KindRecord, one)
		record, ok := v.(*value.Record)
		if err != nil || !ok || record == nil {
			return nil, false
		}
		if !seen[record.ID] {
			seen[record.ID] = true
			ids = append(ids, record.ID)
		}
	}
	return ids, true
}

// takenAll makes a list of the records given, each once, or says what is wrong with them.
func (p *input) takenAll(ctx context.Context, r records.Reader, raw json.RawMessage,
	fields []model.Path) (value.Value, string, error) {
	ids, ok := keysOf(raw)
	if !ok {
		return nil, p.Label + " takes a list of records", nil
	}
	switch least, most := p.bounds(); {
	case len(ids) == 0 && least > 0:
		return nil, p.Label + " is required", nil
	case len(ids) < least:
		return nil, fmt.Sprintf("%s: at least %d are wanted, and %d are given", p.Label, least, len(ids)), nil
	case len(ids) > most:
		return nil, fmt.Sprintf("%s: at most %d can be given, and %d are", p.Label, most, len(ids)), nil
	}
	found, problem, err := records.ReferredAll(ctx, r, p.field, ids, fields)
	if problem != "" || err != nil {
		return nil, problem, err
	}
	return &value.List{Object: p.object, Source: value.Records(found)}, "", nil
}
