package screen

import (
	"context"
	"fmt"
	"slices"

	"plainpath/core/definition"
	"plainpath/core/expr"
	"plainpath/core/records"
)

// Finder is a box in which records of several objects are found by what they are called.
type Finder struct {
	// Objects are the keys of the objects, in the order in which their records are listed.
	Objects []string `json:"objects"`
}

var finderKind = partKind{FinderPart, func(def *Part) bool { return def.Finder != nil }, checkFinder}

type finder struct{ *Finder }

func checkFinder(c *compiler, p *part, at string) content {
	if len(p.Finder.Objects) == 0 {
		c.Find(definition.Stop, at+"/objects", "nothing is looked through here", "Nobody would find anything.", nil)
		return nil
	}
	ok := true
	for i, key := range p.Finder.Objects {
		at := fmt.Sprintf("%s/objects/%d", at, i)
		o := c.Object(c.scope.Model, key, at, "Nobody would find anything of it.")
		ok = ok && o != nil
		if o != nil && slices.Contains(p.Finder.Objects[:i], key) {
			c.Find(definition.Care, at, fmt.Sprintf("%s stand here twice", o.Plural), "They would be found once.",
				&definition.Mend{Label: "Leave it out", Patch: []definition.Op{{Op: "remove", Path: at}}})
		}
	}
	if !ok {
		return nil
	}
	return finder{p.Finder}
}

// show says what is looked through; what is found is asked for as somebody types.
func (f finder) show(_ context.Context, _ records.Reader, _ expr.Values, _ Given, view *PartView) error {
	view.Finder = f.Finder
	return nil
}
