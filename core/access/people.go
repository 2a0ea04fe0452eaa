package access

import (
	"slices"

	"plainpath/core/expr"
	"plainpath/core/model"
	"plainpath/core/predicate"
	"plainpath/core/value"
)

// people are those whom somebody may see. A role that says nothing of people shows the company's
// own people everybody, and others those of their organisation and those whom records name that
// they may see.
func (p *Policy) people(m *model.Model, person Person, values expr.Values) (Grant, error) {
	g, err := p.ofRoles(person, model.PersonObject, values)
	if err != nil {
		return g, err
	}
	for i := range g.leaves { // people are added and changed as accounts, not as records
		g.leaves[i].Add, g.leaves[i].Change, g.leaves[i].Remove = false, false, false
	}
	silent := func(key string) bool { return p.roles[key] == nil || !p.roles[key].says(model.PersonObject) }
	if len(person.Roles) > 0 && !slices.ContainsFunc(person.Roles, silent) {
		return g, nil
	}
	rows := predicate.True
	if person.Organisation != nil {
		if rows, err = p.known(m, person, values); err != nil {
			return g, err
		}
	}
	g.leaves = append(g.leaves, leave{Right{See: true}, rows})
	return g, nil
}

// known are the people whom somebody from outside knows of.
func (p *Policy) known(m *model.Model, person Person, values expr.Values) (predicate.Predicate, error) {
	out := predicate.Any{predicate.Keys(append([]int64{person.ID}, person.Colleagues...))}
	for _, r := range m.ReferrersTo(model.PersonObject) {
		g, err := p.Grant(m, person, r.Object.Key, values)
		if err != nil {
			return nil, err
		}
		if g.MaySee() && g.SeesField(r.Field.Key) {
			out = append(out, predicate.HasRelated{Object: r.Object.Key, Label: r.Object.Label, Via: r.Field,
				Where: g.Rows()})
		}
	}
	return out, nil
}

// says tells whether a role says anything of an object.
func (r *checkedRole) says(object string) bool {
	_, ok := r.Objects[object]
	return ok
}

// ofPerson is a record of somebody, by their key.
func ofPerson(id int64) *value.Record { return &value.Record{Object: model.PersonObject, ID: id} }
