package screen

import (
	"context"
	"encoding/json"
	"slices"

	"plainpath/core/expr"
	"plainpath/core/model"
	"plainpath/core/records"
	"plainpath/core/value"
)

// partKind is all that a surface knows of one kind of part.
type partKind struct {
	kind PartKind
	// set says whether a definition has the member that is named like the kind.
	set func(*Part) bool
	// check makes the part of its definition, whose member at points at.
	check func(c *compiler, p *part, at string)
	show  func(ctx context.Context, p *part, r records.Reader, values expr.Values, g Given, view *PartView) error
	// take makes a value of what was given for the part on a screen, or says what is wrong with it; nil
	// for parts that give nothing out.
	take func(ctx context.Context, p *part, r records.Reader, values expr.Values,
		t taking) (value.Value, string, error)
	// known notes what the part gives out on a page, as far as it is used; nil for parts that give nothing out.
	known func(ctx context.Context, p *part, r records.Reader, values expr.Values, g Given, used Used) error
}

// taking is what was given for a part, and what is to be read of it. What is fresh is held to what it may
// be now.
type taking struct {
	raw    json.RawMessage
	fields []model.Path
	rows   rowsTaker
	fresh  bool
}

// partKinds are the kinds of parts there are, in the order a builder is offered them.
var partKinds []partKind

func init() { // not where it is declared, for rows inside rows are parts that are shown by their kind
	partKinds = []partKind{inputKind, tableKind, detailsKind, textKind}
}

// kindOf is what is known of a kind, nil where there is no such kind.
func kindOf(kind PartKind) *partKind {
	at := slices.IndexFunc(partKinds, func(k partKind) bool { return k.kind == kind })
	if at < 0 {
		return nil
	}
	return &partKinds[at]
}
