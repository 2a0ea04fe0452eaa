package edition

import (
	"fmt"

	"plainpath/core/model"
	"plainpath/core/value"
)

// checkRates looks at the table of rates; the model has it when it can be used.
func (e *Edition) checkRates() {
	t := e.App.Rates
	if t == nil {
		return
	}
	const consequence = "Amounts could not be converted."
	c := e.appCheck()
	o := c.Object(e.Model, t.Object, "/rates/object", consequence)
	if o == nil {
		return
	}
	fits := true
	for _, need := range []struct {
		pointer, field string
		kind           value.Kind
	}{{"/rates/currency", t.Currency, value.KindText}, {"/rates/day", t.Day, value.KindDate},
		{"/rates/rate", t.Rate, value.KindDecimal}} {
		f := o.Field(need.field)
		var err error
		switch {
		case f == nil || !f.Stored():
			err = &model.UnknownNameError{Name: need.field, Object: o.Label}
		case f.Kind() != need.kind:
			err = fmt.Errorf("%s is %s, not %s", f.Label, f.Kind(), need.kind)
		default:
			c.Field(o, need.field, need.pointer, consequence)
			continue
		}
		fits = false
		c.Fail(err, need.pointer, need.field, consequence)
	}
	if fits {
		e.Model.Rates = t
	}
}
