package sqlgen

import (
	"maps"

	"cel.dev/cel-go/common/operators"

	"plainpath/core/expr"
	"plainpath/core/value"
)

// function writes a function of expressions of what it takes, with the same meaning as it has in
// Go. Package expr knows which functions there are.
type function func(a []scalar, h house) (scalar, error)

// house is what functions depend on besides what they take.
type house struct {
	// zone is the time zone, as a constant.
	zone string
	// mostText bounds the texts that are made, in bytes.
	mostText int
}

var functions = gathered(operatorFunctions, numberFunctions, textFunctions, dayFunctions)

func gathered(groups ...map[string]function) map[string]function {
	out := map[string]function{}
	for _, g := range groups {
		maps.Copy(out, g)
	}
	return out
}

// apply writes a function with what becomes of it where something it takes has failed.
func apply(name string, a []scalar, h house) (scalar, error) {
	if name == operators.Add && a[0].Kind == value.KindText {
		return joined(a, h.mostText), nil
	}
	c, err := functions[name](a, h)
	for _, x := range a {
		c.Stored += x.Stored
	}
	if !expr.Lenient(name) {
		var whys []string
		for _, x := range a {
			whys = append(whys, x.Why)
		}
		c.Why = firstOf(append(whys, c.Why)...)
	}
	return c, err
}

var operatorFunctions = map[string]function{
	operators.Equals: func(a []scalar, _ house) (scalar, error) {
		return yesNo("((" + equal(a[0], a[1]) + ") IS TRUE)")
	},
	operators.NotEquals: func(a []scalar, _ house) (scalar, error) {
		return yesNo("((" + equal(a[0], a[1]) + ") IS NOT TRUE)")
	},
	operators.Less:          ordering("<"),
	operators.LessEquals:    ordering("<="),
	operators.Greater:       ordering(">"),
	operators.GreaterEquals: ordering(">="),
	operators.In: func(a []scalar, _ house) (scalar, error) {
		return yesNo("coalesce(" + a[0].SQL + " = ANY(" + a[1].SQL + "), FALSE)")
	},
	operators.LogicalAnd: func(a []scalar, _ house) (scalar, error) {
		return yesNo("(" + a[0].SQL + " IS TRUE AND " + a[1].SQL + " IS TRUE)")
	},
	operators.LogicalOr: func(a []scalar, _ house) (scalar, error) {
		return yesNo("(" + a[0].SQL + " IS TRUE OR " + a[1].SQL + " IS TRUE)")
	},
	operators.LogicalNot: func(a []scalar, _ house) (scalar, error) { return yesNo("(" + a[0].SQL + " IS NOT TRUE)") },
	operators.Conditional: func(a []scalar, _ house) (scalar, error) {
		return choice(a[0], a[1], a[2]), nil
	},
	operators.Add:      arithmetic("+"),
	operators.Subtract: arithmetic("-"),
	operators.Multiply: arithmetic("*"),
	operators.Divide:   arithmetic("/"),
	operators.Modulo:   arithmetic("%"),
	operators.Negate: func(a []scalar, _ house) (scalar, error) {
		if a[0].Kind == value.KindWhole {
			return within64("-" + a[0].SQL + "::numeric"), nil
		}
		return scalar{Kind: a[0].Kind, SQL: "(-" + a[0].SQL + ")", Currency: a[0].Currency}, nil
	},
	"empty": func(a []scalar, _ house) (scalar, error) {
		if a[0].Why != "" { // what failed is not empty
			return yesNo("(" + a[0].SQL + " IS NULL AND " + a[0].Why + " IS NULL)")
		}
		return yesNo("(" + a[0].SQL + " IS NULL)")
	},
	"either":   either,
	"needed":   needed,
	"least":    extreme("LEAST"),
	"greatest": extreme("GREATEST"),
	"size": func(a []scalar, _ house) (scalar, error) {
		if a[0].Kind == value.KindSeveral {
			return of(value.KindWhole, "cardinality("+a[0].SQL+")::bigint")
		}
		return of(value.KindWhole, "char_length("+a[0].SQL+")::bigint")
	},
}

func ordering(symbol string) function {
	return func(a []scalar, _ house) (scalar, error) {
		out := a[0].SQL + " " + symbol + " " + a[1].SQL
		if a[0].Kind == value.KindText {
			out = a[0].SQL + byLanguage + " " + symbol + " " + a[1].SQL
		}
		if a[0].Kind == value.KindMoney {
			out += " AND " + a[0].Currency + " = " + a[1].Currency
		}
		return yesNo("((" + out + ") IS TRUE)")
	}
}

// equal is NULL where a side is.
func equal(a, b scalar) string {
	switch a.Kind {
	case value.KindMoney:
		return a.SQL + " = " + b.SQL + " AND " + a.Currency + " = " + b.Currency
	case value.KindSeveral:
		return a.SQL + " @> " + b.SQL + " AND " + a.SQL + " <@ " + b.SQL
	}
	return a.SQL + " = " + b.SQL
}

func either(a []scalar, _ house) (scalar, error) {
	x, y := a[0], a[1]
	out := merge(x, y, func(x, y string) string { return "coalesce(" + x + ", " + y + ")" })
	if x.Why != "" {
		out = merge(x, y, func(x, y string) string {
			return "CASE WHEN " + a[0].Why + " IS NULL THEN coalesce(" + x + ", " + y + ") END"
		})
	}
	if y.Why != "" {
		y.Why = "CASE WHEN " + x.SQL + " IS NULL THEN " + y.Why + " END"
	}
	out.Why = firstOf(x.Why, y.Why)
	return out, nil
}

func needed(a []scalar, _ house) (scalar, error) {
	x, say := a[0], a[1]
	missing := "CASE WHEN " + x.SQL + " IS NULL THEN " + said(value.Missing) + " || coalesce('. ' || " + say.SQL +
		", '') END"
	x.Why = firstOf(x.Why, missing)
	return x, nil
}

// extreme is the least or the greatest of several values, whichever of them there are.
func extreme(sql string) function {
	return func(a []scalar, _ house) (scalar, error) {
		c := scalar{Kind: a[0].Kind}
		out, whys := sql+"(", []string{}
		for i, x := range a {
			if i > 0 {
				out += ", "
			}
			out += x.SQL
			whys = append(whys, x.Why)
			if x.Kind == value.KindDecimal {
				c.Kind = x.Kind
			}
		}
		c.SQL = out + ")"
		if c.Why = firstOf(whys...); c.Why != "" {
			c.SQL = "CASE WHEN " + c.Why + " IS NULL THEN " + c.SQL + " END"
		}
		return c, nil
	}
}
