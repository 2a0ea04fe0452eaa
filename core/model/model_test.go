package model

import (
	"strings"
	"testing"

	"github.com/shopspring/decimal"

	"plainpath/core/value"
)

func lifts() *Model {
	return New("EUR",
		&Object{Key: "building", Label: "Building", LabelField: "name", Fields: []Field{
			{Key: "name", Label: "Name", Type: Text}, {Key: "manager", Label: "Manager", Type: Person}}},
		&Object{Key: "lift", Label: "Lift", LabelField: "serial", Fields: []Field{
			{Key: "serial", Label: "Serial number", Type: Text}, {Key: "building", Label: "Building", Type: Reference,
				Object: "building"}}})
}

func TestPathsAcrossReferences(t *testing.T) {
	m := lifts()
	for path, label := range map[string]string{"serial": "Serial number", "building": "Building",
		"building.name": "Name", "building.manager.email": "E-mail"} {
		if p, err := m.Path("lift", path); err != nil || p.Last().Label != label || p.String() != path {
			t.Errorf("%s ends at %v, %v", path, p, err)
		}
	}
	for path, says := range map[string]string{"serail": `did you mean "serial"`, "building.nam": `did you mean "name"`,
		"serial.x": "not a reference", "zzzzzzzzz": "has no field", "": "has no field"} {
		if _, err := m.Path("lift", path); err == nil || !strings.Contains(err.Error(), says) {
			t.Errorf("%s: %v, want %q", path, err, says)
		}
	}
	if r := m.ReferrersTo("building"); len(r) != 1 || r[0].Object.Key != "lift" {
		t.Errorf("referrers: %v", r)
	}
}

func number(n int64) *int64 { return &n }

// A retired value can be given to no record; those that hold it keep it when the field
// changes.
func TestRetiredChoices(t *testing.T) {
	f := Field{Key: "state", Label: "State", Type: Choice, Choices: []ChoiceValue{{Key: "open", Label: "Open"},
		{Key: "gone", Label: "Gone away", Retired: true}}}
	if err := f.CheckValue(value.Text("gone")); err == nil || !strings.Contains(err.Error(),
		"Gone away of State is retired") {
		t.Errorf("%v", err)
	}
	if err := f.CheckValue(value.Text("open")); err != nil {
		t.Error(err)
	}
	was := f
	was.Choices = []ChoiceValue{{Key: "open", Label: "Open"}, {Key: "gone", Label: "Gone away"}}
	if v, err := (Conversion{From: &was, To: &f, Currency: "EUR"}).Value(value.Text("gone")); err != nil ||
		v != value.Text("gone") {
		t.Errorf("%v, %v", v, err)
	}
	if f.HasDefault() || !(&Field{DefaultExpression: "today"}).HasDefault() ||
		!(&Field{Default: []byte("1")}).HasDefault() {
		t.Error("defaults are not told")
	}
}

func TestWhatIsWrongWithAnObject(t *testing.T) {
	good := func() *Object {
		return &Object{Key: "badge", Label: "Badge", LabelField: "number",
			Fields: []Field{{Key: "number", Label: "Number", Type: Text}}}
	}
	if p := lifts().Check(good()); len(p) != 0 {
		t.Fatalf("a sound object: %v", p)
	}
	add := func(f Field) func(*Object) {
		return func(o *Object) { o.Fields = append(o.Fields, f) }
	}
	for name, c := range map[string]struct {
		spoil         func(*Object)
		pointer, says string
	}{
		"key": {func(o *Object) { o.Key = "Badge!" }, "/key", "cannot be a key"},
		"word of CEL": {add(Field{Key: "in", Label: "In", Type: Text}), "/fields/1/key",
			"word of the expression language"},
		"no label": {func(o *Object) { o.Label = "" }, "/label", "needs a name"},
		"reserved": {add(Field{Key: "revision", Label: "R", Type: Text}), "/fields/1/key", "every record has"},
		"twice":    {add(Field{Key: "number", Label: "N", Type: Text}), "/fields/1/key", "two fields"},
		"type":     {add(Field{Key: "x", Label: "X", Type: "colour"}), "/fields/1/type", "not a field type"},
		"reference": {add(Field{Key: "x", Label: "X", Type: Reference, Object: "nowhere"}), "/fields/1/object",
			"no object"},
		"no choices": {add(Field{Key: "x", Label: "X", Type: Choice}), "/fields/1/choices", "nothing to choose"},
		"choice twice": {add(Field{Key: "x", Label: "X", Type: Choice, Choices: []ChoiceValue{{Key: "a", Label: "A"},
			{Key: "a", Label: "B"}}}), "/fields/1/choices/1/key", "twice"},
		"no expression": {add(Field{Key: "x", Label: "X", Type: WorkedOut, Result: Text}), "/fields/1/expression",
			"does not say how"},
		"no result": {add(Field{Key: "x", Label: "X", Type: WorkedOut, Expression: "1"}), "/fields/1/result",
			"what type"},
		"two defaults": {add(Field{Key: "x", Label: "X", Type: Text, Default: []byte(`"a"`),
			DefaultExpression: "today"}), "/fields/1/default_expression", "two defaults"},
		"no span": {add(Field{Key: "x", Label: "X", Type: Whole, Least: number(5), Most: number(2)}),
			"/fields/1/least", "at least 5 and at most 2"},
		"colour": {add(Field{Key: "x", Label: "X", Type: Choice,
			Choices: []ChoiceValue{{Key: "a", Label: "A", Colour: "mauve"}}}), "/fields/1/choices/0/colour",
			"no colour"},
		"label field": {func(o *Object) { o.LabelField = "name" }, "/label_field", "not a field"},
		"reference as label": {func(o *Object) {
			o.Fields = append(o.Fields, Field{Key: "x", Label: "X", Type: Person})
			o.LabelField = "x"
		}, "/label_field", "cannot stand for"},
	} {
		o := good()
		c.spoil(o)
		found := false
		for _, p := range lifts().Check(o) {
			found = found || p.Pointer == c.pointer && strings.Contains(p.Text, c.says)
		}
		if !found {
			t.Errorf("%s: %v", name, lifts().Check(o))
		}
	}
}

func TestWhatAFieldAccepts(t *testing.T) {
	least, most := int64(2), int64(5)
	for _, c := range []struct {
		field Field
		value value.Value
		says  string
	}{
		{Field{Type: Text, Required: true}, nil, "is required"},
		{Field{Type: Text}, nil, ""},
		{Field{Type: Text, Most: &most}, value.Text("ÄÖÜäö"), ""},
		{Field{Type: Text, Most: &most}, value.Text("ÄÖÜäöü"), "at most 5"},
		{Field{Type: Text}, value.Text("a\x00b"), "cannot be stored"},
		{Field{Type: Text}, value.Text("a\xffb"), "cannot be stored"},
		{Field{Type: Whole, Least: &least}, value.Whole(1), "at least 2"},
		{Field{Type: Whole, Least: &least, Most: &most}, value.Whole(5), ""},
		{Field{Type: Money, Most: &most}, value.Money{Amount: decimal.RequireFromString("5.01"), Currency: "EUR"},
			"at most 5"},
		{Field{Type: Choice, Choices: []ChoiceValue{{Key: "a", Label: "A"}}}, value.Text("a"), ""},
		{Field{Type: Choice, Choices: []ChoiceValue{{Key: "a", Label: "A"}}}, value.Text("A"), "choose one"},
		{Field{Type: Email}, value.Text("dana@quillmere.example"), ""},
		{Field{Type: Email}, value.Text("Dana <dana@quillmere.example>"), "not an e-mail"},
		{Field{Type: Email}, value.Text("dana@"), "not an e-mail"},
		{Field{Type: Phone}, value.Text("+44 1632 960123"), ""},
		{Field{Type: Phone}, value.Text("01632 960123"), "country code"},
		{Field{Type: WebLink}, value.Text("https://quillmere.example/lifts"), ""},
		{Field{Type: WebLink}, value.Text("javascript:alert(1)"), "not a web address"},
		{Field{Type: WebLink}, value.Text("quillmere.example"), "not a web address"},
	} {
		c.field.Label = "It"
		err := c.field.CheckValue(c.value)
		if c.says == "" && err != nil || c.says != "" && (err == nil || !strings.Contains(err.Error(), c.says)) {
			t.Errorf("%s of %v: %v, want %q", c.field.Type, c.value, err, c.says)
		}
	}
}
