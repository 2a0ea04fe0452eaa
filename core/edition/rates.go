package edition

import (
	"fmt"

	"plainpath/core/act"
	"plainpath/core/definition"
	"plainpath/core/expr"
	"plainpath/core/model"
	"plainpath/core/value"
)

// checkRates looks at the table of rates; the model has it when it can be used.
func (e *Edition) checkRates() {
	t := e.App.Rates
	if t == nil {
		return
	}
	document, consequence := "app/"+e.App.Key, "Amounts could not be converted."
	o := e.Model.Object(t.Object)
	if o == nil {
		e.Findings = append(e.Findings, definition.FromProblem(document, "", consequence,
			expr.Problem(act.UnknownObject(e.Model, t.Object), "/rates/object", t.Object)))
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
			continue
		}
		fits = false
		e.Findings = append(e.Findings, definition.FromProblem(document, "", consequence,
			expr.Problem(err, need.pointer, need.field)))
	}
	if fits {
		e.Model.Rates = t
	}
}
