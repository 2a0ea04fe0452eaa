package walk

import (
	"context"
	"slices"

	"plainpath/core/act"
	"plainpath/core/model"
)

// renew reads anew what is shown where the run stands and was read before something was written that it may depend
// on: a person sees records as they are now, not as they were between two acts.
func (r *Run) renew(ctx context.Context, m *act.Machine, at int) error {
	written, last := map[string]bool{}, 0
	for n, v := range m.Trail {
		if i, ok := r.program.At(v.Step); ok && v.Wrote() && r.program.Code[i].Plan != nil {
			written[r.program.Code[i].Plan.Writes()] = true
			last = len(r.State.Trail) - len(m.Trail) + n
		}
	}
	if len(written) == 0 || at >= len(r.program.Code) {
		return nil
	}
	uses := r.program.shown[at].uses()
	for _, v := range r.State.Trail[:last] {
		used := slices.ContainsFunc(uses, func(u []string) bool { return u[0] == v.Step })
		if !used || v.LeftOut || !r.program.dependsOn(v.Step, written) {
			continue
		}
		if err := r.readAnew(ctx, m, v); err != nil {
			return err
		}
	}
	return nil
}

// readAnew makes known again what a step gave, where it is still there.
func (r *Run) readAnew(ctx context.Context, m *act.Machine, v act.Visit) error {
	at, ok := r.program.At(v.Step)
	if !ok {
		return nil
	}
	i, before := &r.program.Code[at], r.values[v.Step]
	switch {
	case i.Plan != nil:
		if err := m.Restore(ctx, i, v.Kept); err != nil {
			return err
		}
	case r.program.shown[at].surface != nil:
		given, problems, err := r.again(ctx, r.program.shown[at])
		if err != nil {
			return err
		}
		if len(problems) == 0 {
			r.values[v.Step] = given
		}
	}
	if r.values[v.Step] == nil {
		r.values[v.Step] = before
	}
	return nil
}

// uses are the known values that a screen shows.
func (s shown) uses() [][]string {
	var out [][]string
	if s.surface != nil {
		out = slices.Clone(s.surface.Uses)
	}
	if s.message != nil {
		out = append(out, s.message.Uses...)
	}
	return out
}

// dependsOn says whether what is read of what a step gave may be otherwise after records of some objects were
// written: they are of such an object, or it is worked out.
func (p *Program) dependsOn(step string, written map[string]bool) bool {
	for name, paths := range p.Uses {
		if name != step && !within(name, step) {
			continue
		}
		if slices.ContainsFunc(paths, func(path model.Path) bool { return touched(p.objects[name], path, written) }) {
			return true
		}
	}
	return false
}

func within(name, step string) bool { return len(name) > len(step) && name[:len(step)+1] == step+"." }

func touched(object string, path model.Path, written map[string]bool) bool {
	for _, f := range path.Fields {
		if written[object] || f.Type == model.WorkedOut {
			return true
		}
		object = f.Target()
	}
	return false
}
