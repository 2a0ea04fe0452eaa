package screen

import (
	"context"

	"plainpath/core/expr"
	"plainpath/core/model"
	"plainpath/core/records"
	"plainpath/core/value"
)

// PlacePartView is an address that is shown.
type PlacePartView struct {
	// Address is nil where there is no record yet, or it holds none.
	Address *value.Address `json:"address,omitempty"`
	// Chosen says that there is a record.
	Chosen bool `json:"chosen"`
}

var placeKind = partKind{PlacePart, func(def *Part) bool { return def.Place != nil },
	func(c *compiler, p *part, at string) content {
		held := c.held(p.Place, at, "There would be no address.", "holds no address",
			func(f *model.Field) bool { return f.Kind() == value.KindAddress })
		if held == nil {
			return nil
		}
		return place{held}
	}}

type place struct{ *held }

func (p place) show(ctx context.Context, r records.Reader, values expr.Values, _ Given, view *PartView) error {
	v, chosen, err := p.read(ctx, r, values)
	if err != nil {
		return err
	}
	view.Place = &PlacePartView{Chosen: chosen}
	if a, ok := v.(value.Address); ok {
		view.Place.Address = &a
	}
	return nil
}
