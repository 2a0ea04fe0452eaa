// Package rules is about what must hold of records: record rules, and the candidate
// rules of references. Compile checks them; a Book hands out what is to be reviewed
// after a write.
package rules

import (
	"fmt"
	"slices"

	"plainpath/core/access"
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

// Problem is something wrong with the rules of an object.
type Problem struct {
	model.Problem
	// Care says that the rule works, but perhaps not as meant.
	Care bool
	// Consequence is what it would mean for people.
	Consequence string
}

// Compile checks the rules of a model. Problems are given by object key. A rule with a
// problem is left out.
func Compile(m *model.Model, organisation string) (*Book, map[string][]Problem) {
	b := &Book{objects: map[string]*ObjectRules{}}
	problems := map[string][]Problem{}
	person := access.PersonScope(m, organisation)
	for _, key := range m.Keys() {
		k := &compiler{model: m, object: m.Object(key), person: person, out: &ObjectRules{}}
		k.rules()
		for i := range k.object.Fields {
			k.field(&k.object.Fields[i], fmt.Sprintf("/fields/%d", i))
		}
		b.objects[key] = k.out
		if len(k.problems) > 0 {
			problems[key] = k.problems
		}
	}
	return b, problems
}

type compiler struct {
	model    *model.Model
	object   *model.Object
	person   expr.Scope
	out      *ObjectRules
	problems []Problem
}

func (k *compiler) stop(p model.Problem, consequence string) {
	k.problems = append(k.problems, Problem{Problem: p, Consequence: consequence})
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
			k.stop(model.Problem{Pointer: at + "/message",
				Text: "the rule does not say what a person is told when it is broken"},
				"They would not know what to do.")
		}
		p, err := expr.CompileAs(scope, def.Expression, expr.Type{Kind: value.KindYesNo})
		if err == nil {
			err = predicate.Writable(p)
		}
		if err != nil {
			k.stop(expr.Problem(err, at+"/expression", def.Expression), consequence)
			continue
		}
		k.out.Rules = append(k.out.Rules, Rule{def, p})
		if name := k.bareComparison(scope, p); name != "" {
			k.problems = append(k.problems, Problem{Care: true, Consequence: "A record without it would be refused.",
				Problem: model.Problem{Pointer: at + "/expression",
					Text:    fmt.Sprintf("%s can be empty, and a comparison with an empty value does not hold", name),
					Instead: fmt.Sprintf("empty(%s) || (%s)", name, def.Expression)}})
		}
	}
}

// bareComparison is a field used in a rule that can be empty without the rule saying
// what then; "" when there is none.
func (k *compiler) bareComparison(s expr.Scope, p *expr.Program) string {
	for _, u := range p.Uses {
		n, ok := s.Find(u[0])
		if len(u) == 1 && ok && n.Type.Empty && !p.Mentions("empty", u[0]) && !p.Mentions("either", u[0]) &&
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
		p, err := expr.CompileFor(k.person, f.DefaultExpression, expr.Type{Kind: f.Kind(), Object: f.Target()}, f)
		if err != nil {
			k.stop(expr.Problem(err, at+"/default_expression", f.DefaultExpression), f.Label+" would stay empty.")
			return
		}
		k.out.Defaults = append(k.out.Defaults, Default{f, p})
	}
}

// CheckCandidates checks a candidate rule of a field before it is part of the model.
func CheckCandidates(m *model.Model, organisation string, o *model.Object, f *model.Field) (*Candidate, []Problem) {
	k := &compiler{model: m, object: o, person: access.PersonScope(m, organisation), out: &ObjectRules{}}
	k.candidate(f, "")
	return k.out.Candidate(f.Key), k.problems
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
		k.stop(model.Problem{Pointer: at + "/candidates",
			Text: f.Label + " is no reference and has no records to choose from"}, consequence)
		return
	}
	checked, wrong := predicate.Check(k.editedScope(), f.Target(), *f.Candidates, at+"/candidates")
	for _, u := range checked.Uses {
		if len(u) < 2 || u[0] != predicate.EditedName {
			continue
		}
		if own := k.object.Field(u[1]); own != nil && own.Type == model.WorkedOut {
			wrong = append(wrong, model.Problem{Pointer: at + "/candidates",
				Text: own.Label + " is worked out when the record is stored, so it is not known yet while it is being edited"})
		}
	}
	for _, p := range wrong {
		k.stop(p, consequence)
	}
	if len(wrong) == 0 {
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
