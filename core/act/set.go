package act

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"

	"plainpath/core/definition"
	"plainpath/core/expr"
	"plainpath/core/model"
	"plainpath/core/records"
	"plainpath/core/value"
)

// Set puts a value into an input of the page or screen, as if the person had entered it.
type Set struct {
	Part string `json:"part"`
	// Value is an expression; the input is emptied without it.
	Value string `json:"value,omitempty"`
}

type setPlan struct {
	basis
	part  string
	rows  string
	value *expr.Program
}

func checkSet(c *check, a *Act, at string) Plan {
	if !given(c, a, a.Set, at) {
		return nil
	}
	at += "/set"
	input, ok := c.part(a.Set.Part, at+"/part", "Nothing would be set.")
	if !ok {
		return nil
	}
	if input.Type.Kind == "" {
		c.Find(definition.Stop, at+"/part", fmt.Sprintf("%s is no input", input.Label), "Nothing would be set.", nil)
		return nil
	}
	p := &setPlan{part: a.Set.Part, rows: c.Rows}
	if a.Set.Value == "" {
		return p
	}
	want := expr.Type{Kind: input.Type.Kind, Object: input.Type.Object}
	if p.value = c.ExpressionOf(want, c.Scope, a.Set.Value, at+"/value", "Nothing would be set."); p.value == nil {
		return nil
	}
	p.uses = p.value.Uses
	return p
}

// part is a part of the page or screen that an act names.
func (c *check) part(key, at, consequence string) (Part, bool) {
	n := slices.IndexFunc(c.Parts, func(p Part) bool { return p.Key == key })
	if n < 0 {
		keys := make([]string, len(c.Parts))
		for i, p := range c.Parts {
			keys[i] = p.Key
		}
		var mend *definition.Mend
		if nearest := model.Nearest(key, keys); nearest != "" {
			mend = definition.Replace("Use "+nearest, at, nearest)
		}
		c.Find(definition.Stop, at, fmt.Sprintf("there is no part %q here", key), consequence, mend)
		return Part{}, false
	}
	c.Mention(model.TextMention(at, key, c.Parts[n].Of))
	return c.Parts[n], true
}

// Do computes the value and leaves it to the browser, which holds what is entered.
func (p *setPlan) Do(ctx context.Context, u records.Writer, in In) (Done, error) {
	effect := Effect{Kind: SetAct, Part: p.part, Value: json.RawMessage("null")}
	if p.value == nil {
		return Done{Effects: []Effect{effect}}, nil
	}
	values, err := rowKnown(ctx, u, in, p.rows, p.value.Uses)
	if err != nil || values == nil {
		return Done{}, err
	}
	v, err := p.value.Eval(values)
	if err != nil {
		return Done{}, err
	}
	if why, failed := v.(value.Failure); failed {
		return Done{}, &RefusedError{Step: in.Through, Err: why, Text: fmt.Sprintf("What is to be set is %s.", why.Why)}
	}
	wire, err := records.Wire(v)
	if err == nil {
		effect.Value, err = json.Marshal(wire)
	}
	return Done{Effects: []Effect{effect}}, err
}
