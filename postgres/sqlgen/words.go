package sqlgen

import (
	"fmt"
	"strings"

	"plainpath/core/model"
	"plainpath/core/predicate"
)

// textInAny says whether ways to hold are a text in one of several fields, some of them
// across references, as in a keyword search. Joined together no index serves them: each
// reference is looked up by itself instead, and its keys are combined.
func textInAny(ways predicate.Any) bool {
	across := false
	for _, way := range ways {
		t, ok := way.(predicate.Test)
		if !ok || t.Skip || isDeferred(t.Value) || t.Op != predicate.Contains && t.Op != predicate.StartsWith {
			return false
		}
		across = across || len(t.Path.Fields) > 1
	}
	return across
}

func (s *source) words(ways predicate.Any, visible bool) (string, error) {
	s.w.planWithValues = true
	parts := make([]string, len(ways))
	for i, way := range ways {
		var err error
		if parts[i], err = s.word(way.(predicate.Test), visible); err != nil {
			return "", err
		}
	}
	return "(" + strings.Join(parts, " OR ") + ")", nil
}

// word looks for a text. Across a reference it finds the records that have it first, of
// those the person may see, and then what points at them.
func (s *source) word(t predicate.Test, visible bool) (string, error) {
	first := t.Path.Fields[0]
	if len(t.Path.Fields) == 1 || model.BuiltInKey(first.Target()) {
		return s.test(t, visible)
	}
	if hidden, err := s.w.hidden(s.object, first, visible); hidden || err != nil {
		return "FALSE", err
	}
	inner := s.w.source(first.Target())
	rest := t
	rest.Path = model.Path{Fields: t.Path.Fields[1:]}
	where, err := inner.word(rest, visible)
	if err != nil {
		return "", err
	}
	if visible {
		g, err := s.w.space.Grant(first.Target())
		if err != nil {
			return "", err
		}
		if !g.Unlimited() {
			rule, err := inner.where(g.Rows(), false)
			if err != nil {
				return "", err
			}
			where += " AND " + rule
		}
	}
	return fmt.Sprintf("%s.%s = ANY(ARRAY(SELECT %s.id FROM %s WHERE %s))", s.alias, Column(first), inner.alias,
		inner.from(), where), nil
}
