package schema

import (
	"fmt"
	"reflect"
	"strings"

	"plainpath/core/model"
	"plainpath/core/value"
	"plainpath/postgres/sqlgen"
)

// Obstacle is a set of stored records that would break a rule a field is to get.
type Obstacle struct {
	Object string `json:"object"`
	Field  string `json:"field"`
	// Rule is what they would break: required, unique, value, or a record rule.
	Rule string `json:"rule"`
	Text string `json:"text"`
	// Count is how many records there are, of which Records are the first.
	Count   int64            `json:"count"`
	Records []ObstacleRecord `json:"records"`

	// where is the condition on the records t of the object's table that are in the way.
	Where string
}

// ObstacleRecord is a record in the way of a rule.
type ObstacleRecord struct {
	ID    int64  `db:"id" json:"id"`
	Label string `db:"label" json:"label"`
	// Value is what the field holds, as JSON.
	Value  string `db:"value" json:"value"`
	Reason string `json:"reason"`
}

// ObstacleError says that stored records stand in the way of a change of the model.
type ObstacleError struct{ Obstacles []Obstacle }

func (e *ObstacleError) Error() string {
	texts := make([]string, len(e.Obstacles))
	for i, o := range e.Obstacles {
		texts[i] = o.Text
	}
	return strings.Join(texts, "; ")
}

// shownObstacles is how many records of each obstacle are listed.
const shownObstacles = 50

// Obstacles finds the stored records that the fields, as they are to be, would refuse.
func (c *convergence) Obstacles() ([]Obstacle, error) {
	var out []Obstacle
	for _, key := range c.model.Keys() {
		if _, exists := c.have[columnName{key, "id"}]; !exists {
			continue
		}
		o := c.model.Object(key)
		for i := range o.Fields {
			found, err := c.inTheWay(o, &o.Fields[i])
			if err != nil {
				return nil, fmt.Errorf("looking for records in the way of %s of %s: %w", o.Fields[i].Label, o.Label,
					err)
			}
			out = append(out, found...)
		}
		found, err := c.ruleBreakers(o)
		if err != nil {
			return nil, fmt.Errorf("looking for records in the way of the rules of %s: %w", o.Label, err)
		}
		out = append(out, found...)
	}
	return out, nil
}

func (c *convergence) inTheWay(o *model.Object, f *model.Field) ([]Obstacle, error) {
	if !f.Stored() {
		return nil, nil
	}
	have, exists := c.have[columnName{o.Key, f.Key}]
	was := have.made
	if !exists || was != nil && was.Type == model.WorkedOut { // what was worked out is not kept
		if !f.Required || len(f.Default) > 0 {
			return nil, nil
		}
		return c.breaking(o, f, "required", "TRUE", "", "%s of %s is required, but %s would be without it")
	}
	if was == nil {
		return nil, nil
	}
	if !have.hidden && reflect.DeepEqual(stored(was), stored(f)) {
		return nil, nil
	}
	var out []Obstacle
	add := func(found []Obstacle, err error) error {
		out = append(out, found...)
		return err
	}
	name := sqlgen.Quote(f.Key)
	if f.Required && (have.hidden || !was.Required) {
		if err := add(c.breaking(o, f, "required", "t."+name+" IS NULL", "",
			"%s of %s is required, but %s without it")); err != nil {
			return nil, err
		}
	}
	if f.Unique && (have.hidden || !was.Unique) {
		twice := fmt.Sprintf("t.%s IN (SELECT %s FROM %s WHERE %s IS NOT NULL GROUP BY 1 HAVING count(*) > 1)",
			name, name, sqlgen.Space{Schema: c.Schema}.Table(o.Key), name)
		if err := add(c.breaking(o, f, "unique", twice, "t."+name+", ",
			"%s of %s is unique, but %s a value that another has too")); err != nil {
			return nil, err
		}
	}
	err := add(c.refused(o, was, f))
	return out, err
}

// held is what a field holds, as JSON text.
func held(f *model.Field, alias string) string {
	name := alias + sqlgen.Quote(f.Key)
	switch f.Kind() {
	case value.KindMoney:
		return fmt.Sprintf("CASE WHEN %[1]s IS NOT NULL THEN jsonb_build_object('amount', %[1]s::text, 'currency', %[2]s)::text END", name, alias+sqlgen.Quote(f.Key+"_currency"))
	case value.KindRecord:
		return fmt.Sprintf("CASE WHEN %[1]s IS NOT NULL THEN jsonb_build_object('id', %[1]s)::text END", name)
	}
	return "to_jsonb(" + name + ")::text"
}

// breaking lists the records for which a condition holds.
func (c *convergence) breaking(o *model.Object, f *model.Field, rule, condition, order,
	text string) ([]Obstacle, error) {
	holds := "NULL::text"
	if have := c.have[columnName{o.Key, f.Key}]; have.made != nil {
		holds = held(have.made, "t.")
	}
	out := Obstacle{Object: o.Key, Field: f.Key, Rule: rule, Where: condition}
	err := c.list(&out, o, holds, order)
	if err != nil || out.Count == 0 {
		return nil, err
	}
	out.Text = fmt.Sprintf(text, f.Label, o.Plural, howMany(out.Count))
	return []Obstacle{out}, nil
}

// list counts the records in the way and lists the first.
func (c *convergence) list(out *Obstacle, o *model.Object, holds, order string, args ...any) error {
	table := sqlgen.Space{Schema: c.Schema}.Table(o.Key)
	if err := c.tx.GetContext(c.ctx, &out.Count, fmt.Sprintf("SELECT count(*) FROM %s t WHERE %s", table, out.Where),
		args...); err != nil {
		return fmt.Errorf("counting: %w", err)
	}
	out.Records = []ObstacleRecord{}
	label, err := c.label(o)
	if err != nil {
		return err
	}
	err = c.tx.SelectContext(c.ctx, &out.Records, fmt.Sprintf(
		"SELECT t.id, coalesce(to_jsonb(%s) #>> '{}', '') AS label, coalesce(%s, 'null') AS value FROM %s t WHERE %s ORDER BY %st.id LIMIT %d",
		label, holds, table, out.Where, order, shownObstacles), args...)
	if err != nil {
		return fmt.Errorf("listing: %w", err)
	}
	return nil
}

// label is what a record t is called, as far as its columns are there already.
func (c *convergence) label(o *model.Object) (string, error) {
	f := o.Field(o.LabelField)
	uses := [][]string{{o.LabelField}}
	if w, ok := c.edition.WorkedOut(o.Key, o.LabelField); ok && w.Own {
		uses = w.Program.Uses
	}
	for _, u := range uses {
		if _, there := c.have[columnName{o.Key, u[0]}]; !there {
			return "t.id", nil
		}
	}
	return sqlgen.Space{Model: c.model, Schema: c.Schema, Worked: c.edition.WorkedOut}.Written(o, f, "t")
}

func howMany(n int64) string {
	if n == 1 {
		return "1 record is"
	}
	return fmt.Sprintf("%d records are", n)
}

// holding is the part of a field that one value is held against by itself.
func holding(f *model.Field) model.Field {
	out := unnamed(f)
	out.Unique, out.Required, out.Default, out.DefaultExpression = false, false, nil, ""
	return out
}

// refused lists the records whose value the field as it is to be would not take, or
// which would lose something by the conversion to its new type.
func (c *convergence) refused(o *model.Object, was, f *model.Field) ([]Obstacle, error) {
	if reflect.DeepEqual(holding(was), holding(f)) { // what it holds it may hold
		return nil, nil
	}
	bad := map[string]string{}
	err := c.values(o, was, f, func(raw string, _ value.Value, reason error) {
		if reason != nil {
			bad[raw] = reason.Error()
		}
	})
	if err != nil || len(bad) == 0 {
		return nil, err
	}
	keys := make([]string, 0, len(bad))
	for raw := range bad {
		keys = append(keys, sqlgen.Quoted(raw))
	}
	out, err := c.breaking(o, f, "value", held(was, "t.")+" IN ("+strings.Join(keys, ", ")+")", "",
		"%s of %s would change, but %s in the way with a value that it could not hold")
	for i := range out {
		for j := range out[i].Records {
			r := &out[i].Records[j]
			r.Reason = bad[r.Value]
		}
	}
	return out, err
}
