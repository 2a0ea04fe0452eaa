package apps

import (
	"context"
	"crypto/rand"
	"database/sql"
	"errors"
	"fmt"
	"strings"
	"time"

	"github.com/jmoiron/sqlx"

	"plainpath/core/access"
	"plainpath/core/definition"
	"plainpath/core/edition"
	"plainpath/core/intake"
	"plainpath/core/model"
	"plainpath/core/records"
	"plainpath/core/value"
	"plainpath/postgres"
	"plainpath/postgres/accounts"
	"plainpath/postgres/documents"
)

// setupLength is how long a link to set everything up holds.
const setupLength = 7 * 24 * time.Hour

// SettingUp is what the first administrator says of themselves and of the first app.
type SettingUp struct {
	Name     string `json:"name"`
	Email    string `json:"email"`
	Password string `json:"password"`
	// App is what the app is called.
	App      string `json:"app"`
	Currency string `json:"currency"`
	Zone     string `json:"zone"`
	// Organisation is what one of the organisations is called that people outside the company
	// belong to, such as Customer; "" for none.
	Organisation string `json:"organisation,omitempty"`
	// Demo takes the demo's app in the place of an empty one, with its records.
	Demo bool `json:"demo,omitempty"`
}

// BeginSetup gives the token of a link to set everything up, "" when there is an app already.
func BeginSetup(ctx context.Context, db *postgres.DB) (string, error) {
	app, err := documents.OnlyApp(ctx, db)
	if app != "" || err != nil {
		return "", err
	}
	token := rand.Text()
	if _, err := db.ExecContext(ctx, `INSERT INTO plainpath.setup (token_hash, expires_at) VALUES ($1, $2)`,
		postgres.HashToken(token), db.Now().Add(setupLength)); err != nil {
		return "", fmt.Errorf("making a link to set up: %w", err)
	}
	return token, nil
}

// MaySetUp is ErrBadLink unless the token is that of a link that holds and there is no app yet.
func MaySetUp(ctx context.Context, db *postgres.DB, token string) error {
	var holds bool
	err := db.GetContext(ctx, &holds,
		`SELECT EXISTS (SELECT 1 FROM plainpath.setup WHERE token_hash = $1 AND expires_at > $2) AND NOT EXISTS (SELECT 1 FROM plainpath.space)`, postgres.HashToken(token), db.Now())
	if err != nil {
		return fmt.Errorf("looking at a link: %w", err)
	}
	if !holds {
		return accounts.ErrBadLink
	}
	return nil
}

// SetUp makes the first administrator and the first app, by install where that is given. What
// failed half-way can be done again with the same link.
func SetUp(ctx context.Context, db *postgres.DB, token string, in SettingUp,
	install func(ctx context.Context, person int64) (app string, err error)) (string, error) {
	if err := MaySetUp(ctx, db, token); err != nil {
		return "", err
	}
	docs, key, err := in.documents()
	if err != nil {
		return "", err
	}
	hash, err := db.Passwords.Hash(ctx, in.Password)
	if err != nil {
		return "", err
	}
	person, err := first(ctx, db, in, hash)
	if err != nil {
		return "", err
	}
	if install == nil {
		install = func(ctx context.Context, person int64) (string, error) {
			return key, InstallApp(ctx, db, key, docs, person)
		}
	}
	app, err := install(ctx, person)
	if err != nil {
		return "", err
	}
	return app, db.In(ctx, func(tx *sqlx.Tx) error {
		for _, space := range []string{postgres.Trial, postgres.Production} {
			if err := accounts.JoinWithin(ctx, tx, app, person,
				accounts.MembershipView{Space: space, Roles: []string{builderRole}}); err != nil {
				return err
			}
		}
		if _, err := tx.ExecContext(ctx, `DELETE FROM plainpath.setup`); err != nil {
			return fmt.Errorf("setting up: %w", err)
		}
		return postgres.Audit(ctx, tx, person, "set up the app "+in.App)
	})
}

// first makes the first administrator, or makes them anew where setting up failed before.
func first(ctx context.Context, db *postgres.DB, in SettingUp, hash string) (int64, error) {
	var id int64
	err := db.GetContext(ctx, &id, `INSERT INTO plainpath.person (name, email, password_hash, builder, administrator) VALUES ($1, $2, $3, true, true)
		ON CONFLICT (lower(email)) DO UPDATE SET name = excluded.name, password_hash = excluded.password_hash, builder = true, administrator = true, active = true RETURNING id`,
		strings.TrimSpace(in.Name), strings.TrimSpace(in.Email), hash)
	if errors.Is(err, sql.ErrNoRows) || err != nil {
		return 0, fmt.Errorf("making the first administrator: %w", err)
	}
	return id, nil
}

// builderRole is the role of the first administrator.
const builderRole = "builder"

// documents are those of an empty app. What is wrong with what was said is a *records.ProblemsError.
func (in SettingUp) documents() ([]definition.Document, string, error) {
	out := &records.ProblemsError{}
	find := func(field, text string) {
		out.Problems = append(out.Problems, model.Problem{Pointer: "/" + field, Text: text})
	}
	if strings.TrimSpace(in.Name) == "" {
		find("name", "your name is required")
	}
	if err := (&model.Field{Type: model.Email, Label: "The address",
		Required: true}).CheckValue(value.Text(strings.TrimSpace(in.Email))); err != nil {
		find("email", err.Error())
	}
	var short *records.ProblemsError
	if errors.As(postgres.CheckPassword(in.Password), &short) {
		out.Problems = append(out.Problems, short.Problems...)
	}
	if in.Demo {
		if len(out.Problems) > 0 {
			return nil, "", out
		}
		return nil, "", nil
	}
	label := strings.TrimSpace(in.App)
	if label == "" {
		find("app", "the app needs a name, such as that of the company")
	}
	if err := value.CheckCurrency(in.Currency); err != nil {
		find("currency", err.Error())
	}
	if zone, err := time.LoadLocation(in.Zone); err != nil || in.Zone == "" || zone == time.Local &&
		in.Zone == "Local" {
		find("zone", fmt.Sprintf("there is no time zone %q; choose one such as Europe/Dublin", in.Zone))
	}
	if len(out.Problems) > 0 {
		return nil, "", out
	}
	key := intake.KeyOf(label)
	if model.KeyProblem(key) != "" || len(key) > 40 {
		key = "app"
	}
	app := edition.App{Key: key, Label: label, Currency: in.Currency, Zone: in.Zone}
	role := access.Role{Key: builderRole, Label: "Builder", Objects: map[string]access.Right{}}
	var docs []definition.Document
	if one := strings.TrimSpace(in.Organisation); one != "" {
		o := model.Object{Key: intake.KeyOf(one), Label: one, Plural: one + "s", LabelField: "name",
			Fields: []model.Field{{Key: "name", Label: "Name", Type: model.Text, Required: true}}}
		if model.KeyProblem(o.Key) != "" || model.BuiltInKey(o.Key) || o.Key == model.HistoryTable {
			find("organisation", fmt.Sprintf("%q cannot be what an object is called; choose another word", one))
			return nil, "", out
		}
		app.Organisation = o.Key
		role.Objects[o.Key] = access.Right{See: true, Add: true, Change: true, Remove: true}
		docs = append(docs, definition.Document{Kind: definition.Object, Key: o.Key, Revision: 1,
			Body: documents.Written(o)})
	}
	return append(docs, definition.Document{Kind: definition.App, Key: key, Revision: 1, Body: documents.Written(app)},
		definition.Document{Kind: definition.Role, Key: role.Key, Revision: 1, Body: documents.Written(role)}), key, nil
}
