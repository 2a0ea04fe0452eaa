package edition

import (
	"fmt"
	"reflect"
	"slices"
	"strings"

	"plainpath/core/definition"
	"plainpath/core/model"
	"plainpath/core/rules"
)

// objects makes the model of all objects, their worked-out fields and rules among it, and checks what
// the app says of them.
func (e *Edition) objects(docs []definition.Document) error {
	out, err := e.compiler.of(slices.Concat(e.apps, docs), func() (*made, error) {
		objects, err := bodies[model.Object](docs)
		if err != nil {
			return nil, err
		}
		if e.read != nil {
			e.read(objects)
		}
		whole := e.check
		e.check, e.worked = definition.NewCheck(""), map[fieldOf]WorkedOut{}
		e.makeModel(objects)
		out := &made{model: e.Model, worked: e.worked, rules: e.Rules, check: e.check}
		e.check = whole
		return out, nil
	})
	if err != nil {
		return err
	}
	e.made, e.Model, e.worked, e.Rules = out, out.model, out.worked, out.rules
	e.check.Take(out.check)
	return nil
}

func (e *Edition) makeModel(objects []*model.Object) {
	e.Model = model.New(e.App.Currency, objects...)
	e.Model.Zone = e.Zone
	if e.compiler != nil {
		e.Model.MostText = e.compiler.MostText
	}
	if e.over != nil {
		e.Model.MostText = e.over.MostText
	}
	if of := e.App.Organisation; of != "" && e.Model.Object(of) == nil {
		e.appCheck().Find(definition.Stop, "/organisation",
			fmt.Sprintf("there is no object %q for people outside the company to belong to", of),
			"They would see nothing.", nil)
	} else if of != "" {
		e.appCheck().Mention(model.TextMention("/organisation", of, model.Referent{Object: of}))
	}
	e.checkRates()
	w := &worker{m: e.Model, done: e.worked}
	for _, o := range objects {
		c := e.check.For(definition.Name(definition.Object, o.Key))
		c.Problem(definition.Stop, "Records of this object could not be stored as meant.", e.Model.Check(o)...)
		c.Mention(e.Model.Mentions(o)...)
		for i := range o.Fields {
			f := &o.Fields[i]
			if f.Type != model.WorkedOut || f.Expression == "" {
				continue
			}
			at := fmt.Sprintf("/fields/%d/expression", i)
			worked, err := w.field(o, f)
			if err != nil {
				c.Fail(err, at, f.Expression, f.Label+" would stay empty.")
				continue
			}
			c.Mention(worked.Program.Mentions(workedScope(e.Model, o), at)...)
		}
	}
	e.checkRules()
}

func (e *Edition) checkRules() {
	book, check := rules.Compile(e.Model, e.App.Organisation)
	e.Rules = book
	e.check.Take(check)
}

// objectDiffers says what changes of an object and of its records.
func objectDiffers(a, b *model.Object, d *definition.Difference) {
	if a == nil {
		d.Store("A table is made for its records.")
		return
	}
	if a.Key != b.Key {
		d.Say("the key %s, which was %s", b.Key, a.Key)
		d.Store("The table %s is renamed to %s.", a.Key, b.Key)
	}
	fieldsDiffer(a, b, d)
	objectItselfDiffers(a, b, d)
}

// formerly is the field that one was before its key changed.
func formerly(o *model.Object, f *model.Field) *model.Field {
	for _, key := range f.Was {
		if was := o.Field(key); was != nil {
			return was
		}
	}
	return nil
}

func fieldsDiffer(a, b *model.Object, d *definition.Difference) {
	taken := map[string]bool{}
	for i := range b.Fields {
		f := &b.Fields[i]
		was := a.Field(f.Key)
		if was == nil {
			if was = formerly(a, f); was != nil {
				taken[was.Key] = true
				d.Say("field %s has the key %s, which was %s", f.Label, f.Key, was.Key)
				d.Store("The column %s is renamed to %s.", was.Key, f.Key)
			}
		}
		switch {
		case was == nil:
			d.Say("field %s added", f.Label)
			d.Store("%s", added(f))
		case !reflect.DeepEqual(was, f):
			d.Say("field %s changed", f.Label)
			if (model.Conversion{From: was, To: f}).Needed() && was.Type == f.Type {
				d.Store("Stored values of %s get their new keys.", f.Label)
			} else if (model.Conversion{From: was, To: f}).Needed() {
				d.Store("What is stored in %s is converted from %s to %s.", f.Label, model.Words(was.Type),
					model.Words(f.Type))
			}
			if f.Required && !was.Required {
				d.Store("%s becomes required.", f.Label)
			}
			if f.Unique && !was.Unique {
				d.Store("%s becomes unique.", f.Label)
			}
		}
	}
	for i := range a.Fields {
		if f := &a.Fields[i]; b.Field(f.Key) == nil && !taken[f.Key] {
			d.Say("field %s removed", f.Label)
			d.Store("The column of %s is hidden, not lost.", f.Label)
		}
	}
}

func added(f *model.Field) string {
	if f.Required && len(f.Default) > 0 {
		return fmt.Sprintf("A column for %s is added; the records there are get its default.", f.Label)
	}
	return fmt.Sprintf("A column for %s is added; it is empty in the records there are.", f.Label)
}

// objectItselfDiffers says what changed of an object besides its fields.
func objectItselfDiffers(a, b *model.Object, d *definition.Difference) {
	d.Setting("its name", a.Label, b.Label)
	d.Setting("the name of many", a.Plural, b.Plural)
	d.Setting("its note", a.Note, b.Note)
	if a.LabelField != b.LabelField {
		d.Say("records are called by %s", b.LabelField)
	}
	said := func(o *model.Object) []string {
		var out []string
		for _, r := range o.Rules {
			out = append(out, r.Expression)
		}
		return out
	}
	was, is := said(a), said(b)
	for _, rule := range is {
		if !slices.Contains(was, rule) {
			d.Say("it must hold that %s", rule)
		}
	}
	for _, rule := range was {
		if !slices.Contains(is, rule) {
			d.Say("it need not hold any more that %s", rule)
		}
	}
	if len(d.Details) == 0 && !reflect.DeepEqual(a.Rules, b.Rules) {
		d.Say("what is said when a rule is broken changed")
	}
	order := func(o *model.Object) string {
		var keys []string
		for _, f := range o.Fields {
			keys = append(keys, f.Key)
		}
		return strings.Join(keys, " ")
	}
	if len(d.Details) == 0 && order(a) != order(b) {
		d.Say("the order of its fields changed")
	}
}
