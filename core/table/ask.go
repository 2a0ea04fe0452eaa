package table

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"

	"plainpath/core/definition"
	"plainpath/core/expr"
	"plainpath/core/model"
	"plainpath/core/records"
	"plainpath/core/value"
)

// Asked is a value that a person may give in each row of a table on a screen, such as a quantity. The table
// gives out the rows in which something was given, each with its values.
type Asked struct {
	Key      string          `json:"key"`
	Label    string          `json:"label"`
	Type     model.FieldType `json:"type"`
	Required bool            `json:"required,omitempty"`
	Least    *int64          `json:"least,omitempty"`
	Most     *int64          `json:"most,omitempty"`
}

// AnsweredRow is what expressions call the record of a row in which something was given.
const AnsweredRow = "row"

// field is what is asked for as a field, whose checks it shares.
func (a *Asked) field() *model.Field {
	return &model.Field{Key: a.Key, Label: a.Label, Type: a.Type, Required: a.Required, Least: a.Least,
		Most: a.Most}
}

// MayBeAsked says whether a value of a type can be asked for in a row.
func MayBeAsked(t model.FieldType) bool {
	f := model.Field{Type: t}
	return slices.Contains(model.FieldTypes, t) && t != model.WorkedOut && t != model.Number && !t.Chosen() &&
		f.Kind() != value.KindRecord && value.Parts(f.Kind()) == nil
}

// asked checks what is asked for in the rows.
func (c *compiler) asked(p *Program, at string) {
	if p.Select != SelectSeveral {
		c.Find(definition.Stop, at+"/select", "a table that asks in its rows gives out several rows",
			"What was given would go nowhere.", definition.Replace("Let several rows be answered", at+"/select",
				string(SelectSeveral)))
	}
	p.answers = CheckAsked(c.Check, p.Ask, answeredRow(c.scope.Model.Object(p.object)), at+"/ask")
}

func answeredRow(o *model.Object) []expr.Name {
	return []expr.Name{{Key: AnsweredRow, Label: o.Label, Type: expr.Type{Kind: value.KindRecord, Object: o.Key}}}
}

// CheckAsked checks what is asked for in rows, and gives what each row holds: what is known of it, and that.
func CheckAsked(c *definition.Check, ask []Asked, known []expr.Name, at string) []expr.Name {
	for i := range ask {
		a, pointer := &ask[i], fmt.Sprintf("%s/%d", at, i)
		problem := model.KeyProblem(a.Key)
		switch taken := slices.ContainsFunc(known, func(n expr.Name) bool { return n.Key == a.Key }); {
		case problem != "":
			c.Find(definition.Stop, pointer+"/key", problem, "Nothing could use what is given.", nil)
		case taken:
			c.Find(definition.Stop, pointer+"/key", fmt.Sprintf("the key %q is taken", a.Key),
				"One value would be taken for the other.", definition.Replace("Rename it", pointer+"/key", a.Key+"_given"))
		case !MayBeAsked(a.Type):
			c.Find(definition.Stop, pointer+"/type", fmt.Sprintf("%q is not something that can be asked for in a row", a.Type),
				"There would be nothing to fill in.", nil)
		default:
			known = append(known, expr.Name{Key: a.Key, Label: a.Label, Type: expr.OfField(a.field()),
				Of: model.Referent{Document: c.Document, At: pointer}})
		}
	}
	return known
}

// ChosenRow is a row that was chosen, with what was given in it.
type ChosenRow struct {
	value.Ref
	Values map[string]json.RawMessage `json:"values,omitempty"`
}

// parseAnswered reads the rows in which something was given. Those in which nothing was are left out.
func (p *Program) parseAnswered(raw json.RawMessage) ([]ChosenRow, error) {
	raw = bytes.TrimSpace(raw)
	if len(raw) == 0 || string(raw) == "null" {
		return nil, nil
	}
	var given []ChosenRow
	if err := json.Unmarshal(raw, &given); err != nil {
		return nil, errors.New("what was given in the rows cannot be read")
	}
	if len(given) > MostChosen {
		return nil, fmt.Errorf("more than %d rows are filled in", MostChosen)
	}
	seen := map[int64]bool{}
	return slices.DeleteFunc(given, func(g ChosenRow) bool {
		again := seen[g.ID]
		seen[g.ID] = true
		return again || !Given(g.Values)
	}), nil
}

// Answered makes a known value of what was given in the rows as it came, or says what is wrong with it. Take
// makes a list of the rows that were chosen; fields are those used of their records.
func (p *Program) Answered(ctx context.Context, r records.Reader, values expr.Values, raw json.RawMessage,
	fields []model.Path, take Taker) (value.Value, string, error) {
	given, err := p.parseAnswered(raw)
	if err != nil {
		return nil, err.Error(), nil
	}
	var c Chosen
	for _, g := range given {
		c.Keys = append(c.Keys, g.ID)
	}
	v, problem, err := take(p, ctx, r, values, c, fields)
	if problem != "" || err != nil {
		return nil, problem, err
	}
	v, problem = p.answered(given, v)
	return v, problem, nil
}

// Taker makes a value of the rows chosen in a table, or says what is wrong: [Program.Accept] or [Program.Restore].
type Taker func(p *Program, ctx context.Context, r records.Reader, values expr.Values, c Chosen,
	fields []model.Path) (value.Value, string, error)

// answered makes the known value of the rows in which something was given, or says what is wrong with them.
func (p *Program) answered(given []ChosenRow, chosen value.Value) (value.Value, string) {
	list, _ := chosen.(*value.List)
	found := map[int64]*value.Record{}
	if held, ok := list.Source.(value.Records); ok {
		for _, rec := range held {
			found[rec.ID] = rec
		}
	}
	rows := value.Rows{}
	for _, g := range given {
		record := found[g.ID]
		row := &value.Record{ID: g.ID, Label: record.Label, Fields: map[string]value.Value{AnsweredRow: record}}
		if err := TakeAsked(p.Ask, g.Values, row); err != nil {
			return nil, record.Label + ": " + err.Error()
		}
		rows = append(rows, row)
	}
	return rows, ""
}

// TakeAsked puts what was given in a row into it, or says what is wrong with it.
func TakeAsked(ask []Asked, values map[string]json.RawMessage, into *value.Record) error {
	for key := range values {
		if !slices.ContainsFunc(ask, func(a Asked) bool { return a.Key == key }) {
			return fmt.Errorf("nothing called %q is asked for", key)
		}
	}
	for i := range ask {
		f := ask[i].field()
		v, err := value.Parse(f.Kind(), values[f.Key])
		if err == nil {
			err = f.CheckValue(v)
		}
		if err != nil {
			return err
		}
		if v != nil {
			into.Fields[f.Key] = v
		}
	}
	return nil
}

// Given says whether anything was given in a row.
func Given(values map[string]json.RawMessage) bool {
	for _, v := range values {
		if s := string(bytes.TrimSpace(v)); s != "null" && s != `""` {
			return true
		}
	}
	return false
}

// Earlier are the rows that were chosen one by one, with what was given in them.
func (p *Program) Earlier(raw json.RawMessage) ([]ChosenRow, error) {
	if len(p.Ask) > 0 {
		return p.parseAnswered(raw)
	}
	c, err := ParseChosen(raw)
	out := make([]ChosenRow, len(c.Keys))
	for i, key := range c.Keys {
		out[i].ID = key
	}
	return out, err
}
