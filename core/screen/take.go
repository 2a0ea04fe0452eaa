package screen

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

// Take is a value that is handed over when a walkthrough or a page is opened.
type Take struct {
	Key   string          `json:"key"`
	Label string          `json:"label"`
	Type  model.FieldType `json:"type"`
	// Object is what a reference points at.
	Object string `json:"object,omitempty"`
	// Several says that it is a list of records.
	Several  bool `json:"several,omitempty"`
	Required bool `json:"required,omitempty"`
}

// Gives is the type of the value.
func (t Take) Gives() expr.Type {
	of := expr.OfField(t.Field())
	if t.Several {
		return expr.Type{Kind: value.KindList, Object: of.Object}
	}
	return of
}

// Field is the value as a field, whose checks it shares.
func (t Take) Field() *model.Field {
	return &model.Field{Key: t.Key, Label: t.Label, Type: t.Type, Object: t.Object, Required: t.Required}
}

// CheckTakes checks what is handed over to what a check is about, and gives what is known by it.
func CheckTakes(c *definition.Check, scope expr.Scope, takes []Take) []expr.Name {
	var out []expr.Name
	const consequence = "It could not be opened."
	for i, t := range takes {
		at := fmt.Sprintf("/takes/%d", i)
		_, known := scope.Find(t.Key)
		switch problem := model.KeyProblem(t.Key); {
		case problem != "":
			c.Find(definition.Stop, at+"/key", problem, "The value could not be used.", nil)
		case known || slices.ContainsFunc(out, func(n expr.Name) bool { return n.Key == t.Key }):
			c.Find(definition.Stop, at+"/key", fmt.Sprintf("the key %q is taken", t.Key),
				"The wrong value would be used.", definition.Replace("Rename it", at+"/key", t.Key+"_taken"))
		case !slices.Contains(model.FieldTypes, t.Type) || t.Type == model.WorkedOut || t.Type == model.Number ||
			t.Type.Chosen():
			c.Find(definition.Stop, at+"/type", fmt.Sprintf("%q is not something that can be handed over", t.Type),
				consequence, nil)
		case t.Type == model.Reference && c.Object(scope.Model, t.Object, at+"/object", consequence) == nil:
		case t.Several && t.Field().Target() == "":
			c.Find(definition.Stop, at+"/several", fmt.Sprintf("of %s one is handed over; records can be several", t.Label),
				consequence, &definition.Mend{Label: "Take one",
					Patch: []definition.Op{{Op: "remove", Path: at + "/several"}}})
		default:
			out = append(out, expr.Name{Key: t.Key, Label: t.Label, Type: t.Gives(),
				Of: model.Referent{Document: c.Document, At: at}})
		}
	}
	return out
}

// TakeAll makes known values of what was handed over. Fields are those that are used of records by the keys of values.
func TakeAll(ctx context.Context, r records.Reader, takes []Take, taken Answers,
	fields func(key string) []model.Path) (map[string]value.Value, []model.Problem, error) {
	out := map[string]value.Value{}
	var problems []model.Problem
	for key := range taken {
		if !slices.ContainsFunc(takes, func(t Take) bool { return t.Key == key }) {
			problems = append(problems, model.Problem{Pointer: "/" + key, Text: "no such value is taken"})
		}
	}
	for _, t := range takes {
		v, problem, err := t.taken(ctx, r, taken[t.Key], fields(t.Key))
		if err != nil {
			return nil, nil, err
		}
		if problem != "" {
			problems = append(problems, model.Problem{Pointer: "/" + t.Key, Text: problem})
		}
		out[t.Key] = v
	}
	return out, problems, nil
}

// taken makes a known value of what was handed over; of a list, those of its records that the person may see.
func (t Take) taken(ctx context.Context, r records.Reader, raw json.RawMessage,
	fields []model.Path) (value.Value, string, error) {
	if !t.Several {
		return Taken(ctx, r, t.Field(), raw, fields)
	}
	ids, ok := keysOf(raw)
	if !ok || t.Required && raw == nil {
		return nil, t.Label + " takes a list of records", nil
	}
	list, err := records.List(ctx, r, t.Field().Target(), ids, fields)
	return list, "", err
}
