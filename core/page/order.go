package page

import (
	"cmp"
	"fmt"
	"slices"
	"strings"

	"plainpath/core/definition"
	"plainpath/core/screen"
)

// need notes what something depends on. What a person typed or pressed at a table is known
// without the table, so that two tables can follow each other's words without a circle.
func (p *Program) need(key string, uses [][]string) {
	for _, u := range uses {
		if w := (Wire{u[0], key, strings.Join(u, ".")}); !slices.Contains(p.wires, w) {
			p.wires = append(p.wires, w)
		}
		if !slices.Contains(p.needs[key], u[0]) {
			p.needs[key] = append(p.needs[key], u[0])
		}
		given := len(u) > 1 && p.surface.KindOf(u[0]) == screen.TablePart &&
			(u[1] == screen.Words || u[1] == screen.Ordered)
		if !given && !slices.Contains(p.waits[key], u[0]) {
			p.waits[key] = append(p.waits[key], u[0])
		}
	}
}

// sort puts what is on the page in the order of its dependencies and finds circles.
func (p *Program) sort(c *definition.Check) {
	var keys []string
	pointers := map[string]string{}
	for i, s := range p.Def.Searches {
		keys = append(keys, s.Key)
		pointers[s.Key] = fmt.Sprintf("/searches/%d", i)
	}
	for part, at := range screen.Parts(p.Def.Bands) {
		if pointers[part.Key] == "" {
			keys = append(keys, part.Key)
			pointers[part.Key] = at
		}
	}
	order, circle := screen.InOrder(keys, p.waits)
	if circle != nil {
		var labels []string
		for _, key := range circle {
			labels = append(labels, p.label(key))
		}
		c.Find(definition.Stop, pointers[circle[0]], screen.Circle(labels),
			"Each would wait for the other and nothing would be shown.", nil)
	}
	p.order = order
}

// Wire is that a search or a part of a page takes a value of something.
type Wire struct {
	// From and To are the keys of what gives the value and what takes it.
	From string `json:"from"`
	To   string `json:"to"`
	// Value is the path of what is taken, such as "calls.selected.lift".
	Value string `json:"value"`
}

// Wires are what each search and part of the page depends on directly, in the order of the page.
func (p *Program) Wires() []Wire {
	place := map[string]int{}
	for i, key := range p.order {
		place[key] = i
	}
	return slices.SortedStableFunc(slices.Values(p.wires), func(a, b Wire) int {
		return cmp.Or(cmp.Compare(place[a.To], place[b.To]), cmp.Compare(a.Value, b.Value))
	})
}

func (p *Program) label(key string) string {
	if n, ok := p.Scope.Find(key); ok && n.Label != "" {
		return n.Label
	}
	return key
}
