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
	{Name: "floor", Form: "floor(x)", About: "The greatest whole number that is not more: rounded down."},
	{Name: "ceiling", Form: "ceiling(x)", About: "The least whole number that is not less: rounded up."},
	{Name: "absolute", Form: "absolute(x)", About: "A number or an amount without its sign."},
	{Name: "remainder", Form: "remainder(x, y)", About: "What is left of x when it is divided by y as often as that goes."},
	{Name: "percent", Form: "percent(x, y)", About: "How many percent x is of y: percent(3, 12) is 25."},
	{Name: "whole", Form: "whole(x)", About: "The whole part of a number."},
	{Name: "decimal", Form: "decimal(x)", About: "A whole number, or the number in a text, as a decimal.", Only: "Of a text " + onScreens},
	{Name: "money", Form: `money("12.50", "EUR")`, About: "An amount in a currency.", Only: "Of fields " + onScreens},
	{Name: "amount", Form: "amount(x)", About: "The number of an amount, without its currency."},
	{Name: "currency", Form: "currency(x)", About: "The currency of an amount."},
	{Name: "text", Form: "text(x)", About: "A value as text.", Only: "Of amounts, times, records and several choices " + onScreens},
	{Name: "lower", Form: "lower(x)", About: "A text in small letters."},
	{Name: "upper", Form: "upper(x)", About: "A text in capitals."},
	{Name: "capitalized", Form: "capitalized(x)", About: "A text whose words begin with a capital, as titles do.", Only: "For use " + onScreens},
	{Name: "part", Form: "part(x, 1, 3)", About: "Some letters of a text, a substring: from which on, counted from 1, and how many."},
	{Name: "piece", Form: `piece(x, ",", 2)`, About: "A text split at a separator: the piece at a place, counted from 1."},
	{Name: "replace", Form: `replace(x, "-", "/")`, About: "A text with another in the place of every piece that is alike."},
	{Name: "padLeft", Form: `padLeft(x, 6, "0")`, About: "A text filled up at its beginning to a length of at most 1,000."},
	{Name: "padRight", Form: `padRight(x, 6, ".")`, About: "A text filled up at its end to a length of at most 1,000."},
	{Name: "join", Form: "join(records.map(x, x.name))", About: "Texts one after another, each once, with commas between them.", Only: "For use " + onScreens},
	{Name: "trim", Form: "trim(x)", About: "A text without blanks at its ends."},
	{Name: "withoutAccents", Form: "withoutAccents(x)", About: "A text whose letters have no accents: Zürich is Zurich."},
	{Name: "contains", Form: "x.contains(y)", About: "Whether a text has y in it, whatever the case."},
	{Name: "startsWith", Form: "x.startsWith(y)", About: "Whether a text begins with y, whatever the case."},
	{Name: "endsWith", Form: "x.endsWith(y)", About: "Whether a text ends with y, whatever the case."},
	{Name: "date", Form: `date("2026-12-24")`, About: "A day.", Only: "Of fields " + onScreens},
	{Name: "year", Form: "year(x)", About: "The year of a day, as a number."},
	{Name: "quarter", Form: "quarter(x)", About: "The quarter of the year of a day, from 1 to 4."},
	{Name: "month", Form: "month(x)", About: "The month of a day, as a number from 1 to 12."},
	{Name: "week", Form: "week(x)", About: "The number of the week of a day, as ISO 8601 counts."},
	{Name: "day", Form: "day(x)", About: "The day of the month, as a number."},
	{Name: "weekday", Form: "weekday(x)", About: "The day of the week, from 1 for Monday to 7 for Sunday."},
	{Name: "weekdayName", Form: "weekdayName(x)", About: "The day of the week by name, such as Monday."},
	{Name: "monthName", Form: "monthName(x)", About: "The month by name, such as March."},
	{Name: "longDate", Form: "longDate(x)", About: "A day in words, such as Monday 2 March 2026."},
	{Name: "firstOfWeek", Form: "firstOfWeek(x)", About: "The Monday of the week of a day."},
	{Name: "lastOfWeek", Form: "lastOfWeek(x)", About: "The Sunday of the week of a day."},
	{Name: "firstOfMonth", Form: "firstOfMonth(x)", About: "The first day of the month of a day."},
	{Name: "lastOfMonth", Form: "lastOfMonth(x)", About: "The last day of the month of a day."},
	{Name: "firstOfYear", Form: "firstOfYear(x)", About: "The first day of the year of a day."},
	{Name: "lastOfYear", Form: "lastOfYear(x)", About: "The last day of the year of a day."},
	{Name: "addDays", Form: "addDays(x, 14)", About: "A day so many days later, or earlier with a minus, as x + 14 is."},
	{Name: "addWorkingDays", Form: "addWorkingDays(x, 10)", About: "A day so many working days later, from Monday to Friday."},
	{Name: "addMonths", Form: "addMonths(x, 3)", About: "A day so many months later; the last of the month where it has not so many days."},
	{Name: "addYears", Form: "addYears(x, 1)", About: "A day so many years later."},
	{Name: "daysBetween", Form: "daysBetween(x, y)", About: "How many days there are from x to y, as y - x is."},
	{Name: "workingDaysBetween", Form: "workingDaysBetween(x, y)", About: "How many working days, from Monday to Friday, there are after x up to y."},
	{Name: "monthsBetween", Form: "monthsBetween(x, y)", About: "How many whole months go by from x to y."},
	{Name: "yearsBetween", Form: "yearsBetween(x, y)", About: "How many whole years go by from x to y, as for an age."},
	{Name: "dateOf", Form: "dateOf(x)", About: "The day of a point in time, where the house is: year(dateOf(x)) is its year."},
	{Name: "hour", Form: "hour(x)", About: "The hour of a point in time, from 0 to 23, where the house is."},
	{Name: "minutesBetween", Form: "minutesBetween(x, y)", About: "How many whole minutes go by from one point in time to another."},
	{Name: "add_minutes", Form: "add_minutes(x, n)", About: "A time n minutes later."},
	{Name: "size", Form: "size(x)", About: "How many records or choices there are, or letters in a text."},
	{Name: "sum", Form: "sum(records.map(x, x.price))", About: "The sum of what is taken from each record."},
	{Name: "average", Form: "average(records.map(x, x.price))", About: "The mean of what is taken from each record."},
	{Name: "least", Form: "least(records.map(x, x.day))", About: "The least of what is taken from each record, or of two or three values: least(x, y)."},
	{Name: "greatest", Form: "greatest(records.map(x, x.day))", About: "The greatest of what is taken from each record, or of two or three values: greatest(x, y)."},
	{Name: "first", Form: "first(records)", About: "The first record of a list.", Only: "For use " + onScreens},
	{Name: "take", Form: "take(records, 3)", About: "The first records or choices of a list, so many.", Only: "For use " + onScreens},
	{Name: operators.Filter, Form: "records.filter(x, x.price > y)", About: "The records for which something holds."},
	{Name: operators.Map, Form: "records.map(x, x.price)", About: "What is taken from each record."},
	{Name: operators.Exists, Form: "records.exists(x, x.open)", About: "Whether something holds for one record at least."},
	{Name: operators.All, Form: "records.all(x, x.open)", About: "Whether something holds for every record."},
	{Name: operators.ExistsOne, Form: "records.exists_one(x, x.open)", About: "Whether something holds for exactly one record.", Only: "For use " + onScreens},
}
