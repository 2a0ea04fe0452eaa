package intake

import (
	"fmt"
	"slices"
	"strings"

	"plainpath/core/model"
	"plainpath/core/value"
)

// PlanProblem is something that keeps a plan from being carried out.
type PlanProblem struct {
	Sheet int `json:"sheet"`
	// Column is the column meant, or less than nought for the sheet as a whole.
	Column int    `json:"column"`
	Text   string `json:"text"`
}

// Check finds everything that keeps a plan from being carried out. New objects and
// fields can be made where the draft is followed.
func (p Plan) Check(m *model.Model, follows bool) []PlanProblem {
	k := &planChecker{model: m, plan: p, follows: follows, made: map[string]*model.Object{}, out: []PlanProblem{}}
	for i := range p.Sheets {
		if s := &p.Sheets[i]; !s.Skip {
			k.make(s)
		}
	}
	used := false
	for i := range p.Sheets {
		if !p.Sheets[i].Skip {
			used = true
			k.sheet(i)
		}
	}
	if !used {
		k.find(0, -1, "Every sheet is left out. Take at least one.")
	}
	if _, err := p.Sequence(); err != nil {
		k.find(0, -1, "%s", err)
	}
	return k.out
}

type planChecker struct {
	model   *model.Model
	plan    Plan
	follows bool
	// made are the objects that the plan makes or gives new fields, as they will be.
	made map[string]*model.Object
	out  []PlanProblem
}

func (k *planChecker) find(sheet, column int, format string, args ...any) {
	k.out = append(k.out, PlanProblem{sheet, column, fmt.Sprintf(format, args...)})
}

func (k *planChecker) make(s *SheetPlan) {
	fresh := s.NewObject()
	if s.New {
		k.made[s.Object] = fresh
		return
	}
	if o := k.object(s.Object); o != nil && len(fresh.Fields) > 0 {
		with := *o
		with.Fields = append(slices.Clone(o.Fields), fresh.Fields...)
		k.made[s.Object] = &with
	}
}

// object is an object as it will be.
func (k *planChecker) object(key string) *model.Object {
	if o := k.made[key]; o != nil {
		return o
	}
	return k.model.Object(key)
}

func (k *planChecker) sheet(i int) {
	s := &k.plan.Sheets[i]
	o := k.model.Object(s.Object)
	switch {
	case s.New && !k.follows:
		k.find(i, -1, "A new object can only be made in trial; production gets it with a release.")
		return
	case s.New && o != nil:
		k.find(i, -1, "There is an object with the key %q already. Bring the sheet into that, or choose another name.",
			s.Object)
		return
	case !s.New && (o == nil || o.BuiltIn()):
		k.find(i, -1, "Choose the object that the sheet is brought into.")
		return
	}
	set := map[string]bool{}
	for c := range s.Columns {
		k.column(i, c, set)
	}
	if len(set) == 0 {
		k.find(i, -1, "Every column is left out. Take at least one.")
		return
	}
	whole := k.object(s.Object)
	if n := columnsOf(whole); n > mostColumns {
		k.find(i, -1, "%s would need %d columns in the database, which has room for %d. Leave some out.", whole.Plural,
			n, mostColumns)
	}
	if k.made[s.Object] != nil {
		for _, p := range k.after().Check(whole) {
			k.find(i, -1, "%s", p.Text)
		}
	}
	if s.Mode != ModeAdd {
		if key := whole.Field(s.Key); !set[s.Key] || key == nil || key.Target() != "" ||
			key.Kind() == value.KindSeveral || value.Parts(key.Kind()) != nil {
			k.find(i, -1,
				"To update records, choose a column that they are recognised by, one that holds a single value and does not refer to other records.")
		}
	}
	if s.Mode == ModeUpdate {
		return
	}
	for n := range whole.Fields {
		if f := &whole.Fields[n]; f.Required && f.Stored() && !f.HasDefault() && !set[f.Key] {
			k.find(i, -1, "%s is required for every %s, but no column brings it.", f.Label,
				strings.ToLower(whole.Label))
		}
	}
}

// mostColumns is how many columns a table of PostgreSQL can have.
const mostColumns = 1600

// columnsOf counts the columns of an object's table: six of every record, two for an amount.
func columnsOf(o *model.Object) int {
	n := 6
	for i := range o.Fields {
		if n++; o.Fields[i].Kind() == value.KindMoney {
			n++
		}
	}
	return n
}

// after is the model as it will be.
func (k *planChecker) after() *model.Model {
	var objects []*model.Object
	for _, key := range k.model.Keys() {
		objects = append(objects, k.object(key))
	}
	for key, o := range k.made {
		if k.model.Object(key) == nil {
			objects = append(objects, o)
		}
	}
	return model.New(k.model.Currency, objects...)
}

func (k *planChecker) column(sheet, column int, set map[string]bool) {
	s := &k.plan.Sheets[sheet]
	c := &s.Columns[column]
	if c.Skip {
		return
	}
	if set[c.Field] {
		k.find(sheet, column, "Two columns go into the field %q. Leave one out.", c.Field)
	}
	set[c.Field] = true
	if c.Undecided {
		k.find(sheet, column, "The cells of %q can be read in more than one way. Choose how.", c.Label)
	}
	if c.New && !k.follows {
		k.find(sheet, column, "A new field can only be made in trial; production gets it with a release.")
	}
	if c.New && !s.New {
		if k.model.Object(s.Object).Field(c.Field) != nil {
			k.find(sheet, column,
				"There is a field with the key %q already. Bring the column into that, or choose another name.",
				c.Field)
		}
		if c.Required && s.Mode != ModeAdd {
			k.find(sheet, column, "A new field cannot be required while records are there without it.")
		}
	}
	f := k.object(s.Object).Field(c.Field)
	if f != nil && f.Type == model.Number && s.Key == f.Key {
		if s.Mode != ModeUpdate {
			k.find(sheet, column,
				"%s comes by itself. Records can be recognised by it when they are updated, but new ones cannot bring it.", f.Label)
		}
		return
	}
	if f == nil || !c.New && !f.Stored() {
		k.find(sheet, column, "Choose the field that %q goes into, or leave it out.", c.Label)
		return
	}
	if f.HoldsFile() {
		k.find(sheet, column, "%s holds files, which no cell can bring. Leave the column out.", f.Label)
		return
	}
	target := f.Target()
	if f.Type == model.Reference && target == "" {
		k.find(sheet, column, "Choose the object that %q refers to.", c.Label)
		return
	}
	if target == "" {
		return
	}
	to := k.object(target)
	if to == nil {
		k.find(sheet, column, "There is no object %q to refer to.", target)
		return
	}
	if m := to.Field(c.Match); m == nil || m.Kind() != value.KindText && m.Kind() != value.KindWhole {
		k.find(sheet, column, "Choose by which field of %s the cells name a record.", to.Label)
	}
}
