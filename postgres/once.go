package postgres

import (
	"bytes"
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"time"

	"github.com/jmoiron/sqlx"
)

// Request is what makes the same request count once, however often it is sent: whose it is and a
// key that it alone has. Without a key it counts each time.
type Request struct {
	Person int64
	Key    string
}

type requestKey struct{}

// WithRequest notes which request something is done for.
func WithRequest(ctx context.Context, r Request) context.Context {
	return context.WithValue(ctx, requestKey{}, r)
}

// longestRequest bounds the key of a request.
const longestRequest = 200

// RequestsKept is for how long a request that was answered is known.
const RequestsKept = 24 * time.Hour

// Once does work in a transaction unless the request was carried out before; then it gives what was
// answered. Whoever sends it while it is under way waits for that.
func Once[T any](ctx context.Context, q sqlx.ExtContext, work func() (T, error)) (T, error) {
	var none T
	r, _ := ctx.Value(requestKey{}).(Request)
	if r.Key == "" {
		return work()
	}
	if len(r.Key) > longestRequest {
		return none, &RejectedError{fmt.Sprintf("The key of a request has at most %d bytes.", longestRequest)}
	}
	res, err := q.ExecContext(ctx, `INSERT INTO plainpath.request (person, key) VALUES ($1, $2) ON CONFLICT DO NOTHING`,
		r.Person, r.Key)
	if err != nil {
		return none, fmt.Errorf("noting a request: %w", err)
	}
	if n, err := res.RowsAffected(); err == nil && n == 0 {
		return answered[T](ctx, q, r)
	}
	out, err := work()
	if err != nil {
		return out, err
	}
	raw, err := json.Marshal(out)
	if err != nil {
		return out, fmt.Errorf("keeping an answer: %w", err)
	}
	if _, err := q.ExecContext(ctx, `UPDATE plainpath.request SET answer = $3 WHERE person = $1 AND key = $2`, r.Person,
		r.Key, raw); err != nil {
		return out, fmt.Errorf("keeping an answer: %w", err)
	}
	return out, nil
}

func answered[T any](ctx context.Context, q sqlx.QueryerContext, r Request) (T, error) {
	var out T
	var raw []byte
	err := sqlx.GetContext(ctx, q, &raw, `SELECT answer FROM plainpath.request WHERE person = $1 AND key = $2`,
		r.Person, r.Key)
	if errors.Is(err, sql.ErrNoRows) {
		return out, ErrNotFound
	}
	if err != nil {
		return out, fmt.Errorf("finding what was answered: %w", err)
	}
	d := json.NewDecoder(bytes.NewReader(raw))
	d.UseNumber() // numbers stay as they are
	if err := d.Decode(&out); err != nil {
		return out, fmt.Errorf("reading what was answered: %w", err)
	}
	return out, nil
}
