package predicate

import (
	"errors"
	"fmt"
	"slices"

	"plainpath/core/expr"
	"plainpath/core/model"
	"plainpath/core/value"
)

// Checked is a condition checked against the model and the known values of its
// place. Bind it to values to get a predicate.
type Checked struct {
	// Uses are the known values the condition depends on.
	Uses [][]string
	// Mentions are what it calls by keys.
	Mentions []model.Mention
	bind     func(expr.Values) (Predicate, error)
}

// Bind computes the values of the condition.
func (c *Checked) Bind(values expr.Values) (Predicate, error) {
	p, err := c.bind(values)
	if p == nil && err == nil {
		return True, nil
	}
	return p, err
}

// Check checks a condition on records of an object. Problems carry pointers below
// the given one; the result is usable only when there are none.
func Check(s expr.Scope, object string, c Condition, pointer string) (*Checked, []model.Problem) {
	k := &checker{scope: s}
	bind := k.condition(object, c, pointer)
	return &Checked{k.uses, k.mentions, bind}, k.problems
}

type binder func(expr.Values) (Predicate, error)

type checker struct {
	scope    expr.Scope
	uses     [][]string
	mentions []model.Mention
	problems []model.Problem
}

func (k *checker) problem(pointer string, err error, source string) {
	k.problems = append(k.problems, expr.Problem(err, pointer, source))
}

func (k *checker) condition(object string, c Condition, at string) binder {
	switch {
	case c.Field != "":
		return k.test(object, c, at)
	case c.Related != nil:
		return k.related(object, *c.Related, at+"/related")
	case c.Expression != "":
		return k.expression(object, c.Expression, at+"/expression")
	case c.Any != nil:
		return k.group(object, c.Any, at+"/any", func(p []Predicate) Predicate { return Any(p) })
	}
	return k.group(object, c.All, at+"/all", func(p []Predicate) Predicate { return All(p) })
}

func (k *checker) group(object string, members []Condition, at string, put func([]Predicate) Predicate) binder {
	binders := make([]binder, len(members))
	for i, m := range members {
		binders[i] = k.condition(object, m, fmt.Sprintf("%s/%d", at, i))
	}
	return func(v expr.Values) (Predicate, error) {
		var out []Predicate
		for _, b := range binders {
			p, err := b(v)
			if err != nil {
				return nil, err
			}
			if p != nil { // a skipped condition takes no part in its group
				out = append(out, p)
			}
		}
		if len(out) == 0 { // and a group of nothing but those none in the group it is in
			return nil, nil
		}
		return put(out), nil
	}
}

func (k *checker) related(object string, r Related, at string) binder {
	o := k.scope.Model.Object(r.Object)
	if o == nil {
		k.problem(at+"/object", fmt.Errorf("there is no object %q", r.Object), "")
		return nil
	}
	f := o.Field(r.Field)
	if f == nil {
		k.problem(at+"/field", &model.UnknownNameError{Name: r.Field, Object: o.Label}, r.Field)
		return nil
	}
	if f.Target() != object {
		k.problem(at+"/field", fmt.Errorf("%s has no reference %q to this object", o.Label, r.Field), "")
		return nil
	}
	k.mentions = append(k.mentions, model.TextMention(at+"/object", r.Object, model.Referent{Object: r.Object}),
		model.TextMention(at+"/field", r.Field, model.Referent{Object: r.Object, Field: r.Field}))
	where := k.condition(r.Object, r.Where, at+"/where")
	return func(v expr.Values) (Predicate, error) {
		p, err := where(v)
		if p == nil {
			p = True
		}
		return HasRelated{Object: r.Object, Label: o.Label, Via: f, None: r.None, Where: p}, err
	}
}

func (k *checker) expression(object, source, at string) binder {
	s := k.scope.With(expr.Name{Key: "record", Type: expr.Type{Kind: value.KindRecord, Object: object}})
	p, err := expr.CompileAs(s, source, expr.Type{Kind: value.KindYesNo})
	if err != nil {
		k.problem(at, err, source)
		return nil
	}
	if err := Writable(p); err != nil {
		k.problem(at, err, "")
		return nil
	}
	k.mentions = append(k.mentions, p.Mentions(s, at)...)
	for _, u := range p.Uses {
		if u[0] != "record" {
			k.uses = append(k.uses, u)
		}
	}
	return func(v expr.Values) (Predicate, error) { return Formula{Program: p, Values: v}, nil }
}

func (k *checker) test(object string, c Condition, at string) binder {
	path, err := k.scope.Model.Path(object, c.Field)
	if err != nil {
		k.problem(at+"/field", err, c.Field)
		return nil
	}
	k.mentions = append(k.mentions, path.Mentions(object, at+"/field")...)
	f := path.Last()
	if c.Empty != "" && c.Empty != EmptyNothing && c.Empty != EmptySkip {
		k.problem(at+"/empty", fmt.Errorf("%q is nothing that an empty value can mean: say %s or %s", c.Empty,
			EmptyNothing, EmptySkip), "")
		return nil
	}
	if !slices.Contains(Operators(f), c.Op) {
		k.problem(at+"/op", fmt.Errorf("%q cannot be asked of %s, which holds %s", c.Op, f.Label,
			expr.Describe(k.scope.Model, expr.OfField(f))), "")
		return nil
	}
	want := compared(f)
	operands := []*Operand{}
	pointers := []string{}
	switch c.Op {
	case IsEmpty, IsNotEmpty:
	case Between:
		operands, pointers = []*Operand{c.Value, c.To}, []string{at + "/value", at + "/to"}
	case OneOf:
		return k.oneOf(path, c, at)
	case WithinLastDays, WithinNextDays:
		want = expr.Type{Kind: value.KindWhole}
		fallthrough
	default:
		operands, pointers = []*Operand{c.Value}, []string{at + "/value"}
	}
	operate := make([]operand, len(operands))
	for i, o := range operands {
		if operate[i] = k.operand(o, want, f, pointers[i]); operate[i] == nil {
			return nil
		}
	}
	return func(v expr.Values) (Predicate, error) {
		t := Test{Path: path, Op: c.Op, Skip: c.Empty == EmptySkip}
		for i, compute := range operate {
			x, err := compute(v)
			if err != nil {
				return nil, err
			}
			if x == nil {
				return whenEmpty(c.Empty), nil
			}
			if i == 0 {
				t.Value = x
			} else {
				t.To = x
			}
		}
		if c.Op == WithinLastDays || c.Op == WithinNextDays {
			return t.days(v, k.scope.Model.Location())
		}
		return t, nil
	}
}

func whenEmpty(e EmptyMeans) Predicate {
	if e == EmptySkip {
		return nil
	}
	return False
}

type operand func(expr.Values) (value.Value, error)

func (k *checker) operand(o *Operand, want expr.Type, f *model.Field, at string) operand {
	switch {
	case o == nil || o.Expression == "" && len(o.Literal) == 0:
		k.problem(at, fmt.Errorf("choose what %s is compared with", f.Label), "")
		return nil
	case o.Expression != "":
		p, err := expr.CompileFor(k.scope, o.Expression, want, f)
		if err != nil {
			k.problem(at+"/expression", err, o.Expression)
			return nil
		}
		k.uses, k.mentions = append(k.uses, p.Uses...), append(k.mentions, p.Mentions(k.scope, at+"/expression")...)
		if usesEdited(p) {
			if err := Writable(p); err != nil {
				k.problem(at+"/expression", err, "")
				return nil
			}
			if want.Kind == value.KindWhole && f.Kind() != value.KindWhole {
				k.problem(at+"/expression", errors.New("the number of days cannot depend on the record being edited"),
					"")
				return nil
			}
		}
		return computed(p)
	}
	v, err := value.Parse(want.Kind, o.Literal)
	if err == nil && f.Type.Chosen() && v != nil && !f.HasChoice(value.Display(v)) {
		err = fmt.Errorf("%s has no value %q", f.Label, value.Display(v))
	}
	if err == nil && want.Kind == value.KindWhole && f.Kind() != value.KindWhole {
		err = checkDays(v)
	}
	if err != nil {
		k.problem(at+"/literal", err, "")
		return nil
	}
	k.mentions = append(k.mentions, f.ChoiceMentions(k.scope.Model.Owner(f), o.Literal, at+"/literal")...)
	if r, ok := v.(*value.Record); ok {
		r.Object = want.Object
	}
	return func(expr.Values) (value.Value, error) { return v, nil }
}

// oneOf takes several operands, or one that is a list: of records, or of texts.
func (k *checker) oneOf(path model.Path, c Condition, at string) binder {
	f := path.Last()
	if c.Value != nil && c.Value.Expression != "" {
		if len(c.Values) > 0 {
			k.problem(at+"/values", fmt.Errorf("name either the values that %s may have or a list of them", f.Label),
				"")
			return nil
		}
		want := expr.Type{Kind: value.KindList, Object: f.Target()}
		if f.Target() == "" {
			want = expr.Type{Kind: value.KindSeveral}
		}
		p, err := expr.CompileFor(k.scope, c.Value.Expression, want, f)
		if err != nil {
			k.problem(at+"/value/expression", err, c.Value.Expression)
			return nil
		}
		k.uses, k.mentions = append(k.uses, p.Uses...), append(k.mentions, p.Mentions(k.scope,
			at+"/value/expression")...)
		return func(v expr.Values) (Predicate, error) { return oneOfList(path, p, v, c.Empty) }
	}
	if len(c.Values) == 0 {
		k.problem(at+"/values", fmt.Errorf("name the values that %s may have", f.Label), "")
		return nil
	}
	var operate []operand
	for i := range c.Values {
		compute := k.operand(&c.Values[i], compared(f), f, fmt.Sprintf("%s/values/%d", at, i))
		if compute == nil {
			return nil
		}
		operate = append(operate, compute)
	}
	return func(v expr.Values) (Predicate, error) {
		t := Test{Path: path, Op: OneOf, Skip: c.Empty == EmptySkip}
		for _, compute := range operate {
			x, err := compute(v)
			if err != nil {
				return nil, err
			}
			if x != nil {
				t.Values = append(t.Values, x)
			}
		}
		if len(t.Values) == 0 {
			return whenEmpty(c.Empty), nil
		}
		return t, nil
	}
}

func oneOfList(path model.Path, p *expr.Program, v expr.Values, empty EmptyMeans) (Predicate, error) {
	l, err := p.Eval(v)
	if err != nil {
		return nil, err
	}
	switch l := l.(type) {
	case nil:
		return whenEmpty(empty), nil
	case value.Failure:
		return nil, fmt.Errorf("%q is %w", p.Source, l)
	case value.Several:
		t := Test{Path: path, Op: OneOf}
		for _, key := range l.Keys() {
			t.Values = append(t.Values, value.Text(key))
		}
		return t, nil
	}
	records, err := l.(*value.List).Source.All()
	if err != nil {
		return nil, fmt.Errorf("reading %q: %w", p.Source, err)
	}
	if len(records) == 0 {
		return whenEmpty(empty), nil
	}
	t := Test{Path: path, Op: OneOf}
	for _, r := range records {
		t.Values = append(t.Values, r)
	}
	return t, nil
}

// Writable says whether the database can compute an expression, and if not, why.
func Writable(p *expr.Program) error {
	_, err := p.ForARecord()
	return err
}
