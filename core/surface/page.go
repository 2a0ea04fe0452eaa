package surface

import (
	"context"
	"encoding/json"
	"fmt"
	"maps"
	"slices"
	"strings"

	"plainpath/core/act"
	"plainpath/core/definition"
	"plainpath/core/expr"
	"plainpath/core/model"
	"plainpath/core/records"
	"plainpath/core/value"
)

// Page is a surface with an address of its own in the app's menu.
type Page struct {
	Key   string `json:"key"`
	Label string `json:"label"`
	Note  string `json:"note,omitempty"`
	// Roles may open the page.
	Roles    []string     `json:"roles"`
	Searches []PageSearch `json:"searches"`
	Bands    []Band       `json:"bands"`
}

// PageSearch is a search whose list is known on the page by its key.
type PageSearch struct {
	Key    string     `json:"key"`
	Label  string     `json:"label"`
	Search act.Search `json:"search"`
}

// PageProgram is a checked page. It is safe for use by several goroutines.
type PageProgram struct {
	Def *Page
	// Scope is everything that is known on the page.
	Scope    expr.Scope
	surface  *Surface
	searches map[string]*act.SearchPlan
	// order has the keys of searches and parts, each after what it depends on.
	order []string
	needs map[string][]string
	// waits are those of the needs that must be known before.
	waits map[string][]string
	used  [][]string
}

// What a table gives out: the rows chosen in it, those that match as it is looked at, those
// changed and not saved, and the words and the order it is looked at with.
const (
	Selected = "selected"
	Matching = "matching"
	Edited   = "edited"
	Words    = "words"
	Ordered  = "order"
)

// CompilePage checks a page. The program can be shown unless a finding is a stop.
func CompilePage(base expr.Scope, roles []string, def *Page) (*PageProgram, *definition.Check) {
	p := &PageProgram{Def: def, searches: map[string]*act.SearchPlan{}, needs: map[string][]string{},
		waits: map[string][]string{}}
	c := &compiler{Check: definition.NewCheck(definition.Name(definition.Page, def.Key)), scope: base}
	p.checkRoles(c, roles)
	names := c.pageNames(def)
	p.Scope = base
	for _, n := range names {
		p.Scope = p.Scope.With(n)
	}
	c.scope = p.Scope
	p.surface = Compile(c.Check, p.Scope, def.Bands, "")
	p.used = append(p.used, p.surface.Uses...)
	for i := range def.Searches {
		s := &def.Searches[i]
		plan := act.CompileSearch(act.Place{Scope: p.Scope, Check: c.Check}, &s.Search,
			fmt.Sprintf("/searches/%d/search", i))
		if plan != nil {
			p.searches[s.Key] = plan
			p.used = append(p.used, plan.Where.Uses...)
			p.need(s.Key, plan.Where.Uses)
		}
	}
	for key, part := range p.surface.parts {
		if p.searches[key] == nil {
			p.need(key, part.uses)
		}
	}
	p.sort(c)
	definition.Sort(c.Findings())
	return p, c.Check
}

func (p *PageProgram) checkRoles(c *compiler, roles []string) {
	if problem := model.KeyProblem(p.Def.Key); problem != "" {
		c.Find(definition.Stop, "/key", problem, "The page could not be opened.", nil)
	}
	if len(p.Def.Roles) == 0 {
		c.Find(definition.Care, "/roles", "no role may open this page", "Nobody would find it in Use.", nil)
	}
	c.Roles(roles, p.Def.Roles, "/roles", "The people meant could not open it.", false)
}

// pageNames works out what inputs, searches and tables give. The object of a table is
// that of the list it shows, which may come from another table.
func (c *compiler) pageNames(def *Page) []expr.Name {
	scope := c.scope
	taken := map[string]bool{}
	var names []expr.Name
	know := func(n expr.Name, at string) {
		n.Of = model.Referent{Document: c.Document, At: at}
		taken[n.Key] = true
		scope, names = scope.With(n), append(names, n)
	}
	for i, s := range def.Searches {
		at := fmt.Sprintf("/searches/%d/key", i)
		_, known := c.scope.Find(s.Key)
		switch problem := model.KeyProblem(s.Key); {
		case problem != "":
			c.Find(definition.Stop, at, problem, "Nothing could show what it finds.", nil)
		case taken[s.Key] || known:
			c.Find(definition.Stop, at, fmt.Sprintf("the key %q is taken", s.Key),
				"What one search finds would be taken for the other's.", nil)
		default:
			know(expr.Name{Key: s.Key, Label: s.Label, Type: expr.Type{Kind: value.KindList, Object: s.Search.Object}},
				strings.TrimSuffix(at, "/key"))
		}
	}
	type placed struct {
		*Part
		at string
	}
	var tables []placed
	for part, at := range Parts(def.Bands) {
		_, known := c.scope.Find(part.Key)
		switch {
		case taken[part.Key] || known:
			c.Find(definition.Stop, at+"/key", fmt.Sprintf("the key %q is taken", part.Key),
				"What the part gives out would be taken for something else.", nil)
		case part.Kind == InputPart && part.Input != nil:
			know(expr.Name{Key: part.Key, Label: part.Label, Type: expr.OfField(part.Field())}, at)
		case part.Kind == TablePart && part.Table != nil:
			tables = append(tables, placed{part, at})
		}
	}
	for progress := true; progress; {
		progress = false
		for _, part := range tables {
			if taken[part.Key] {
				continue
			}
			source, err := expr.CompileAs(scope, part.Table.Source, expr.Type{Kind: value.KindList})
			if err != nil {
				continue
			}
			progress = true
			know(expr.Name{Key: part.Key, Label: part.Label,
				Type: expr.Type{Kind: value.KindScreen, Answers: tableGives(part.Table, source.Type.Object)}}, part.at)
		}
	}
	return names
}

// tableGives is what a table on a page gives out.
func tableGives(t *Table, object string) []expr.Name {
	list := expr.Type{Kind: value.KindList, Object: object}
	var out []expr.Name
	switch t.Select {
	case SelectOne:
		out = append(out, expr.Name{Key: Selected, Label: "the row chosen",
			Type: expr.Type{Kind: value.KindRecord, Object: object, Empty: true}})
	case SelectSeveral:
		out = append(out, expr.Name{Key: Selected, Label: "the rows chosen", Type: list})
	}
	out = append(out, expr.Name{Key: Matching, Label: "the rows that match", Type: list})
	if t.Edit {
		out = append(out, expr.Name{Key: Edited, Label: "the rows changed and not saved", Type: list})
	}
	text := expr.Type{Kind: value.KindText, Empty: true}
	return append(out, expr.Name{Key: Words, Label: "what is searched for", Type: text},
		expr.Name{Key: Ordered, Label: "how it is ordered", Type: text})
}

// need notes what something depends on. What a person typed or pressed at a table is known
// without the table, so that two tables can follow each other's words without a circle.
func (p *PageProgram) need(key string, uses [][]string) {
	for _, u := range uses {
		if !slices.Contains(p.needs[key], u[0]) {
			p.needs[key] = append(p.needs[key], u[0])
		}
		given := len(u) > 1 && p.isTable(u[0]) && (u[1] == Words || u[1] == Ordered)
		if !given && !slices.Contains(p.waits[key], u[0]) {
			p.waits[key] = append(p.waits[key], u[0])
		}
	}
}

func (p *PageProgram) isTable(key string) bool {
	part := p.surface.parts[key]
	return part != nil && part.Kind == TablePart
}

// sort puts what is on the page in the order of its dependencies and finds circles.
func (p *PageProgram) sort(c *compiler) {
	var keys []string
	pointers := map[string]string{}
	for i, s := range p.Def.Searches {
		keys = append(keys, s.Key)
		pointers[s.Key] = fmt.Sprintf("/searches/%d", i)
	}
	for part, at := range Parts(p.Def.Bands) {
		if pointers[part.Key] == "" {
			keys = append(keys, part.Key)
			pointers[part.Key] = at
		}
	}
	done := map[string]bool{}
	var way []string
	var visit func(key string) bool
	visit = func(key string) bool {
		if i := slices.Index(way, key); i >= 0 {
			var labels []string
			for _, k := range append(slices.Clone(way[i:]), key) {
				labels = append(labels, p.label(k))
			}
			c.Find(definition.Stop, pointers[key], "this goes round in a circle: "+strings.Join(labels, " → "),
				"Each would wait for the other and nothing would be shown.", nil)
			return false
		}
		if done[key] || pointers[key] == "" {
			return true
		}
		way = append(way, key)
		for _, n := range p.waits[key] {
			if !visit(n) {
				return false
			}
		}
		way = way[:len(way)-1]
		done[key] = true
		p.order = append(p.order, key)
		return true
	}
	for _, key := range keys {
		if !visit(key) {
			return
		}
	}
}

// Needs are the keys of what each search and part of the page depends on directly.
func (p *PageProgram) Needs() map[string][]string { return p.needs }

func (p *PageProgram) label(key string) string {
	if n, ok := p.Scope.Find(key); ok && n.Label != "" {
		return n.Label
	}
	return key
}

// Given is what a person has done on a page so far: what was entered and chosen, how
// tables are looked at, both by part.
type Given struct {
	Answers Answers         `json:"answers,omitempty"`
	Looks   map[string]Look `json:"looks,omitempty"`
	// Edited are the keys of rows that were changed and not saved.
	Edited map[string][]int64 `json:"edited,omitempty"`
}

// Show computes what a person sees. When changed names parts, only those that depend on
// them are shown anew; the others are marked as the same.
func (p *PageProgram) Show(ctx context.Context, r records.Reader, g Given, changed []string) ([]BandView, error) {
	values, err := p.values(ctx, r, g)
	if err != nil {
		return nil, err
	}
	var anew map[string]bool
	if len(changed) > 0 {
		anew = p.affected(changed)
	}
	return p.surface.show(ctx, r, values, g, anew)
}

// affected are the parts and searches that depend on what changed, directly or not.
func (p *PageProgram) affected(changed []string) map[string]bool {
	out := map[string]bool{}
	for _, key := range p.order {
		out[key] = slices.ContainsFunc(p.needs[key], func(n string) bool { return slices.Contains(changed, n) }) ||
			slices.ContainsFunc(p.waits[key], func(n string) bool { return out[n] })
	}
	return out
}

// values makes the known values of the page. What a person gave that does not hold, or no
// longer, is empty.
func (p *PageProgram) values(ctx context.Context, r records.Reader, g Given) (expr.Values, error) {
	values := maps.Clone(r.Base())
	for key, part := range p.surface.parts {
		if part.Kind == TablePart {
			values[key] = part.lookedAt(r, g.Looks[key])
		}
	}
	for _, key := range p.order {
		if s := p.searches[key]; s != nil {
			list, err := s.Bind(ctx, r, values, records.FieldsUsed(p.Scope.Model, s.Def.Object, []string{key}, p.used))
			if err != nil {
				return nil, fmt.Errorf("searching for %q: %w", p.label(key), err)
			}
			values[key] = list
			continue
		}
		part := p.surface.parts[key]
		if part == nil {
			continue
		}
		if kind := kindOf(part.Kind); kind != nil && kind.known != nil {
			if err := kind.known(ctx, p, part, r, values, g); err != nil {
				return nil, err
			}
		}
	}
	return values, nil
}

// matching is the list as somebody looks at it. It is only bound: nothing is read until
// something asks for it.
func (p *PageProgram) matching(ctx context.Context, r records.Reader, values expr.Values, part *part, look Look,
	into *value.Record) error {
	if part.source == nil || !p.uses(part.Key, Matching) {
		return nil
	}
	l, err := part.listing(ctx, r, values)
	if err != nil {
		return err
	}
	look, _ = l.Fit(r, look)
	q, err := l.Of(r, Chosen{All: &look})
	q.Columns = records.FieldsUsed(p.Scope.Model, part.object, []string{part.Key, Matching}, p.used)
	into.Fields[Matching] = &value.List{Object: part.object, Source: &records.Listed{Context: ctx, Reader: r, Query: q}}
	return err
}

// Looked are the tables of which something depends on how they are looked at, or on what
// is being changed in them.
func (p *PageProgram) Looked() []string {
	out := []string{}
	for part := range Parts(p.Def.Bands) {
		if slices.ContainsFunc([]string{Matching, Edited, Words, Ordered},
			func(v string) bool { return p.uses(part.Key, v) }) {
			out = append(out, part.Key)
		}
	}
	return out
}

// uses says whether anything on the page takes a value from a table.
func (p *PageProgram) uses(table, value string) bool {
	return slices.ContainsFunc(p.used, func(u []string) bool { return len(u) > 1 && u[0] == table && u[1] == value })
}

func (p *PageProgram) selection(ctx context.Context, r records.Reader, values expr.Values, part *part,
	raw json.RawMessage, into *value.Record) error {
	c, err := parseChosen(raw)
	if err != nil || part.source == nil {
		return nil //nolint:nilerr // what cannot be read was not chosen
	}
	if most := part.Table.Most; most > 0 && len(c.Keys) > most {
		return wrongLook("At most %d rows can be chosen in %s; %d are.", most, part.Label, len(c.Keys))
	}
	uses := records.FieldsUsed(p.Scope.Model, part.object, []string{part.Key, Selected}, p.used)
	if c.All != nil && part.Table.Select == SelectSeveral { // they are not read, but searched for when something asks
		l, err := part.listing(ctx, r, values)
		if err != nil {
			return err
		}
		q, err := l.Of(r, c)
		q.Columns = uses
		into.Fields[Selected] = &value.List{Object: part.object, Source: &records.Listed{Context: ctx, Reader: r,
			Query: q}}
		return err
	}
	var records []*value.Record
	if len(c.Keys) > 0 {
		if records, err = part.chosen(ctx, r, values, c, uses); err != nil {
			return err
		}
	}
	switch {
	case part.Table.Select == SelectSeveral:
		into.Fields[Selected] = &value.List{Object: part.object, Source: value.Records(records)}
	case part.Table.Select == SelectOne && len(records) > 0:
		into.Fields[Selected] = records[0]
	}
	return nil
}

// edited is the rows being changed, as they are stored.
func (p *PageProgram) edited(ctx context.Context, r records.Reader, values expr.Values, part *part, keys []int64,
	into *value.Record) error {
	if part.source == nil || !p.uses(part.Key, Edited) {
		return nil
	}
	if len(keys) == 0 {
		into.Fields[Edited] = &value.List{Object: part.object, Source: value.Records(nil)}
		return nil
	}
	keys = keys[:min(len(keys), mostChosen)]
	records, err := part.chosen(ctx, r, values, Chosen{Keys: keys}, records.FieldsUsed(p.Scope.Model, part.object,
		[]string{part.Key, Edited}, p.used))
	into.Fields[Edited] = &value.List{Object: part.object, Source: value.Records(records)}
	return err
}

// lookedAt is what is known of a table from how it is looked at alone.
func (p *part) lookedAt(r records.Reader, look Look) *value.Record {
	out := &value.Record{Fields: map[string]value.Value{}}
	if words := strings.TrimSpace(look.Text); words != "" {
		out.Fields[Words] = value.Text(words)
	}
	var order []string
	for _, o := range look.Order {
		path, err := r.Model().Path(p.object, o.Path)
		if err != nil {
			continue
		}
		label := Heading(path)
		if o.Desc {
			label += " downwards"
		}
		order = append(order, label)
	}
	if len(order) > 0 {
		out.Fields[Ordered] = value.Text(strings.Join(order, ", "))
	}
	return out
}

// Listing is the list behind one of the tables.
func (p *PageProgram) Listing(ctx context.Context, r records.Reader, g Given, key string) (*Listing, error) {
	values, err := p.values(ctx, r, g)
	if err != nil {
		return nil, err
	}
	return p.surface.Listing(ctx, r, values, key)
}

// Options finds records for a reference input as the person types.
func (p *PageProgram) Options(ctx context.Context, r records.Reader, g Given, key, text string) ([]value.Ref, error) {
	values, err := p.values(ctx, r, g)
	if err != nil {
		return nil, err
	}
	return p.surface.Options(ctx, r, values, key, text)
}
