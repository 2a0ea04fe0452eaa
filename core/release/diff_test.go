package release

import (
	"encoding/json"
	"strings"
	"testing"

	"plainpath/core/edition"
)

func object(fields string) edition.Document {
	return edition.Document{Kind: edition.ObjectDocument, Key: "lift", Body: json.RawMessage(`{"key":"lift","label":"Lift","plural":"Lifts","label_field":"serial","fields":[` + fields + `]}`)}
}

const serial = `{"key":"serial","label":"Serial","type":"text"}`

func TestWhatChangesIsSaid(t *testing.T) {
	walk := func(body string) edition.Document {
		return edition.Document{Kind: edition.WalkthroughDocument, Key: "w", Body: json.RawMessage(body)}
	}
	const steps = `{"key":"w","label":"Walk","roles":["a"],"steps":[{"key":"x","kind":"finish","title":"End","finish":{"message":"Done."}}]}`
	for _, c := range []struct {
		name          string
		before, after []edition.Document
		says          string
	}{
		{"nothing", []edition.Document{object(serial)}, []edition.Document{object(serial)}, ""},
		{"only the order of members", []edition.Document{object(serial)}, []edition.Document{object(`{"label":"Serial","type":"text","key":"serial"}`)}, ""},
		{"an object added", nil, []edition.Document{object(serial)}, "Lift added: A table is made"},
		{"an object removed", []edition.Document{object(serial)}, nil, "Lift removed: Its records are hidden, not lost."},
		{"a field added", []edition.Document{object(serial)}, []edition.Document{object(serial + `,{"key":"stops","label":"Stops","type":"whole_number"}`)}, "field Stops added: A column for Stops is added; it is empty"},
		{"a field added with a default", []edition.Document{object(serial)}, []edition.Document{object(serial + `,{"key":"stops","label":"Stops","type":"whole_number","required":true,"default":2}`)}, "the records there are get its default"},
		{"a field removed", []edition.Document{object(serial + `,{"key":"stops","label":"Stops","type":"whole_number"}`)}, []edition.Document{object(serial)}, "The column of Stops is hidden, not lost."},
		{"a field renamed", []edition.Document{object(serial)}, []edition.Document{object(`{"key":"number","was":["serial"],"label":"Serial","type":"text"}`)}, "field Serial has the key number, which was serial: field Serial changed: The column serial is renamed to number."},
		{"an object renamed", []edition.Document{object(serial)}, []edition.Document{{Kind: edition.ObjectDocument, Key: "hoist", Body: json.RawMessage(strings.Replace(string(object(serial).Body), `"key":"lift"`, `"key":"hoist","was":["lift"]`, 1))}}, "Lift changed: the key hoist, which was lift: The table lift is renamed to hoist."},
		{"a choice renamed", []edition.Document{object(serial + `,{"key":"kind","label":"Kind","type":"choice","choices":[{"key":"a","label":"A"}]}`)}, []edition.Document{object(serial + `,{"key":"kind","label":"Kind","type":"choice","choices":[{"key":"b","was":["a"],"label":"A"}]}`)}, "Stored values of Kind get their new keys."},
		{"another type", []edition.Document{object(serial)}, []edition.Document{object(`{"key":"serial","label":"Serial","type":"whole_number"}`)}, "is converted from text to whole number"},
		{"needed and unique", []edition.Document{object(serial)}, []edition.Document{object(`{"key":"serial","label":"Serial","type":"text","required":true,"unique":true}`)}, "Serial becomes required.: Serial becomes unique."},
		{"a step changed", []edition.Document{walk(steps)}, []edition.Document{walk(strings.Replace(steps, "Done.", "Well done.", 1))}, "step “End” changed"},
		{"a step removed, one added", []edition.Document{walk(steps)}, []edition.Document{walk(strings.ReplaceAll(strings.Replace(steps, `"x"`, `"y"`, 1), "End", "Other end"))}, "step “Other end” added: step “End” removed"},
		{"who may start it", []edition.Document{walk(steps)}, []edition.Document{walk(strings.Replace(steps, `["a"]`, `["b"]`, 1))}, "b may start it now: a may not start it any more"},
		{"a walkthrough added", nil, []edition.Document{walk(steps)}, "Walk added: a may start it now"},
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
