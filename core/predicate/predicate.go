package predicate

import (
	"fmt"
	"strings"
	"time"

	"plainpath/core/expr"
	"plainpath/core/model"
	"plainpath/core/value"
)

// Predicate is a condition with its values. Every predicate is true or false of a
// record; none is ever undecided.
type Predicate interface {
	// Eval answers for one record, which must hold the fields asked about.
	Eval(r Reader, record *value.Record) (bool, error)
}

// Reader finds the records that point at a record.
type Reader interface {
	// Related reads the records of an object whose reference field points at id.
	Related(object, field string, id int64) ([]*value.Record, error)
}

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

// Eval holds when every member does.
func (a All) Eval(r Reader, record *value.Record) (bool, error) {
	for _, p := range a {
		if ok, err := p.Eval(r, record); !ok || err != nil {
			return false, err
		}
	}
	return true, nil
}

// Eval holds when one member does.
func (a Any) Eval(r Reader, record *value.Record) (bool, error) {
	for _, p := range a {
		if ok, err := p.Eval(r, record); ok || err != nil {
			return ok, err
		}
	}
	return false, nil
}

// Eval compares the field's value, an empty one with nil.
func (s Same) Eval(_ Reader, record *value.Record) (bool, error) {
	return value.Same(Follow(record, s.Path), s.Value), nil
}

// Eval looks at the amount's currency.
func (c InCurrency) Eval(_ Reader, record *value.Record) (bool, error) {
	m, ok := Follow(record, c.Path).(value.Money)
	return ok && m.Currency == c.Currency, nil
}

// Eval holds when the member does not.
func (n Not) Eval(r Reader, record *value.Record) (bool, error) {
	ok, err := n.Of.Eval(r, record)
	return !ok && err == nil, err
}

// Eval compares the field's value.
func (t Test) Eval(_ Reader, record *value.Record) (bool, error) {
	v := Follow(record, t.Path)
	switch t.Op {
	case Is:
		return value.Equal(v, t.Value), nil
	case IsNot:
		return !value.Equal(v, t.Value), nil
	case IsEmpty:
		return v == nil, nil
	case IsNotEmpty:
		return v != nil, nil
	case Includes:
		return has(v, t.Value), nil
	case IncludesNot:
		return !has(v, t.Value), nil
	case OneOf:
		for _, x := range t.Values {
			if value.Equal(v, x) || has(v, x) {
				return true, nil
			}
		}
		return false, nil
	case Contains, StartsWith:
		text, ok := v.(value.Text)
		part, _ := t.Value.(value.Text)
		in, found := t.Path.Last().Found(string(text)), t.Path.Last().Found(string(part))
		return ok && (t.Op == Contains && strings.Contains(in, found) || t.Op == StartsWith && strings.HasPrefix(in, found)), nil
	case Between:
		from, ok := value.Compare(v, t.Value)
		to, okTo := value.Compare(v, t.To)
		return ok && okTo && from >= 0 && to <= 0, nil
	}
	order, ok := value.Compare(v, t.Value)
	if !ok {
		return false, nil
	}
	switch t.Op {
	case More:
		return order > 0, nil
	case MoreOrEqual:
		return order >= 0, nil
	case Less:
		return order < 0, nil
	case LessOrEqual:
		return order <= 0, nil
	}
	return false, fmt.Errorf("%q is not an operator", t.Op)
}

// has says whether a choice is one of several.
func has(v, choice value.Value) bool {
	several, ok := v.(value.Several)
	return ok && several.Has(value.Display(choice))
}

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

// Eval looks for a related record that satisfies the condition.
func (p HasRelated) Eval(r Reader, record *value.Record) (bool, error) {
	related, err := r.Related(p.Object, p.Via.Key, record.ID)
	if err != nil {
		return false, fmt.Errorf("reading %s of record %d: %w", p.Object, record.ID, err)
	}
	for _, x := range related {
		ok, err := p.Where.Eval(r, x)
		if err != nil {
			return false, err
		}
		if ok {
			return !p.None, nil
		}
	}
	return p.None, nil
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

// Eval computes the expression for the record.
func (f Formula) Eval(_ Reader, record *value.Record) (bool, error) {
	values := make(expr.Values, len(f.Values)+1)
	for k, v := range f.Values {
		values[k] = v
	}
	values["record"] = record
	if f.Bare {
		for k, v := range record.Fields {
			values[k] = v
		}
	}
	return f.Program.True(values)
}

// Eval looks for the record's key.
func (k Keys) Eval(_ Reader, record *value.Record) (bool, error) {
	for _, id := range k {
		if id == record.ID {
			return true, nil
		}
	}
	return false, nil
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
