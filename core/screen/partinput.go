package screen

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"strings"

	"plainpath/core/definition"
	"plainpath/core/expr"
	"plainpath/core/model"
	"plainpath/core/records"
	"plainpath/core/value"
)

var inputKind = partKind{kind: InputPart,
	set:   func(def *Part) bool { return def.Input != nil },
	check: (*compiler).input,
	show: func(_ context.Context, p *part, _ records.Reader, values expr.Values, g Given, view *PartView) (err error) {
		view.Input = p.Input
		view.Value, err = p.begin(values, g.Answers[p.Key])
		return err
	},
	take: func(ctx context.Context, p *part, r records.Reader, values expr.Values,
		t taking) (value.Value, string, error) {
		v, problem, err := Taken(ctx, r, p.field, t.raw, t.fields)
		if err == nil && problem == "" && t.fresh {
			problem, err = p.misfit(ctx, r, values, v)
		}
		return v, problem, err
	},
	known: func(ctx context.Context, p *part, r records.Reader, values expr.Values, g Given, used Used) error {
		v, err := p.given(ctx, r, values, g.Answers[p.Key], used.fields(p.object, p.Key))
		if err == nil {
			values[p.Key] = v
		}
		return err
	},
}

func (c *compiler) input(p *part, at string) {
	p.field = p.Field()
	in := p.Input
	switch {
	case !slices.Contains(model.FieldTypes, in.Type) || in.Type == model.WorkedOut || in.Type == model.Number:
		c.Find(definition.Stop, at+"/type", fmt.Sprintf("%q is not something a person can enter", in.Type),
			"There would be nothing to fill in.", nil)
		return
	case in.Type.Chosen() && len(in.Choices) == 0:
		c.Find(definition.Stop, at+"/choices", fmt.Sprintf("%s offers nothing to choose", p.Label),
			"The person could not go on.", nil)
		return
	case in.Type == model.Reference && c.Object(c.scope.Model, in.Object, at+"/object",
		"There would be nothing to choose.") == nil:
		return
	}
	p.object = p.field.Target()
	t := expr.OfField(p.field)
	c.out.Answers = append(c.out.Answers, expr.Name{Key: p.Key, Label: p.Label, Type: t, Of: p.at})
	if in.Fits != nil && in.Type == model.Reference {
		c.fits(p, in.Fits, at+"/fits")
	}
	if p.Label == "" {
		c.Find(definition.Care, strings.TrimSuffix(at, "/input")+"/label", "this input has no label",
			"The person would not know what to enter.", nil)
	}
	if in.Default == nil {
		return
	}
	if in.Default.Expression != "" {
		p.fallback = c.program(in.Default.Expression, t, at+"/default/expression", "The input would begin empty.")
		return
	}
	v, err := value.Parse(t.Kind, in.Default.Literal)
	if err == nil && v != nil {
		err = p.field.CheckValue(v)
	}
	if err != nil {
		c.Find(definition.Stop, at+"/default/literal", err.Error(), "The input would begin empty.", nil)
		return
	}
	for _, m := range p.field.ChoiceMentions("-", in.Default.Literal, at+"/default/literal") {
		n := slices.IndexFunc(in.Choices, func(v model.ChoiceValue) bool { return v.Key == m.Of.Choice })
		m.Of = model.Referent{Document: c.Document, At: strings.TrimSuffix(at, "/input") + model.ChoicePointer(n)}
		c.Mention(m)
	}
	p.literal = v
}

// begin is the value an input starts with.
func (p *part) begin(values expr.Values, earlier json.RawMessage) (any, error) {
	if earlier != nil {
		return earlier, nil
	}
	v := p.literal
	if p.fallback != nil {
		var err error
		if v, err = p.fallback.Eval(values); err != nil {
			return nil, err
		}
	}
	return value.Wire(v), nil
}

// given is the value of an input on a page: what was entered, or what it begins with.
func (p *part) given(ctx context.Context, r records.Reader, values expr.Values, raw json.RawMessage,
	fields []model.Path) (value.Value, error) {
	if raw == nil {
		if p.fallback != nil {
			return p.fallback.Eval(values)
		}
		return p.literal, nil
	}
	v, problem, err := p.take(ctx, r, values, raw, fields, nil, false)
	if problem != "" {
		return nil, err
	}
	return v, err
}
