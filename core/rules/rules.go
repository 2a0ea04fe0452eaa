// Package rules is about what must hold of records: record rules, and the candidate
// rules of references. Compile checks them; a Book hands out what is to be reviewed
// after a write.
package rules

import (
	"fmt"
	"slices"

	"plainpath/core/access"
	"plainpath/core/definition"
	"plainpath/core/expr"
	"plainpath/core/model"
	"plainpath/core/predicate"
	"plainpath/core/query"
	"plainpath/core/value"
)

// Book is the rules of all objects, checked. It is safe for use by several goroutines.
type Book struct {
	objects map[string]*ObjectRules
}

// ObjectRules are the rules that records of one object are under.
type ObjectRules struct {
	Rules      []Rule
	Candidates []Candidate
	Defaults   []Default
}

// Rule is a checked record rule.
type Rule struct {
	Def     model.Rule
	program *expr.Program
}

// Candidate is a checked candidate rule of a reference field.
type Candidate struct {
	Field *model.Field
	where *predicate.Checked
}

// Default is a default that is computed.
type Default struct {
	Field   *model.Field
	program *expr.Program
}

// Compile checks the rules of a model. A rule with a mistake is left out.
func Compile(m *model.Model, organisation string) (*Book, *definition.Check) {
	b := &Book{objects: map[string]*ObjectRules{}}
	check := definition.NewCheck("")
	person := access.PersonScope(m, organisation)
	for _, key := range m.Keys() {
		k := &compiler{Check: check.For(definition.Name(definition.Object, key)), model: m, object: m.Object(key),
			person: person, out: &ObjectRules{}}
		k.rules()
		for i := range k.object.Fields {
			k.field(&k.object.Fields[i], fmt.Sprintf("/fields/%d", i))
		}
		b.objects[key] = k.out
	}
	return b, check
}

type compiler struct {
	*definition.Check
	model  *model.Model
	object *model.Object
	person expr.Scope
	out    *ObjectRules
}

// recordScope knows the fields of the record as names of their own, and today and now.
func (k *compiler) recordScope() expr.Scope {
	s := expr.OfRecord(k.model, k.object.Key)
	for _, n := range k.person.Names {
		if _, taken := s.Find(n.Key); !taken && n.Key != "person" {
			s = s.With(n)
		}
	}
	return s
}

func (k *compiler) rules() {
	scope := k.recordScope()
	for i, def := range k.object.Rules {
		at := fmt.Sprintf("/rules/%d", i)
		const consequence = "Records would not be held to this rule."
		if def.Message == "" {
			k.Find(definition.Stop, at+"/message", "the rule does not say what a person is told when it is broken",
				"They would not know what to do.", nil)
		}
		p := k.ForRecords(expr.Type{Kind: value.KindYesNo}, scope, def.Expression, at+"/expression", consequence)
		if p == nil {
			continue
		}
		k.out.Rules = append(k.out.Rules, Rule{def, p})
		if name := k.bareComparison(scope, p); name != "" {
			k.Problem(definition.Care, "A record without it would be refused.", model.Problem{Pointer: at + "/expression",
				Text:    fmt.Sprintf("%s can be empty, and a comparison with an empty value does not hold", name),
				Instead: fmt.Sprintf("empty(%s) || (%s)", name, def.Expression)})
		}
	}
}

// bareComparison is a field used in a rule that can be empty without the rule saying
// what then; "" when there is none.
func (k *compiler) bareComparison(s expr.Scope, p *expr.Program) string {
	for _, u := range p.Uses {
		n, ok := s.Find(u[0])
		if len(u) == 1 && ok && n.Type.Empty && !p.CallsOn("empty", u[0]) && !p.CallsOn("either", u[0]) &&
			n.Type.Kind != value.KindYesNo {
			return u[0]
		}
	}
	return ""
}

// editedScope knows the person, and the record being edited by its stored fields.
func (k *compiler) editedScope() expr.Scope {
	return k.person.With(expr.Name{Key: predicate.EditedName, Label: "The " + k.object.Label + " being edited",
		Type: expr.Type{Kind: value.KindRecord, Object: k.object.Key}})
}

func (k *compiler) field(f *model.Field, at string) {
	if f.Candidates != nil {
		k.candidate(f, at)
	}
	if f.DefaultExpression != "" {
		if p := k.ExpressionFor(f, k.person, f.DefaultExpression, at+"/default_expression",
			f.Label+" would stay empty."); p != nil {
			k.out.Defaults = append(k.out.Defaults, Default{f, p})
		}
	}
}

// CheckCandidates checks a candidate rule of a field before it is part of the model.
func CheckCandidates(m *model.Model, organisation string, o *model.Object,
	f *model.Field) (*Candidate, *definition.Check) {
	k := &compiler{Check: definition.NewCheck(definition.Name(definition.Object, o.Key)), model: m, object: o,
		person: access.PersonScope(m, organisation), out: &ObjectRules{}}
	k.candidate(f, "")
	return k.out.Candidate(f.Key), k.Check
}

// RecordScope is what an expression over a record may know.
func RecordScope(m *model.Model, organisation string, o *model.Object) expr.Scope {
	s := (&compiler{model: m, object: o, person: access.PersonScope(m, organisation)}).recordScope()
	for _, l := range expr.RelatedLists(m, o.Key) {
		s = s.With(l.Name)
	}
	return s
}

// EditedScope is what a candidate rule of an object's reference may know.
func EditedScope(m *model.Model, organisation string, o *model.Object) expr.Scope {
	return (&compiler{model: m, object: o, person: access.PersonScope(m, organisation)}).editedScope()
}

func (k *compiler) candidate(f *model.Field, at string) {
	const consequence = "It would not be known which records can be chosen; the earlier rule stays in force."
	if f.Target() == "" {
		k.Find(definition.Stop, at+"/candidates", f.Label+" is no reference and has no records to choose from",
			consequence, nil)
		return
	}
	checked, holds := k.Where(k.editedScope(), f.Target(), *f.Candidates, at+"/candidates", consequence)
	for _, u := range checked.Uses {
		if len(u) < 2 || u[0] != predicate.EditedName {
			continue
		}
		if own := k.object.Field(u[1]); own != nil && own.Type == model.WorkedOut {
			k.Find(definition.Stop, at+"/candidates",
				own.Label+" is worked out when the record is stored, so it is not known yet while it is being edited",
				consequence, nil)
			holds = false
		}
	}
	if holds {
		k.out.Candidates = append(k.out.Candidates, Candidate{f, checked})
	}
}

// Of are the rules of an object; records of an unknown one are under none.
func (b *Book) Of(object string) *ObjectRules {
	if r := b.objects[object]; r != nil {
		return r
	}
	return &ObjectRules{}
}

// Uses are the fields of the record that a rule looks at.
func (r Rule) Uses() []string {
	var out []string
	for _, u := range r.program.Uses {
		out = append(out, u[0])
	}
	return out
}

// Predicate is what must hold of a record.
func (r Rule) Predicate(values expr.Values) predicate.Predicate {
	return predicate.Formula{Program: r.program, Values: values, Bare: true}
}

// Uses are the fields of the record being edited that the candidates depend on.
func (c Candidate) Uses() []string {
	var out []string
	for _, u := range c.where.Uses {
		if u[0] == predicate.EditedName && len(u) > 1 {
			out = append(out, u[1])
		}
	}
	return out
}

// Bind gives the condition on candidates. The values hold the person, today and now,
// and may hold the record being edited; without it, the database is asked for it.
func (c Candidate) Bind(values expr.Values) (predicate.Predicate, error) {
	if _, given := values[predicate.EditedName]; !given {
		with := make(expr.Values, len(values)+1)
		for k, v := range values {
			with[k] = v
		}
		with[predicate.EditedName] = predicate.Edited{}
		values = with
	}
	return c.where.Bind(values)
}

// Value computes the default.
func (d Default) Value(values expr.Values) (value.Value, error) { return d.program.Eval(values) }

// Candidate finds the candidate rule of a field, nil when it has none.
func (o *ObjectRules) Candidate(field string) *Candidate {
	i := slices.IndexFunc(o.Candidates, func(c Candidate) bool { return c.Field.Key == field })
	if i < 0 {
		return nil
	}
	return &o.Candidates[i]
}

// Breach is what a record may break: a text for the person and the field it is about,
// "" when it is about the record as a whole.
type Breach struct {
	Field, Text string
}

// Review gives what is to be asked of records of which some fields were written, and
// what each answer means. Changed nil means that the records are new. It is false when
// there is nothing to ask.
func (o *ObjectRules) Review(object string, changed []string,
	values expr.Values) (query.Review, []Breach, bool, error) {
	r := query.Review{Object: object}
	var breaches []Breach
	touched := func(uses []string) bool {
		return changed == nil || slices.ContainsFunc(uses, func(u string) bool { return slices.Contains(changed, u) })
	}
	for _, rule := range o.Rules {
		if touched(rule.Uses()) {
			r.Holds = append(r.Holds, rule.Predicate(values))
			breaches = append(breaches, Breach{Text: rule.Def.Message})
		}
	}
	for _, c := range o.Candidates {
		if !touched(append(c.Uses(), c.Field.Key)) {
			continue
		}
		where, err := c.Bind(values)
		if err != nil {
			return r, nil, false, fmt.Errorf("working out what %s may be: %w", c.Field.Label, err)
		}
		r.Candidates = append(r.Candidates, query.Candidates{Field: c.Field, Where: where})
		breaches = append(breaches,
			Breach{Field: c.Field.Key, Text: c.Field.Label + " is not among the records that can be chosen here"})
	}
	return r, breaches, len(breaches) > 0, nil
}
