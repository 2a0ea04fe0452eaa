package edition

import (
	"maps"
	"reflect"
	"slices"

	"plainpath/core/access"
	"plainpath/core/definition"
)

func (e *Edition) roles(docs []definition.Document) error {
	out, err := piece(e.made, func() digest { return e.made.digests.of("roles", docs) }, func() (compiledRoles, error) {
		var out compiledRoles
		roles, err := bodies[access.Role](docs)
		for _, r := range roles {
			out.roles = append(out.roles, *r)
		}
		out.policy, out.check = access.Compile(e.Model, e.App.Organisation, out.roles)
		return out, err
	})
	if err != nil {
		return err
	}
	e.Roles, e.Policy = out.roles, out.policy
	e.check.Take(out.check)
	return nil
}

// roleDiffers says what changes of what a role may do.
func roleDiffers(a, b *access.Role, d *definition.Difference) {
	if a == nil {
		return
	}
	d.Setting("its name", a.Label, b.Label)
	d.Concerns(b.Key)
	for _, key := range keysOf(a.Objects, b.Objects) {
		rightDiffers(d.Called(definition.Object, key), a.Objects[key], b.Objects[key], d)
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

func rightDiffers(object string, was, is access.Right, d *definition.Difference) {
	for _, r := range []struct {
		doing   string
		was, is bool
	}{{"see", was.See, is.See}, {"add", was.Add, is.Add}, {"change", was.Change, is.Change},
		{"remove", was.Remove, is.Remove}} {
		switch {
		case r.is && !r.was:
			d.Say("may %s %s now", r.doing, object)
		case r.was && !r.is:
			d.Say("may not %s %s any more", r.doing, object)
		}
	}
	if !reflect.DeepEqual(was.Rows, is.Rows) {
		switch {
		case is.Rows == nil:
			d.Say("of %s all records are theirs now", object)
		case was.Rows == nil:
			d.Say("of %s only some records are theirs now", object)
		default:
			d.Say("of %s other records are theirs now", object)
		}
	}
	for _, key := range keysOf(was.Fields, is.Fields) {
		if a, b := was.Fields[key], is.Fields[key]; a.Hidden != b.Hidden {
			d.Say("%s of %s is %s", key, object, map[bool]string{true: "hidden now", false: "to be seen now"}[b.Hidden])
		} else if a.Fixed != b.Fixed {
			d.Say("%s of %s %s", key, object, map[bool]string{true: "cannot be changed any more",
				false: "can be changed now"}[b.Fixed])
		}
	}
}
