package value

import (
	"fmt"
	"math"
	"strings"
	"time"

	"github.com/shopspring/decimal"
)

// DivisionPlaces is how many places a quotient is rounded to, half away from
// zero. what the database makes of expressions rounds to the same.
const DivisionPlaces = 12

// FromWhole is the decimal equal to a whole number.
func FromWhole(n int64) Decimal { return Decimal{decimal.NewFromInt(n)} }

// Arith computes a op b for op one of + - * / %. An empty side gives an empty
// result, as does a division by nought. What cannot be computed is a Failure, as its
// error: two currencies are never added, and nothing wraps around.
func Arith(op string, a, b Value) (Value, error) {
	for _, v := range []Value{a, b} {
		if why, failed := v.(Failure); failed {
			return nil, why
		}
	}
	if a == nil || b == nil {
		return nil, nil
	}
	switch x := a.(type) {
	case Text:
		if y, ok := b.(Text); ok && op == "+" {
			if len(x)+len(y) > MostTextEver {
				return nil, Failure{TooLong(MostTextEver)}
			}
			return x + y, nil
		}
	case Whole:
		switch y := b.(type) {
		case Whole:
			return wholes(op, int64(x), int64(y))
		case Decimal:
			return decimals(op, FromWhole(int64(x)), y)
		case Money:
			if op == "*" {
				return moneys(op, y, x)
			}
		}
	case Decimal:
		switch y := b.(type) {
		case Whole:
			return decimals(op, x, FromWhole(int64(y)))
		case Decimal:
			return decimals(op, x, y)
		case Money:
			if op == "*" {
				return moneys(op, y, x)
			}
		}
	case Money:
		return moneys(op, x, b)
	case Date:
		switch y := b.(type) {
		case Whole:
			if op == "-" && y == math.MinInt64 {
				return nil, Failure{BeyondCalendar}
			}
			if op == "-" {
				y = -y
			}
			if op == "+" || op == "-" {
				return orFailure(x.AddDays(int64(y)))
			}
		case Date:
			if op == "-" {
				return Whole(x.DaysSince(y)), nil
			}
		}
	}
	return nil, fmt.Errorf("%s %s %s cannot be computed", a.Kind(), op, b.Kind())
}

func wholes(op string, x, y int64) (Value, error) {
	switch op {
	case "+":
		if (y > 0 && x > math.MaxInt64-y) || (y < 0 && x < math.MinInt64-y) {
			return nil, Failure{TooLarge}
		}
		return Whole(x + y), nil
	case "-":
		if (y < 0 && x > math.MaxInt64+y) || (y > 0 && x < math.MinInt64+y) {
			return nil, Failure{TooLarge}
		}
		return Whole(x - y), nil
	case "*":
		if x != 0 && y != 0 && ((x*y)/y != x || (x == -1 && y == math.MinInt64) || (y == -1 && x == math.MinInt64)) {
			return nil, Failure{TooLarge}
		}
		return Whole(x * y), nil
	case "/":
		return decimals(op, FromWhole(x), FromWhole(y))
	case "%":
		if y == 0 {
			return nil, nil
		}
		if y == -1 { // the least number has no opposite
			return Whole(0), nil
		}
		return Whole(x % y), nil
	}
	return nil, fmt.Errorf("whole numbers have no operator %s", op)
}

func decimals(op string, x, y Decimal) (Value, error) {
	switch op {
	case "+":
		return Decimal{x.Add(y.Decimal)}, nil
	case "-":
		return Decimal{x.Sub(y.Decimal)}, nil
	case "*":
		out, err := product(x.Decimal, y.Decimal)
		return Decimal{out}, err
	case "/":
		if y.IsZero() {
			return nil, nil
		}
		return Decimal{x.DivRound(y.Decimal, DivisionPlaces)}, nil
	}
	return nil, fmt.Errorf("decimals have no operator %s", op)
}

// The most digits and places that PostgreSQL's numeric holds.
const (
	mostDigits = 131_072
	mostPlaces = 16_383
)

// product is a product unless it has more digits than can be stored, which is found out before it
// is computed.
func product(x, y decimal.Decimal) (decimal.Decimal, error) {
	bits := x.Coefficient().BitLen() + y.Coefficient().BitLen()
	if float64(bits)*math.Log10(2) > mostDigits || -(int64(x.Exponent())+int64(y.Exponent())) > mostPlaces {
		return decimal.Decimal{}, Failure{TooManyDigits}
	}
	return x.Mul(y), nil
}

func moneys(op string, x Money, b Value) (Value, error) {
	if y, ok := b.(Money); ok {
		if x.Currency != y.Currency {
			return nil, CannotAdd([]string{min(x.Currency, y.Currency), max(x.Currency, y.Currency)})
		}
		switch op {
		case "+":
			return Money{x.Amount.Add(y.Amount), x.Currency}, nil
		case "-":
			return Money{x.Amount.Sub(y.Amount), x.Currency}, nil
		}
		return nil, fmt.Errorf("two amounts of money have no operator %s", op)
	}
	n, ok := number(b)
	if !ok {
		return nil, fmt.Errorf("money %s %s cannot be computed", op, b.Kind())
	}
	switch op {
	case "*":
		out, err := product(x.Amount, n.Decimal)
		return Money{out, x.Currency}, err
	case "/":
		if n.IsZero() {
			return nil, nil
		}
		return Money{x.Amount.DivRound(n.Decimal, DivisionPlaces), x.Currency}, nil
	}
	return nil, fmt.Errorf("money and a number have no operator %s", op)
}

// Negate is minus a number or an amount.
func Negate(v Value) (Value, error) {
	switch x := v.(type) {
	case Whole:
		return wholes("-", 0, int64(x))
	case Decimal:
		return Decimal{x.Neg()}, nil
	case Money:
		return Money{x.Amount.Neg(), x.Currency}, nil
	}
	return nil, fmt.Errorf("minus a %s cannot be computed", v.Kind())
}

// MostPlaces bounds the places a number can be rounded to, before its point and behind.
const MostPlaces = 100

// Round rounds half away from zero, to places behind the point, or before it when negative.
// Amounts without places are rounded to those of their currency.
func Round(v Value, places Value) (Value, error) {
	n, given := places.(Whole)
	if n > MostPlaces || n < -MostPlaces {
		return nil, Failure{fmt.Sprintf("cannot be rounded to %d places: at most %d", n, MostPlaces)}
	}
	switch x := v.(type) {
	case Money:
		if !given {
			n = Whole(CurrencyPlaces(x.Currency))
		}
		return Money{x.Amount.Round(int32(n)), x.Currency}, nil
	case Whole:
		return Decimal{decimal.NewFromInt(int64(x)).Round(int32(n))}, nil
	case Decimal:
		return Decimal{x.Decimal.Round(int32(n))}, nil
	}
	return nil, fmt.Errorf("a %s cannot be rounded", v.Kind())
}

// WholePart cuts off what is behind the point.
func WholePart(v Value) (Value, error) {
	n, ok := number(v)
	if !ok {
		return nil, fmt.Errorf("a %s has no whole part", v.Kind())
	}
	whole := n.Truncate(0).BigInt()
	if !whole.IsInt64() {
		return nil, Failure{TooLarge}
	}
	return Whole(whole.Int64()), nil
}

// Floor is the greatest whole number that is not more.
func Floor(v Value) (Value, error) { return near(v, decimal.Decimal.Floor) }

// Ceiling is the least whole number that is not less.
func Ceiling(v Value) (Value, error) { return near(v, decimal.Decimal.Ceil) }

func near(v Value, to func(decimal.Decimal) decimal.Decimal) (Value, error) {
	n, ok := number(v)
	if !ok {
		return nil, fmt.Errorf("a %s has no whole number near it", v.Kind())
	}
	return WholePart(Decimal{to(n.Decimal)})
}

// Absolute is a number or an amount without its sign.
func Absolute(v Value) (Value, error) {
	switch x := v.(type) {
	case Whole:
		if x < 0 {
			return Negate(x)
		}
		return x, nil
	case Decimal:
		return Decimal{x.Abs()}, nil
	case Money:
		return Money{x.Amount.Abs(), x.Currency}, nil
	}
	return nil, fmt.Errorf("a %s has no sign", v.Kind())
}

// Remainder is what is left of a when it is divided by b as often as that goes, with the sign of a. It
// is empty where b is nought.
func Remainder(a, b Value) (Value, error) {
	if x, whole := a.(Whole); whole {
		if y, both := b.(Whole); both {
			return wholes("%", int64(x), int64(y))
		}
	}
	x, okX := number(a)
	y, okY := number(b)
	if !okX || !okY {
		return nil, fmt.Errorf("%s and %s have no remainder", a.Kind(), b.Kind())
	}
	if y.IsZero() {
		return nil, nil
	}
	_, rest := x.QuoRem(y.Decimal, 0)
	return Decimal{rest}, nil
}

// Minutes moves a point in time. It is a Failure outside the calendar.
func (i Instant) Minutes(n int64) (Instant, error) {
	const most = 10_000 * 366 * 24 * 60 // more than the calendar has
	if n > most || n < -most {
		return Instant{}, Failure{BeyondCalendar}
	}
	t := time.Unix(i.Unix()+n*60, int64(i.Nanosecond())).UTC()
	if !writable(t) {
		return Instant{}, Failure{BeyondCalendar}
	}
	return Instant{t}, nil
}

// orFailure is a value, or nothing where there is an error: not an empty value of a type.
func orFailure[V Value](v V, err error) (Value, error) {
	if err != nil {
		return nil, err
	}
	return v, nil
}

// Formatted is a number with so many places, at most MostPlaces, and commas between thousands.
func Formatted(v Value, places int) string {
	var d decimal.Decimal
	switch x := v.(type) {
	case Whole:
		d = decimal.NewFromInt(int64(x))
	case Decimal:
		d = x.Decimal
	}
	whole, rest, _ := strings.Cut(d.Round(int32(places)).StringFixed(int32(places)), ".")
	digits := strings.TrimPrefix(whole, "-")
	var out strings.Builder
	out.WriteString(whole[:len(whole)-len(digits)])
	for i, digit := range digits {
		if i > 0 && (len(digits)-i)%3 == 0 {
			out.WriteByte(',')
		}
		out.WriteRune(digit)
	}
	if places > 0 {
		out.WriteString("." + rest)
	}
	return out.String()
}
