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
	"plainpath/core/predicate"
	"plainpath/core/records"
	"plainpath/core/value"
)

// Input asks the person for a value.
type Input struct {
	Type     model.FieldType `json:"type"`
	Required bool            `json:"required,omitempty"`
	// Several lets several records or files be given, from Least to Most of them, which make a list.
	Several bool                `json:"several,omitempty"`
	Help    string              `json:"help,omitempty"`
	Choices []model.ChoiceValue `json:"choices,omitempty"`
	// Object is what a reference input chooses from.
	Object string `json:"object,omitempty"`
	// Fits narrows what a reference input offers to what a field of a record may refer to.
	Fits    *Fits              `json:"fits,omitempty"`
	Default *predicate.Operand `json:"default,omitempty"`
	Least   *int64             `json:"least,omitempty"`
	Most    *int64             `json:"most,omitempty"`
}

// Field is the input as a field, whose checks it shares.
func (p *Part) Field() *model.Field {
	in := p.Input
	return &model.Field{Key: p.Key, Label: p.Label, Type: in.Type, Required: in.Required, Choices: in.Choices,
		Object: in.Object, Least: in.Least, Most: in.Most}
}

var inputKind = partKind{InputPart, func(def *Part) bool { return def.Input != nil }, checkInput}

type input struct {
	*Part
	field *model.Field
	// object is what a reference input chooses from.
	object   string
	fallback *expr.Program
	literal  value.Value
	// fits is what narrows what a reference input offers, nil for nothing.
	fits *fitting
}

func checkInput(c *compiler, part *part, at string) content {
	p := &input{Part: part.Part, field: part.Field()}
	in := p.Input
	switch {
	case !slices.Contains(model.FieldTypes, in.Type) || in.Type == model.WorkedOut || in.Type == model.Number:
		c.Find(definition.Stop, at+"/type", fmt.Sprintf("%q is not something a person can enter", in.Type),
			"There would be nothing to fill in.", nil)
		return nil
	case in.Type.Chosen() && len(in.Choices) == 0:
		c.Find(definition.Stop, at+"/choices", fmt.Sprintf("%s offers nothing to choose", p.Label),
			"The person could not go on.", nil)
		return nil
	case in.Type == model.Reference && c.Object(c.scope.Model, in.Object, at+"/object",
		"There would be nothing to choose.") == nil:
		return nil
	}
	p.object = p.field.Target()
	t := p.Gives()
	c.several(p, at)
	c.out.Answers = append(c.out.Answers, expr.Name{Key: p.Key, Label: p.Label, Type: t, Of: part.at})
	if in.Fits != nil && in.Type == model.Reference {
		c.fits(p, in.Fits, at+"/fits")
	}
	if p.Label == "" {
		c.Find(definition.Care, strings.TrimSuffix(at, "/input")+"/label", "this input has no label",
			"The person would not know what to enter.", nil)
	}
	switch {
	case in.Default == nil:
	case in.Default.Expression != "":
		p.fallback = c.program(in.Default.Expression, t, at+"/default/expression", "The input would begin empty.")
	case !in.Several:
		c.inputDefault(p, t.Kind, at)
	}
	return p
}

// inputDefault checks what an input begins with.
func (c *compiler) inputDefault(p *input, kind value.Kind, at string) {
	in := p.Input
	v, err := value.Parse(kind, in.Default.Literal)
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

func (p *input) show(ctx context.Context, r records.Reader, values expr.Values, g Given, view *PartView) error {
	view.Input = p.Input
	if earlier := g.Answers[p.Key]; earlier != nil {
		return p.keep(ctx, r, values, earlier, view)
	}
	v, err := p.begin(values)
	if err == nil {
		view.Value, err = records.Wire(v)
	}
	return err
}

// keep shows what was given earlier, and says so when it does not fit any more.
func (p *input) keep(ctx context.Context, r records.Reader, values expr.Values, earlier json.RawMessage,
	view *PartView) error {
	view.Value = earlier
	if p.fits == nil {
		return nil
	}
	v, problem, err := p.taken(ctx, r, earlier, nil)
	if err != nil || problem != "" {
		return err
	}
	lost, _, err := p.misfits(ctx, r, values, v)
	if lost != nil {
		view.Lost = fmt.Sprintf("%s does not fit any more. Please choose again.", lost.Label)
	}
	return err
}

// begin is the value the input starts with.
func (p *input) begin(values expr.Values) (value.Value, error) {
	if p.fallback == nil && p.Input.Several {
		return nothing(p.Gives()), nil
	}
	if p.fallback != nil {
		return p.fallback.Eval(values)
	}
	return p.literal, nil
}

func (p *input) take(ctx context.Context, r records.Reader, values expr.Values,
	t taking) (value.Value, string, error) {
	v, problem, err := p.taken(ctx, r, t.raw, t.fields)
	if err == nil && problem == "" && t.fresh {
		_, problem, err = p.misfits(ctx, r, values, v)
	}
	return v, problem, err
}

// taken makes a known value of what was given, or says what is wrong with it.
func (p *input) taken(ctx context.Context, r records.Reader, raw json.RawMessage,
	fields []model.Path) (value.Value, string, error) {
	if p.Input.Several {
		return p.takenAll(ctx, r, raw, fields)
	}
	return Taken(ctx, r, p.field, raw, fields)
}

// know makes known what was entered, or what the input begins with.
func (p *input) know(ctx context.Context, r records.Reader, values expr.Values, g Given, used Used) error {
	raw := g.Answers[p.Key]
	if raw == nil {
		v, err := p.begin(values)
		values[p.Key] = v
		return err
	}
	v, problem, err := p.taken(ctx, r, raw, used.fields(p.object, p.Key))
	if problem != "" {
		v = nothing(p.Gives())
	}
	values[p.Key] = v
	return err
}
