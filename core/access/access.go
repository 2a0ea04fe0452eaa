// Package access decides who may see and change what. It hands out grants; without
// one no search or write compiles.
package access

import (
	"fmt"
	"maps"
	"slices"
	"time"

	"plainpath/core/definition"
	"plainpath/core/expr"
	"plainpath/core/model"
	"plainpath/core/predicate"
	"plainpath/core/value"
)

// Role is what people with a certain task may do.
type Role struct {
	Key   string `json:"key"`
	Label string `json:"label"`
	// Objects gives rights by object key; what is not named is not allowed.
	Objects map[string]Right `json:"objects"`
}

// DocumentKey is the key that the document gives itself.
func (r *Role) DocumentKey() string { return r.Key }

// Right is what a role may do with the records of an object.
type Right struct {
	See    bool `json:"see,omitempty"`
	Add    bool `json:"add,omitempty"`
	Change bool `json:"change,omitempty"`
	Remove bool `json:"remove,omitempty"`
	// Rows is the row rule: the condition that records must satisfy to be this role's.
	Rows *predicate.Condition `json:"rows,omitempty"`
	// Fields are those the role may do less with than the record allows, by key.
	Fields map[string]FieldRight `json:"fields,omitempty"`
}

// FieldRight narrows what a role may do with one field.
type FieldRight struct {
	// Hidden fields are empty to the role; Fixed ones cannot be set or changed by it.
	Hidden bool `json:"hidden,omitempty"`
	Fixed  bool `json:"fixed,omitempty"`
}

// Person is somebody who signed in, or whom a builder rehearses as.
type Person struct {
	ID    int64    `json:"id"`
	Name  string   `json:"name"`
	Email string   `json:"email"`
	Roles []string `json:"roles"`
	// Organisation is the record the person belongs to, nil for the company's own people.
	Organisation *value.Record `json:"-"`
	// Colleagues are the keys of those who belong to the same organisation.
	Colleagues []int64 `json:"-"`
	// Zone is where they enter and see times, nil for that of the house.
	Zone *time.Location `json:"-"`
}

// PersonScope is what conditions may know of a person: "person.name" and
// "person.organisation", a record of the given object.
func PersonScope(m *model.Model, organisation string) expr.Scope {
	answers := []expr.Name{
		{Key: "name", Label: "Name", Type: expr.Type{Kind: value.KindText}},
		{Key: "email", Label: "E-mail", Type: expr.Type{Kind: value.KindText}},
		{Key: "roles", Label: "Roles", Type: expr.Type{Kind: value.KindSeveral}},
		{Key: "record", Label: "The person as a record",
			Type: expr.Type{Kind: value.KindRecord, Object: model.PersonObject}},
	}
	if organisation != "" {
		answers = append(answers, expr.Name{Key: "organisation", Label: "Organisation",
			Type: expr.Type{Kind: value.KindRecord, Object: organisation, Empty: true}})
	}
	return expr.Scope{Model: m, Names: []expr.Name{
		{Key: "person", Label: "The person", Type: expr.Type{Kind: value.KindScreen, Answers: answers}},
		{Key: "today", Label: "Today", Type: expr.Type{Kind: value.KindDate}},
		{Key: "now", Label: "Now", Type: expr.Type{Kind: value.KindInstant}},
	}}
}

// Value is the person as conditions see them.
func (p Person) Value() value.Value {
	fields := map[string]value.Value{"name": value.Text(p.Name), "email": value.Text(p.Email),
		"roles": value.NewSeveral(p.Roles...),
		"record": &value.Record{Object: model.PersonObject, ID: p.ID, Label: p.Name,
			Fields: map[string]value.Value{"name": value.Text(p.Name), "email": value.Text(p.Email)}}}
	if p.Organisation != nil {
		fields["organisation"] = p.Organisation
	}
	return &value.Record{Fields: fields}
}

// Policy is the roles of an app, checked. It is safe for use by several goroutines.
type Policy struct {
	roles map[string]*checkedRole
}

type checkedRole struct {
	Role
	rows map[string]*predicate.Checked
}

// Compile checks the roles of an app.
func Compile(m *model.Model, organisation string, roles []Role) (*Policy, *definition.Check) {
	p := &Policy{roles: map[string]*checkedRole{}}
	check := definition.NewCheck("")
	scope := PersonScope(m, organisation)
	for _, r := range roles {
		k := check.For(definition.Name(definition.Role, r.Key))
		c := &checkedRole{Role: r, rows: map[string]*predicate.Checked{}}
		for _, object := range slices.Sorted(maps.Keys(r.Objects)) {
			if rows := checkRight(k, m, scope, object, r.Objects[object]); rows != nil {
				c.rows[object] = rows
			}
		}
		p.roles[r.Key] = c
	}
	return p, check
}

// checkRight checks what a role may do with records of an object, and gives the checked row rule, nil
// where there is none that can be used.
func checkRight(k *definition.Check, m *model.Model, scope expr.Scope, object string, right Right) *predicate.Checked {
	const consequence = "The role would see nothing of this object."
	at := "/objects/" + object
	stop := func(pointer, text string) { k.Find(definition.Stop, pointer, text, consequence, nil) }
	o := m.Object(object)
	if o == nil {
		stop(at, fmt.Sprintf("there is no object %q", object))
		return nil
	}
	k.Mention(model.MemberMention(at, object, model.Referent{Object: object}))
	if object == model.PersonObject && (right.Add || right.Change || right.Remove) {
		stop(at, "people are invited and changed as accounts, so a role can only let them be seen")
	}
	for _, field := range slices.Sorted(maps.Keys(right.Fields)) {
		if o.Field(field) == nil {
			stop(at+"/fields/"+field, fmt.Sprintf("%s has no field %q", o.Label, field))
			continue
		}
		k.Mention(model.MemberMention(at+"/fields/"+field, field, model.Referent{Object: object, Field: field}))
	}
	if right.Rows == nil {
		return nil
	}
	checked, holds := k.Where(scope, object, *right.Rows, at+"/rows", consequence)
	if skips(*right.Rows) {
		stop(at+"/rows",
			"a row rule may not skip a condition when a value is empty: whoever has no value would see everything")
		return nil
	}
	if !holds {
		return nil
	}
	return checked
}

func skips(c predicate.Condition) bool {
	return c.Empty == predicate.EmptySkip || slices.ContainsFunc(c.All, skips) || slices.ContainsFunc(c.Any, skips) ||
		c.Related != nil && skips(c.Related.Where)
}

// Label is the label of a role, its key when unknown.
func (p *Policy) Label(role string) string {
	if r := p.roles[role]; r != nil {
		return r.Label
	}
	return role
}

// Allows says whether a role lets something be done to records of an object, and which of the fields it may not set,
// "" where it may set all.
func (p *Policy) Allows(role, object string, d Doing, fields []string) (allowed bool, fixed string) {
	r := p.roles[role]
	if r == nil {
		return false, ""
	}
	l := leave{Right: r.Objects[object]}
	if !l.to(d) {
		return false, ""
	}
	for _, f := range fields {
		if !l.sets(f) {
			return true, f
		}
	}
	return true, ""
}

// Grant is leave for one person to work with the records of one object. The zero
// Grant allows nothing.
type Grant struct {
	object string
	leaves []leave
}

// leave is what one of a person's roles allows, and of which records.
type leave struct {
	Right
	rows predicate.Predicate
}

// Doing is something that is done to records.
type Doing string

// What is done to records.
const (
	Adding   Doing = "add"
	Changing Doing = "change"
	Removing Doing = "remove"
)

// to says whether a role allows something at all.
func (l leave) to(d Doing) bool {
	switch d {
	case Adding:
		return l.Add
	case Changing:
		return l.Change
	case Removing:
		return l.Remove
	}
	return false
}

// sets says whether a role lets a field be set.
func (l leave) sets(field string) bool { return !l.Fields[field].Hidden && !l.Fields[field].Fixed }

// DeniedError says that a person may not do something.
type DeniedError struct {
	Person, Doing, Object string
}

func (e *DeniedError) Error() string {
	return fmt.Sprintf("%s may not %s %s", e.Person, e.Doing, e.Object)
}

// Grant works out what a person may do with an object. What several roles allow adds up, each
// over the records of its own row rule. Values must hold the person, today and now.
func (p *Policy) Grant(m *model.Model, person Person, object string, values expr.Values) (Grant, error) {
	switch object {
	case model.PersonObject:
		return p.people(m, person, values)
	case model.FileObject:
		own, err := ownFiles(m, person)
		return Grant{object, []leave{{Right{See: true}, own}}}, err
	}
	return p.ofRoles(person, object, values)
}

// ofRoles is what the roles of a person say of an object.
func (p *Policy) ofRoles(person Person, object string, values expr.Values) (Grant, error) {
	g := Grant{object: object}
	for _, key := range person.Roles {
		role := p.roles[key]
		if role == nil {
			continue
		}
		l := leave{role.Objects[object], predicate.False}
		switch {
		case l.Rows == nil:
			l.rows = predicate.True
		case role.rows[object] == nil: // the rule has a problem; until it is mended it lets nothing through
		default:
			rule, err := role.rows[object].Bind(values)
			if err != nil {
				return Grant{}, fmt.Errorf("working out which %s records %s may see: %w", object, person.Name, err)
			}
			l.rows = rule
		}
		g.leaves = append(g.leaves, l)
	}
	return g, nil
}

// ownFiles are the files that a person gave and that have arrived: what can be put into a
// record. What is in a record already is seen by whoever sees the field of that record.
func ownFiles(m *model.Model, person Person) (predicate.Predicate, error) {
	by, err := m.Path(model.FileObject, "added_by")
	if err != nil {
		return nil, err
	}
	arrived, err := m.Path(model.FileObject, "media_type")
	return predicate.All{
		predicate.Test{Path: by, Op: predicate.Is, Value: ofPerson(person.ID)},
		predicate.Test{Path: arrived, Op: predicate.IsNotEmpty},
	}, err
}

// Object is the key of the object the grant is for.
func (g Grant) Object() string { return g.object }

// Rows is the predicate that records must satisfy to be seen.
func (g Grant) Rows() predicate.Predicate {
	return g.among(func(l leave) bool { return l.See })
}

// RowsTo is the predicate that records must satisfy for something to be done to them that sets
// the fields named: each must be set under a role that allows it for the record.
func (g Grant) RowsTo(d Doing, fields ...string) predicate.Predicate {
	all := predicate.All{}
	said := map[string]bool{}
	of := func(allows func(leave) bool) {
		which := ""
		for _, l := range g.leaves {
			which += fmt.Sprint(allows(l), " ")
		}
		if !said[which] {
			said[which] = true
			all = append(all, g.among(allows))
		}
	}
	of(func(l leave) bool { return l.to(d) })
	for _, f := range fields {
		of(func(l leave) bool { return l.to(d) && l.sets(f) })
	}
	return slices.DeleteFunc(all, predicate.Always)
}

// among is one of the row rules of the roles that allow something.
func (g Grant) among(allows func(leave) bool) predicate.Predicate {
	any := predicate.Any{}
	for _, l := range g.leaves {
		switch {
		case !allows(l):
		case predicate.Always(l.rows):
			return predicate.True
		default:
			any = append(any, l.rows)
		}
	}
	if len(any) == 0 {
		return predicate.False
	}
	return any
}

// Unlimited says whether every record may be seen.
func (g Grant) Unlimited() bool { return predicate.Always(g.Rows()) }

// SeesField says whether a field may be seen: it is hidden only where every role that shows
// records hides it.
func (g Grant) SeesField(key string) bool {
	seen := func(l leave) bool { return l.See && !l.Fields[key].Hidden }
	return !g.MaySee() || slices.ContainsFunc(g.leaves, seen)
}

// Sets says whether a field may be set of any record when something is done to it.
func (g Grant) Sets(d Doing, field string) bool {
	return slices.ContainsFunc(g.leaves, func(l leave) bool { return l.to(d) && l.sets(field) })
}

// May says whether something may be done to any record.
func (g Grant) May(d Doing) bool {
	return slices.ContainsFunc(g.leaves, func(l leave) bool { return l.to(d) })
}

// MaySee says whether there are records that may be seen.
func (g Grant) MaySee() bool {
	return slices.ContainsFunc(g.leaves, func(l leave) bool { return l.See })
}
