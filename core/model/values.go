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
			return fmt.Errorf("%s is needed", f.Label)
		}
		return nil
	}
	switch f.Type {
	case Choice:
		for _, c := range f.Choices {
			if value.Text(c.Key) == v {
				if c.Retired {
					return fmt.Errorf("%s of %s is retired; choose another value", c.Label, f.Label)
				}
				return nil
			}
		}
		return fmt.Errorf("%s cannot be %q; choose one of the values offered", f.Label, value.Display(v))
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

func (f *Field) checkLimits(v value.Value) error {
	var n decimal.Decimal
	what := f.Label
	switch x := v.(type) {
	case value.Text:
		if strings.ContainsRune(string(x), 0) || !utf8.ValidString(string(x)) {
			return fmt.Errorf("%s holds characters that cannot be stored", f.Label)
		}
		n, what = decimal.NewFromInt(int64(utf8.RuneCountInString(string(x)))), "the length of "+f.Label
	case value.Whole:
		n = decimal.NewFromInt(int64(x))
	case value.Decimal:
		n = x.Decimal
	case value.Money:
		n = x.Amount
	default:
		return nil
	}
	if f.Least != nil && n.LessThan(decimal.NewFromInt(*f.Least)) {
		return fmt.Errorf("%s is %s, but at least %d is wanted", what, n, *f.Least)
	}
	if f.Most != nil && n.GreaterThan(decimal.NewFromInt(*f.Most)) {
		return fmt.Errorf("%s is %s, but at most %d is allowed", what, n, *f.Most)
	}
	return nil
}
