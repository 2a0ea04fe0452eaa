package walk

import (
	"context"
	"slices"

	"plainpath/core/act"
	"plainpath/core/model"
	"plainpath/core/value"
)

// renew reads anew what is shown where the run stands and was read before something was written that it may depend
// on: a person sees records as they are now, not as they were between two acts.
func (r *Run) renew(ctx context.Context, before, at int) error {
	written, last := map[string]bool{}, 0
	for n, v := range r.State.Trail[before:] {
		if i, ok := r.program.At(v.Step); ok && v.Wrote() && r.program.Code[i].Plan != nil {
			written[r.program.Code[i].Plan.Writes()] = true
			if inner := r.program.shown[i].inner; inner != nil {
				inner.written(written)
			}
			last = before + n
		}
	}
	if len(written) == 0 || at >= len(r.program.Code) {
		return nil
	}
	done := map[string]bool{}
	for _, use := range r.program.shown[at].uses() {
		step := use[0]
		if done[step] || !r.dependsOn(step, written) {
			continue
		}
		done[step] = true
		if v, n, ok := r.machine.Known(step); ok && n < last && !v.LeftOut {
			if err := r.readAnew(ctx, v); err != nil {
				return err
			}
		}
	}
	return nil
}

// readAnew makes known again what a step gave, where it is still there.
func (r *Run) readAnew(ctx context.Context, v act.Visit) error {
	at, ok := r.program.At(v.Step)
	if !ok {
		return nil
	}
	i, before := &r.program.Code[at], r.values[v.Step]
	_, rows := before.(value.Rows) // of all turns of a repeat
	switch {
	case i.Plan != nil:
		if err := r.restore(ctx, at, v); err != nil {
			return err
		}
	case r.program.shown[at].surface != nil && !rows:
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

// written notes the objects of which the walkthrough may write records.
func (p *Program) written(into map[string]bool) {
	for n, i := range p.Code {
		if i.Plan != nil && i.Plan.Writes() != "" {
			into[i.Plan.Writes()] = true
		}
		if inner := p.shown[n].inner; inner != nil {
			inner.written(into)
		}
	}
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
// written: they are of such an object, or it is worked out of other records.
func (r *Run) dependsOn(step string, written map[string]bool) bool {
	for name, paths := range r.program.Uses {
		if name != step && !within(name, step) {
			continue
		}
		object := r.program.objects[name]
		if slices.ContainsFunc(paths, func(path model.Path) bool { return r.touched(object, path, written) }) {
			return true
		}
	}
	return false
}

func within(name, step string) bool { return len(name) > len(step) && name[:len(step)+1] == step+"." }

func (r *Run) touched(object string, path model.Path, written map[string]bool) bool {
	for _, f := range path.Fields {
		if written[object] {
			return true
		}
		if f.Type == model.WorkedOut {
			how, ok := r.host.WorkedOut(object, f.Key)
			return !ok || !how.Own
		}
		object = f.Target()
	}
	return false
}
