package value

import "cmp"

// Equal says whether two values are the same. An empty value equals nothing, not
// even another empty one: a comparison with an empty value is false.
func Equal(a, b Value) bool {
	if a == nil || b == nil {
		return false
	}
	if x, ok := a.(*Record); ok {
		y, ok := b.(*Record)
		return ok && x != nil && y != nil && x.Object == y.Object && x.ID == y.ID
	}
	switch x := a.(type) {
	case Text: // needs no order
		return a == b
	case Several: // these have no order
		y, ok := b.(Several)
		return ok && x.set() == y.set()
	case Composite:
		return a == b
	}
	order, ok := Compare(a, b)
	return ok && order == 0
}

// Same says whether two values are of one group: equal, both empty, or failed alike.
func Same(a, b Value) bool {
	why, failed := a.(Failure)
	return a == nil && b == nil || Equal(a, b) || failed && why == b
}

// Compare orders two values: negative when a comes first. It is false when they
// cannot be ordered: one is empty, the kinds differ, or the currencies do.
func Compare(a, b Value) (int, bool) {
	if a == nil || b == nil {
		return 0, false
	}
	switch x := a.(type) {
	case Text:
		y, ok := b.(Text)
		if !ok {
			return 0, false
		}
		return compareTexts(string(x), string(y)), true
	case Whole:
		if y, ok := b.(Whole); ok {
			return cmp.Compare(x, y), true
		}
	case YesNo:
		y, ok := b.(YesNo)
		return cmp.Compare(rank(x), rank(y)), ok
	case Date:
		y, ok := b.(Date)
		if !ok {
			return 0, false
		}
		return x.Compare(y), true
	case Instant:
		y, ok := b.(Instant)
		if !ok {
			return 0, false
		}
		return x.Time.Compare(y.Time), true
	case Money:
		y, ok := b.(Money)
		if !ok || x.Currency != y.Currency {
			return 0, false
		}
		return x.Amount.Cmp(y.Amount), true
	}
	x, okX := number(a)
	y, okY := number(b)
	if !okX || !okY {
		return 0, false
	}
	return x.Cmp(y.Decimal), true
}

func number(v Value) (Decimal, bool) {
	switch n := v.(type) {
	case Whole:
		return FromWhole(int64(n)), true
	case Decimal:
		return n, true
	}
	return Decimal{}, false
}

func rank(y YesNo) int {
	if y {
		return 1
	}
	return 0
}
