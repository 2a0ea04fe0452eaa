package predicate_test

import (
	"encoding/json"
	"fmt"

	"plainpath/core/expr"
	"plainpath/core/model"
	"plainpath/core/predicate"
)

// A condition as a builder sets it is checked once, and bound to values whenever it is asked.
func Example() {
	m := model.New("EUR", &model.Object{Key: "lift", Label: "Lift", Plural: "Lifts", LabelField: "serial",
		Fields: []model.Field{
			{Key: "serial", Label: "Serial", Type: model.Text},
			{Key: "stops", Label: "Stops", Type: model.Whole}}})
	var c predicate.Condition
	if err := json.Unmarshal([]byte(`{"all":[{"field":"serial","op":"starts_with","value":{"literal":"QL"}},
		{"field":"stops","op":"more","value":{"literal":3}}]}`), &c); err != nil {
		panic(err)
	}
	checked, problems := predicate.Check(expr.Scope{Model: m}, "lift", c, "")
	p, err := checked.Bind(expr.Values{})
	fmt.Println(len(problems), err)
	fmt.Println(predicate.Words(p))
	// Output:
	// 0 <nil>
	// Serial starts with “QL” and Stops is more than 3
}
