package table

import (
	"context"
	"encoding/base64"
	"encoding/json"
	"fmt"
	"slices"
	"strconv"

	"github.com/shopspring/decimal"

	"plainpath/core/expr"
	"plainpath/core/predicate"
	"plainpath/core/query"
	"plainpath/core/records"
	"plainpath/core/value"
)

// CardsView is a list of cards as a person sees it, with the first of them.
type CardsView struct {
	Shown   string           `json:"shown"`
	Nothing string           `json:"nothing,omitempty"`
	Sources []CardSourceView `json:"sources"`
	Cards   CardsPage        `json:"cards"`
}

// CardSourceView is one of the lists as a person sees it.
type CardSourceView struct {
	Key     string        `json:"key"`
	Label   string        `json:"label"`
	Object  string        `json:"object"`
	Columns []HeadingView `json:"columns"`
	// By is the place of what orders it among the columns.
	By      int          `json:"by"`
	Faces   []FaceView   `json:"faces"`
	Buttons []ButtonView `json:"buttons,omitempty"`
}

// FaceView says where on a card the cells of a record stand, by their places among the columns.
type FaceView struct {
	Heading int        `json:"heading"`
	Picture *int       `json:"picture,omitempty"`
	Marks   []int      `json:"marks"`
	Lines   []LineView `json:"lines"`
	// Press is the button that pressing the card presses; without it the record opens.
	Press string `json:"press,omitempty"`
}

// LineView is a line of a card.
type LineView struct {
	Column int    `json:"column"`
	Label  string `json:"label,omitempty"`
}

// CardsPage is some cards, in order.
type CardsPage struct {
	Cards []CardView `json:"cards"`
	// Next continues behind them; empty at the end.
	Next string `json:"next,omitempty"`
	// Reads are the objects whose records it looks at.
	Reads []string `json:"reads"`
}

// CardView is a record on a card: of which list, how it looks, and its cells.
type CardView struct {
	Source int   `json:"source"`
	Face   int   `json:"face"`
	ID     int64 `json:"id"`
	// Label is what the record is called.
	Label string `json:"label"`
	Cells []any  `json:"cells"`
}

// CardsAsk asks for some cards.
type CardsAsk struct {
	After string `json:"after,omitempty"`
	// Only are the keys of lists; none means all.
	Only []string `json:"only,omitempty"`
	// Size is how many are read at once; nought is as usual.
	Size int `json:"size,omitempty"`
}

// Show shows the cards with the first of them.
func (p *CardsProgram) Show(ctx context.Context, r records.Reader, values expr.Values) (*CardsView, error) {
	out := &CardsView{Shown: p.Shown, Nothing: p.Nothing, Sources: make([]CardSourceView, len(p.sources))}
	if out.Shown == "" {
		out.Shown = ShownCards
	}
	for i, s := range p.sources {
		out.Sources[i] = CardSourceView{Key: s.CardSource.Key, Label: s.Label, Object: s.object,
			Columns: s.headings.Views(), By: s.by, Faces: s.faces, Buttons: s.buttonViews(r.Person())}
	}
	var err error
	out.Cards, err = p.Page(ctx, r, values, CardsAsk{})
	return out, err
}

// Listing is the first of the lists, by which the cards of all can be asked for.
func (p *CardsProgram) Listing(ctx context.Context, r records.Reader, values expr.Values) (*Listing, error) {
	l, err := p.sources[0].Listing(ctx, r, values)
	if err == nil {
		l.cards = p
	}
	return l, err
}

// Cards reads some of the cards that the list is the first of.
func (l *Listing) Cards(ctx context.Context, r records.Reader, ask CardsAsk) (CardsPage, error) {
	if l.cards == nil {
		return CardsPage{}, wrongLook("This is no list of cards.")
	}
	return l.cards.Page(ctx, r, l.values, ask)
}

// place is where reading stands in each of the lists, by their keys: behind which record, or at the end.
type place map[string]query.Cursor

func parsePlace(after string) (place, error) {
	if after == "" {
		return place{}, nil
	}
	raw, err := base64.RawURLEncoding.DecodeString(after)
	var out place
	if err == nil {
		err = json.Unmarshal(raw, &out)
	}
	if err != nil || len(after) > mostPlace {
		return nil, query.ErrBadCursor
	}
	return out, nil
}

func (p place) String() string {
	raw, _ := json.Marshal(map[string]query.Cursor(p))
	return base64.RawURLEncoding.EncodeToString(raw)
}

// Page reads the cards behind a place. Each list is read in its own order behind where reading stands in it, and the
// first of all of them are taken: a merge of sorted lists. A list whose place is lost is at its end.
func (p *CardsProgram) Page(ctx context.Context, r records.Reader, values expr.Values, ask CardsAsk) (CardsPage,
	error) {
	out := CardsPage{Cards: []CardView{}, Reads: []string{}}
	at, err := parsePlace(ask.After)
	if err != nil {
		return out, err
	}
	size := PageSize
	if ask.Size > 0 {
		size = min(ask.Size, MostPageSize)
	}
	var lists []*sorted
	for i, s := range p.sources {
		cursor, begun := at[s.CardSource.Key]
		if len(ask.Only) > 0 && !slices.Contains(ask.Only, s.CardSource.Key) || ask.After != "" && !begun {
			continue
		}
		list, err := s.read(ctx, r, values, p.Desc, cursor, size+1)
		if err != nil {
			return out, fmt.Errorf("reading %q: %w", s.Label, err)
		}
		list.source = i
		lists = append(lists, list)
		out.Reads = append(out.Reads, list.page.Reads...)
	}
	slices.Sort(out.Reads)
	out.Reads = slices.Compact(out.Reads)
	for len(out.Cards) < size {
		first := foremost(lists, p.Desc)
		if first == nil {
			return out, nil
		}
		card, err := p.sources[first.source].card(first, r)
		if err != nil {
			return out, err
		}
		out.Cards = append(out.Cards, card)
		first.taken++
	}
	if foremost(lists, p.Desc) == nil {
		return out, nil
	}
	next := place{}
	for _, l := range lists {
		key := p.sources[l.source].CardSource.Key
		switch {
		case l.taken == len(l.page.Records): // not to be read again
		case l.taken == 0:
			next[key] = at[key]
		default:
			if next[key], err = l.page.After(l.taken - 1); err != nil {
				return out, err
			}
		}
	}
	out.Next = next.String()
	return out, nil
}

// sorted is what was read of a list, in its order.
type sorted struct {
	source  int
	listing *Listing
	page    records.Page
	by      []value.Value
	// taken is how many of it are cards.
	taken int
}

// read reads some of a list behind a place.
func (s *cardSource) read(ctx context.Context, r records.Reader, values expr.Values, desc bool, after query.Cursor,
	size int) (*sorted, error) {
	l, err := s.Listing(ctx, r, values)
	if err != nil {
		return nil, err
	}
	by := s.headings[s.by].path
	v, err := l.look(r, Look{Order: []LookOrder{{Path: by.String(), Desc: desc}}})
	if err != nil {
		return nil, err
	}
	v.query.After, v.query.Limit = after, size
	out := &sorted{listing: l}
	for _, m := range l.marks {
		v.query.Columns = append(v.query.Columns, m.paths...)
	}
	if out.page, err = r.Select(ctx, v.query); err != nil {
		return nil, err
	}
	for _, rec := range out.page.Records {
		out.by = append(out.by, merging(predicate.Follow(rec, by), r))
	}
	return out, nil
}

// merging is a value as those of other lists can be compared with it: a date is when it begins where the person is.
func merging(v value.Value, r records.Reader) value.Value {
	switch x := v.(type) {
	case value.Date:
		return value.NewInstant(x.In(r.Zone()))
	case value.Whole:
		return value.Decimal{Decimal: decimal.NewFromInt(int64(x))}
	case value.Instant, value.Decimal:
		return v
	}
	return nil // one that failed has no place
}

// foremost is the list whose next record comes first; among equals the earlier list's. Those without a value come
// last.
func foremost(lists []*sorted, desc bool) *sorted {
	var first *sorted
	for _, l := range lists {
		if l.taken == len(l.page.Records) {
			continue
		}
		if first == nil || before(l.by[l.taken], first.by[first.taken], desc) {
			first = l
		}
	}
	return first
}

func before(a, b value.Value, desc bool) bool {
	if a == nil || b == nil {
		return a != nil
	}
	order, _ := value.Compare(a, b)
	if desc {
		order = -order
	}
	return order < 0
}

// card is the next record of a list.
func (s *cardSource) card(l *sorted, r records.Reader) (CardView, error) {
	rec := l.page.Records[l.taken]
	out := CardView{Source: l.source, Face: s.otherwise, ID: rec.ID, Label: rec.Label,
		Cells: row(rec, s.headings.Paths()).Cells}
	marks, err := l.listing.marked(rec)
	if err == nil && len(marks) > 0 { // the first that holds
		out.Face, err = strconv.Atoi(marks[0].Says)
	}
	return out, err
}
