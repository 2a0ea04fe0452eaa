package value

import (
	"bytes"
	"encoding/json"
	"fmt"
	"strconv"
	"strings"
	"time"

	"github.com/shopspring/decimal"
)

// Ref is how a reference travels: the key of the record and the label to show.
type Ref struct {
	ID    int64  `json:"id"`
	Label string `json:"label,omitempty"`
}

// Failed is how a failure travels.
type Failed struct {
	Failure string `json:"failure"`
}

type moneyWire struct {
	Amount   string `json:"amount"`
	Currency string `json:"currency"`
}

// exactInBrowser is the greatest whole number that a binary floating point number of 64 bits
// can be told from its neighbours by (ECMA-262, Number.MAX_SAFE_INTEGER).
const exactInBrowser = 1<<53 - 1

// Wire is the value as it travels in JSON: decimals, amounts and long whole numbers as strings
// so that nothing is rounded on the way, references as id and label.
func Wire(v Value) any {
	switch x := v.(type) {
	case nil:
		return nil
	case Whole:
		if x > exactInBrowser || x < -exactInBrowser {
			return strconv.FormatInt(int64(x), 10)
		}
	case Decimal:
		return x.String()
	case Money:
		return moneyWire{x.Amount.String(), x.Currency}
	case Date:
		return x.String()
	case Instant:
		return x.Format(time.RFC3339Nano)
	case Several:
		return x.Keys()
	case *Record:
		if x == nil {
			return nil
		}
		return Ref{x.ID, x.Label}
	case *List, Rows:
		return nil
	case Failure:
		return Failed{x.Why}
	}
	return v
}

// Parse reads a value of a kind from JSON as Wire writes it. JSON null and empty
// text are the empty value. The error says in words what was expected.
func Parse(kind Kind, raw json.RawMessage) (Value, error) {
	raw = bytes.TrimSpace(raw)
	if len(raw) == 0 || string(raw) == "null" || string(raw) == `""` {
		return nil, nil
	}
	if c := compositeOf(kind); c != nil {
		v, err := c.parse(raw)
		return Tidy(v), err
	}
	switch kind {
	case KindText:
		s, err := text(raw, "text")
		return Tidy(Text(s)), err
	case KindWhole:
		n, err := strconv.ParseInt(unquote(raw), 10, 64)
		if err != nil {
			return nil, fmt.Errorf("%s is not a whole number", raw)
		}
		return Whole(n), nil
	case KindDecimal:
		d, err := exact(unquote(raw))
		if err != nil {
			return nil, fmt.Errorf("%s is not a number", raw)
		}
		return Decimal{d}, nil
	case KindMoney:
		var m moneyWire
		if err := json.Unmarshal(raw, &m); err != nil {
			return nil, fmt.Errorf("%s is not an amount of money: it needs an amount and a currency", raw)
		}
		if m.Amount == "" {
			return nil, nil
		}
		d, err := exact(m.Amount)
		if err != nil {
			return nil, fmt.Errorf("%q is not an amount", m.Amount)
		}
		if err := CheckCurrency(m.Currency); err != nil {
			return nil, err
		}
		return Money{d, m.Currency}, nil
	case KindYesNo:
		switch unquote(raw) {
		case "true":
			return YesNo(true), nil
		case "false":
			return YesNo(false), nil
		}
		return nil, fmt.Errorf("%s is neither yes nor no", raw)
	case KindDate:
		s, err := text(raw, "a date")
		if err != nil {
			return nil, err
		}
		return orFailure(ParseDate(s))
	case KindInstant:
		s, err := text(raw, "a date and time")
		if err != nil {
			return nil, err
		}
		t, err := time.Parse(time.RFC3339Nano, s)
		if err != nil {
			return nil, fmt.Errorf("%q is not a date and time such as 2026-03-01T09:30:00Z", s)
		}
		if !writable(t) {
			return nil, fmt.Errorf("%q is %s", s, BeyondCalendar)
		}
		return NewInstant(t), nil
	case KindSeveral:
		return parseSeveral(raw)
	case KindRecord:
		var r Ref
		if err := json.Unmarshal(raw, &r); err != nil || r.ID == 0 {
			return nil, fmt.Errorf("%s does not name a record", raw)
		}
		return &Record{ID: r.ID, Label: r.Label}, nil
	}
	return nil, fmt.Errorf("a %s cannot be given as a value", kind)
}

// MostDigits bounds numbers: an exponent such as 1e999999999 would take the memory of the
// machine when written out. What is typed in to be stored is bounded more narrowly.
const MostDigits = 20_000

// ParseDecimal reads an exact decimal of at most MostDigits digits.
func ParseDecimal(s string) (Decimal, error) {
	d, err := decimal.NewFromString(s)
	if err == nil && (len(s) > MostDigits || d.Exponent() > MostDigits || d.Exponent() < -MostDigits) {
		err = fmt.Errorf("%.20s… has too many digits", s)
	}
	return Decimal{d}, err
}

func exact(s string) (decimal.Decimal, error) {
	d, err := ParseDecimal(s)
	return d.Decimal, err
}

func text(raw []byte, what string) (string, error) {
	var s string
	if err := json.Unmarshal(raw, &s); err != nil {
		return "", fmt.Errorf("%s is not %s", raw, what)
	}
	return s, nil
}

func unquote(raw []byte) string {
	var s string
	if json.Unmarshal(raw, &s) == nil {
		return s
	}
	return string(raw)
}

// Display writes a value for a text or a label, in plain international form.
func Display(v Value) string {
	switch x := v.(type) {
	case nil:
		return ""
	case Text:
		return string(x)
	case Whole:
		return strconv.FormatInt(int64(x), 10)
	case Decimal:
		return x.String()
	case Money:
		_, fraction, _ := strings.Cut(x.Amount.String(), ".") // noughts at the end say nothing
		return x.Amount.StringFixed(int32(max(2, len(fraction)))) + " " + x.Currency
	case YesNo:
		if x {
			return "yes"
		}
		return "no"
	case Date:
		return x.String()
	case Instant:
		return x.Format("2006-01-02 15:04")
	case Several:
		return strings.Join(x.Keys(), ", ")
	case Composite:
		return x.String()
	case Failure:
		return x.Why
	case *Record:
		if x == nil {
			return ""
		}
		return x.Label
	}
	return ""
}
