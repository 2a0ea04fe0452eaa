package surface

import (
	"fmt"

	"plainpath/core/definition"
	"plainpath/core/expr"
	"plainpath/core/model"
	"plainpath/core/predicate"
)

// views checks that what the builder's views name is there. A view that names something
// else still opens, without it.
func (c *compiler) views(p *part, at string) {
	for i, v := range p.Table.Views {
		pointer := fmt.Sprintf("%s/%d", at, i)
		if v.Label == "" {
			c.find(definition.Care, pointer+"/label", "this view has no name", "Nobody could tell it from the others.",
				nil)
		}
		for _, problem := range c.viewed(p.object, v.Body.Look, pointer+"/body/look") {
			f := definition.FromProblem(c.document, c.step, fmt.Sprintf("The view “%s” would open without it.",
				v.Label), problem)
			f.Severity = definition.Care
			c.findings = append(c.findings, f)
		}
	}
}

func (c *compiler) viewed(object string, look Look, at string) []model.Problem {
	var out []model.Problem
	named := func(path, pointer string) {
		if _, err := c.scope.Model.Path(object, path); err != nil {
			out = append(out, expr.Problem(err, at+pointer, path))
		}
	}
	for i, col := range look.Columns {
		named(col.Path, fmt.Sprintf("/columns/%d/path", i))
	}
	for i, cond := range look.Filter {
		_, problems := predicate.Check(expr.Scope{Model: c.scope.Model}, object, cond,
			fmt.Sprintf("%s/filter/%d", at, i))
		out = append(out, problems...)
	}
	for i, o := range look.Order {
		named(o.Path, fmt.Sprintf("/order/%d/path", i))
	}
	for i, t := range look.Totals {
		named(t.Path, fmt.Sprintf("/totals/%d/path", i))
	}
	if look.Group != nil {
		named(look.Group.Path, "/group/path")
	}
	return out
}
