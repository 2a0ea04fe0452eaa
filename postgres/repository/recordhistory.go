package repository

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"time"

	"github.com/jmoiron/sqlx"

	"plainpath/core/model"
	"plainpath/core/records"
	"plainpath/core/table"
	"plainpath/core/value"
	"plainpath/postgres"
	"plainpath/postgres/sqlgen"
)

// HistoryAsk says which part of the history of a record is asked for: what happened before an entry, of changes those
// of one field.
type HistoryAsk struct {
	Before int64
	Field  string
}

// HistoryPage is a part of the history of a record, the latest first.
type HistoryPage struct {
	Entries []HistoryView `json:"entries"`
	// More says that there is more before the last entry.
	More bool `json:"more"`
	// Fields are those whose changes the person may see.
	Fields []table.HeadingView `json:"fields"`
}

// HistoryView is one thing that happened to a record.
type HistoryView struct {
	ID      int64           `db:"id" json:"id"`
	At      time.Time       `db:"at" json:"at"`
	Person  string          `db:"person" json:"person"`
	Action  string          `db:"action" json:"action"`
	Through string          `db:"through" json:"through"`
	Changes []HistoryChange `json:"changes"`
}

// HistoryChange is what became of one field.
type HistoryChange struct {
	Heading table.HeadingView `json:"heading"`
	Before  any               `json:"before"`
	After   any               `json:"after"`
}

// mostHistory is how many things that happened to a record are read at a time.
const mostHistory = 50

// History reads what happened to a record that the person may see, the latest first: of changes, what the fields that
// they may see were and became.
func (s *Repositories) History(ctx context.Context, p postgres.Caller, object string, id int64,
	ask HistoryAsk) (HistoryPage, error) {
	out := HistoryPage{Fields: []table.HeadingView{}}
	d, o, err := s.Of(ctx, p, object)
	if err != nil {
		return out, err
	}
	if _, err := d.Record(ctx, o, id, nil); err != nil {
		return out, err
	}
	grant, err := d.Grant(o.Key)
	if err != nil {
		return out, err
	}
	for i := range o.Fields {
		if f := &o.Fields[i]; f.Stored() && f.Type != model.Number && grant.SeesField(f.Key) {
			h := table.HeadingOf(model.Path{Fields: []*model.Field{f}}, f.Label)
			h.Path = f.Key
			out.Fields = append(out.Fields, h)
		}
	}
	var keys []string
	if f := o.Field(ask.Field); ask.Field != "" {
		if f == nil || !grant.SeesField(f.Key) {
			return out, fmt.Errorf("field %q: %w", ask.Field, postgres.ErrNotFound)
		}
		for _, key := range append([]string{f.Key}, f.Was...) {
			keys = append(keys, key, key+"_currency")
		}
	}
	if out.Entries, err = d.history(ctx, o, id, ask.Before, keys); err != nil {
		return out, err
	}
	if out.More = len(out.Entries) > mostHistory; out.More {
		out.Entries = out.Entries[:mostHistory]
	}
	return out, nil
}

// history reads one more than is shown at a time; where there are keys, only changes of those.
func (d *Repository) history(ctx context.Context, o *model.Object, id, before int64, keys []string) ([]HistoryView,
	error) {
	var rows []struct {
		HistoryView
		Before []byte `db:"before"`
		After  []byte `db:"after"`
	}
	err := sqlx.SelectContext(ctx, d.Db, &rows, fmt.Sprintf(`SELECT h.id, h.at, coalesce(who.name || ', as ', '') || coalesce(p.name, '') AS person, h.action,
		coalesce(h.cause->>'walkthrough', '') AS through, CASE WHEN h.action = 'change' THEN h.before END AS before,
			CASE WHEN h.action = 'change' THEN h.after END AS after
		FROM %s.history h LEFT JOIN plainpath.person p ON p.id = h.person
		LEFT JOIN plainpath.person who ON who.id = nullif(h.cause->>'by', '0')::bigint
		WHERE h.object = plainpath.history_name($1::regclass) AND h.record = $2 AND ($3 = 0 OR h.id < $3)
			AND ($4::text[] IS NULL OR h.action = 'change' AND EXISTS (SELECT FROM unnest($4::text[]) k WHERE (h.before -> k) IS DISTINCT FROM (h.after -> k)))
		ORDER BY h.id DESC LIMIT %d`, sqlgen.Quote(d.Schema), mostHistory+1), d.Space().Table(o.Key), id, before, keys)
	if err != nil {
		return nil, fmt.Errorf("reading the history: %w", err)
	}
	grant, err := d.Grant(o.Key)
	if err != nil {
		return nil, err
	}
	out := make([]HistoryView, len(rows))
	var named []*value.Record
	for i, r := range rows {
		out[i] = r.HistoryView
		out[i].Changes = []HistoryChange{}
		if w := d.Edition.Walkthroughs[r.Through]; w != nil {
			out[i].Through = w.Def.Label
		}
		var before, after map[string]json.RawMessage
		if r.Before == nil || json.Unmarshal(r.Before, &before) != nil || json.Unmarshal(r.After, &after) != nil {
			continue
		}
		for n := range o.Fields {
			f := &o.Fields[n]
			if !grant.SeesField(f.Key) || f.Type == model.Number {
				continue
			}
			was, is := heldIn(before, f), heldIn(after, f)
			if bytes.Equal(was, is) {
				continue
			}
			c := HistoryChange{Heading: table.HeadingOf(model.Path{Fields: []*model.Field{f}}, f.Label)}
			for _, side := range []struct {
				raw json.RawMessage
				to  *any
			}{{was, &c.Before}, {is, &c.After}} {
				v, err := value.Parse(f.Kind(), side.raw)
				if err != nil { // the field was of another type then
					v = value.Text(bytes.Trim(side.raw, `"`))
				}
				if r, ok := v.(*value.Record); ok {
					r.Object = f.Target()
					named = append(named, r)
					*side.to = r
					continue
				}
				*side.to = value.Wire(v)
			}
			out[i].Changes = append(out[i].Changes, c)
		}
	}
	if err := d.label(ctx, named); err != nil {
		return nil, err
	}
	for _, h := range out {
		for i := range h.Changes {
			for _, side := range []*any{&h.Changes[i].Before, &h.Changes[i].After} {
				if r, ok := (*side).(*value.Record); ok {
					*side = value.Wire(r)
				}
			}
		}
	}
	return out, nil
}

// heldIn is what a field held, by its key or one it had, as JSON that value.Parse reads.
func heldIn(row map[string]json.RawMessage, f *model.Field) json.RawMessage {
	key := f.Key
	for _, was := range f.Was {
		if _, there := row[key]; !there {
			key = was
		}
	}
	raw := row[key]
	if len(raw) == 0 || string(raw) == "null" {
		return nil
	}
	switch f.Kind() {
	case value.KindMoney:
		return fmt.Appendf(nil, `{"amount":"%s","currency":%s}`, raw, row[key+"_currency"])
	case value.KindRecord:
		return fmt.Appendf(nil, `{"id":%s}`, raw)
	}
	return raw
}

// label gives records the labels by which the person knows them; what they may not see says so.
func (d *Repository) label(ctx context.Context, shown []*value.Record) error {
	keys := map[string][]int64{}
	for _, r := range shown {
		if !slices.Contains(keys[r.Object], r.ID) {
			keys[r.Object] = append(keys[r.Object], r.ID)
		}
	}
	for object, ids := range keys {
		labels := map[int64]string{}
		if g, err := d.Grant(object); err == nil && g.MaySee() {
			found, err := records.ByKey(ctx, d, object, ids, nil)
			if err != nil {
				return err
			}
			for _, r := range found {
				labels[r.ID] = r.Label
			}
		}
		for _, r := range shown {
			if r.Object != object {
				continue
			}
			if r.Label = labels[r.ID]; r.Label == "" {
				r.ID, r.Label = 0, "one that is not to be seen"
			}
		}
	}
	return nil
}
