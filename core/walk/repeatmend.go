package walk

import (
	"encoding/json"
	"fmt"
	"path"
	"slices"

	"plainpath/core/act"
	"plainpath/core/definition"
)

// addForEach puts in the place of a repeat that does nothing but add records an act that adds one for each.
func (k *compiler) addForEach(s *Step) *definition.Mend {
	if len(s.Repeat.Steps) != 1 {
		return nil
	}
	only := s.Repeat.Steps[0]
	if only.Kind != act.AddAct || only.Add == nil || only.Add.ForEach != "" || only.OnlyWhen != "" ||
		only.IfFails != nil {
		return nil
	}
	add := *only.Add
	add.ForEach, add.Item = s.Repeat.ForEach, s.Repeat.Item
	only.Add = &add
	raw, err := json.Marshal(only)
	if err != nil {
		return nil
	}
	return &definition.Mend{Label: fmt.Sprintf("Let “%s” add one for each of them instead", title(&only)),
		Patch: []definition.Op{{Op: "replace", Path: k.places[s.Key], Value: raw}}}
}

// withoutFailing leaves out what is done if a step fails: then all of it is refused where one is.
func (t *setting) withoutFailing(s *Step) *definition.Mend {
	return &definition.Mend{Label: fmt.Sprintf("Stop all of it where “%s” fails", title(s)),
		Patch: []definition.Op{{Op: "remove", Path: t.places[s.Key] + "/if_fails"}}}
}

// before does a step once, before the repeat, where nothing in it is about what is at hand or given by a turn.
func (t *setting) before(s *Step, uses [][]string) *definition.Mend {
	inside := func(use []string) bool {
		_, outside := t.outer.Find(use[0])
		return !outside
	}
	if s.OnlyWhen != "" || slices.ContainsFunc(uses, inside) || path.Dir(t.places[s.Key]) != t.ownSteps() {
		return nil
	}
	raw, err := json.Marshal(s)
	if err != nil {
		return nil
	}
	return &definition.Mend{Label: fmt.Sprintf("Do “%s” once, before the repeat", title(s)), Patch: []definition.Op{
		{Op: "remove", Path: t.places[s.Key]}, {Op: "add", Path: t.places[t.step.Key], Value: raw}}}
}

// first does a step before those that write, so that it reads what was there before.
func (t *setting) first(s *Step) *definition.Mend {
	if len(t.writers) == 0 {
		return nil
	}
	writer := t.writers[0]
	if path.Dir(t.places[s.Key]) != path.Dir(t.places[writer.Key]) {
		return nil
	}
	return &definition.Mend{Label: fmt.Sprintf("Do “%s” first, by what is there before “%s”", title(s), title(writer)),
		Patch: []definition.Op{{Op: "move", From: t.places[s.Key], Path: t.places[writer.Key]}}}
}

// ownSteps is where the steps of the repeat stand.
func (t *setting) ownSteps() string { return t.places[t.step.Key] + "/repeat/steps" }
