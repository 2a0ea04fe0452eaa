package release

import (
	"encoding/json"
	"fmt"
	"maps"
	"reflect"
	"slices"
	"strings"

	"plainpath/core/access"
	"plainpath/core/edition"
	"plainpath/core/model"
	"plainpath/core/surface"
)

func (c *Change) say(format string, args ...any) {
	c.Details = append(c.Details, fmt.Sprintf(format, args...))
}

// setting says that a value of the document itself changed.
func (c *Change) setting(what, was, is string) {
	switch {
	case was == is:
	case was == "":
		c.say("%s is “%s” now", what, is)
	case is == "":
		c.say("%s is empty now, it was “%s”", what, was)
	default:
		c.say("%s is “%s”, which was “%s”", what, is, was)
	}
}

// allowed says which roles get or lose something.
func (c *Change) allowed(doing string, was, is []string, roles map[string]string) {
	for _, role := range is {
		if !slices.Contains(was, role) {
			c.say("%s may %s now", named(roles, role), doing)
			c.concerns(role)
		}
	}
	for _, role := range was {
		if !slices.Contains(is, role) {
			c.say("%s may not %s any more", named(roles, role), doing)
			c.concerns(role)
		}
	}
}

// seenBy says that a change of an object concerns the roles that see its records.
func (c *Change) seenBy(object string, docs []edition.Document) {
	for _, d := range docs {
		var role struct {
			Objects map[string]struct{ See bool }
		}
		if d.Kind == edition.RoleDocument && json.Unmarshal(d.Body, &role) == nil && role.Objects[object].See {
			c.concerns(d.Key)
		}
	}
}

func (c *Change) concerns(role string) {
	if !slices.Contains(c.Roles, role) {
		c.Roles = append(c.Roles, role)
	}
}

func named(roles map[string]string, key string) string {
	if label := roles[key]; label != "" {
		return label
	}
	return key
}

func (c *Change) app(a, b *edition.App) {
	c.setting("its name", a.Label, b.Label)
	c.setting("the currency", a.Currency, b.Currency)
	c.setting("the time zone", a.Zone, b.Zone)
	c.setting("the object that people outside the company belong to", a.Organisation, b.Organisation)
	if !reflect.DeepEqual(a.Rates, b.Rates) {
		c.say("the table of exchange rates changed")
	}
	if a.Currency != b.Currency {
		c.Stored = append(c.Stored, "Amounts keep the currencies they have.")
	}
	if a.Zone != b.Zone {
		c.Stored = append(c.Stored, "Points in time stay the same; days, months and years begin elsewhere.")
	}
}

func (c *Change) role(a, b *access.Role, objects map[string]string) {
	c.setting("its name", a.Label, b.Label)
	c.concerns(b.Key)
	for _, key := range keysOf(a.Objects, b.Objects) {
		c.right(named(objects, key), a.Objects[key], b.Objects[key])
	}
}

// keysOf are the keys of both, in order.
func keysOf[V any](a, b map[string]V) []string {
	both := maps.Clone(b)
	if both == nil {
		both = map[string]V{}
	}
	maps.Copy(both, a)
	return slices.Sorted(maps.Keys(both))
}

func (c *Change) right(object string, was, is access.Right) {
	for _, r := range []struct {
		doing   string
		was, is bool
	}{{"see", was.See, is.See}, {"add", was.Add, is.Add}, {"change", was.Change, is.Change}, {"remove", was.Remove, is.Remove}} {
		switch {
		case r.is && !r.was:
			c.say("may %s %s now", r.doing, object)
		case r.was && !r.is:
			c.say("may not %s %s any more", r.doing, object)
		}
	}
	if !reflect.DeepEqual(was.Rows, is.Rows) {
		switch {
		case is.Rows == nil:
			c.say("of %s all records are theirs now", object)
		case was.Rows == nil:
			c.say("of %s only some records are theirs now", object)
		default:
			c.say("of %s other records are theirs now", object)
		}
	}
	for _, key := range keysOf(was.Fields, is.Fields) {
		if a, b := was.Fields[key], is.Fields[key]; a.Hidden != b.Hidden {
			c.say("%s of %s is %s", key, object, map[bool]string{true: "hidden now", false: "to be seen now"}[b.Hidden])
		} else if a.Fixed != b.Fixed {
			c.say("%s of %s %s", key, object, map[bool]string{true: "cannot be changed any more", false: "can be changed now"}[b.Fixed])
		}
	}
}

func (c *Change) page(a, b *surface.Page, roles map[string]string) {
	c.setting("its name", a.Label, b.Label)
	c.setting("its note", a.Note, b.Note)
	c.allowed("open it", a.Roles, b.Roles, roles)
	was, is := partsOf(a.Bands), partsOf(b.Bands)
	for _, p := range is {
		old, existed := partOf(was, p.Key)
		switch {
		case !existed:
			c.say("%s “%s” added", p.Kind, titleOf(p))
		case !reflect.DeepEqual(old, p):
			c.say("%s “%s” changed", p.Kind, titleOf(p))
		}
	}
	for _, p := range was {
		if _, still := partOf(is, p.Key); !still {
			c.say("%s “%s” removed", p.Kind, titleOf(p))
		}
	}
	searches := func(p *surface.Page) map[string]surface.PageSearch {
		out := map[string]surface.PageSearch{}
		for _, s := range p.Searches {
			out[s.Key] = s
		}
		return out
	}
	if !reflect.DeepEqual(searches(a), searches(b)) {
		c.say("what it searches for changed")
	}
	if len(c.Details) == 0 {
		c.say("its parts are arranged differently")
	}
}

func partsOf(bands []surface.Band) []surface.Part {
	var out []surface.Part
	for _, b := range bands {
		for _, col := range b.Columns {
			out = append(out, col.Parts...)
		}
	}
	return out
}

func partOf(parts []surface.Part, key string) (surface.Part, bool) {
	i := slices.IndexFunc(parts, func(p surface.Part) bool { return p.Key == key })
	if i < 0 {
		return surface.Part{}, false
	}
	return parts[i], true
}

func titleOf(p surface.Part) string {
	if p.Label != "" {
		return p.Label
	}
	return p.Key
}

// objectItself says what changed of an object besides its fields.
func (c *Change) objectItself(a, b *model.Object) {
	c.setting("its name", a.Label, b.Label)
	c.setting("the name of many", a.Plural, b.Plural)
	c.setting("its note", a.Note, b.Note)
	if a.LabelField != b.LabelField {
		c.say("records are called by %s", b.LabelField)
	}
	said := func(o *model.Object) []string {
		var out []string
		for _, r := range o.Rules {
			out = append(out, r.Expression)
		}
		return out
	}
	was, is := said(a), said(b)
	for _, rule := range is {
		if !slices.Contains(was, rule) {
			c.say("it must hold that %s", rule)
		}
	}
	for _, rule := range was {
		if !slices.Contains(is, rule) {
			c.say("it need not hold any more that %s", rule)
		}
	}
	if len(c.Details) == 0 && !reflect.DeepEqual(a.Rules, b.Rules) {
		c.say("what is said when a rule is broken changed")
	}
	order := func(o *model.Object) string {
		var keys []string
		for _, f := range o.Fields {
			keys = append(keys, f.Key)
		}
		return strings.Join(keys, " ")
	}
	if len(c.Details) == 0 && order(a) != order(b) {
		c.say("the order of its fields changed")
	}
}
