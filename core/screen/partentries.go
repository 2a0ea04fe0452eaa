package screen

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"

	"plainpath/core/definition"
	"plainpath/core/expr"
	"plainpath/core/records"
	"plainpath/core/table"
	"plainpath/core/value"
)

// Entries are rows that a person types in, as many as there are.
type Entries struct {
	// Ask is what each row asks for.
	Ask []table.Asked `json:"ask"`
	// Least and Most bound the number of rows; without them it is any number.
	Least int    `json:"least,omitempty"`
	Most  int    `json:"most,omitempty"`
	Help  string `json:"help,omitempty"`
}

var entriesKind = partKind{EntriesPart, func(def *Part) bool { return def.Entries != nil }, checkEntries}

type entries struct{ *Part }

// mostEntries is how many rows can be typed in.
const mostEntries = 1000

func checkEntries(c *compiler, p *part, at string) content {
	def := p.Entries
	known := table.CheckAsked(c.Check, def.Ask, nil, at+"/ask")
	switch {
	case len(def.Ask) == 0:
		c.Find(definition.Stop, at+"/ask", "the rows ask for nothing", "There would be nothing to fill in.", nil)
		return nil
	case def.Least < 0 || def.Most < 0 || def.Most > 0 && def.Least > def.Most:
		c.Find(definition.Stop, at+"/least", fmt.Sprintf("at least %d and at most %d rows cannot be asked for", def.Least,
			def.Most), "The person could not go on.",
			&definition.Mend{Label: "Let there be any number", Patch: []definition.Op{{Op: "replace", Path: at,
				Value: must(Entries{Ask: def.Ask, Help: def.Help})}}})
		return nil
	}
	c.out.Answers = append(c.out.Answers, expr.Name{Key: p.Key, Label: p.Label, Of: p.at,
		Type: expr.Type{Kind: value.KindRows, Answers: known}})
	return &entries{p.Part}
}

// must is JSON of what can always be written.
func must(v Entries) json.RawMessage {
	raw, err := json.Marshal(v)
	if err != nil {
		return nil
	}
	return raw
}

func (p *entries) show(_ context.Context, _ records.Reader, _ expr.Values, g Given, view *PartView) error {
	view.Entries = p.Entries
	if earlier := g.Answers[p.Key]; earlier != nil {
		view.Value = earlier
	}
	return nil
}

// take makes rows of those in which something was typed.
func (p *entries) take(_ context.Context, _ records.Reader, _ expr.Values, t taking) (value.Value, string, error) {
	var given []map[string]json.RawMessage
	if raw := bytes.TrimSpace(t.raw); len(raw) > 0 && json.Unmarshal(raw, &given) != nil {
		return nil, "what was typed in the rows cannot be read", nil
	}
	if len(given) > mostEntries {
		return nil, fmt.Sprintf("more than %d rows are filled in", mostEntries), nil
	}
	rows := value.Rows{}
	for i, values := range given {
		if !table.Given(values) {
			continue
		}
		row := &value.Record{Fields: map[string]value.Value{}}
		if err := table.TakeAsked(p.Entries.Ask, values, row); err != nil {
			return nil, fmt.Sprintf("row %d: %s", i+1, err), nil
		}
		rows = append(rows, row)
	}
	switch {
	case len(rows) < p.Entries.Least:
		return nil, fmt.Sprintf("fill in at least %d", p.Entries.Least), nil
	case p.Entries.Most > 0 && len(rows) > p.Entries.Most:
		return nil, fmt.Sprintf("fill in at most %d rows; %d are filled in", p.Entries.Most, len(rows)), nil
	}
	return rows, "", nil
}

// know makes nothing known: rows are typed in on screens alone.
func (p *entries) know(context.Context, records.Reader, expr.Values, Given, Used) error { return nil }
