package act

import (
	"bytes"
	"encoding/json"
	"fmt"
	"regexp"

	"plainpath/core/definition"
)

// Until version 24 of the database what a button did was written in a way of its own: its lines were
// not the acts of walkthroughs. What was written so is read by putting it into acts.

// Earlier puts what buttons of a document did into acts. A document that has none, or was written in
// acts, stays as it is.
func Earlier(body json.RawMessage) (json.RawMessage, error) {
	if !bytes.Contains(body, []byte(`"do"`)) {
		return body, nil
	}
	return rewritten(body, inActs)
}

func rewritten(body json.RawMessage, by func(any) any) (json.RawMessage, error) {
	d := json.NewDecoder(bytes.NewReader(body))
	d.UseNumber()
	var tree any
	if err := d.Decode(&tree); err != nil {
		return nil, fmt.Errorf("reading what buttons do: %w", err)
	}
	var out bytes.Buffer
	e := json.NewEncoder(&out)
	e.SetEscapeHTML(false)
	err := e.Encode(by(tree))
	return bytes.TrimSpace(out.Bytes()), err
}

// inActs puts all lines below a value into acts.
func inActs(v any) any {
	switch x := v.(type) {
	case []any:
		for i := range x {
			x[i] = inActs(x[i])
		}
	case map[string]any:
		for name, member := range x {
			x[name] = inActs(member)
			if lines, ok := member.([]any); ok && name == "do" {
				x[name] = allInAct(lines)
			}
		}
	}
	return v
}

func allInAct(lines []any) any {
	for i := range lines {
		lines[i] = inAct(lines[i])
	}
	return lines
}

// inAct puts one line into an act.
func inAct(v any) any {
	l, ok := v.(map[string]any)
	if !ok {
		return v
	}
	pick := func(kind Kind, member string, names map[string]string) any {
		settings := map[string]any{}
		for from, to := range names {
			if held, has := l[from]; has {
				settings[to] = held
			}
		}
		return map[string]any{"kind": string(kind), member: settings}
	}
	switch l["kind"] {
	case "change":
		if _, is := l["change"].(map[string]any); !is {
			return pick(ChangeAct, "change", map[string]string{"change": "values"})
		}
	case "walkthrough":
		return pick(RunAct, "run", map[string]string{"walkthrough": "walkthrough", "dialog": "dialog", "hand": "hand"})
	case "record":
		return map[string]any{"kind": string(OpenAct)}
	case "link":
		return map[string]any{"kind": string(CopyLinkAct)}
	case "out":
		return pick(DownloadAct, "download", map[string]string{"format": "format"})
	case "message":
		return pick(SayAct, "say", map[string]string{"message": "text"})
	}
	return v
}

// The places in documents whose values are lines, and where their settings went.
var (
	atLine = regexp.MustCompile(`/do/(\d+|-)$`)
	atDo   = regexp.MustCompile(`/do$`)
	inLine = []struct {
		from *regexp.Regexp
		to   string
	}{
		{regexp.MustCompile(`(/do/\d+)/change(/(?:\d+|-)(?:/.*)?)?$`), "$1/change/values$2"},
		{regexp.MustCompile(`(/do/\d+)/(walkthrough|dialog|hand)((?:/.*)?)$`), "$1/run/$2$3"},
		{regexp.MustCompile(`(/do/\d+)/format$`), "$1/download/format"},
		{regexp.MustCompile(`(/do/\d+)/message$`), "$1/say/text"},
	}
)

// EarlierPatch puts an edit of a document that was made before into one of the document in acts.
func EarlierPatch(patch []definition.Op) error {
	for i := range patch {
		op := &patch[i]
		if len(op.Value) > 0 {
			by := inActs
			switch {
			case atLine.MatchString(op.Path):
				by = inAct
			case atDo.MatchString(op.Path):
				by = func(v any) any {
					if lines, ok := v.([]any); ok {
						return allInAct(lines)
					}
					return v
				}
			}
			var err error
			if op.Value, err = rewritten(op.Value, by); err != nil {
				return err
			}
		}
		op.Path, op.From = inActsAt(op.Path), inActsAt(op.From)
	}
	return nil
}

func inActsAt(path string) string {
	for _, l := range inLine {
		if l.from.MatchString(path) {
			return l.from.ReplaceAllString(path, l.to)
		}
	}
	return path
}
