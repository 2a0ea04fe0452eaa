package act

import (
	"encoding/json"
	"testing"

	"plainpath/core/definition"
)

// What buttons did is the same in acts, wherever it stands, and an edit of it is one of the same place.
func TestWhatButtonsDidBeforeThereWereActs(t *testing.T) {
	for before, after := range map[string]string{
		`{"bands":[{"do":[{"kind":"change","change":[{"field":"a","value":{"literal":1}}]}]}]}`:                                                                                                                 `{"bands":[{"do":[{"change":{"values":[{"field":"a","value":{"literal":1}}]},"kind":"change"}]}]}`,
		`{"do":[{"kind":"walkthrough","walkthrough":"w","dialog":true,"hand":[{"to":"a","value":"b"}]},{"kind":"record"},{"kind":"link"},{"kind":"out","format":"csv"},{"kind":"message","message":"<Done>"}]}`: `{"do":[{"kind":"run","run":{"dialog":true,"hand":[{"to":"a","value":"b"}],"walkthrough":"w"}},{"kind":"open"},{"kind":"copy_link"},{"download":{"format":"csv"},"kind":"download"},{"kind":"say","say":{"text":"<Done>"}}]}`,
		`{"do":[{"kind":"change","change":{"values":[]}},{"kind":"add","add":{"object":"o","values":[]}}]}`:                                                                                                     `{"do":[{"change":{"values":[]},"kind":"change"},{"add":{"object":"o","values":[]},"kind":"add"}]}`,
		`{"label":"do","steps":[{"kind":"add"}]}`: `{"label":"do","steps":[{"kind":"add"}]}`,
		`{"do":12345678901234567890.10}`:          `{"do":12345678901234567890.10}`,
	} {
		got, err := Earlier(json.RawMessage(before))
		if err != nil || string(got) != after {
			t.Errorf("%s\n%s %v\nwant %s", before, got, err, after)
		}
		if again, err := Earlier(got); err != nil || string(again) != after {
			t.Errorf("a second time: %s %v", again, err)
		}
	}
	const b = "/bands/0/parts/1/table/buttons/2"
	for _, c := range []struct{ path, value, at, is string }{
		{b + "/do/0/change/0/value/literal", `5`, b + "/do/0/change/values/0/value/literal", `5`},
		{b + "/do/0/change/-", `{"field":"a"}`, b + "/do/0/change/values/-", `{"field":"a"}`},
		{b + "/do/0/change", `[{"field":"a"}]`, b + "/do/0/change/values", `[{"field":"a"}]`},
		{b + "/do/1/walkthrough", `"w"`, b + "/do/1/run/walkthrough", `"w"`},
		{b + "/do/1/hand/0/value", `"w"`, b + "/do/1/run/hand/0/value", `"w"`},
		{b + "/do/1/format", `"csv"`, b + "/do/1/download/format", `"csv"`},
		{b + "/do/1/message", `"x"`, b + "/do/1/say/text", `"x"`},
		{b + "/do/-", `{"kind":"link"}`, b + "/do/-", `{"kind":"copy_link"}`},
		{b + "/do", `[{"kind":"link"}]`, b + "/do", `[{"kind":"copy_link"}]`},
		{b, `{"do":[{"kind":"record"}]}`, b, `{"do":[{"kind":"open"}]}`},
		{"/steps/0/add/values/0/field", `"change"`, "/steps/0/add/values/0/field", `"change"`},
	} {
		patch := []definition.Op{{Op: "replace", Path: c.path, Value: json.RawMessage(c.value)},
			{Op: "remove", Path: c.path}}
		if err := EarlierPatch(patch); err != nil || patch[0].Path != c.at || string(patch[0].Value) != c.is ||
			patch[1].Path != c.at || patch[1].Value != nil {
			t.Errorf("%s: %+v %v", c.path, patch, err)
		}
	}
}
