// Package page is a surface with an address of its own: searches and parts that feed each other, all in one
// scope. [Compile] puts them in the order of what depends on what; the [Program] computes what a person sees,
// and after a change just what depends on it.
package page

import (
	"fmt"
	"slices"
	"strings"

	"plainpath/core/act"
	"plainpath/core/definition"
	"plainpath/core/expr"
	"plainpath/core/model"
	"plainpath/core/screen"
	"plainpath/core/value"
)

// Page is a surface with an address of its own in the app's menu.
type Page struct {
	Key   string `json:"key"`
	Label string `json:"label"`
	Note  string `json:"note,omitempty"`
	// Roles may open the page.
	Roles []string `json:"roles"`
	// Home are the roles for whom it is the first page in Use.
	Home []string `json:"home,omitempty"`
	// Record says that the page is how records are seen; it is opened with one.
	Record *OfRecord `json:"record,omitempty"`
	// Takes are values that whatever opens the page hands over.
	Takes    []screen.Take   `json:"takes,omitempty"`
	Searches []screen.Search `json:"searches"`
	Bands    []screen.Band   `json:"bands"`
	// Reactions are what is done when something happens on the page.
	Reactions []screen.Reaction `json:"reactions,omitempty"`
}

// DocumentKey is the key that the document gives itself.
func (p *Page) DocumentKey() string { return p.Key }

// Needs says whether the page cannot be opened by itself, for something has to be handed over.
func (p *Page) Needs() bool {
	return slices.ContainsFunc(p.Handed(), func(t screen.Take) bool { return t.Required })
}

// Program is a checked page. It is safe for use by several goroutines.
type Program struct {
	Def *Page
	// Scope is everything that is known on the page.
	Scope    expr.Scope
	surface  *screen.Surface
	searches map[string]*act.SearchPlan
	// order has the keys of searches and parts, each after what it depends on.
	order []string
	needs map[string][]string
	wires []Wire
	// waits are those of the needs that must be known before.
	waits map[string][]string
	used  screen.Used
	// when says which records a page of records is of, nil for all.
	when *expr.Program
}

// Compile checks a page. The program can be shown unless a finding is a stop.
func Compile(base expr.Scope, roles []string, def *Page) (*Program, *definition.Check) {
	p := &Program{Def: def, searches: map[string]*act.SearchPlan{}, needs: map[string][]string{},
		waits: map[string][]string{}}
	c := definition.NewCheck(definition.Name(definition.Page, def.Key))
	p.checkRoles(c, roles)
	for i, t := range def.Takes {
		if t.Several {
			at := fmt.Sprintf("/takes/%d/several", i)
			c.Find(definition.Stop, at, "a page is handed one record at a time, for it has an address",
				"It could not be opened.",
				&definition.Mend{Label: "Take one", Patch: []definition.Op{{Op: "remove", Path: at}}})
		}
	}
	base = p.ofRecord(c, base)
	for _, n := range screen.CheckTakes(c, base, def.Takes) {
		base = base.With(n)
	}
	names := known(c, base, def)
	p.Scope = base
	for _, n := range names {
		p.Scope = p.Scope.With(n)
	}
	p.used.Model = base.Model
	p.surface = screen.Compile(c, p.Scope, def.Bands, "", screen.Searches(c.Document, def.Searches, "/searches")...)
	p.used.Paths = append(p.used.Paths, p.surface.Uses...)
	for i := range def.Searches {
		s := &def.Searches[i]
		plan := act.CompileSearch(act.Environment{Scope: p.Scope, Check: c}, &s.Search,
			fmt.Sprintf("/searches/%d/search", i))
		if plan != nil {
			p.searches[s.Key] = plan
			p.used.Paths = append(p.used.Paths, plan.Where.Uses...)
			p.need(s.Key, plan.Where.Uses)
		}
	}
	for key, uses := range p.surface.UsesOf() {
		if p.searches[key] == nil {
			p.need(key, uses)
		}
	}
	p.surface.CheckReactions(c, p.Scope, def.Reactions, "/reactions")
	p.used.Paths = append(p.used.Paths, p.surface.ReactionUses...)
	p.sort(c)
	definition.Sort(c.Findings())
	return p, c
}

func (p *Program) checkRoles(c *definition.Check, roles []string) {
	if problem := model.KeyProblem(p.Def.Key); problem != "" {
		c.Find(definition.Stop, "/key", problem, "The page could not be opened.", nil)
	}
	if len(p.Def.Roles) == 0 {
		c.Find(definition.Care, "/roles", "no role may open this page", "Nobody would find it in Use.", nil)
	}
	c.Roles(roles, p.Def.Roles, "/roles", "The people meant could not open it.", false)
	c.Roles(roles, p.Def.Home, "/home", "The people meant would not begin with it.", false)
	if len(p.Def.Home) > 0 && p.Def.Needs() {
		c.Find(definition.Stop, "/home", "somebody who begins with a page hands it nothing", "It could not be opened.",
			&definition.Mend{Label: "Let nobody begin with it", Patch: []definition.Op{{Op: "remove", Path: "/home"}}})
	}
	for i, role := range p.Def.Home {
		if slices.Contains(roles, role) && !slices.Contains(p.Def.Roles, role) {
			c.Find(definition.Care, fmt.Sprintf("/home/%d", i), "the page is the first one of people who may not open it",
				"They would begin with the list of what there is.", &definition.Mend{Label: "Let them open it",
					Patch: []definition.Op{{Op: "add", Path: "/roles/-", Value: fmt.Appendf(nil, "%q", role)}}})
		}
	}
}

// known works out what inputs, searches and tables give. The object of a table is
// that of the list it shows, which may come from another table.
func known(c *definition.Check, base expr.Scope, def *Page) []expr.Name {
	scope := base
	taken := map[string]bool{}
	var names []expr.Name
	know := func(n expr.Name, at string) {
		n.Of = model.Referent{Document: c.Document, At: at}
		taken[n.Key] = true
		scope, names = scope.With(n), append(names, n)
	}
	for i, s := range def.Searches {
		at := fmt.Sprintf("/searches/%d/key", i)
		_, known := base.Find(s.Key)
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
		*screen.Part
		at, source string
	}
	var fedBy []placed
	for part, at := range screen.Parts(def.Bands) {
		_, known := base.Find(part.Key)
		source, fed := part.Fed()
		switch {
		case taken[part.Key] || known:
			c.Find(definition.Stop, at+"/key", fmt.Sprintf("the key %q is taken", part.Key),
				"What the part gives out would be taken for something else.", nil)
		case part.Kind == screen.InputPart && part.Input != nil:
			know(expr.Name{Key: part.Key, Label: part.Label, Type: part.Gives()}, at)
		case part.Kind == screen.EntriesPart:
			c.Find(definition.Stop, at+"/kind", "rows are typed in on a screen of a walkthrough alone",
				"What is typed would go nowhere.", nil)
		case fed:
			if part.Table != nil && len(part.Table.Ask) > 0 {
				c.Find(definition.Stop, at+"/table/ask", "only a table on a screen of a walkthrough asks in its rows",
					"What is given would go nowhere.", &definition.Mend{Label: "Do not ask",
						Patch: []definition.Op{{Op: "remove", Path: at + "/table/ask"}}})
			}
			fedBy = append(fedBy, placed{part, at, source})
		}
	}
	for progress := true; progress; {
		progress = false
		for _, part := range fedBy {
			if taken[part.Key] {
				continue
			}
			source, err := expr.CompileAs(scope, part.source, expr.Type{Kind: value.KindList})
			if err != nil {
				continue
			}
			progress = true
			know(expr.Name{Key: part.Key, Label: part.Label,
				Type: expr.Type{Kind: value.KindScreen, Answers: part.GivesOf(source.Type.Object)}},
				part.at)
		}
	}
	return names
}
