package act

import (
	"context"
	"encoding/json"
	"fmt"
	"strings"

	"plainpath/core/definition"
	"plainpath/core/expr"
	"plainpath/core/model"
	"plainpath/core/records"
	"plainpath/core/value"
)

// Open opens a record, a page with values handed over, or an address on the web.
type Open struct {
	// Record is an expression that gives the record; without it and without a page, the row a button is about.
	Record string `json:"record,omitempty"`
	// Edit says that the record opens to be changed.
	Edit bool `json:"edit,omitempty"`
	// Page is the page that is opened, Hand what it is handed.
	Page string    `json:"page,omitempty"`
	Hand []Handing `json:"hand,omitempty"`
	// Beside says that the page opens beside what is there, which stays.
	Beside bool `json:"beside,omitempty"`
	// Link is an address on the web, with values in braces, that opens beside what is there.
	Link string `json:"link,omitempty"`
}

type openPlan struct {
	basis
	rows   string
	edit   bool
	record *expr.Program // nil for the row
}

func checkOpen(c *check, a *Act, at string) Plan {
	if a.Open != nil && a.Open.Edit && (a.Open.Page != "" || a.Open.Link != "") {
		c.Find(definition.Stop, at+"/open/edit", "only a record opens to be changed", "It would open as it is.",
			&definition.Mend{Label: "Just open it", Patch: []definition.Op{{Op: "remove", Path: at + "/open/edit"}}})
		return nil
	}
	if a.Open != nil && a.Open.Page != "" {
		return c.openPage(a.Open, at+"/open")
	}
	if a.Open != nil && a.Open.Link != "" {
		return c.openLink(a.Open, at+"/open")
	}
	var source string
	if a.Open != nil {
		source = a.Open.Record
	}
	if !c.row() && (c.Rows != "" || source == "") {
		c.Find(definition.Stop, at, "a record is opened from one row", "It would not be known which.", nil)
		return nil
	}
	p := &openPlan{rows: c.Rows, edit: a.Open != nil && a.Open.Edit}
	if source == "" {
		return p
	}
	pointer := at + "/open/record"
	program := c.RecordOrList(c.Scope, false, source, pointer, "Nothing would open.")
	if program == nil {
		return nil
	}
	p.record, p.uses = program, program.Uses
	return p
}

// Do opens it, where the person may still see it.
func (p *openPlan) Do(ctx context.Context, u records.Writer, in In) (Done, error) {
	if p.record == nil {
		keys, err := records.Keys(ctx, u, in.Rows)
		if err != nil || len(keys) == 0 {
			return Done{}, err
		}
		return p.opened(p.rows, keys[0]), nil
	}
	values, err := rowKnown(ctx, u, in, p.rows, p.record.Uses)
	if err != nil || values == nil {
		return Done{}, err
	}
	v, err := p.record.Eval(values)
	rec, ok := v.(*value.Record)
	if err != nil || !ok || rec == nil {
		return Done{Effects: []Effect{{Kind: SayAct, Message: expr.Say("There is none to open.")}}}, err
	}
	return p.opened(p.record.Type.Object, rec.ID), nil
}

func (p *openPlan) opened(object string, key int64) Done {
	return Done{Effects: []Effect{{Kind: OpenAct, Object: object, Record: key, Edit: p.edit}}}
}

// openPagePlan opens a page.
type openPagePlan struct {
	basis
	*Open
	handings
}

func (c *check) openPage(def *Open, at string) Plan {
	if def.Record != "" {
		c.Find(definition.Stop, at+"/record", "a page is opened, and not a record", "The record would not open.",
			&definition.Mend{Label: "Open the page", Patch: []definition.Op{{Op: "remove", Path: at + "/record"}}})
		return nil
	}
	h := c.handings(definition.Page, def.Page, def.Hand, at, "The page would open without it.")
	return &openPagePlan{basis{uses: h.uses()}, def, h}
}

// Do opens the page with what it is handed.
func (p *openPagePlan) Do(ctx context.Context, u records.Writer, in In) (Done, error) {
	effect := Effect{Kind: OpenAct, Page: p.Page, Beside: p.Beside}
	var err error
	effect.Hand, err = p.handed(ctx, u, in)
	return Done{Effects: []Effect{effect}}, err
}

// openLinkPlan opens an address on the web.
type openLinkPlan struct {
	basis
	rows string
	link *expr.Template
}

func (c *check) openLink(def *Open, at string) Plan {
	link := c.Text(c.Scope, def.Link, at+"/link", "Nothing would open.")
	if link == nil {
		return nil
	}
	if !strings.HasPrefix(def.Link, "{") && !webAddress(strings.ReplaceAll(def.Link, "{", "")) {
		c.Find(definition.Stop, at+"/link", "this does not begin like a web address, such as https://company.example",
			"Nothing would open.", nil)
		return nil
	}
	return &openLinkPlan{basis{uses: link.Uses}, c.Rows, link}
}

func webAddress(text string) bool {
	link := model.Field{Type: model.WebLink}
	return link.CheckValue(value.Text(text)) == nil
}

// Do opens the address, or says what is wrong with it.
func (p *openLinkPlan) Do(ctx context.Context, u records.Writer, in In) (Done, error) {
	values, err := rowKnown(ctx, u, in, p.rows, p.uses)
	if err != nil || values == nil && len(p.uses) > 0 {
		return Done{}, err
	}
	link, err := p.link.Address(values)
	if err != nil {
		return Done{}, err
	}
	if !webAddress(link) {
		text := fmt.Sprintf("%q is not a web address and was not opened.", link)
		if link == "" {
			text = "There is no web address to open."
		}
		return Done{Effects: []Effect{{Kind: SayAct, Message: expr.Say(text), As: ToneCare}}}, nil
	}
	return Done{Effects: []Effect{{Kind: OpenAct, Link: link}}}, nil
}

// handings are values that are handed over, checked.
type handings struct {
	rows string
	hand []*expr.Program
	to   []string
}

// handings checks what another document is handed that an act runs or opens.
func (c *check) handings(kind definition.Kind, key string, hand []Handing, at, consequence string) handings {
	out := handings{rows: c.Rows}
	var handed []definition.Handed
	defer func() {
		if key != "" {
			c.Opens(kind, key, at, handed)
		}
	}()
	for i, h := range hand {
		pointer := fmt.Sprintf("%s/hand/%d/value", at, i)
		program := c.Expression(c.Scope, h.Value, pointer, consequence)
		if program == nil {
			handed = append(handed, definition.Handed{To: h.To})
			continue
		}
		handed = append(handed, definition.Handed{To: h.To, Type: &program.Type})
		out.hand, out.to = append(out.hand, program), append(out.to, h.To)
		if c.Rows != "" && !c.One && namesRow(program.Uses) {
			c.Find(definition.Care, pointer, "the button is about the rows chosen, but one is handed over",
				"With several rows chosen it would not be known which is meant, and nothing would open.",
				definition.Replace("Let it be about one row", c.Outset+"/on", "one"))
		}
	}
	return out
}

func (h handings) uses() [][]string {
	var out [][]string
	for _, p := range h.hand {
		out = append(out, p.Uses...)
	}
	return out
}

// handed are the values as they travel; nil when the row is not there any more.
func (h handings) handed(ctx context.Context, u records.Writer, in In) (map[string]json.RawMessage, error) {
	values, err := rowKnown(ctx, u, in, h.rows, h.uses())
	if err != nil || values == nil && len(h.hand) > 0 { // by now the person may not see the row any more
		return nil, err
	}
	out := map[string]json.RawMessage{}
	for i, p := range h.hand {
		v, err := p.Eval(values)
		if err != nil {
			return nil, fmt.Errorf("handing over %s: %w", h.to[i], err)
		}
		wire, err := records.Wire(v)
		if err == nil {
			out[h.to[i]], err = json.Marshal(wire)
		}
		if err != nil {
			return nil, fmt.Errorf("handing over %s: %w", h.to[i], err)
		}
	}
	return out, nil
}
