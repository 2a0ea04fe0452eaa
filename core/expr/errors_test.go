package expr

import (
	"errors"
	"testing"

	"plainpath/core/model"
	"plainpath/core/value"
)

// A mend is the expression with the nearest name where the unknown one stands, and is offered
// only where it has no mistake.
func TestMendsStandWhereTheMistakeIs(t *testing.T) {
	for source, want := range map[string]string{
		"lift.load > 1.0 && lift.loa > 2.0":     "lift.load > 1.0 && lift.load > 2.0",
		`"lift.sreial" == lift.sreial`:          `"lift.sreial" == lift.serial`,
		"lift.sreial == lift.lood":              "",
		"lift.goodz > 2":                        "", // goods is no number
		"lft.serial == lift.serial":             "lift.serial == lift.serial",
		"avg(lifts.map(l, l.load)) > 1.0":       "average(lifts.map(l, l.load)) > 1.0",
		"size(list) > 1":                        "", // one lift has no size
		"empty(lift.building.nam) || ⚙ == lift": "",
	} {
		_, err := CompileAs(liftScope(), source, Type{Kind: value.KindYesNo})
		var e *Error
		if !errors.As(err, &e) || e.Instead != want {
			t.Errorf("%s is mended to %q: %v; want %q", source, e.Instead, err, want)
		}
	}
	var e *Error
	if _, err := CompileTemplate(liftScope(), "Übrigens sreial {{ {lift.sreial}, {lift.serial}"); !errors.As(err, &e) ||
		e.Instead != "Übrigens sreial {{ {lift.serial}, {lift.serial}" {
		t.Errorf("a text is mended to %q, %v", e.Instead, err)
	}
	var unknown *model.UnknownNameError
	for path, want := range map[string]string{"bilding.name": "building.name", "building.nam": "building.name",
		"bilding.nnn": "", "serial.x": ""} {
		_, err := liftScope().Model.Path("lift", path)
		if errors.As(err, &unknown) && unknown.Instead != want {
			t.Errorf("%s is mended to %q", path, unknown.Instead)
		}
	}
}
