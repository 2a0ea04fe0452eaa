package table

import (
	"fmt"

	"plainpath/core/definition"
	"plainpath/core/expr"
	"plainpath/core/predicate"
)

// views checks that what the builder's views name is there. A view that names something
// else still opens, without it.
func (c *compiler) views(p *Program, at string) {
	for i, v := range p.Views {
		pointer := fmt.Sprintf("%s/%d", at, i)
		if v.Label == "" {
			c.Find(definition.Care, pointer+"/label", "this view has no name", "Nobody could tell it from the others.",
				nil)
		}
		c.viewed(p.object, v.Body, pointer+"/body", fmt.Sprintf("The view “%s” would open without it.", v.Label))
	}
}

func (c *compiler) viewed(object string, body Arrangement, at, consequence string) {
	m, look := c.scope.Model, body.Look
	named := func(path, pointer string) {
		p, err := m.Path(object, path)
		if err != nil {
			c.Problem(definition.Care, consequence, expr.Problem(err, at+"/look"+pointer, path))
			return
		}
		c.Mention(p.Mentions(object, at+"/look"+pointer)...)
	}
	for i, col := range look.Columns {
		named(col.Path, fmt.Sprintf("/columns/%d/path", i))
	}
	for i, cond := range look.Filter {
		checked, problems := predicate.Check(expr.Scope{Model: m}, object, cond,
			fmt.Sprintf("%s/look/filter/%d", at, i))
		c.Problem(definition.Care, consequence, problems...)
		c.Mention(checked.Mentions...)
	}
	for i, o := range look.Order {
		named(o.Path, fmt.Sprintf("/order/%d/path", i))
	}
	for i, t := range look.Totals {
		named(t.Path, fmt.Sprintf("/totals/%d/path", i))
	}
	level := "/group"
	for g := look.Group; g != nil; g, level = g.Then, level+"/then" {
		named(g.Path, level+"/path")
	}
	for path := range body.Widths {
		p, err := m.Path(object, path)
		if err != nil {
			continue // the width of a column that is gone is nobody's loss
		}
		for _, mention := range p.Mentions(object, at+"/widths/"+path) {
			mention.Member = true
			c.Mention(mention)
		}
	}
}
