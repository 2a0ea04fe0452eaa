package predicate

import "testing"

func TestWhatNeverHolds(t *testing.T) {
	open := Keys{1}
	for name, c := range map[string]struct {
		p    Predicate
		want bool
	}{
		"nothing said":                 {nil, false},
		"true":                         {True, false},
		"false":                        {False, true},
		"no keys":                      {Keys(nil), true},
		"keys":                         {open, false},
		"one of several waits":         {All{open, False}, true},
		"one of the ways is open":      {Any{False, open}, false},
		"no way is open":               {Any{False, All{Keys{}, open}}, true},
		"the opposite":                 {Not{Of: False}, false},
		"the opposite of what is":      {Not{Of: True}, false}, // not known, so it is asked
		"related to none that can be":  {HasRelated{Where: False}, true},
		"without any of those":         {HasRelated{None: true, Where: False}, false},
		"related to any":               {HasRelated{}, false},
		"deep down":                    {All{Any{All{Any{}}}}, true},
		"deep down, but one way opens": {All{Any{All{Any{}}, True}}, false},
	} {
		if got := Never(c.p); got != c.want {
			t.Errorf("%s: %t", name, got)
		}
	}
}
