package expr_test

import (
	"fmt"

	"plainpath/core/expr"
	"plainpath/core/model"
	"plainpath/core/value"
)

func lifts() *model.Model {
	return model.New("EUR", &model.Object{Key: "lift", Label: "Lift", Plural: "Lifts", LabelField: "serial",
		Fields: []model.Field{
			{Key: "serial", Label: "Serial", Type: model.Text},
			{Key: "stops", Label: "Stops", Type: model.Whole},
			{Key: "checked", Label: "Checked", Type: model.Date}}})
}

// An expression is checked against what it may name, and computed of values as often as wanted.
func Example() {
	p, err := expr.Compile(expr.OfRecord(lifts(), "lift"), `serial + " has " + text(stops + 1) + " doors"`)
	if err != nil {
		panic(err)
	}
	for _, values := range []expr.Values{
		{"serial": value.Text("QL-1"), "stops": value.Whole(4)},
		{"serial": value.Text("QL-2")}, // what is made of nothing is nothing
	} {
		v, err := p.Eval(values)
		fmt.Printf("%q %v\n", value.Display(v), err)
	}
	// Output:
	// "QL-1 has 5 doors" <nil>
	// "" <nil>
}

// A mistake is said where it is, with the name that was meant.
func ExampleCompile() {
	_, err := expr.Compile(expr.OfRecord(lifts(), "lift"), "stpos > 3")
	fmt.Println(err)
	// Output:
	// nothing is known here by the name "stpos"; did you mean "stops"?
}

// The same checked expression is data for a database.
func ExampleProgram_Term() {
	p, err := expr.Compile(expr.OfRecord(lifts(), "lift"), "addMonths(checked, 6)")
	if err != nil {
		panic(err)
	}
	t, err := p.Term()
	fmt.Printf("%+v %v\n", t, err)
	// Output:
	// {Function:addMonths Args:[{Names:[checked] Of:date} {Value:6 Of:whole}] Of:date} <nil>
}
