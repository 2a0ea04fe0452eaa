package expr

import "cel.dev/cel-go/common/operators"

// Function is what a builder is told of something that expressions can call.
type Function struct {
	Name string `json:"name"`
	// Form is how it is called, About what it gives.
	Form  string `json:"form"`
	About string `json:"about"`
	// Only says where it cannot be used: what the database cannot compute has no place in
	// conditions, rules and worked-out fields. Empty when it can be used everywhere.
	Only string `json:"only,omitempty"`
}

const onScreens = "only on screens, on pages and in steps, for the database cannot compute it."

// Reference is everything that an expression can call, in the order it is shown.
var Reference = []Function{
	{Name: "empty", Form: "empty(x)", About: "Whether there is no value."},
	{Name: "either", Form: "either(x, y)", About: "x, or y where x is empty."},
	{Name: "round", Form: "round(x, places)", About: "A number rounded half away from zero. Without places it becomes whole, an amount one of its currency."},
	{Name: "whole", Form: "whole(x)", About: "The whole part of a number."},
	{Name: "decimal", Form: "decimal(x)", About: "A whole number, or the number in a text, as a decimal.", Only: "Of a text " + onScreens},
	{Name: "money", Form: `money("12.50", "EUR")`, About: "An amount in a currency.", Only: "Of fields " + onScreens},
	{Name: "amount", Form: "amount(x)", About: "The number of an amount, without its currency."},
	{Name: "currency", Form: "currency(x)", About: "The currency of an amount."},
	{Name: "text", Form: "text(x)", About: "A value as text.", Only: "Of amounts, times, records and several choices " + onScreens},
	{Name: "lower", Form: "lower(x)", About: "A text in small letters."},
	{Name: "upper", Form: "upper(x)", About: "A text in capitals."},
	{Name: "trim", Form: "trim(x)", About: "A text without blanks at its ends."},
	{Name: "withoutAccents", Form: "withoutAccents(x)", About: "A text whose letters have no accents: Zürich is Zurich."},
	{Name: "contains", Form: "x.contains(y)", About: "Whether a text has y in it, whatever the case."},
	{Name: "startsWith", Form: "x.startsWith(y)", About: "Whether a text begins with y, whatever the case."},
	{Name: "endsWith", Form: "x.endsWith(y)", About: "Whether a text ends with y, whatever the case."},
	{Name: "date", Form: `date("2026-12-24")`, About: "A day.", Only: "Of fields " + onScreens},
	{Name: "add_minutes", Form: "add_minutes(x, n)", About: "A time n minutes later."},
	{Name: "size", Form: "size(x)", About: "How many records or choices there are, or letters in a text."},
	{Name: "sum", Form: "sum(records.map(x, x.price))", About: "The sum of what is taken from each record."},
	{Name: "average", Form: "average(records.map(x, x.price))", About: "The mean of what is taken from each record."},
	{Name: "least", Form: "least(records.map(x, x.day))", About: "The least of what is taken from each record."},
	{Name: "greatest", Form: "greatest(records.map(x, x.day))", About: "The greatest of what is taken from each record."},
	{Name: "first", Form: "first(records)", About: "The first record of a list.", Only: "For use " + onScreens},
	{Name: operators.Filter, Form: "records.filter(x, x.price > y)", About: "The records for which something holds."},
	{Name: operators.Map, Form: "records.map(x, x.price)", About: "What is taken from each record."},
	{Name: operators.Exists, Form: "records.exists(x, x.open)", About: "Whether something holds for one record at least."},
	{Name: operators.All, Form: "records.all(x, x.open)", About: "Whether something holds for every record."},
	{Name: operators.ExistsOne, Form: "records.exists_one(x, x.open)", About: "Whether something holds for exactly one record.", Only: "For use " + onScreens},
}
