// Package table is a list of records as people look at it: its columns, how somebody looks at them, groups and
// totals, the proof of what is shown, marks, buttons and what rows open to. [Compile] checks a builder's [Table];
// the [Program] makes a [Listing] of what is known, and everything that is asked of a table is asked of that.
package table

// Selection says how many rows of a table can be chosen.
type Selection string

// Rows can be looked at, one chosen, or several.
const (
	SelectNone    Selection = "none"
	SelectOne     Selection = "one"
	SelectSeveral Selection = "several"
)

// Table shows a list of records and gives out the rows chosen.
type Table struct {
	// Source is an expression that gives a list.
	Source  string    `json:"source"`
	Columns []Column  `json:"columns"`
	Select  Selection `json:"select"`
	// Least and Most bound the number of rows chosen: without them it is one at least and
	// any number at most.
	Least *int `json:"least,omitempty"`
	Most  int  `json:"most,omitempty"`
	// Ask is what a person may give in each row. Such a table is on a screen; it gives out the rows in which
	// something was given, with what was given, in the place of rows that are ticked.
	Ask []Asked `json:"ask,omitempty"`
	// Keyword names the fields that the keyword search looks in.
	Keyword []string `json:"keyword,omitempty"`
	// Views are arrangements that the builder gives to roles.
	Views []ShippedView `json:"views,omitempty"`
	// Marks set cells and rows apart.
	Marks []Mark `json:"marks,omitempty"`
	// Buttons are what people can do with the table and its rows.
	Buttons []Button `json:"buttons,omitempty"`
	// Live says what becomes of the table when records it shows change elsewhere: it says so
	// ("tell", and when empty), or is read again ("refresh").
	Live string `json:"live,omitempty"`
	// Others are objects that people can look at in the place of the table's own, all the
	// records that they may see.
	Others []Other `json:"others,omitempty"`
	// Inside is what a row opens to.
	Inside *Inside `json:"inside,omitempty"`
	// Edit lets people change cells, as far as their rights go.
	Edit bool `json:"edit,omitempty"`
	// Nothing is shown when the list is empty.
	Nothing string `json:"nothing,omitempty"`
	// Reading is shown while the list is read, Failed when it could not be, before the reason.
	Reading string `json:"reading,omitempty"`
	Failed  string `json:"failed,omitempty"`
}

// Other is an object that a table can be switched to.
type Other struct {
	Object string `json:"object"`
}

// Column is one column: a path from the record, and a heading if the field's own
// will not do.
type Column struct {
	Path  string `json:"path"`
	Label string `json:"label,omitempty"`
	// Above is a common heading over this column and its neighbours with the same.
	Above string `json:"above,omitempty"`
}

// fewest is how many rows have to be chosen at least.
func (t *Table) fewest() int {
	if t.Least == nil {
		return 1
	}
	return *t.Least
}
