package model

import (
	"encoding/json"
	"fmt"
	"regexp"
	"slices"
	"strings"
	"time"

	"github.com/shopspring/decimal"

	"plainpath/core/value"
)

// Conversion turns stored values of a field into those of the field it becomes. The
// zone and the house currency decide what a day and a bare amount mean.
type Conversion struct {
	From, To *Field
	Zone     *time.Location
	Currency string
	// Find finds the record of what the field is to refer to by its name, and Name names a
	// record of what it referred to. Without them texts and references do not become each other.
	Find func(name string) (*value.Record, error)
	Name func(id int64) (string, error)
}

// Needed says whether stored values must be written anew for the new type.
func (c Conversion) Needed() bool {
	return c.From.Kind() != c.To.Kind() || (c.From.Type == Choice) != (c.To.Type == Choice) || c.rekeyed()
}

// rekeyed says whether a value that was chosen has another key now.
func (c Conversion) rekeyed() bool {
	return c.From.Type.Chosen() && slices.ContainsFunc(c.From.Choices,
		func(v ChoiceValue) bool { return c.choice(v.Key) != v.Key })
}

// choice is the key that a choice of the field as it was has in the field as it is to be:
// another one when its key was changed, or the change undone.
func (c Conversion) choice(key string) string {
	var was []string
	for _, v := range c.From.Choices {
		if v.Key == key {
			was = v.Was
		}
	}
	now := ""
	for _, v := range c.To.Choices {
		if v.Key == key {
			return key
		}
		if slices.Contains(v.Was, key) || slices.Contains(was, v.Key) {
			now = v.Key
		}
	}
	if now == "" {
		return key
	}
	return now
}

// keep takes choices over to the field as it is to be.
func (c Conversion) keep(v value.Value) value.Value {
	switch x := v.(type) {
	case value.Text:
		return value.Text(c.choice(string(x)))
	case value.Several:
		keys := x.Keys()
		for i, k := range keys {
			keys[i] = c.choice(k)
		}
		return value.NewSeveral(keys...)
	}
	return v
}

// Value converts one stored value. The error says why it cannot become one of the new
// type, or what would be lost: a conversion that loses nothing can be undone.
func (c Conversion) Value(v value.Value) (value.Value, error) {
	out, err := c.convert(v)
	if err != nil || out == nil {
		return nil, err
	}
	free := *c.To
	free.Required = false
	free.Choices = slices.Clone(free.Choices)
	for i := range free.Choices { // what is stored may stay
		free.Choices[i].Retired = false
	}
	return out, free.CheckValue(out)
}

func (c Conversion) convert(v value.Value) (value.Value, error) {
	from, to := c.From.Kind(), c.To.Kind()
	switch {
	case v == nil:
		return nil, nil
	case c.From.Type.Chosen() && from == to && c.To.Type.Chosen():
		return c.keep(v), nil
	case from == value.KindText && c.From.Type != Choice && c.To.Type == Reference && c.Find != nil:
		return c.found(string(v.(value.Text)))
	case c.From.Type == Reference && to == value.KindText && c.To.Type != Choice && c.Name != nil:
		name, err := c.Name(v.(*value.Record).ID)
		if err != nil {
			return nil, err
		}
		return value.Text(name), nil
	case from == value.KindRecord || to == value.KindRecord:
		if from == to && c.From.Target() == c.To.Target() && (c.To.Type != Picture || c.From.Type == Picture) {
			return v, nil
		}
		return nil, fmt.Errorf("a %s cannot become a %s; make a new field instead", Words(c.From.Type),
			Words(c.To.Type))
	case from == to && to != value.KindText:
		return v, nil
	case to == value.KindSeveral && (from == value.KindText):
		return value.NewSeveral(value.Display(c.toText(v))), nil
	case value.Parts(to) != nil && from == value.KindText && c.From.Type != Choice:
		made, ok := value.OfParts(to, value.Display(v)).(value.Composite)
		if !ok || value.Texts(made)[0] != value.Display(v) {
			return nil, fmt.Errorf("%q would not come back as it is written now", value.Display(v))
		}
		return made, nil
	case from == value.KindSeveral || value.Parts(from) != nil:
		return c.taken(v)
	case to == value.KindText:
		return c.toText(v), nil
	case from == value.KindText:
		return c.parse(string(v.(value.Text)), to)
	}
	return c.between(v, to)
}

func (c Conversion) found(name string) (value.Value, error) {
	r, err := c.Find(name)
	if err != nil {
		return nil, err
	}
	return r, nil
}

func (c Conversion) toText(v value.Value) value.Value {
	text := c.From.Shown(v)
	if x, ok := v.(value.Instant); ok {
		text = x.Format(time.RFC3339)
	}
	if c.To.Type.Chosen() {
		for _, choice := range c.To.Choices {
			if choice.Key == text || strings.EqualFold(choice.Label, text) {
				return value.Text(choice.Key)
			}
		}
	}
	return value.Text(text)
}

// taken takes what is made of several things for one, where there is only one.
func (c Conversion) taken(v value.Value) (value.Value, error) {
	if c.To.Kind() == value.KindText {
		switch x := v.(type) {
		case value.Several:
			if len(x.Keys()) > 1 {
				return nil, fmt.Errorf("%s are several values and would become one", c.From.Shown(v))
			}
			return c.toText(v), nil
		case value.Composite:
			first, lost := value.Only(x)
			if lost != "" {
				return nil, fmt.Errorf("%s would lose what is %s", value.Display(v), lost)
			}
			return first, nil
		}
	}
	return nil, fmt.Errorf("a %s cannot become a %s; make a new field instead", Words(c.From.Type), Words(c.To.Type))
}

// asRead tells numbers that come back just as they were read: no leading zeros, no sign
// without need.
var asRead = regexp.MustCompile(`^-?(0|[1-9][0-9]*)(\.[0-9]+)?$`)

func (c Conversion) parse(text string, to value.Kind) (value.Value, error) {
	switch to {
	case value.KindYesNo:
		switch strings.ToLower(text) {
		case "yes", "true":
			return value.YesNo(true), nil
		case "no", "false":
			return value.YesNo(false), nil
		}
		return nil, fmt.Errorf("%q is neither yes nor no", text)
	case value.KindWhole, value.KindDecimal:
		if !asRead.MatchString(text) {
			return nil, fmt.Errorf("%q would not come back as it is written now", text)
		}
	case value.KindMoney:
		amount, currency, _ := strings.Cut(text, " ")
		if !asRead.MatchString(amount) {
			return nil, fmt.Errorf("%q is not an amount and a currency, such as 120.50 %s", text, c.Currency)
		}
		text = fmt.Sprintf(`{"amount":%q,"currency":%q}`, amount, currency)
		return value.Parse(to, json.RawMessage(text))
	}
	raw, err := json.Marshal(text)
	if err != nil {
		return nil, fmt.Errorf("reading %q: %w", text, err)
	}
	return value.Parse(to, raw)
}

// between converts among numbers, amounts and dates.
func (c Conversion) between(v value.Value, to value.Kind) (value.Value, error) {
	switch x := v.(type) {
	case value.Whole:
		d := value.Decimal{Decimal: decimal.NewFromInt(int64(x))}
		if to == value.KindDecimal {
			return d, nil
		}
		if to == value.KindMoney {
			return value.Money{Amount: d.Decimal, Currency: c.Currency}, nil
		}
	case value.Decimal:
		if to == value.KindMoney {
			return value.Money{Amount: x.Decimal, Currency: c.Currency}, nil
		}
		if to == value.KindWhole {
			if !x.IsInteger() || !x.BigInt().IsInt64() {
				return nil, fmt.Errorf("%s is no whole number", x)
			}
			return value.Whole(x.IntPart()), nil
		}
	case value.Money:
		bare := value.Decimal{Decimal: x.Amount}
		switch {
		case x.Currency != c.Currency:
			return nil, fmt.Errorf("%s would lose its currency", value.Display(x))
		case to == value.KindDecimal:
			return bare, nil
		case to == value.KindWhole:
			return c.between(bare, to)
		}
	case value.Date:
		if to == value.KindInstant {
			return value.NewInstant(x.In(c.Zone)), nil
		}
	case value.Instant:
		if to == value.KindDate {
			day := value.DateOf(x.In(c.Zone))
			if !day.In(c.Zone).Equal(x.Time) {
				return nil, fmt.Errorf("%s would lose its time", value.Display(x))
			}
			return day, nil
		}
	}
	return nil, fmt.Errorf("a %s cannot become a %s; make a new field instead", Words(c.From.Type), Words(c.To.Type))
}

// Words is a field type as it is said.
func Words(t FieldType) string {
	for _, known := range fieldTypes {
		if known.of == t {
			return known.words
		}
	}
	return string(t)
}
