package surface

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"plainpath/core/definition"
	"plainpath/core/expr"
	"plainpath/core/model"
	"plainpath/core/predicate"
	"plainpath/core/search"
	"plainpath/core/value"
)

// Search finds records. What it finds is always a list.
type Search struct {
	Object string              `json:"object"`
	Where  predicate.Condition `json:"where"`
	Order  []Order             `json:"order,omitempty"`
	Limit  int                 `json:"limit,omitempty"`
}

// Order is one of the fields a search is ordered by.
type Order struct {
	Path string `json:"path"`
	Desc bool   `json:"desc,omitempty"`
}

// SearchPlan is a checked search.
type SearchPlan struct {
	Def   *Search
	Where *predicate.Checked
	order []search.Order
}

// CompileSearch checks a search of a step, or of a page when step is empty. The plan can
// be bound unless a finding is a stop; it is nil when there is no such object.
func CompileSearch(s expr.Scope, def *Search, document, step, at string) (*SearchPlan, []definition.Finding) {
	c := &compiler{scope: s, document: document, step: step}
	if s.Model.Object(def.Object) == nil {
		c.failed(UnknownObject(s.Model, def.Object), at+"/object", def.Object, "The search could not be done.")
		return nil, c.findings
	}
	p := &SearchPlan{Def: def}
	var problems []model.Problem
	p.Where, problems = predicate.Check(s, def.Object, def.Where, at+"/where")
	c.findings = append(c.findings, definition.FromProblems(document, step, "The search could not be done, so it would not be tried with fewer conditions either.", problems)...)
	for i, order := range def.Order {
		path, err := s.Model.Path(def.Object, order.Path)
		if err != nil {
			c.failed(err, fmt.Sprintf("%s/order/%d/path", at, i), order.Path, "The list would be in another order.")
			continue
		}
		p.order = append(p.order, search.Order{Path: path, Desc: order.Desc})
	}
	if def.Limit < 0 {
		c.find(definition.Stop, at+"/limit", "a limit cannot be less than nought", "The search could not be done.",
			&definition.Mend{Label: "Find all", Patch: []definition.Op{{Op: "remove", Path: at + "/limit"}}})
	}
	return p, c.findings
}

// UnknownObject says that there is no object by a key, and which is meant perhaps.
func UnknownObject(m *model.Model, key string) error {
	nearest := model.Nearest(key, m.Keys())
	e := &expr.Error{Text: fmt.Sprintf("there is no object %q", key), Name: key, Nearest: nearest, Instead: nearest}
	if nearest != "" {
		e.Text += fmt.Sprintf("; did you mean %q?", nearest)
	}
	return e
}

// Bind computes the values of the conditions. Columns are the fields read of records
// that expressions use.
func (p *SearchPlan) Bind(ctx context.Context, r Reader, values expr.Values, columns []model.Path) (*value.List, error) {
	where, err := p.Where.Bind(values)
	if err != nil {
		return nil, err
	}
	return &value.List{Object: p.Def.Object, Source: &Listed{Context: ctx, Reader: r,
		Query: search.Query{Object: p.Def.Object, Where: where, Order: p.order, Limit: p.Def.Limit, Columns: columns}}}, nil
}

// FieldsUsed are the fields of a known value, a record or a list by a path of names, that
// expressions take from it.
func FieldsUsed(m *model.Model, object string, prefix []string, used [][]string) []model.Path {
	var out []model.Path
	seen := map[string]bool{}
	for _, u := range used {
		rest, ok := below(u, prefix)
		if !ok || object == "" {
			continue
		}
		path, err := m.Path(object, rest)
		if err == nil && !seen[rest] {
			seen[rest] = true
			out = append(out, path)
		}
	}
	return out
}

// below is what follows a prefix in a use of names.
func below(use, prefix []string) (string, bool) {
	if len(use) <= len(prefix) || !slices.Equal(use[:len(prefix)], prefix) {
		return "", false
	}
	return strings.Join(use[len(prefix):], "."), true
}
