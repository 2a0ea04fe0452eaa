package edition

import (
	"context"
	"fmt"
	"maps"
	"reflect"
	"slices"

	"plainpath/core/access"
	"plainpath/core/definition"
	"plainpath/core/expr"
	"plainpath/core/page"
	"plainpath/core/records"
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
	e.checkMenu()
	return nil
}

func knownInPage(e *Edition, key string) (scopes map[string][]expr.Name, wires []page.Wire) {
	p := e.Pages[key]
	if p == nil {
		return nil, nil
	}
	return map[string][]expr.Name{"": p.Scope.Names}, p.Wires()
}

// MayOpen says whether a person may open a page.
func MayOpen(p access.Person, page *page.Page) bool { return page.MayOpen(p.Roles) }

// RecordPage is the page by which a person sees a record, "" where it is seen as all are. Where several are meant,
// those for some records go before those for all, and otherwise the order of their keys decides.
func (e *Edition) RecordPage(ctx context.Context, r records.Reader, p access.Person, object string,
	id int64) (string, error) {
	for _, program := range e.recordPages(object) {
		if !MayOpen(p, program.Def) {
			continue
		}
		shows, err := program.Shows(ctx, r, object, id)
		if err != nil {
			return "", fmt.Errorf("asking whether “%s” shows a record: %w", program.Def.Label, err)
		}
		if shows {
			return program.Def.Key, nil
		}
	}
	return "", nil
}

// HomePage is the page that a person begins with in Use, "" for none.
func (e *Edition) HomePage(p access.Person) string {
	for _, key := range slices.Sorted(maps.Keys(e.Pages)) {
		page := e.Pages[key].Def
		begins := slices.ContainsFunc(page.Home, func(r string) bool { return slices.Contains(p.Roles, r) })
		if begins && MayOpen(p, page) && !page.Needs() {
			return key
		}
	}
	return ""
}

// recordPages are the pages of records of an object, in the order in which they are asked.
func (e *Edition) recordPages(object string) []*page.Program {
	var some, all []*page.Program
	for _, key := range slices.Sorted(maps.Keys(e.Pages)) {
		switch p := e.Pages[key]; {
		case p.Def.Record == nil || p.Def.Record.Object != object:
		case p.Def.Record.When != "":
			some = append(some, p)
		default:
			all = append(all, p)
		}
	}
	return append(some, all...)
}

// meant finds pages that nobody would see, for another one is shown in their place.
func (e *Edition) meant() {
	homes := map[string]*page.Page{}
	for _, key := range slices.Sorted(maps.Keys(e.Pages)) {
		def := e.Pages[key].Def
		for i, role := range def.Home {
			if first := homes[role]; first != nil {
				e.check.For(definition.Name(definition.Page, key)).Find(definition.Care, fmt.Sprintf("/home/%d", i),
					fmt.Sprintf("people of this role begin with “%s” already", first.Label), "They would not begin with this one.",
					&definition.Mend{Label: "Leave it at that", Patch: []definition.Op{{Op: "remove",
						Path: fmt.Sprintf("/home/%d", i)}}})
				continue
			}
			homes[role] = def
		}
	}
	for _, object := range e.Model.Keys() {
		all := e.recordPages(object)
		for i, later := range all {
			for _, first := range all[:i] {
				if first.Def.Record.When == "" && first.Def.MayOpen(later.Def.Roles) {
					e.check.For(definition.Name(definition.Page, later.Def.Key)).Find(definition.Care, "/record",
						fmt.Sprintf("the page “%s” shows the same records to some of the same roles", first.Def.Label),
						"They would see that one.", nil)
				}
			}
		}
	}
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
	d.Allowed("begin with it", a.Home, b.Home)
	if !reflect.DeepEqual(a.Record, b.Record) {
		d.Say("which records it shows changed")
	}
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
