package act

import (
	"context"
	"errors"
	"fmt"
	"strings"

	"plainpath/core/definition"
	"plainpath/core/expr"
	"plainpath/core/model"
	"plainpath/core/predicate"
	"plainpath/core/query"
	"plainpath/core/records"
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
	basis
	Def   *Search
	Where *predicate.Checked
	order []query.Order
}

// CompileSearch checks a search of a step, or of a page when the place has no step. The plan can
// be bound unless a finding is a stop; it is nil when there is no such object.
func CompileSearch(p Environment, def *Search, at string) *SearchPlan {
	return (&check{Environment: p, Check: p.Check}).search(def, at)
}

func checkSearch(c *check, a *Act, at string) Plan {
	if !given(c, a, a.Search, at) {
		return nil
	}
	if p := c.search(a.Search, at+"/search"); p != nil {
		return p
	}
	return nil
}

func (c *check) search(def *Search, at string) *SearchPlan {
	if c.Object(c.Scope.Model, def.Object, at+"/object", "The search could not be done.") == nil {
		return nil
	}
	p := &SearchPlan{Def: def}
	p.Where, _ = c.Check.Where(c.Scope, def.Object, def.Where, at+"/where",
		"The search could not be done, so it would not be tried with fewer conditions either.")
	p.basis = basis{uses: p.Where.Uses, gives: &expr.Type{Kind: value.KindList, Object: def.Object}}
	for i, order := range def.Order {
		if path, ok := c.Path(c.Scope.Model, def.Object, order.Path, fmt.Sprintf("%s/order/%d/path", at, i),
			"The list would be in another order."); ok {
			p.order = append(p.order, query.Order{Path: path, Desc: order.Desc})
		}
	}
	if def.Limit < 0 {
		c.Find(definition.Stop, at+"/limit", "a limit cannot be less than nought", "The search could not be done.",
			&definition.Mend{Label: "Find all", Patch: []definition.Op{{Op: "remove", Path: at + "/limit"}}})
	}
	return p
}

// Bind computes the values of the conditions. Columns are the fields read of records
// that expressions use.
func (p *SearchPlan) Bind(ctx context.Context, r records.Reader, values expr.Values,
	columns []model.Path) (*value.List, error) {
	where, err := p.Where.Bind(values)
	var why value.Failure
	if errors.As(err, &why) {
		return nil, &RefusedError{Err: err,
			Text: fmt.Sprintf("The %s could not be searched for: what they are searched by is %s",
				strings.ToLower(r.Model().Object(p.Def.Object).Plural), why.Why)}
	}
	if err != nil {
		return nil, err
	}
	return &value.List{Object: p.Def.Object, Source: &records.Listed{Context: ctx, Reader: r,
			Query: query.Query{Object: p.Def.Object, Where: where, Order: p.order, Limit: p.Def.Limit,
				Columns: columns}}},
		nil
}

// Do binds the search, which runs when something asks for its records; for figures it runs at once.
func (p *SearchPlan) Do(ctx context.Context, u records.Writer, in In) (Done, error) {
	list, err := p.Bind(ctx, u, in.Values, in.Columns)
	if err != nil {
		return Done{}, err
	}
	out := Done{Value: list}
	if in.Figures {
		out.Report, err = p.Report(ctx, u, in.Values, list)
	}
	return out, err
}

// Report says how many records there are, and how many of them the search found with the values given.
func (p *SearchPlan) Report(ctx context.Context, r records.Reader, values expr.Values,
	found *value.List) (Report, error) {
	out := Report{Object: p.Def.Object, Values: Shown(values, p.Where.Uses)}
	var err error
	if out.Looked, err = records.Count(ctx, r, query.Query{Object: p.Def.Object}); err != nil {
		return out, fmt.Errorf("counting the %s there are: %w", p.Def.Object, err)
	}
	out.Found, err = found.Source.Count()
	return out, err
}

// Restore binds the search as it was.
func (p *SearchPlan) Restore(ctx context.Context, u records.Writer, in In, _ Kept) (value.Value, error) {
	return p.Bind(ctx, u, in.Values, in.Columns)
}
