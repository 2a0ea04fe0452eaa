package model

import (
	"fmt"
	"net/mail"
	"net/url"
	"strings"
	"unicode/utf8"

	"github.com/nyaruka/phonenumbers"
	"github.com/shopspring/decimal"

	"plainpath/core/value"
)

// CheckValue says what is wrong with a value for the field: missing though required,
// outside the limits, not one of the choices, not in the form of its type. The
// value's kind must be the field's.
func (f *Field) CheckValue(v value.Value) error {
	if v == nil {
		if f.Required {
			return fmt.Errorf("%s is required", f.Label)
		}
		return nil
	}
	if why, failed := v.(value.Failure); failed {
		return fmt.Errorf("%s cannot be stored: it is %s", f.Label, why.Why)
	}
	switch f.Type {
	case Choice:
		return f.checkChoice(value.Display(v))
	case Choices:
		for _, key := range v.(value.Several).Keys() {
			if err := f.checkChoice(key); err != nil {
				return err
			}
		}
		return nil
	case Email:
		a, err := mail.ParseAddress(value.Display(v))
		if err != nil || a.Address != value.Display(v) || !strings.Contains(a.Address, ".") {
			return fmt.Errorf("%q is not an e-mail address such as name@company.example", value.Display(v))
		}
	case Phone:
		n, err := phonenumbers.Parse(value.Display(v), "ZZ")
		if err != nil || !phonenumbers.IsPossibleNumber(n) {
			return fmt.Errorf("%q is not a phone number; write it with + and the country code", value.Display(v))
		}
	case WebLink:
		u, err := url.Parse(value.Display(v))
		if err != nil || u.Host == "" || u.Scheme != "https" && u.Scheme != "http" {
			return fmt.Errorf("%q is not a web address such as https://company.example", value.Display(v))
		}
	}
	return f.checkLimits(v)
}

func (f *Field) checkChoice(key string) error {
	for _, c := range f.Choices {
		switch {
		case c.Key == key && c.Retired:
			return fmt.Errorf("%s of %s is retired; choose another value", c.Label, f.Label)
		case c.Key == key:
			return nil
		}
	}
	return fmt.Errorf("%s cannot be %q; choose one of the values offered", f.Label, key)
}

// mostDigits bounds the numbers that are stored.
const mostDigits = 60

func (f *Field) checkLimits(v value.Value) error {
	var n decimal.Decimal
	what := f.Label
	switch x := v.(type) {
	case value.Text:
		if err := f.storable(string(x)); err != nil {
			return err
		}
		n, what = decimal.NewFromInt(int64(utf8.RuneCountInString(string(x)))), "the length of "+f.Label
	case value.Composite:
		return f.storable(strings.Join(value.Texts(x), ""))
	case value.Whole:
		n = decimal.NewFromInt(int64(x))
	case value.Decimal:
		n = x.Decimal
	case value.Money:
		n = x.Amount
	case value.Date:
		if x.Year < 1 || x.Year > 9999 {
			return fmt.Errorf("%s is %s", f.Label, value.BeyondCalendar)
		}
		return nil
	default:
		return nil
	}
	if digits := n.NumDigits(); digits > mostDigits || n.Exponent() > mostDigits || n.Exponent() < -mostDigits {
		return fmt.Errorf("%s has too many digits: at most %d", f.Label, mostDigits)
	}
	if f.Least != nil && n.LessThan(decimal.NewFromInt(*f.Least)) {
		return fmt.Errorf("%s is %s, but at least %d is wanted", what, n, *f.Least)
	}
	if f.Most != nil && n.GreaterThan(decimal.NewFromInt(*f.Most)) {
		return fmt.Errorf("%s is %s, but at most %d is allowed", what, n, *f.Most)
	}
	return nil
}

// storable says what PostgreSQL would not take as text.
func (f *Field) storable(text string) error {
	if strings.ContainsRune(text, 0) || !utf8.ValidString(text) {
		return fmt.Errorf("%s holds characters that cannot be stored", f.Label)
	}
	return nil
}
