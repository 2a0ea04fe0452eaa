package edition

import (
	"fmt"
	"slices"
	"strings"

	"plainpath/core/access"
	"plainpath/core/act"
	"plainpath/core/definition"
	"plainpath/core/walk"
)

// sets is an act that says which fields it sets.
type sets interface{ Sets() []string }

// doings are what acts that write do to records.
var doings = map[act.Kind]access.Doing{act.AddAct: access.Adding, act.ChangeAct: access.Changing,
	act.RemoveAct: access.Removing}

// rights finds steps that write what those who may start the walkthrough may not: they would be refused there. What
// stands under a condition, or says what is done if it fails, may know better.
func (e *Edition) rights(key string) {
	p := e.Walkthroughs[key]
	check := e.check.For(definition.Name(definition.Walkthrough, key))
	for at, s := range p.Def.All() {
		if s.IfFails != nil || s.OnlyWhen != "" || strings.Contains(at, "/branch/") {
			continue
		}
		for i, role := range p.Def.Roles {
			if e.Policy == nil || !slices.Contains(e.roleKeys(), role) {
				continue
			}
			why := e.denied(role, p, s.Key)
			if why == "" {
				continue
			}
			var mend *definition.Mend
			if len(p.Def.Roles) > 1 {
				mend = &definition.Mend{Label: "Do not let them start it", Patch: []definition.Op{{Op: "remove",
					Path: fmt.Sprintf("/roles/%d", i)}}}
			}
			check.In(s.Key).Find(definition.Care, at,
				fmt.Sprintf("%s may start this, but %s", e.Policy.Label(role), why),
				"They would be refused here, unless another role of theirs allows it.", mend)
		}
	}
}

// denied is what a role may not do that a step does, "" where it may.
func (e *Edition) denied(role string, p *walk.Program, step string) string {
	at, ok := p.At(step)
	if !ok {
		return ""
	}
	i := p.Code[at]
	doing, writes := doings[i.Kind]
	if !writes || i.Plan == nil {
		return ""
	}
	o := e.Model.Object(i.Plan.Writes())
	if o == nil {
		return ""
	}
	var fields []string
	if s, ok := i.Plan.(sets); ok {
		fields = s.Sets()
	}
	allowed, field := e.Policy.Allows(role, o.Key, doing, fields)
	switch f := o.Field(field); {
	case !allowed:
		return fmt.Sprintf("may not %s %s", doing, strings.ToLower(o.Plural))
	case f != nil:
		return fmt.Sprintf("may not set %s of %s", f.Label, strings.ToLower(o.Plural))
	}
	return ""
}
