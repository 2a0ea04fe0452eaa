package act

import (
	"context"
	"fmt"
	"strings"

	"plainpath/core/definition"
	"plainpath/core/expr"
	"plainpath/core/model"
	"plainpath/core/records"
	"plainpath/core/value"
)

// Notify tells people something in the program: those of roles, and those that an expression gives.
type Notify struct {
	Roles []string `json:"roles,omitempty"`
	// People is an expression that gives a person or a list of them.
	People string `json:"people,omitempty"`
	// Text has values in braces.
	Text string `json:"text"`
	// Record is an expression that gives the record which it leads to.
	Record string `json:"record,omitempty"`
}

type notifyPlan struct {
	basis
	*Notify
	text           *expr.Template
	people, record *expr.Program
}

func checkNotify(c *check, a *Act, at string) Plan {
	if !given(c, a, a.Notify, at) {
		return nil
	}
	at += "/notify"
	p := &notifyPlan{Notify: a.Notify}
	const consequence = "Nobody would be told."
	if len(p.Roles) == 0 && p.Notify.People == "" {
		c.Find(definition.Stop, at+"/people", "nothing says who is told", consequence, nil)
		return nil
	}
	if p.Notify.Text == "" {
		c.Find(definition.Stop, at+"/text", "nothing is said", "People would be told nothing.", nil)
		return nil
	}
	if p.text = c.Text(c.Scope, p.Notify.Text, at+"/text", consequence); p.text == nil {
		return nil
	}
	p.uses = p.text.Uses
	if p.Notify.People != "" {
		p.people = c.RecordOrList(c.Scope, true, p.Notify.People, at+"/people", consequence)
		if p.people == nil {
			return nil
		}
		if p.people.Type.Object != model.PersonObject {
			c.Find(definition.Stop, at+"/people", fmt.Sprintf("%q gives no people", p.Notify.People), consequence, nil)
			return nil
		}
		p.uses = append(p.uses, p.people.Uses...)
	}
	if p.Notify.Record != "" {
		p.record = c.RecordOrList(c.Scope, false, p.Notify.Record, at+"/record", "It would lead nowhere.")
		if p.record == nil {
			return nil
		}
		p.uses = append(p.uses, p.record.Uses...)
	}
	return p
}

// Do tells it to those who are meant.
func (p *notifyPlan) Do(ctx context.Context, u records.Writer, in In) (Done, error) {
	n := records.Notice{Roles: p.Roles}
	var err error
	if n.Text, err = p.text.Render(in.Values); err != nil {
		return Done{}, err
	}
	if n.People, err = p.meant(ctx, u, in.Values); err != nil {
		return Done{}, err
	}
	if p.record != nil {
		v, err := p.record.Eval(in.Values)
		if err != nil {
			return Done{}, err
		}
		if rec, ok := v.(*value.Record); ok && rec != nil {
			n.Object, n.Record = p.record.Type.Object, rec.ID
		}
	}
	told, err := u.Tell(ctx, n)
	return Done{Report: Report{Note: toldWords(told), Values: []NamedValue{{"It says", n.Text.String()}}}}, err
}

// meant are the people that the expression gives.
func (p *notifyPlan) meant(ctx context.Context, u records.Writer, values expr.Values) ([]int64, error) {
	if p.people == nil {
		return nil, nil
	}
	v, err := found(p.people, values)
	if err != nil {
		return nil, err
	}
	switch x := v.(type) {
	case *value.Record:
		if x != nil {
			return []int64{x.ID}, nil
		}
	case *value.List:
		q, err := records.QueryOf(x)
		if err != nil {
			return nil, err
		}
		return records.Keys(ctx, u, q)
	}
	return nil, nil
}

// toldWords says who is told; of many the first.
func toldWords(names []string) string {
	const most = 5
	switch n := len(names); {
	case n == 0:
		return "nobody is told"
	case n > most:
		return fmt.Sprintf("told to %d people: %s and others", n, strings.Join(names[:most], ", "))
	default:
		return "told to " + strings.Join(names, ", ")
	}
}
