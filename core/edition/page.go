package edition

import (
	"reflect"
	"slices"

	"plainpath/core/access"
	"plainpath/core/definition"
	"plainpath/core/expr"
	"plainpath/core/page"
	"plainpath/core/screen"
)

func (e *Edition) pages(docs []definition.Document) error {
	roles := e.roleKeys()
	for i := range docs {
		out, err := piece(e.made, func() digest { return e.made.digests.of("page", docs[i:i+1], roles...) },
			func() (compiledPage, error) {
				read, err := bodies[page.Page](docs[i : i+1])
				if err != nil {
					return compiledPage{}, err
				}
				p, check := page.Compile(access.PersonScope(e.Model, e.App.Organisation), roles, read[0])
				return compiledPage{p, check}, nil
			})
		if err != nil {
			return err
		}
		e.Pages[out.program.Def.Key] = out.program
		e.check.Take(out.check)
	}
	return nil
}

func knownInPage(e *Edition, key string) (scopes map[string][]expr.Name, needs map[string][]string) {
	p := e.Pages[key]
	if p == nil {
		return nil, nil
	}
	return map[string][]expr.Name{"": p.Scope.Names}, p.Needs()
}

// MayOpen says whether a person may open a page.
func MayOpen(p access.Person, page *page.Page) bool {
	return slices.ContainsFunc(page.Roles, func(r string) bool { return slices.Contains(p.Roles, r) })
}

// pageDiffers says what changes of a page.
func pageDiffers(a, b *page.Page, d *definition.Difference) {
	if a == nil {
		d.Allowed("open it", nil, b.Roles)
		return
	}
	d.Setting("its name", a.Label, b.Label)
	d.Setting("its note", a.Note, b.Note)
	d.Allowed("open it", a.Roles, b.Roles)
	if !reflect.DeepEqual(a.Takes, b.Takes) {
		d.Say("what it takes from what opens it changed")
	}
	was, is := partsOf(a.Bands), partsOf(b.Bands)
	for _, p := range is {
		old, existed := partOf(was, p.Key)
		switch {
		case !existed:
			d.Say("%s “%s” added", p.Kind, p.Title())
		case !reflect.DeepEqual(old, p):
			d.Say("%s “%s” changed", p.Kind, p.Title())
		}
	}
	for _, p := range was {
		if _, still := partOf(is, p.Key); !still {
			d.Say("%s “%s” removed", p.Kind, p.Title())
		}
	}
	searches := func(p *page.Page) map[string]screen.Search {
		out := map[string]screen.Search{}
		for _, s := range p.Searches {
			out[s.Key] = s
		}
		return out
	}
	if !reflect.DeepEqual(searches(a), searches(b)) {
		d.Say("what it searches for changed")
	}
	if !reflect.DeepEqual(a.Reactions, b.Reactions) {
		d.Say("what it does by itself changed")
	}
	if len(d.Details) == 0 {
		d.Say("its parts are arranged differently")
	}
}

func partsOf(bands []screen.Band) []screen.Part {
	var out []screen.Part
	for _, b := range bands {
		for _, col := range b.Columns {
			out = append(out, col.Parts...)
		}
	}
	return out
}

func partOf(parts []screen.Part, key string) (screen.Part, bool) {
	i := slices.IndexFunc(parts, func(p screen.Part) bool { return p.Key == key })
	if i < 0 {
		return screen.Part{}, false
	}
	return parts[i], true
}
