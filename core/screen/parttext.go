package screen

import (
	"context"

	"plainpath/core/expr"
	"plainpath/core/records"
)

var textKind = partKind{TextPart, func(*Part) bool { return true }, checkText}

type text struct{ template *expr.Template }

func checkText(c *compiler, p *part, at string) content {
	t := c.Text(c.scope, p.Text, at, "The text could not be shown.")
	if t == nil {
		return nil
	}
	c.out.Uses = append(c.out.Uses, t.Uses...)
	return &text{t}
}

func (t *text) show(_ context.Context, _ records.Reader, values expr.Values, _ Given, view *PartView) (err error) {
	view.Text, err = t.template.Render(values)
	return err
}
