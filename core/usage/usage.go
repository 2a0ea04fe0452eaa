// Package usage says what of an app uses a field, and lets everything follow when its key
// changes. What would break without a field the compiler says; what calls it by its key is what the
// documents mention (definition.Check), which renames write anew where they stand.
package usage

import (
	"fmt"
	"slices"

	"plainpath/core/definition"
	"plainpath/core/edit"
	"plainpath/core/edition"
	"plainpath/core/model"
)

// gone is a key that no field has: it stands for a field that was taken away.
const gone = "zz_taken_away"

// OfField gives what would break if a field were taken away: one finding for each place
// that uses it.
func OfField(docs []definition.Document, object, field string) ([]definition.Finding, error) {
	return without(docs, object, func(o *model.Object) (string, error) {
		n := slices.IndexFunc(o.Fields, func(f model.Field) bool { return f.Key == field })
		if n < 0 {
			return "", fmt.Errorf("there is no field %q of %q", field, object)
		}
		return fmt.Sprintf("/fields/%d/key", n), nil
	})
}

// OfChoice gives what would break if a value of a choice were taken away.
func OfChoice(docs []definition.Document, object, field, choice string) ([]definition.Finding, error) {
	return without(docs, object, func(o *model.Object) (string, error) {
		n := slices.IndexFunc(o.Fields, func(f model.Field) bool { return f.Key == field })
		if n < 0 {
			return "", fmt.Errorf("there is no field %q of %q", field, object)
		}
		c := slices.IndexFunc(o.Fields[n].Choices, func(c model.ChoiceValue) bool { return c.Key == choice })
		if c < 0 {
			return "", fmt.Errorf("%s has no value %q", o.Fields[n].Label, choice)
		}
		return fmt.Sprintf("/fields/%d/choices/%d/key", n, c), nil
	})
}

// without gives what would break if the key at a pointer into an object were not there.
func without(docs []definition.Document, object string,
	pointer func(*model.Object) (string, error)) ([]definition.Finding, error) {
	before, err := edition.Compile(docs)
	if err != nil {
		return nil, err
	}
	changed := slices.Clone(docs)
	i := slices.IndexFunc(docs, func(d definition.Document) bool {
		return d.Kind == definition.Object &&
			d.Key == object
	})
	if i < 0 {
		return nil, fmt.Errorf("there is no object %q", object)
	}
	var o model.Object
	if err := definition.Decode(docs[i].Body, &o); err != nil {
		return nil, fmt.Errorf("reading %s: %w", docs[i].Name(), err)
	}
	at, err := pointer(&o)
	if err != nil {
		return nil, err
	}
	if changed[i].Body, _, err = (edit.Patch{replace(at, gone)}).Apply(docs[i].Body); err != nil {
		return nil, err
	}
	after, err := edition.Compile(changed)
	if err != nil {
		return nil, err
	}
	return breaks(before, after), nil
}

// OfDocument gives what would break if a document were taken away.
func OfDocument(docs []definition.Document, kind definition.Kind, key string) ([]definition.Finding, error) {
	before, err := edition.Compile(docs)
	if err != nil {
		return nil, err
	}
	without := slices.DeleteFunc(slices.Clone(docs),
		func(d definition.Document) bool { return d.Kind == kind && d.Key == key })
	if len(without) == len(docs) {
		return nil, fmt.Errorf("there is no %s %q", kind, key)
	}
	after, err := edition.Compile(without)
	if err != nil {
		return nil, err
	}
	return breaks(before, after), nil
}

// OfPart gives what would break if what is at a pointer into a document were taken away, such as
// a step, a part or a button.
func OfPart(docs []definition.Document, kind definition.Kind, key, pointer string) ([]definition.Finding, error) {
	at := slices.IndexFunc(docs, func(d definition.Document) bool { return d.Kind == kind && d.Key == key })
	if at < 0 {
		return nil, fmt.Errorf("there is no %s %q", kind, key)
	}
	before, err := edition.Compile(docs)
	if err != nil {
		return nil, err
	}
	without := slices.Clone(docs)
	if without[at].Body, _, err = (edit.Patch{{Op: "remove", Path: pointer}}).Apply(docs[at].Body); err != nil {
		return nil, err
	}
	after, err := edition.Compile(without)
	if err != nil {
		return nil, err
	}
	// Findings are known by their places, and what follows what is gone stands one further up.
	known := map[string]int{}
	for _, f := range before.Findings {
		known[f.Document+f.Text]++
	}
	out := []definition.Finding{}
	for _, f := range after.Findings {
		if known[f.Document+f.Text]--; known[f.Document+f.Text] < 0 && f.Severity == definition.Stop {
			out = append(out, f)
		}
	}
	return out, nil
}

// breaks are the findings that were not there before.
func breaks(before, after *edition.Edition) []definition.Finding {
	return breaksBut(before, after, "", "")
}

// Broken gives the findings that were not there before; of is the name that a document
// has now which was called was, both empty when none has another name.
func Broken(before, after []definition.Document, was, of string) ([]definition.Finding, error) {
	b, err := edition.Compile(before)
	if err != nil {
		return nil, err
	}
	a, err := edition.Compile(after)
	if err != nil {
		return nil, err
	}
	return breaksBut(b, a, was, of), nil
}

// breaksBut is breaks where a document that had one name before has another now.
func breaksBut(before, after *edition.Edition, was, is string) []definition.Finding {
	type place struct{ document, pointer, text string }
	known := map[place]bool{}
	for _, f := range before.Findings {
		if f.Document == was {
			f.Document = is
		}
		known[place{f.Document, f.Pointer, f.Text}] = true
	}
	out := []definition.Finding{}
	for _, f := range after.Findings {
		if !known[place{f.Document, f.Pointer, f.Text}] {
			out = append(out, f)
		}
	}
	return out
}
