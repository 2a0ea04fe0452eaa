package value

import (
	"slices"
	"strings"
)

// Composite is a value made of texts that have names. It can be compared with ==.
type Composite interface {
	Value
	// Part is a part by name, empty when it is not given.
	Part(name string) Value
	// String is the value on one line.
	String() string
}

// compositeKind is all that there is to say of a kind whose values are Composite.
type compositeKind struct {
	kind Kind
	// words are what one value is called.
	words string
	// parts are their names, in the order they are written.
	parts []string
	// make makes a value of the texts of its parts, tidied; the empty value where there is nothing in them.
	make func(parts []string) Value
	// parse reads what is given as JSON.
	parse func(raw []byte) (Value, error)
}

// composites are the kinds of values that are made of parts.
var composites = []compositeKind{addressKind}

func compositeOf(k Kind) *compositeKind {
	i := slices.IndexFunc(composites, func(c compositeKind) bool { return c.kind == k })
	if i < 0 {
		return nil
	}
	return &composites[i]
}

// Parts names the parts of the values of a kind, in the order they are written. It is nil for values that
// have none.
func Parts(k Kind) []string {
	if c := compositeOf(k); c != nil {
		return c.parts
	}
	return nil
}

// OfParts makes a value of the texts of its parts, of which the last may be left out.
func OfParts(k Kind, texts ...string) Value {
	c := compositeOf(k)
	return c.make(append(texts, make([]string, len(c.parts)-len(texts))...))
}

// Texts are the parts of a value, in order.
func Texts(c Composite) []string {
	parts := Parts(c.Kind())
	out := make([]string, len(parts))
	for i, name := range parts {
		out[i] = Display(c.Part(name))
	}
	return out
}

// Words are what a value of a kind is called: "a date".
func Words(k Kind) string {
	if c := compositeOf(k); c != nil {
		return c.words
	}
	return plainWords[k]
}

var plainWords = map[Kind]string{KindText: "text", KindWhole: "a whole number", KindDecimal: "a decimal",
	KindMoney: "an amount of money", KindYesNo: "yes or no", KindDate: "a date", KindInstant: "a date and time",
	KindSeveral: "several choices", KindRecord: "a record", KindList: "a list of records",
	KindScreen: "a whole screen", KindRows: "a list of rows"}

// Kinds are all kinds there are.
func Kinds() []Kind {
	out := []Kind{KindText, KindWhole, KindDecimal, KindMoney, KindYesNo, KindDate, KindInstant, KindSeveral,
		KindRecord, KindList, KindScreen, KindRows, KindFailure}
	for _, c := range composites {
		out = append(out, c.kind)
	}
	return out
}

// partNames are names of parts in a sentence: "its town and its country".
func partNames(names []string) string {
	its := make([]string, len(names))
	for i, n := range names {
		its[i] = "its " + n
	}
	if len(its) < 2 {
		return strings.Join(its, "")
	}
	return strings.Join(its[:len(its)-1], ", ") + " and " + its[len(its)-1]
}

// Only is the first part of a value, where it is all there is; otherwise what would be lost without the others.
func Only(c Composite) (first Value, lost string) {
	parts := Parts(c.Kind())
	for _, name := range parts[1:] {
		if c.Part(name) != nil {
			return nil, partNames(parts[1:])
		}
	}
	return c.Part(parts[0]), ""
}
