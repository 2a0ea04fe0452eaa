package definition

import (
	"cmp"
	"errors"
	"fmt"
	"slices"

	"plainpath/core/expr"
	"plainpath/core/model"
	"plainpath/core/predicate"
	"plainpath/core/value"
)

// Check goes through a document. Whatever stands in it is checked through a method of Check, which
// gathers both what is wrong and what is called by a key, with pointers; so nothing can be used in a
// document without being found where it is renamed.
type Check struct {
	// Document and Step are what findings name.
	Document, Step string
	*gathered
}

type gathered struct {
	findings []Finding
	mentions []Mention
	openings []Opening
}

// Opening is a place where an act runs or opens another document, and hands it values.
type Opening struct {
	Document, Step string
	// At is the pointer of its settings; the member called like its kind has its key.
	At   string
	Kind Kind
	Key  string
	Hand []Handed
}

// Handed is a value that is handed over.
type Handed struct {
	To string
	// Type is that of the value, nil where the expression has a mistake.
	Type *expr.Type
}

// Mention is a place in a document where something is called by its key.
type Mention struct {
	Document string
	model.Mention
}

// NewCheck is the check of a document, by its name, of which nothing is found yet.
func NewCheck(document string) *Check { return &Check{Document: document, gathered: &gathered{}} }

// For is the check of another document, which gathers with this one.
func (c *Check) For(document string) *Check { return &Check{Document: document, gathered: c.gathered} }

// In is the same check within a step.
func (c *Check) In(step string) *Check { return &Check{c.Document, step, c.gathered} }

// Findings are what was found so far.
func (c *Check) Findings() []Finding { return c.findings }

// Mentions are what the document calls by keys, as far as it was gone through.
func (c *Check) Mentions() []Mention { return c.mentions }

// Opens notes that another document is run or opened.
func (c *Check) Opens(kind Kind, key, at string, hand []Handed) {
	c.openings = append(c.openings, Opening{c.Document, c.Step, at, kind, key, hand})
}

// Openings are what documents run and open, as far as they were gone through.
func (c *Check) Openings() []Opening { return c.openings }

// Find notes something that is wrong.
func (c *Check) Find(severity Severity, pointer, text, consequence string, mend *Mend) {
	c.findings = append(c.findings, Finding{Document: c.Document, Step: c.Step, Pointer: pointer,
		Severity: severity, Text: text, Consequence: consequence, Mend: mend})
}

// Fail notes an error that stops. Source is what stands at the pointer, where the error may say how to
// mend it.
func (c *Check) Fail(err error, pointer, source, consequence string) {
	c.Problem(Stop, consequence, expr.Problem(err, pointer, source))
}

// Problem notes problems, all of one consequence.
func (c *Check) Problem(severity Severity, consequence string, problems ...model.Problem) {
	for _, f := range FromProblems(c.Document, c.Step, consequence, problems) {
		f.Severity = severity
		c.findings = append(c.findings, f)
	}
}

// Take takes over what another check gathered.
func (c *Check) Take(o *Check) {
	c.findings = append(c.findings, o.findings...)
	c.mentions = append(c.mentions, o.mentions...)
	c.openings = append(c.openings, o.openings...)
}

// Mention notes what is called by a key.
func (c *Check) Mention(mentions ...model.Mention) {
	for _, m := range mentions {
		c.mentions = append(c.mentions, Mention{c.Document, m})
	}
}

// Expression checks an expression that may give anything; nil when it has a mistake.
func (c *Check) Expression(s expr.Scope, source, pointer, consequence string) *expr.Program {
	p, err := expr.Compile(s, source)
	return c.program(s, p, err, source, pointer, consequence)
}

// ExpressionOf checks an expression of a type; nil when it has a mistake.
func (c *Check) ExpressionOf(want expr.Type, s expr.Scope, source, pointer, consequence string) *expr.Program {
	p, err := expr.CompileAs(s, source, want)
	return c.program(s, p, err, source, pointer, consequence)
}

// ExpressionFor checks an expression for a value of a field, or one that it is compared with; nil when it
// has a mistake.
func (c *Check) ExpressionFor(f *model.Field, s expr.Scope, source, pointer, consequence string) *expr.Program {
	p, err := expr.CompileFor(s, source, expr.Type{Kind: f.Kind(), Object: f.Target()}, f)
	return c.program(s, p, err, source, pointer, consequence)
}

// RecordOrList checks an expression that gives a record or, where it may, a list; nil when it does not.
func (c *Check) RecordOrList(s expr.Scope, list bool, source, pointer, consequence string) *expr.Program {
	p, err := expr.Compile(s, source)
	if err == nil && p.Type.Kind != value.KindRecord && !(list && p.Type.Kind == value.KindList) {
		wanted := "a record"
		if list {
			wanted = "a record or a list of records"
		}
		err = fmt.Errorf("this gives %s, where %s is wanted", expr.Describe(s.Model, p.Type), wanted)
	}
	return c.program(s, p, err, source, pointer, consequence)
}

// List checks an expression that gives a list, of records or of rows put together; nil when it does not.
func (c *Check) List(s expr.Scope, source, pointer, consequence string) *expr.Program {
	p, err := expr.Compile(s, source)
	if err == nil && p.Type.Kind != value.KindList && p.Type.Kind != value.KindRows {
		err = fmt.Errorf("this gives %s, where a list is wanted", expr.Describe(s.Model, p.Type))
	}
	return c.program(s, p, err, source, pointer, consequence)
}

// ForRecords checks an expression that the database must be able to compute for many records; nil when it
// has a mistake.
func (c *Check) ForRecords(want expr.Type, s expr.Scope, source, pointer, consequence string) *expr.Program {
	p, err := expr.CompileAs(s, source, want)
	if err == nil {
		err = predicate.Writable(p)
	}
	return c.program(s, p, err, source, pointer, consequence)
}

func (c *Check) program(s expr.Scope, p *expr.Program, err error, source, pointer, consequence string) *expr.Program {
	if err != nil {
		c.Fail(err, pointer, source, consequence)
		c.findings[len(c.findings)-1].Mend = cmp.Or(c.findings[len(c.findings)-1].Mend,
			first(s, err, source, pointer))
		return nil
	}
	c.Mention(p.Mentions(s, pointer)...)
	return p
}

// first offers first(…) where a list stands and one record is wanted.
func first(s expr.Scope, err error, source, pointer string) *Mend {
	var e *expr.Error
	if !errors.As(err, &e) || e.Expected != value.KindRecord {
		return nil
	}
	if p, err := expr.Compile(s, source); err != nil || p.Type.Kind != value.KindList {
		return nil
	}
	return Replace("Take the first", pointer, "first("+source+")")
}

// Text checks a text with values in braces; nil when it has a mistake.
func (c *Check) Text(s expr.Scope, text, pointer, consequence string) *expr.Template {
	t, err := expr.CompileTemplate(s, text)
	if err != nil {
		c.Fail(err, pointer, text, consequence)
		return nil
	}
	c.Mention(t.Mentions(s, pointer)...)
	return t
}

// Where checks a condition on records of an object, and says whether it has no mistake.
func (c *Check) Where(s expr.Scope, object string, where predicate.Condition, pointer,
	consequence string) (*predicate.Checked, bool) {
	checked, problems := predicate.Check(s, object, where, pointer)
	c.Problem(Stop, consequence, problems...)
	c.Mention(checked.Mentions...)
	return checked, len(problems) == 0
}

// Path checks a path from an object; false when it leads nowhere, or not to what also asks for.
func (c *Check) Path(m *model.Model, object, path, pointer, consequence string,
	also ...func(model.Path) error) (model.Path, bool) {
	p, err := m.Path(object, path)
	for _, asks := range also {
		if err == nil {
			err = asks(p)
		}
	}
	if err != nil {
		c.Fail(err, pointer, path, consequence)
		return p, false
	}
	c.Mention(p.Mentions(object, pointer)...)
	return p, true
}

// Object checks the key of an object; nil when there is none.
func (c *Check) Object(m *model.Model, key, pointer, consequence string) *model.Object {
	o := m.Object(key)
	if o == nil {
		c.Fail(UnknownObject(m, key), pointer, key, consequence)
		return nil
	}
	c.Mention(model.TextMention(pointer, key, model.Referent{Object: key}))
	return o
}

// Field checks the key of a field of an object; nil when there is none.
func (c *Check) Field(o *model.Object, key, pointer, consequence string) *model.Field {
	f := o.Field(key)
	if f == nil {
		c.Fail(o.Unknown(key), pointer, key, consequence)
		return nil
	}
	c.Mention(model.TextMention(pointer, key, model.Referent{Object: o.Key, Field: key}))
	return f
}

// Refers notes that a document, or what is at a pointer into one, is called by its key.
func (c *Check) Refers(pointer, key string, kind Kind, document, at string) {
	c.Mention(model.TextMention(pointer, key, model.Referent{Document: Name(kind, document), At: at}))
}

// Roles checks the keys of roles against those that there are. Leave says that one may be left out.
func (c *Check) Roles(known, named []string, pointer, consequence string, leave bool) {
	for i, r := range named {
		at := fmt.Sprintf("%s/%d", pointer, i)
		if !slices.Contains(known, r) {
			var mend *Mend
			if leave && len(named) > 1 { // without the only one, it would be for everybody
				mend = &Mend{Label: "Leave it out", Patch: []Op{{Op: "remove", Path: at}}}
			}
			c.Find(Stop, at, fmt.Sprintf("there is no role %q", r), consequence, mend)
			continue
		}
		c.Refers(at, r, Role, r, "")
	}
}

// UnknownObject says that there is no object by a key, and which is meant perhaps.
func UnknownObject(m *model.Model, key string) error {
	nearest := model.Nearest(key, m.Keys())
	e := &expr.Error{Text: fmt.Sprintf("there is no object %q", key), Name: key, Nearest: nearest, Instead: nearest}
	if nearest != "" {
		e.Text += fmt.Sprintf("; did you mean %q?", nearest)
	}
	return e
}
