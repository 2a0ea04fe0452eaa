package tables

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"

	"github.com/jmoiron/sqlx"

	"plainpath/core/table"
	"plainpath/postgres"
)

// SavedView is a person's own arrangement of a table. The one without a name is how they
// left the table last.
type SavedView struct {
	ID   int64  `json:"id"`
	Name string `json:"name"`
	// Shipped says that the builder made it; it has no ID.
	Shipped bool `json:"shipped,omitempty"`
	// Body is the arrangement; what of it does not hold any more is left out.
	Body table.Arrangement `json:"body"`
	// Problems say what was left out.
	Problems []string `json:"problems,omitempty"`
}

// ViewsView is the saved views of a table, the one used last first.
type ViewsView struct {
	Views []SavedView `json:"views"`
}

// mostViews is how many views of one table a person can keep.
const mostViews = 100

// Views lists a person's views of a table, the one used last first, then those that the
// builder gives to their roles. Each is fitted to what there is to see now.
func (t *Tables) Views(ctx context.Context, p postgres.Caller, at TableAt) (ViewsView, error) {
	out := ViewsView{Views: []SavedView{}}
	var rows []struct {
		ID   int64  `db:"id"`
		Name string `db:"name"`
		Body []byte `db:"body"`
	}
	err := t.At(ctx, p, at, func(found ShownTable) error {
		err := sqlx.SelectContext(ctx, found.Db, &rows,
			`SELECT id, name, body FROM plainpath.view WHERE app = $1 AND person = $2 AND "table" = ANY($3) ORDER BY used_at DESC, id DESC`, p.App, p.Person, found.names)
		if err != nil {
			return fmt.Errorf("reading views: %w", err)
		}
		known := map[string]bool{}
		for _, r := range rows {
			if known[r.Name] { // kept again since the table has another key
				continue
			}
			known[r.Name] = true
			v := SavedView{ID: r.ID, Name: r.Name}
			if err := json.Unmarshal(r.Body, &v.Body); err != nil {
				return fmt.Errorf("reading the view %q: %w", r.Name, err)
			}
			v.Body = found.List.Renewed(found.Edition.Model, v.Body)
			v.Body.Look, v.Problems = found.List.Fit(found, v.Body.Look)
			out.Views = append(out.Views, v)
		}
		for _, s := range found.List.Shipped(found.Person().Roles) {
			v := SavedView{Name: s.Label, Shipped: true, Body: s.Body}
			v.Body.Look, v.Problems = found.List.Fit(found, v.Body.Look)
			out.Views = append(out.Views, v)
		}
		return nil
	})
	return out, err
}

// KeepView keeps an arrangement under a name, in the place of the one of that name.
func (t *Tables) KeepView(ctx context.Context, p postgres.Caller, at TableAt, name string,
	body table.Arrangement) (SavedView, error) {
	out := SavedView{Name: name, Body: body}
	raw, err := json.Marshal(body)
	if err != nil {
		return out, fmt.Errorf("writing a view: %w", err)
	}
	if len(raw) > 1<<16 || len(name) > 200 {
		return out,
			&postgres.RejectedError{Text: "The view is too large to be kept; take some conditions or columns out of it."}
	}
	in := "" // only a table that this person reaches has views
	err = t.At(ctx, p, at, func(found ShownTable) error { in = found.names[0]; return nil })
	if err != nil {
		return out, err
	}
	err = t.Repositories.DB.GetContext(ctx, &out.ID, `INSERT INTO plainpath.view (app, person, "table", name, body, used_at)
		SELECT $1, $2, $3, $4, $5,
			clock_timestamp() WHERE (SELECT count(*) FROM plainpath.view WHERE app = $1 AND person = $2 AND "table" = $3 AND name <> $4) < $6
		ON CONFLICT (app, person, "table", name) DO UPDATE SET body = excluded.body, used_at = excluded.used_at RETURNING id`,
		p.App, p.Person, in, name, raw, mostViews)
	if errors.Is(err, sql.ErrNoRows) {
		return out,
			&postgres.RejectedError{Text: fmt.Sprintf("There are %d views of this table already; take one away first.", mostViews)}
	}
	if err != nil {
		return out, fmt.Errorf("keeping a view: %w", err)
	}
	return out, nil
}

// UseView remembers that a view was opened, so that it comes first next time.
func (t *Tables) UseView(ctx context.Context, p postgres.Caller, id int64) error {
	return t.viewOf(ctx, p, id,
		`UPDATE plainpath.view SET used_at = clock_timestamp() WHERE id = $1 AND app = $2 AND person = $3`)
}

// RemoveView takes a view away.
func (t *Tables) RemoveView(ctx context.Context, p postgres.Caller, id int64) error {
	return t.viewOf(ctx, p, id, `DELETE FROM plainpath.view WHERE id = $1 AND app = $2 AND person = $3`)
}

func (t *Tables) viewOf(ctx context.Context, p postgres.Caller, id int64, statement string) error {
	res, err := t.Repositories.DB.ExecContext(ctx, statement, id, p.App, p.Person)
	if err != nil {
		return fmt.Errorf("changing a view: %w", err)
	}
	if n, err := res.RowsAffected(); err == nil && n == 0 {
		return fmt.Errorf("view %d: %w", id, postgres.ErrNotFound)
	}
	return nil
}
