package surface

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
	t, err := expr.CompileTemplate(c.scope, p.Text)
	if err != nil {
		c.failed(err, at, p.Text, "The text could not be shown.")
		return
	}
	p.text = t
	c.out.Uses = append(c.out.Uses, t.Uses...)
}
