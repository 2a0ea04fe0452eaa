// Package notices keeps what people are told in the program, until they have read it and for some time after.
package notices

import (
	"context"
	"encoding/json"
	"fmt"
	"time"

	"plainpath/core/expr"
	"plainpath/postgres"
)

// Notice is something that somebody was told.
type Notice struct {
	ID   int64         `json:"id"`
	Text expr.Sentence `json:"text"`
	// Object and Record are what it leads to, nothing when Object is empty.
	Object string    `json:"object,omitempty"`
	Record int64     `json:"record,omitempty"`
	At     time.Time `json:"at"`
	Read   bool      `json:"read,omitempty"`
}

// Notices are the latest that a person was told, the latest first.
type Notices struct {
	Notices []Notice `json:"notices"`
	// Unread counts those that were not read, also those that are not among the latest.
	Unread int `json:"unread"`
}

// most is how many are given at once.
const most = 50

// Of are the notices of a person in a space. The words are as they were when they were told.
func Of(ctx context.Context, db *postgres.DB, p postgres.Caller) (Notices, error) {
	out := Notices{Notices: []Notice{}}
	var rows []struct {
		ID     int64     `db:"id"`
		Text   []byte    `db:"text"`
		Object string    `db:"object"`
		Record int64     `db:"record"`
		At     time.Time `db:"at"`
		Read   bool      `db:"read"`
	}
	err := db.SelectContext(ctx, &rows, `SELECT id, text, object, record, at, read_at IS NOT NULL AS read FROM plainpath.notice
		WHERE person = $1 AND app = $2 AND space = $3 ORDER BY id DESC LIMIT $4`, p.Person, p.App, p.Space, most)
	if err == nil {
		err = db.GetContext(ctx, &out.Unread, `SELECT count(*) FROM plainpath.notice
			WHERE person = $1 AND app = $2 AND space = $3 AND read_at IS NULL`, p.Person, p.App, p.Space)
	}
	if err != nil {
		return out, fmt.Errorf("reading what somebody was told: %w", err)
	}
	for _, r := range rows {
		n := Notice{ID: r.ID, Object: r.Object, Record: r.Record, At: r.At, Read: r.Read}
		if err := json.Unmarshal(r.Text, &n.Text); err != nil {
			return out, fmt.Errorf("reading what somebody was told: %w", err)
		}
		out.Notices = append(out.Notices, n)
	}
	return out, nil
}

// Read notes that a person has read what they were told, up to a notice.
func Read(ctx context.Context, db *postgres.DB, p postgres.Caller, upto int64) error {
	_, err := db.ExecContext(ctx, `UPDATE plainpath.notice SET read_at = $5
		WHERE person = $1 AND app = $2 AND space = $3 AND id <= $4 AND read_at IS NULL`, p.Person, p.App, p.Space, upto,
		db.Now())
	if err != nil {
		return fmt.Errorf("noting what was read: %w", err)
	}
	return nil
}
