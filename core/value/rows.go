package value

// Rows is a list that was put together, such as of what was answered in the rows of a table: each row has
// values by name and is not stored anywhere.
type Rows []*Record

// Kind is KindRows.
func (Rows) Kind() Kind { return KindRows }

// List is the rows as a list that expressions go through.
func (r Rows) List() *List { return &List{Source: Records(r)} }
