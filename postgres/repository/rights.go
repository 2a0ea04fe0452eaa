package repository

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"slices"

	"plainpath/core/access"
	"plainpath/core/model"
	"plainpath/core/predicate"
	"plainpath/core/query"
	"plainpath/core/records"
	"plainpath/core/value"
	"plainpath/postgres"
	"plainpath/postgres/documents"
	"plainpath/postgres/sqlgen"
)

// RightsView is what every role may do with every object, with counts of what it sees.
type RightsView struct {
	Roles   []RoleColumn `json:"roles"`
	Objects []RightsRow  `json:"objects"`
}

// RoleColumn is a role in the matrix.
type RoleColumn struct {
	Key   string `json:"key"`
	Label string `json:"label"`
	// As is the person whose records are counted where a row rule asks for one, empty
	// when nobody has the role.
	As string `json:"as,omitempty"`
}

// RightsRow is an object in the matrix.
type RightsRow struct {
	Object string       `json:"object"`
	Total  int64        `json:"total"`
	Cells  []RightsCell `json:"cells"`
}

// RightsCell is what a role may do with an object.
type RightsCell struct {
	See    bool `json:"see,omitempty"`
	Add    bool `json:"add,omitempty"`
	Change bool `json:"change,omitempty"`
	Remove bool `json:"remove,omitempty"`
	// Ruled says that a row rule narrows what it sees, Narrowed how many fields are hidden
	// or fixed.
	Ruled    bool  `json:"ruled,omitempty"`
	Narrowed int   `json:"narrowed,omitempty"`
	Sees     int64 `json:"sees"`
}

// Rights counts, in trial, what each role sees of each object.
func (s *Repositories) Rights(ctx context.Context, app string) (RightsView, error) {
	out := RightsView{Roles: []RoleColumn{}, Objects: []RightsRow{}}
	e, err := s.Editions.Draft(ctx, app)
	if err != nil {
		return out, err
	}
	schema, err := documents.Schema(ctx, s.DB, app, postgres.Trial)
	if err != nil {
		return out, err
	}
	repositories := map[string]*Repository{}
	for _, role := range roleKeys(e) {
		who, err := s.sample(ctx, app, role)
		if err != nil {
			return out, err
		}
		out.Roles = append(out.Roles, RoleColumn{Key: role, Label: e.Policy.Label(role), As: who.Name})
		repositories[role] = New(s.DB, Where{Edition: e, Schema: schema, Person: who, Now: s.DB.Now()})
	}
	for _, key := range append(slices.Clone(e.Model.Keys()), model.PersonObject) {
		row := RightsRow{Object: key, Cells: []RightsCell{}}
		if err := s.DB.GetContext(ctx, &row.Total,
			fmt.Sprintf(`SELECT count(*) FROM %s`, sqlgen.Space{Schema: schema}.Table(key))); err != nil {
			return out, fmt.Errorf("counting %s: %w", key, err)
		}
		for _, column := range out.Roles {
			right, said := e.Role(column.Key).Objects[key]
			if key == model.PersonObject && !said {
				right = access.Right{See: true, Rows: &predicate.Condition{}} // counted as it usually is
			}
			cell, err := s.cell(ctx, repositories[column.Key], right, key, row.Total)
			if err != nil {
				return out, err
			}
			if key == model.PersonObject && !said {
				cell.Ruled = cell.Sees < row.Total
			}
			row.Cells = append(row.Cells, cell)
		}
		out.Objects = append(out.Objects, row)
	}
	return out, nil
}

func (s *Repositories) cell(ctx context.Context, d *Repository, r access.Right, object string,
	total int64) (RightsCell, error) {
	cell := RightsCell{See: r.See, Add: r.Add, Change: r.Change, Remove: r.Remove, Ruled: r.Rows != nil,
		Narrowed: len(r.Fields), Sees: total}
	if !r.See {
		cell.Sees = 0
		return cell, nil
	}
	if r.Rows == nil {
		return cell, nil
	}
	var err error
	cell.Sees, err = records.Count(ctx, d, query.Query{Object: object})
	return cell, err
}

// sample is somebody with a role and no other, modelled on the first member who has it.
func (s *Repositories) sample(ctx context.Context, app, role string) (access.Person, error) {
	p := access.Person{Roles: []string{role}}
	var row struct {
		ID           int64         `db:"id"`
		Name         string        `db:"name"`
		Email        string        `db:"email"`
		Organisation sql.NullInt64 `db:"organisation"`
	}
	err := s.DB.GetContext(ctx, &row, `SELECT p.id, p.name, p.email, m.organisation FROM plainpath.member m JOIN plainpath.person p ON p.id = m.person
		WHERE m.app = $1 AND m.space = $2 AND $3 = ANY(m.roles) AND p.active ORDER BY p.id LIMIT 1`, app, postgres.Trial, role)
	if errors.Is(err, sql.ErrNoRows) {
		return p, nil
	}
	if err != nil {
		return p, fmt.Errorf("finding somebody with the role %s: %w", role, err)
	}
	p.ID, p.Name, p.Email = row.ID, row.Name, row.Email
	if row.Organisation.Valid {
		e, err := s.Editions.Draft(ctx, app)
		if err != nil {
			return p, err
		}
		p.Organisation = &value.Record{Object: e.App.Organisation, ID: row.Organisation.Int64}
		if p.Colleagues, err = colleagues(ctx, s.DB, postgres.Caller{App: app, Space: postgres.Trial},
			row.Organisation.Int64); err != nil {
			return p, err
		}
	}
	return p, nil
}

// WhyQuestion asks why somebody may or may not see or change a record.
type WhyQuestion struct {
	Person int64  `json:"person"`
	Object string `json:"object"`
	Record int64  `json:"record"`
}

// WhyView says it role by role.
type WhyView struct {
	Person string    `json:"person"`
	Record string    `json:"record"`
	Sees   bool      `json:"sees"`
	Change bool      `json:"change"`
	Remove bool      `json:"remove"`
	Roles  []WhyRole `json:"roles"`
	// Hidden and Fixed are fields the person may not see or set, by label.
	Hidden []string `json:"hidden"`
	Fixed  []string `json:"fixed"`
}

// WhyRole is what one role contributes.
type WhyRole struct {
	Label  string `json:"label"`
	See    bool   `json:"see"`
	Change bool   `json:"change"`
	Remove bool   `json:"remove"`
	// Holds says whether the record is among those of the role's row rule.
	Holds bool         `json:"holds"`
	Why   []ReasonView `json:"why"`
}

// Why explains, to a builder, what somebody may do with a record.
func (s *Repositories) Why(ctx context.Context, p postgres.Caller, ask WhyQuestion) (WhyView, error) {
	out := WhyView{Roles: []WhyRole{}, Hidden: []string{}, Fixed: []string{}}
	builder, o, err := s.Of(ctx, p, ask.Object)
	if err != nil {
		return out, err
	}
	record, err := builder.WholeRecord(ctx, o, ask.Record)
	if err != nil {
		return out, err
	}
	d, _, err := s.Of(ctx, postgres.Caller{App: p.App, Space: p.Space, Person: ask.Person}, ask.Object)
	if err != nil {
		return out, err
	}
	grant, err := d.Grant(ask.Object)
	if err != nil {
		return out, err
	}
	out.Person, out.Record = d.Person().Name, record.Label
	for i := range o.Fields {
		f := &o.Fields[i]
		switch {
		case !grant.SeesField(f.Key):
			out.Hidden = append(out.Hidden, f.Label)
		case !grant.Sets(access.Changing, f.Key) && !grant.Sets(access.Adding, f.Key):
			out.Fixed = append(out.Fixed, f.Label)
		}
	}
	for _, key := range d.Person().Roles {
		one, err := builder.whyRole(ctx, d, d.Edition.Role(key), ask)
		if err != nil {
			return out, err
		}
		out.Sees = out.Sees || one.See && one.Holds
		out.Change, out.Remove = out.Change || one.Change && one.Holds, out.Remove || one.Remove && one.Holds
		out.Roles = append(out.Roles, one)
	}
	out.Change, out.Remove = out.Sees && out.Change, out.Sees && out.Remove
	return out, nil
}

// whyRole proves the row rule of one role, condition by condition. Values are those of
// the person asked about; what is looked at is shown as the builder may see it.
func (d *Repository) whyRole(ctx context.Context, of *Repository, role access.Role, ask WhyQuestion) (WhyRole, error) {
	r := role.Objects[ask.Object]
	out := WhyRole{Label: role.Label, See: r.See, Change: r.Change, Remove: r.Remove, Holds: r.See || r.Change ||
		r.Remove, Why: []ReasonView{}}
	if r.Rows == nil || !out.Holds {
		return out, nil
	}
	scope := access.PersonScope(d.Edition.Model, d.Edition.App.Organisation)
	bind := func(c model.Condition) (predicate.Predicate, error) {
		checked, problems := predicate.Check(scope, ask.Object, c, "")
		if len(problems) > 0 {
			return predicate.False, nil // a rule with a problem lets nothing through
		}
		return checked.Bind(of.Base())
	}
	whole, err := bind(*r.Rows)
	if err != nil {
		return out, err
	}
	tests := []predicate.Predicate{whole}
	leaves := r.Rows.Leaves()
	for _, leaf := range leaves {
		p, err := bind(leaf.Condition)
		if err != nil {
			return out, err
		}
		tests = append(tests, p)
	}
	holds, err := d.Prove(ctx, ask.Object, ask.Record, tests, nil)
	if err != nil || len(holds) == 0 {
		return out, err
	}
	out.Holds = holds[0]
	for i, leaf := range leaves {
		reason := ReasonView{Condition: leaf.Condition, Holds: holds[i+1]}
		if leaf.Condition.Field != "" {
			t := trial{Repository: d, target: ask.Object}
			if reason.Looked, reason.Heading, err = t.looked(ctx, leaf.Condition.Field, ask.Record); err != nil {
				return out, err
			}
		}
		out.Why = append(out.Why, reason)
	}
	return out, nil
}
