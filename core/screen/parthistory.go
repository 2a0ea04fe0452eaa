package screen

import (
	"context"

	"plainpath/core/expr"
	"plainpath/core/records"
	"plainpath/core/value"
)

// History shows what happened to one record.
type History struct {
	// Source is an expression that gives the record.
	Source string `json:"source"`
}

// HistoryPartView is the record whose history is shown, which is read by itself; nought where there is none.
type HistoryPartView struct {
	Object string `json:"object"`
	Record int64  `json:"record"`
}

var historyKind = partKind{HistoryPart, func(def *Part) bool { return def.History != nil }, checkHistory}

type history struct{ source *expr.Program }

func checkHistory(c *compiler, p *part, at string) content {
	source := c.program(p.History.Source, expr.Type{Kind: value.KindRecord}, at+"/source",
		"There would be nothing to show.")
	if source == nil {
		return nil
	}
	return &history{source}
}

func (h *history) show(_ context.Context, _ records.Reader, values expr.Values, _ Given, view *PartView) error {
	v, err := h.source.Eval(values)
	if err != nil {
		return err
	}
	view.History = &HistoryPartView{Object: h.source.Type.Object}
	if record, ok := v.(*value.Record); ok && record != nil {
		view.History.Record = record.ID
	}
	return nil
}
