package screen

import (
	"cmp"
	"context"
	"fmt"
	"slices"

	"plainpath/core/definition"
	"plainpath/core/expr"
	"plainpath/core/model"
	"plainpath/core/records"
	"plainpath/core/table"
	"plainpath/core/value"
)

// CompileScreen checks the searches and parts of a screen of a walkthrough. They may take what is found and given in
// each other, as <key of the screen>.<key of the part>, so that one follows another while somebody fills the screen in.
// So may what is done when something happens there.
func CompileScreen(check *definition.Check, s expr.Scope, own expr.Name, searches []Search, bands []Band,
	reactions []Reaction, pointer string) *Surface {
	own.Type = expr.Type{Kind: value.KindScreen}
	own.Type.Answers = givenIn(check.Document, s, own, searches, bands, pointer)
	out := Compile(check, s.With(own), bands, pointer, Searches(check.Document, searches, pointer+"/searches")...)
	out.own = own.Key
	out.search(check, s.With(own), searches, pointer+"/searches")
	out.arrange(check)
	out.CheckReactions(check, s.With(own), reactions, pointer+"/reactions")
	return out
}

// givenIn is what the searches of a screen find and its parts give out, before they are checked. What a table shows may
// come from another part.
func givenIn(document string, s expr.Scope, own expr.Name, searches []Search, bands []Band,
	pointer string) []expr.Name {
	var out []expr.Name
	for i := range searches {
		out = append(out, searches[i].name(document, fmt.Sprintf("%s/searches/%d", pointer, i)))
	}
	know := func(p *Part, at string, t expr.Type) {
		t.Empty = t.Empty || p.OfferedWhen != ""
		out = append(out, expr.Name{Key: p.Key, Label: p.Label, Type: t,
			Of: model.Referent{Document: document, At: pointer + at}})
	}
	tables := map[string]*Part{}
	for p, at := range Parts(bands) {
		switch {
		case p.Kind == InputPart && p.Input != nil:
			know(p, at, p.Gives())
		case p.Kind == EntriesPart && p.Entries != nil:
			know(p, at, expr.Type{Kind: value.KindRows, Answers: table.CheckAsked(definition.NewCheck(document),
				p.Entries.Ask, nil, pointer+at+"/entries/ask")})
		case p.Kind == TablePart && p.Table != nil:
			tables[at] = p
		}
	}
	for progress := true; progress; {
		progress = false
		for p, at := range Parts(bands) {
			if tables[at] == nil {
				continue
			}
			own.Type.Answers = out
			source, err := expr.CompileAs(s.With(own), p.Table.Source, expr.Type{Kind: value.KindList})
			if err != nil {
				continue
			}
			delete(tables, at)
			progress = true
			if o := s.Model.Object(source.Type.Object); o != nil {
				if t, any := p.Table.GivesOf(document, pointer+at+"/table", o); any {
					know(p, at, t)
				}
			}
		}
	}
	return out
}

// arrange puts the parts in the order of what they take of each other, and finds circles.
func (s *Surface) arrange(c *definition.Check) {
	s.needs = map[string][]string{}
	for key, uses := range s.UsesOf() {
		s.need(key, uses)
	}
	for key, search := range s.searches {
		if search.plan != nil {
			s.need(key, search.plan.Where.Uses)
		}
	}
	order, circle := InOrder(s.order, s.needs)
	if circle == nil {
		s.order = order
		return
	}
	var labels []string
	for _, key := range circle {
		label, _ := s.named(key)
		labels = append(labels, label)
	}
	_, at := s.named(circle[0])
	c.Find(definition.Stop, at, Circle(labels), "Each would wait for the other and nothing would be shown.", nil)
	s.needs = map[string][]string{}
}

// need notes what a part or a search takes of others on the screen.
func (s *Surface) need(key string, uses [][]string) {
	for _, u := range uses {
		if u[0] == s.own && len(u) > 1 && (s.parts[u[1]] != nil || s.searches[u[1]] != nil) &&
			!slices.Contains(s.needs[key], u[1]) {
			s.needs[key] = append(s.needs[key], u[1])
		}
	}
}

// named is what people call a part or a search, and where it stands.
func (s *Surface) named(key string) (label, at string) {
	if found := s.searches[key]; found != nil {
		return cmp.Or(found.Label, key), found.Of.At
	}
	return s.parts[key].Title(), s.parts[key].at.At
}

// Feeds are the parts that others on the screen take something of.
func (s *Surface) Feeds() []string {
	var out []string
	for _, key := range s.order {
		if s.feeds(key) {
			out = append(out, key)
		}
	}
	return out
}

func (s *Surface) feeds(key string) bool {
	for _, needs := range s.needs {
		if slices.Contains(needs, key) {
			return true
		}
	}
	return false
}

// reactsTo says whether a reaction takes something of a part.
func (s *Surface) reactsTo(key string) bool {
	return slices.ContainsFunc(s.ReactionUses, func(u []string) bool {
		return len(u) > 1 && u[0] == s.own && u[1] == key
	})
}

// Following are the parts that follow what changed, directly or not.
func (s *Surface) Following(changed []string) map[string]bool {
	out := map[string]bool{}
	for _, key := range s.order {
		out[key] = slices.ContainsFunc(s.needs[key], func(n string) bool {
			return out[n] || slices.Contains(changed, n)
		})
	}
	return out
}

// Look makes known, by the key of the screen, what is found and given so far in the searches and parts that others take
// something of, and says which parts are not to be shown. What does not hold, or no longer, is empty.
func (s *Surface) Look(ctx context.Context, r records.Reader, values expr.Values, answers Answers,
	fields func(part string) []model.Path) (Some, error) {
	absent := Some{Waiting: map[string]Waiting{}, Refused: Refusals{}}
	if len(s.needs) == 0 && len(s.ReactionUses) == 0 {
		return absent, nil
	}
	given := &value.Record{Fields: map[string]value.Value{}}
	values[s.own] = given
	for _, key := range s.order {
		if s.searches[key] != nil {
			list, err := s.find(ctx, r, values, key, answers, fields(key), &absent)
			if err != nil {
				return absent, err
			}
			given.Fields[key] = list
			continue
		}
		name, gives := s.answer(key)
		if s.missing(key, &absent) {
			given.Fields[key] = nothing(name.Type)
			continue
		}
		if !gives || !s.feeds(key) && !s.reactsTo(key) {
			continue
		}
		p := s.parts[key]
		offered, err := p.isOffered(values)
		if err != nil {
			return absent, err
		}
		var v value.Value
		if offered {
			if v, err = s.soFar(ctx, r, values, p, name, answers, fields); err != nil {
				return absent, err
			}
		}
		if v == nil {
			v = nothing(name.Type)
		}
		given.Fields[key] = v
	}
	return absent, nil
}

// soFar is what is given in a part, nil for what does not hold.
func (s *Surface) soFar(ctx context.Context, r records.Reader, values expr.Values, p *part, name expr.Name,
	answers Answers, fields func(part string) []model.Path) (value.Value, error) {
	if in, ok := p.content.(*input); ok && answers[p.Key] == nil {
		return in.begin(values)
	}
	v, problem, err := p.content.(giver).take(ctx, r, values, taking{answers[p.Key], fields(fieldsOf(name)),
		(*table.Program).Accept, true})
	if problem != "" {
		v = nil
	}
	return v, err
}

// nothing is what is given where nothing is.
func nothing(t expr.Type) value.Value {
	switch t.Kind {
	case value.KindList:
		return &value.List{Object: t.Object, Source: value.Records(nil)}
	case value.KindRows:
		return value.Rows{}
	}
	return nil
}

// fieldsOf is the name under which the fields are asked for that are used later of what a part gives out.
func fieldsOf(n expr.Name) string {
	if n.Type.Kind == value.KindRows {
		return n.Key + "." + table.AnsweredRow
	}
	return n.Key
}

// answer is what a part gives out, false when it gives nothing.
func (s *Surface) answer(key string) (expr.Name, bool) {
	i := slices.IndexFunc(s.Answers, func(n expr.Name) bool { return n.Key == key })
	if i < 0 {
		return expr.Name{}, false
	}
	return s.Answers[i], true
}
