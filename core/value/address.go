package value

import (
	"encoding/json"
	"fmt"
	"strings"
)

// Address is a postal address. At least one part of it is given; with none it is the
// empty value. It can be compared with ==.
type Address struct {
	// Lines are the street and what else stands above the town, one a line.
	Lines    string `json:"lines,omitempty"`
	Town     string `json:"town,omitempty"`
	Postcode string `json:"postcode,omitempty"`
	Country  string `json:"country,omitempty"`
}

// KindAddress is the kind of addresses.
const KindAddress Kind = "address"

var addressKind = compositeKind{KindAddress, "an address", []string{"lines", "town", "postcode", "country"},
	func(p []string) Value { return NewAddress(Address{p[0], p[1], p[2], p[3]}) }, parseAddress}

// Kind is that of an address.
func (Address) Kind() Kind { return KindAddress }

// NewAddress tidies an address: spaces around its parts and empty lines go. An address
// without anything in it is the empty value.
func NewAddress(a Address) Value {
	var lines []string
	for line := range strings.Lines(a.Lines) {
		if line = strings.TrimSpace(line); line != "" {
			lines = append(lines, line)
		}
	}
	out := Address{strings.Join(lines, "\n"), strings.TrimSpace(a.Town), strings.TrimSpace(a.Postcode),
		strings.TrimSpace(a.Country)}
	if out == (Address{}) {
		return nil
	}
	return out
}

// Part is a part of the address by name, empty when it is not given.
func (a Address) Part(name string) Value {
	text := map[string]string{"lines": a.Lines, "town": a.Town, "postcode": a.Postcode, "country": a.Country}[name]
	if text == "" {
		return nil
	}
	return Text(text)
}

// String is the address on one line.
func (a Address) String() string {
	var parts []string
	for _, p := range []string{strings.ReplaceAll(a.Lines, "\n", ", "), strings.TrimSpace(a.Postcode + " " + a.Town),
		a.Country} {
		if p != "" {
			parts = append(parts, p)
		}
	}
	return strings.Join(parts, ", ")
}

func parseAddress(raw []byte) (Value, error) {
	var a Address
	if err := json.Unmarshal(raw, &a); err != nil {
		return nil, fmt.Errorf("%s is not an address: it has lines, a town, a postcode and a country", raw)
	}
	return NewAddress(a), nil
}
