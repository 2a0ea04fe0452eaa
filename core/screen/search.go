package screen

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"time"

	"plainpath/core/act"
	"plainpath/core/definition"
	"plainpath/core/expr"
	"plainpath/core/model"
	"plainpath/core/records"
	"plainpath/core/value"
)

// Search is a search whose list is known on the page or screen by its key.
type Search struct {
	Key    string     `json:"key"`
	Label  string     `json:"label"`
	Search act.Search `json:"search"`
	// OnDemand says that it is not made before something reads it again.
	OnDemand bool `json:"on_demand,omitempty"`
}

// Searches are what acts may name of searches, whose pointers are below the given one.
func Searches(document string, defs []Search, pointer string) []act.Part {
	var out []act.Part
	for i := range defs {
		n := defs[i].name(document, fmt.Sprintf("%s/%d", pointer, i))
		n.Type = expr.Type{} // for it is no input
		out = append(out, act.Part{Name: n})
	}
	return out
}

// name is what is known of what a search finds.
func (s *Search) name(document, at string) expr.Name {
	return expr.Name{Key: s.Key, Label: s.Label, Type: expr.Type{Kind: value.KindList, Object: s.Search.Object},
		Of: model.Referent{Document: document, At: at}}
}

// searched is a checked search of a screen; its plan is nil where it cannot be made.
type searched struct {
	expr.Name
	onDemand bool
	plan     *act.SearchPlan
}

// search checks the searches of a screen, in a scope in which what is given on it is known by the key of the screen.
func (s *Surface) search(c *definition.Check, scope expr.Scope, defs []Search, pointer string) {
	s.searches = map[string]*searched{}
	var keys []string
	for i := range defs {
		def, at := &defs[i], fmt.Sprintf("%s/%d", pointer, i)
		problem := model.KeyProblem(def.Key)
		if problem == "" && (s.parts[def.Key] != nil || s.searches[def.Key] != nil) {
			problem = fmt.Sprintf("the key %q is taken", def.Key)
		}
		if problem != "" {
			c.Find(definition.Stop, at+"/key", problem, "What it finds would be taken for something else.", nil)
			continue
		}
		plan := act.CompileSearch(act.Environment{Scope: scope, Check: c}, &def.Search, at+"/search")
		s.searches[def.Key] = &searched{def.name(c.Document, at), def.OnDemand, plan}
		if keys = append(keys, def.Key); plan != nil {
			s.Uses = append(s.Uses, plan.Where.Uses...)
		}
	}
	s.order = append(keys, s.order...)
}

// Searches are what the searches of a screen find, by their keys.
func (s *Surface) Searches() []expr.Name {
	var out []expr.Name
	for _, key := range s.order {
		if found := s.searches[key]; found != nil {
			out = append(out, found.Name)
		}
	}
	return out
}

// Reports say what the searches of a screen found, once what is given on it has been looked at (Look), those left out
// that were not made.
func (s *Surface) Reports(ctx context.Context, r records.Reader, values expr.Values, absent Some) ([]act.Entry, error) {
	given, _ := values[s.own].(*value.Record)
	if given == nil {
		return nil, nil
	}
	var out []act.Entry
	for _, name := range s.Searches() {
		list, _ := given.Fields[name.Key].(*value.List)
		if list == nil || s.searches[name.Key].plan == nil || s.missing(name.Key, &absent) {
			continue
		}
		start := time.Now()
		report, err := s.searches[name.Key].plan.Report(ctx, r, values, list)
		if err != nil {
			return nil, fmt.Errorf("what %q found: %w", name.Label, err)
		}
		out = append(out, act.Entry{Step: s.own, Kind: act.SearchAct, Title: cmp.Or(name.Label, name.Key),
			Report: report, Micros: time.Since(start).Microseconds()})
	}
	return out, nil
}

// find is the list that a search of a screen finds. It is empty, and noted as absent, where the search waits to be
// asked for, takes something of one that is absent, or is refused.
func (s *Surface) find(ctx context.Context, r records.Reader, values expr.Values, key string, answers Answers,
	columns []model.Path, absent *Some) (*value.List, error) {
	search := s.searches[key]
	none := &value.List{Object: search.Type.Object, Source: value.Records(nil)}
	_, asked := answers[key]
	if search.onDemand && !asked {
		absent.Waiting[key] = Waiting{key}
	}
	if s.missing(key, absent) || search.plan == nil {
		return none, nil
	}
	list, err := search.plan.Bind(ctx, r, values, columns)
	var why *act.RefusedError
	switch {
	case errors.As(err, &why):
		absent.Refused[key] = why.Text
		return none, nil
	case err != nil:
		return nil, fmt.Errorf("searching for %q: %w", search.Label, err)
	}
	return list, nil
}

// missing notes that something is absent which takes something of what is.
func (s *Surface) missing(key string, absent *Some) bool {
	for _, n := range s.needs[key] {
		if w, waits := absent.Waiting[n]; waits {
			absent.Waiting[key] = w
		}
		if why, refused := absent.Refused[n]; refused {
			absent.Refused[key] = why
		}
	}
	_, waits := absent.Waiting[key]
	_, refused := absent.Refused[key]
	return waits || refused
}
