package migrate

import (
	"context"
	"database/sql"
	"encoding/json"
	"fmt"

	"github.com/pressly/goose/v3"

	"plainpath/core/act"
	"plainpath/core/definition"
)

// earlierActs puts what buttons do, in drafts, releases and edits, into acts.
var earlierActs = goose.NewGoMigration(25, &goose.GoFunc{RunTx: func(ctx context.Context, tx *sql.Tx) error {
	for _, of := range []struct {
		table, column string
		rewrite       func(json.RawMessage) (json.RawMessage, error)
	}{
		{"document", "body", act.Earlier},
		{"release", "documents", act.Earlier},
		{"edit", "patch", earlierPatch},
		{"edit", "inverse", earlierPatch},
	} {
		if err := rewriteColumn(ctx, tx, of.table, of.column, of.rewrite); err != nil {
			return fmt.Errorf("putting what buttons do into acts, in %s of %s: %w", of.column, of.table, err)
		}
	}
	return nil
}}, &goose.GoFunc{RunTx: func(context.Context, *sql.Tx) error {
	return fmt.Errorf("what buttons do is written in acts, which earlier versions cannot read")
}})

func earlierPatch(raw json.RawMessage) (json.RawMessage, error) {
	var patch []definition.Op
	if err := json.Unmarshal(raw, &patch); err != nil {
		return nil, fmt.Errorf("reading an edit: %w", err)
	}
	if err := act.EarlierPatch(patch); err != nil {
		return nil, err
	}
	return json.Marshal(patch)
}

// rewriteColumn gives the JSON of a column that mentions what buttons do, as it is rewritten.
func rewriteColumn(ctx context.Context, tx *sql.Tx, table, column string,
	rewrite func(json.RawMessage) (json.RawMessage, error)) error {
	rows, err := tx.QueryContext(ctx,
		fmt.Sprintf(`SELECT ctid::text, %s FROM plainpath.%s WHERE %[1]s::text LIKE '%%"do"%%' OR %[1]s::text LIKE '%%/do%%'`, column, table))
	if err != nil {
		return err
	}
	defer func() { _ = rows.Close() }()
	made := map[string][]byte{}
	for rows.Next() {
		var at string
		var raw []byte
		if err := rows.Scan(&at, &raw); err != nil {
			return err
		}
		if made[at], err = rewrite(raw); err != nil {
			return err
		}
	}
	if err := rows.Err(); err != nil {
		return err
	}
	for at, raw := range made {
		if _, err := tx.ExecContext(ctx, fmt.Sprintf(`UPDATE plainpath.%s SET %s = $2 WHERE ctid = $1::tid`, table,
			column), at, raw); err != nil {
			return err
		}
	}
	return nil
}
