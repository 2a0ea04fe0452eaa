package drafts

import (
	"context"
	"encoding/json"
	"fmt"

	"github.com/jmoiron/sqlx"

	"plainpath/core/definition"
	"plainpath/core/edit"
	"plainpath/postgres"
	"plainpath/postgres/documents"
)

// GrantOwnRoles gives the roles that somebody has in trial every right on an object.
func GrantOwnRoles(ctx context.Context, db *postgres.DB, tx *sqlx.Tx, app string, person int64, object string) error {
	var roles string
	err := tx.GetContext(ctx, &roles,
		`SELECT coalesce((SELECT array_to_string(roles, ',') FROM plainpath.member WHERE app = $1 AND space = $2 AND person = $3), '')`, app, postgres.Trial, person)
	if err != nil {
		return fmt.Errorf("reading roles: %w", err)
	}
	for _, role := range postgres.Split(roles) {
		patch := edit.Patch{{Op: "add", Path: "/objects/" + object,
			Value: json.RawMessage(`{"see":true,"add":true,"change":true,"remove":true}`)}}
		if _, err := Change(ctx, db, tx, app, definition.Role, role, person, patch,
			documents.Origin{Forward: true}); err != nil {
			return err
		}
	}
	return nil
}

// Change edits the newest revision of a document within a transaction, without making
// tables follow.
func Change(ctx context.Context, db *postgres.DB, tx *sqlx.Tx, app string, kind definition.Kind, key string,
	person int64, patch edit.Patch, from documents.Origin) (definition.Document, error) {
	d, err := documents.Get(ctx, tx, app, kind, key, "FOR UPDATE")
	if err != nil {
		return d, err
	}
	return documents.Record(ctx, db, tx, documents.Edit{App: app, Kind: kind, Key: key, Person: person}, d, patch, from)
}
