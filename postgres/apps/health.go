package apps

import (
	"context"
	"errors"
	"fmt"

	"plainpath/postgres"
	"plainpath/postgres/documents"
	"plainpath/postgres/jobs"
	"plainpath/postgres/migrate"
)

// Examined is something that was looked at, and what is wrong with it, "" for nothing.
type Examined struct {
	What, Wrong string
}

// Examine looks at whether the database is as the program needs it.
func Examine(ctx context.Context, db *postgres.DB) ([]Examined, error) {
	var out []Examined
	said := func(what, wrong string) { out = append(out, Examined{what, wrong}) }
	var server struct {
		Version, Encoding string
		Number, Most      int
		Trigrams, ICU     bool
	}
	err := db.GetContext(ctx, &server, `SELECT current_setting('server_version') AS version, current_setting('server_version_num')::int AS number, current_setting('server_encoding') AS encoding,
		current_setting('max_connections')::int AS most, EXISTS (SELECT 1 FROM pg_available_extensions WHERE name = 'pg_trgm') AS trigrams, EXISTS (SELECT 1 FROM pg_collation WHERE collname = 'und-x-icu') AS icu`)
	if err != nil {
		return nil, fmt.Errorf("asking the database about itself: %w", err)
	}
	said("PostgreSQL "+server.Version,
		unless(server.Number >= oldestServer, fmt.Sprintf("it is older than the %d that the program is tested with",
			oldestServer/10000)))
	said("encoding "+server.Encoding, unless(server.Encoding == "UTF8", "texts need a database of the encoding UTF8"))
	said("extension pg_trgm",
		unless(server.Trigrams, "it is not installed on the server; on Debian it is in the package postgresql-contrib"))
	said("ICU collations", unless(server.ICU, "the server was built without ICU, by which texts are ordered"))
	needs := db.Room.Looking + db.Room.Changing + db.Room.Rewriting + 2*postgres.Spare + postgres.MostStreams +
		jobs.JobConnections + 6
	said(fmt.Sprintf("at most %d connections, of which one server takes up to %d", server.Most, needs),
		unless(server.Most > needs, "there are too few; raise max_connections or lower PLAINPATH_CONNECTIONS"))
	switch err := migrate.Version(ctx, db); {
	case err == nil:
		said("the program's own tables are up to date", "")
	case errors.Is(err, migrate.ErrNotMigrated), errors.As(err, new(*migrate.NewerError)):
		said("the program's own tables", err.Error())
		return out, nil // they are not looked at any further
	default:
		return out, err
	}
	app, err := documents.OnlyApp(ctx, db)
	if err != nil || app == "" {
		said("the app", unless(err != nil,
			"there is none yet: “plainpath serve” prints the address to set it up")+errorText(err))
		return out, nil
	}
	editions := documents.NewEditions(db)
	_, err = editions.Draft(ctx, app)
	said("the draft of "+app, errorText(err))
	number, err := documents.InForce(ctx, db, app)
	if err == nil && number > 0 {
		_, err = editions.Release(ctx, app, number)
	}
	said(fmt.Sprintf("release %d, which is in force", number), errorText(err))
	var lost []string
	err = db.SelectContext(ctx, &lost,
		`SELECT schema FROM plainpath.space s WHERE NOT EXISTS (SELECT 1 FROM pg_namespace n WHERE n.nspname = s.schema)`)
	if err != nil {
		return out, fmt.Errorf("looking for the records: %w", err)
	}
	said("the records", unless(len(lost) == 0, fmt.Sprintf("the schemas %v are missing", lost)))
	return out, nil
}

// oldestServer is the PostgreSQL that the program is tested with, as its number is written.
const oldestServer = 150000

func unless(fine bool, wrong string) string {
	if fine {
		return ""
	}
	return wrong
}

func errorText(err error) string {
	if err == nil {
		return ""
	}
	return err.Error()
}
