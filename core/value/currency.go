package value

import (
	"fmt"

	"github.com/bojanz/currency"
)

// CheckCurrency says why a code is no currency of ISO 4217.
func CheckCurrency(code string) error {
	if code == "" || !currency.IsValid(code) {
		return fmt.Errorf("%q is not a currency such as EUR", code)
	}
	return nil
}

// CurrencyPlaces is how many decimal places amounts in a currency have (ISO 4217).
func CurrencyPlaces(code string) int32 {
	digits, ok := currency.GetDigits(code)
	if !ok {
		return 2
	}
	return int32(digits)
}

// Currencies are the codes of all currencies.
func Currencies() []string { return currency.GetCurrencyCodes() }

// CannotAdd says that amounts are in several currencies, given in order.
func CannotAdd(currencies []string) Failure {
	return Failure{"cannot be added: " + currencies[0] + " and " + currencies[len(currencies)-1]}
}
