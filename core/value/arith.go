package value

import (
	"errors"
	"fmt"
	"math"
	"time"

	"github.com/shopspring/decimal"
)

// DivisionPlaces is how many places a quotient is rounded to, half away from
// zero. SQL made from expressions rounds to the same.
const DivisionPlaces = 12

// ErrOverflow is a whole number too large for 64 bits.
var ErrOverflow = errors.New("the number is too large")

// FromWhole is the decimal equal to a whole number.
func FromWhole(n int64) Decimal { return Decimal{decimal.NewFromInt(n)} }

// Arith computes a op b for op one of + - * / %. An empty side gives an empty
// result, as does a division by nought. Two currencies cannot be added: that is
// an error, never a number.
func Arith(op string, a, b Value) (Value, error) {
	if a == nil || b == nil {
		return nil, nil
	}
	switch x := a.(type) {
	case Text:
		if y, ok := b.(Text); ok && op == "+" {
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
				return Money{y.Amount.Mul(decimal.NewFromInt(int64(x))), y.Currency}, nil
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
				return Money{y.Amount.Mul(x.Decimal), y.Currency}, nil
			}
		}
	case Money:
		return moneys(op, x, b)
	case Date:
		switch y := b.(type) {
		case Whole:
			if op == "+" || op == "-" {
				if op == "-" {
					y = -y
				}
				return x.AddDays(int(y)), nil
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
			return nil, ErrOverflow
		}
		return Whole(x + y), nil
	case "-":
		if (y < 0 && x > math.MaxInt64+y) || (y > 0 && x < math.MinInt64+y) {
			return nil, ErrOverflow
		}
		return Whole(x - y), nil
	case "*":
		if x != 0 && y != 0 && ((x*y)/y != x || (x == -1 && y == math.MinInt64) || (y == -1 && x == math.MinInt64)) {
			return nil, ErrOverflow
		}
		return Whole(x * y), nil
	case "/":
		if y == 0 {
			return nil, nil
		}
		return Whole(x / y), nil
	case "%":
		if y == 0 {
			return nil, nil
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
		return Decimal{x.Mul(y.Decimal)}, nil
	case "/":
		if y.IsZero() {
			return nil, nil
		}
		return Decimal{x.DivRound(y.Decimal, DivisionPlaces)}, nil
	}
	return nil, fmt.Errorf("decimals have no operator %s", op)
}

func moneys(op string, x Money, b Value) (Value, error) {
	if y, ok := b.(Money); ok {
		if x.Currency != y.Currency {
			return nil, fmt.Errorf("%s and %s are different currencies and cannot be put together", x.Currency, y.Currency)
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
		return Money{x.Amount.Mul(n.Decimal), x.Currency}, nil
	case "/":
		if n.IsZero() {
			return nil, nil
		}
		return Money{x.Amount.DivRound(n.Decimal, DivisionPlaces), x.Currency}, nil
	}
	return nil, fmt.Errorf("money and a number have no operator %s", op)
}

// Minutes moves a point in time.
func (i Instant) Minutes(n int64) Instant { return Instant{i.Add(time.Duration(n) * time.Minute)} }
