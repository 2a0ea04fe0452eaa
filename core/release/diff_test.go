package release

import (
	"encoding/json"
	"strings"
	"testing"

	"plainpath/core/definition"
)

func object(fields string) definition.Document {
	return definition.Document{Kind: definition.Object, Key: "lift",
		Body: json.RawMessage(`{"key":"lift","label":"Lift","plural":"Lifts","label_field":"serial","fields":[` +
			fields + `]}`)}
}

const serial = `{"key":"serial","label":"Serial","type":"text"}`

func TestWhatChangesIsSaid(t *testing.T) {
	walk := func(body string) definition.Document {
		return definition.Document{Kind: definition.Walkthrough, Key: "w", Body: json.RawMessage(body)}
	}
	const steps = `{"key":"w","label":"Walk","roles":["a"],"steps":[{"key":"x","kind":"finish","title":"End","finish":{"message":"Done."}}]}`
	for _, c := range []struct {
		name          string
		before, after []definition.Document
		says          string
	}{
		{"nothing", []definition.Document{object(serial)}, []definition.Document{object(serial)}, ""},
		{"only the order of members", []definition.Document{object(serial)},
			[]definition.Document{object(`{"label":"Serial","type":"text","key":"serial"}`)}, ""},
		{"an object added", nil, []definition.Document{object(serial)}, "Lift added: A table is made"},
		{"an object removed", []definition.Document{object(serial)}, nil,
			"Lift removed: Its records are hidden, not lost."},
		{"a field added", []definition.Document{object(serial)},
			[]definition.Document{object(serial + `,{"key":"stops","label":"Stops","type":"whole_number"}`)},
			"field Stops added: A column for Stops is added; it is empty"},
		{"a field added with a default", []definition.Document{object(serial)},
			[]definition.Document{object(serial +
				`,{"key":"stops","label":"Stops","type":"whole_number","required":true,"default":2}`)},
			"the records there are get its default"},
		{"a field removed", []definition.Document{object(serial +
			`,{"key":"stops","label":"Stops","type":"whole_number"}`)}, []definition.Document{object(serial)},
			"The column of Stops is hidden, not lost."},
		{"a field renamed", []definition.Document{object(serial)},
			[]definition.Document{object(`{"key":"number","was":["serial"],"label":"Serial","type":"text"}`)},
			"field Serial has the key number, which was serial: field Serial changed: The column serial is renamed to number."},
		{"an object renamed", []definition.Document{object(serial)},
			[]definition.Document{{Kind: definition.Object, Key: "hoist",
				Body: json.RawMessage(strings.Replace(string(object(serial).Body), `"key":"lift"`,
					`"key":"hoist","was":["lift"]`, 1))}},
			"Lift changed: the key hoist, which was lift: The table lift is renamed to hoist."},
		{"a choice renamed", []definition.Document{object(serial +
			`,{"key":"kind","label":"Kind","type":"choice","choices":[{"key":"a","label":"A"}]}`)},
			[]definition.Document{object(serial +
				`,{"key":"kind","label":"Kind","type":"choice","choices":[{"key":"b","was":["a"],"label":"A"}]}`)},
			"Stored values of Kind get their new keys."},
		{"another type", []definition.Document{object(serial)},
			[]definition.Document{object(`{"key":"serial","label":"Serial","type":"whole_number"}`)},
			"is converted from text to whole number"},
		{"needed and unique", []definition.Document{object(serial)},
			[]definition.Document{object(`{"key":"serial","label":"Serial","type":"text","required":true,"unique":true}`)}, "Serial becomes required.: Serial becomes unique."},
		{"a step changed", []definition.Document{walk(steps)},
			[]definition.Document{walk(strings.Replace(steps, "Done.", "Well done.", 1))}, "step “End” changed"},
		{"a step removed, one added", []definition.Document{walk(steps)},
			[]definition.Document{walk(strings.ReplaceAll(strings.Replace(steps, `"x"`, `"y"`, 1), "End",
				"Other end"))}, "step “Other end” added: step “End” removed"},
		{"who may start it", []definition.Document{walk(steps)},
			[]definition.Document{walk(strings.Replace(steps, `["a"]`, `["b"]`, 1))},
			"b may start it now: a may not start it any more"},
		{"a walkthrough added", nil, []definition.Document{walk(steps)}, "Walk added: a may start it now"},
	} {
		changes, err := Diff(c.before, c.after)
		if err != nil {
			t.Errorf("%s: %v", c.name, err)
			continue
		}
		var said []string
		for _, x := range changes {
			said = append(append(append(said, x.Label+" "+x.What), x.Details...), x.Stored...)
		}
		got := strings.Join(said, ": ")
		if c.says == "" && got != "" || !strings.Contains(got, c.says) {
			t.Errorf("%s: %q, want %q", c.name, got, c.says)
		}
		for _, x := range changes {
			if x.Details == nil || x.Stored == nil {
				t.Errorf("%s: a list is missing, which travels as nothing", c.name)
			}
		}
	}
}
