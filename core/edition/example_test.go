package edition_test

import (
	"encoding/json"
	"fmt"

	"plainpath/core/definition"
	"plainpath/core/edition"
)

// All documents of an app are compiled together; what is wrong with them is said where it is.
func Example() {
	document := func(kind definition.Kind, key, body string) definition.Document {
		return definition.Document{Kind: kind, Key: key, Body: json.RawMessage(body)}
	}
	e, err := edition.Compile([]definition.Document{
		document(definition.App, "a", `{"key":"a","label":"A","currency":"EUR","zone":"UTC"}`),
		document(definition.Object, "lift", `{"key":"lift","label":"Lift","plural":"Lifts","label_field":"serial",
			"fields":[{"key":"serial","label":"Serial","type":"text"}],
			"rules":[{"expression":"seriel != \"\"","message":"Give a number."}]}`),
	})
	if err != nil {
		panic(err)
	}
	for _, f := range e.Findings {
		fmt.Println(f.Document, f.Pointer, f.Text)
	}
	// Output:
	// object/lift /rules/0/expression nothing is known here by the name "seriel"; did you mean "serial"?
}
