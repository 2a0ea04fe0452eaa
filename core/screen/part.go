// Package screen is the common ground of a walkthrough's screen and a page: parts in bands,
// checked, shown and accepted. Each kind of part is an entry of one list.
package screen

import (
	"cmp"
	"context"
	"encoding/json"
	"slices"

	"plainpath/core/expr"
	"plainpath/core/model"
	"plainpath/core/records"
	"plainpath/core/table"
	"plainpath/core/value"
)

// PartKind says what a part is.
type PartKind string

// The kinds of parts.
const (
	InputPart    PartKind = "input"
	TablePart    PartKind = "table"
	DetailsPart  PartKind = "details"
	LinesPart    PartKind = "lines"
	EntriesPart  PartKind = "entries"
	TextPart     PartKind = "text"
	ButtonPart   PartKind = "button"
	FormPart     PartKind = "form"
	HistoryPart  PartKind = "history"
	FigurePart   PartKind = "figure"
	ChartPart    PartKind = "chart"
	CardsPart    PartKind = "cards"
	CalendarPart PartKind = "calendar"
	ViewerPart   PartKind = "viewer"
	PicturePart  PartKind = "picture"
	PlacePart    PartKind = "place"
	FinderPart   PartKind = "finder"
	MenuPart     PartKind = "menu"
)

// Part is one thing on a surface. The member named like its kind says the rest.
type Part struct {
	Key string `json:"key"`
	// Was are earlier keys, by which arrangements of its table were kept.
	Was   []string `json:"was,omitempty"`
	Kind  PartKind `json:"kind"`
	Label string   `json:"label,omitempty"`
	// OfferedWhen is the condition, in CEL, under which the part is there.
	OfferedWhen string       `json:"offered_when,omitempty"`
	Text        string       `json:"text,omitempty"`
	Input       *Input       `json:"input,omitempty"`
	Table       *table.Table `json:"table,omitempty"`
	Details     *Details     `json:"details,omitempty"`
	Lines       *Lines       `json:"lines,omitempty"`
	Entries     *Entries     `json:"entries,omitempty"`
	Button      *PressButton `json:"button,omitempty"`
	Form        *Form        `json:"form,omitempty"`
	History     *History     `json:"history,omitempty"`
	Figure      *Figure      `json:"figure,omitempty"`
	Chart       *Chart       `json:"chart,omitempty"`
	Cards       *table.Cards `json:"cards,omitempty"`
	Calendar    *Calendar    `json:"calendar,omitempty"`
	Viewer      *Viewer      `json:"viewer,omitempty"`
	Picture     *Viewer      `json:"picture,omitempty"`
	Place       *Viewer      `json:"place,omitempty"`
	Finder      *Finder      `json:"finder,omitempty"`
	Menu        *Menu        `json:"menu,omitempty"`
}

// Title is what people call the part.
func (p *Part) Title() string { return cmp.Or(p.Label, p.Key) }

// PartView is a part as a person sees it, with its values.
type PartView struct {
	Key   string   `json:"key"`
	Kind  PartKind `json:"kind"`
	Label string   `json:"label,omitempty"`
	// Text is what a text says.
	Text  expr.Sentence `json:"text,omitempty"`
	Input *Input        `json:"input,omitempty"`
	// Value is what an input holds at first.
	Value    any               `json:"value,omitempty"`
	Table    *table.View       `json:"table,omitempty"`
	Details  []DetailView      `json:"details,omitempty"`
	Lines    *LinesView        `json:"lines,omitempty"`
	Entries  *Entries          `json:"entries,omitempty"`
	Button   *PressButton      `json:"button,omitempty"`
	Form     *FormPartView     `json:"form,omitempty"`
	History  *HistoryPartView  `json:"history,omitempty"`
	Figure   *FigurePartView   `json:"figure,omitempty"`
	Chart    *ChartPartView    `json:"chart,omitempty"`
	Cards    *table.CardsView  `json:"cards,omitempty"`
	Calendar *CalendarPartView `json:"calendar,omitempty"`
	Viewer   *FilePartView     `json:"viewer,omitempty"`
	Picture  *FilePartView     `json:"picture,omitempty"`
	Place    *PlacePartView    `json:"place,omitempty"`
	Finder   *Finder           `json:"finder,omitempty"`
	Menu     *Menu             `json:"menu,omitempty"`
	// Waiting is what the part waits for; it shows nothing yet.
	Waiting *Waiting `json:"waiting,omitempty"`
	// Refused is why nothing can be shown, in words.
	Refused string `json:"refused,omitempty"`
	// Same says that the part is as it was and the rest is left out.
	Same bool `json:"same,omitempty"`
	// Lost says that an earlier choice no longer holds and must be made again.
	Lost string `json:"lost,omitempty"`
}

// partKind is all that a surface knows of one kind of part.
type partKind struct {
	kind PartKind
	// set says whether a definition has the member that is named like the kind.
	set func(*Part) bool
	// check makes what is shown of a definition, whose member at points at; nil where it cannot be shown.
	check func(c *compiler, p *part, at string) content
}

// partKinds are the kinds of parts there are, in the order a builder is offered them.
var partKinds = []partKind{inputKind, entriesKind, tableKind, cardsKind, formKind, detailsKind, linesKind, historyKind,
	figureKind, chartKind, calendarKind, viewerKind, pictureKind, placeKind, textKind, buttonKind, finderKind, menuKind}

// PartKinds are the kinds of parts there are.
func PartKinds() []PartKind {
	out := make([]PartKind, len(partKinds))
	for i, k := range partKinds {
		out[i] = k.kind
	}
	return out
}

// kindOf is what is known of a kind, nil where there is no such kind.
func kindOf(kind PartKind) *partKind {
	at := slices.IndexFunc(partKinds, func(k partKind) bool { return k.kind == kind })
	if at < 0 {
		return nil
	}
	return &partKinds[at]
}

// content is a checked part of a kind.
type content interface {
	show(ctx context.Context, r records.Reader, values expr.Values, g Given, view *PartView) error
}

// giver is a part that gives something out.
type giver interface {
	content
	// take makes a value of what was given for the part on a screen, or says what is wrong with it.
	take(ctx context.Context, r records.Reader, values expr.Values, t taking) (value.Value, string, error)
	knower
}

// knower is a part of which something is known on a page.
type knower interface {
	// know makes known what the part gives out on a page, as far as it is used.
	know(ctx context.Context, r records.Reader, values expr.Values, g Given, used Used) error
}

// taking is what was given for a part, and what is to be read of it. What is fresh is held to what it may
// be now.
type taking struct {
	raw    json.RawMessage
	fields []model.Path
	rows   table.Taker
	fresh  bool
}
