package screen

import (
	"context"

	"plainpath/core/expr"
	"plainpath/core/records"
)

var textKind = partKind{kind: TextPart,
	set:   func(*Part) bool { return true },
	check: (*compiler).text,
	show: func(_ context.Context, p *part, _ records.Reader, values expr.Values, _ Given, view *PartView) (err error) {
		view.Text, err = p.text.Render(values)
		return err
	},
}

func (c *compiler) text(p *part, at string) {
	t := c.Text(c.scope, p.Text, at, "The text could not be shown.")
	if t == nil {
		return
	}
	p.text = t
	c.out.Uses = append(c.out.Uses, t.Uses...)
}
