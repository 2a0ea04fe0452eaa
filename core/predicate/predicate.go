package predicate

import (
	"fmt"
	"time"

	"plainpath/core/expr"
	"plainpath/core/model"
	"plainpath/core/value"
)

// Predicate is a condition with its values: one of the types below and no other. Every predicate is
// true or false of a record; none is ever undecided.
type Predicate interface{ predicate() }

type (
	// All holds when every member does.
	All []Predicate
	// Any holds when one member does.
	Any []Predicate
	// Test compares a field.
	Test struct {
		Path   model.Path
		Op     Operator
		Value  value.Value
		To     value.Value
		Values []value.Value
		// Skip says that the test takes no part where a Deferred value is empty.
		Skip bool
	}
	// HasRelated holds when there is a record, or none, that points here and satisfies Where.
	HasRelated struct {
		Object string
		// Label is what a record of the object is called.
		Label string
		Via   *model.Field
		None  bool
		Where Predicate
	}
	// Refers holds for the records whose reference points at one that the person may see and for which both
	// Where and Filter hold; Filter sees only what the person may see.
	Refers struct {
		Via           *model.Field
		Where, Filter Predicate
	}
	// Formula is a condition written as an expression over "record" and known values.
	Formula struct {
		Program *expr.Program
		Values  expr.Values
		// Bare says that the record's fields are names of their own, as in record rules.
		Bare bool
		// Record is what the expression calls the record, "record" when empty.
		Record string
	}
	// Keys holds for the records with these keys.
	Keys []int64
	// Same holds for the records whose field has a value, nil for those where it is empty.
	Same struct {
		Path  model.Path
		Value value.Value
	}
	// InCurrency holds for the records whose amount is in a currency.
	InCurrency struct {
		Path     model.Path
		Currency string
	}
	// Not holds when its member does not.
	Not struct{ Of Predicate }
)

// True always holds, False never.
var (
	True  Predicate = All(nil)
	False Predicate = Any(nil)
)

func (All) predicate()        {}
func (Any) predicate()        {}
func (Test) predicate()       {}
func (HasRelated) predicate() {}
func (Refers) predicate()     {}
func (Formula) predicate()    {}
func (Keys) predicate()       {}
func (Same) predicate()       {}
func (InCurrency) predicate() {}
func (Not) predicate()        {}

// mostDays bounds "within the last n days".
const mostDays = 1_000_000

func checkDays(n value.Value) error {
	if days, ok := n.(value.Whole); ok && (days < 0 || days > mostDays) {
		return fmt.Errorf("within %d days cannot be asked: it takes a number of days from 0 to 1,000,000", days)
	}
	return nil
}

// days turns "within the last n days" into a span that ends today, and "within the next" into
// one that begins today. Whole days count, today included; in the zone of the house.
func (t Test) days(v expr.Values, zone *time.Location) (Predicate, error) {
	if err := checkDays(t.Value); err != nil {
		return nil, err
	}
	today := v["today"].(value.Date)
	n := int64(t.Value.(value.Whole))
	from, to := today, today
	var err error
	if t.Op == WithinLastDays {
		from, err = today.AddDays(-n)
	} else {
		to, err = today.AddDays(n)
	}
	if err != nil {
		return nil, fmt.Errorf("%d days from today is %w", n, err)
	}
	if t.Path.Last().Kind() == value.KindDate {
		return Test{Path: t.Path, Op: Between, Value: from, To: to}, nil
	}
	end, err := to.AddDays(1)
	if err != nil {
		return nil, fmt.Errorf("%d days from today is %w", n, err)
	}
	return All{Test{Path: t.Path, Op: MoreOrEqual, Value: value.NewInstant(from.In(zone))},
		Test{Path: t.Path, Op: Less, Value: value.NewInstant(end.In(zone))}}, nil
}

// Asks is what a use of the program asks of the record, as keys that lead from it, and false
// where it asks nothing of it.
func (f Formula) Asks(use []string) ([]string, bool) {
	if f.Bare {
		return use, true
	}
	name := f.Record
	if name == "" {
		name = "record"
	}
	return use[1:], use[0] == name && len(use) > 1
}

// Follow takes a path from a record as far as it was read.
func Follow(record *value.Record, path model.Path) value.Value {
	var v value.Value
	for _, f := range path.Fields {
		if v = record.Get(f.Key); v == nil {
			return nil
		}
		record, _ = v.(*value.Record)
	}
	return v
}
