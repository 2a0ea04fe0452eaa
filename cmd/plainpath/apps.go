package main

import (
	"context"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"strings"

	"plainpath/postgres"
	"plainpath/postgres/accounts"
	"plainpath/postgres/documents"
	"plainpath/postgres/imports"
	"plainpath/postgres/migrate"

	"github.com/spf13/cobra"

	"plainpath/core/definition"
	"plainpath/core/edition"
	"plainpath/server"
)

func exporting() *cobra.Command {
	return &cobra.Command{Use: "export DIR",
		Short: "Write the draft of the app into a folder, a file for each document", Args: cobra.ExactArgs(1),
		RunE: func(c *cobra.Command, args []string) error {
			return withApp(c.Context(), func(ctx context.Context, db *postgres.DB, app string) error {
				docs, err := documents.Documents(ctx, db, app)
				if err != nil {
					return err
				}
				return writeApp(args[0], docs)
			})
		}}
}

// writeApp writes documents and the schemas that describe them. Files of documents that are gone
// are removed, so that the folder is the app as it is.
func writeApp(dir string, docs []definition.Document) error {
	files, err := server.AppFiles(docs)
	if err != nil {
		return err
	}
	for kind := range edition.Schemas() {
		old, err := filepath.Glob(filepath.Join(dir, string(kind), "*.json"))
		if err != nil {
			return fmt.Errorf("looking for earlier files: %w", err)
		}
		for _, name := range old {
			if relative := string(kind) + "/" + filepath.Base(name); files[relative] == nil {
				if err := os.Remove(name); err != nil {
					return fmt.Errorf("removing the file of a document that is gone: %w", err)
				}
			}
		}
	}
	for name, body := range files {
		to := filepath.Join(dir, filepath.FromSlash(name))
		if err := os.MkdirAll(filepath.Dir(to), 0o755); err != nil {
			return fmt.Errorf("making the folder: %w", err)
		}
		if err := os.WriteFile(to, body, 0o644); err != nil {
			return fmt.Errorf("writing %s: %w", to, err)
		}
	}
	fmt.Printf("%d documents are in %s.\n", len(docs), dir)
	return nil
}

func importing() *cobra.Command {
	try := false
	c := &cobra.Command{Use: "import DIR", Short: "Make the draft of the app what the files of a folder say",
		Args: cobra.ExactArgs(1), RunE: func(c *cobra.Command, args []string) error {
			docs, err := edition.FromFiles(os.DirFS(args[0]))
			if err != nil {
				return err
			}
			return withApp(c.Context(), func(ctx context.Context, db *postgres.DB, app string) error {
				by, err := accounts.Administrators(ctx, db)
				if err != nil {
					return err
				}
				if len(by) == 0 {
					return errors.New("there is no administrator in whose name it could be done; add one: plainpath admin add EMAIL NAME")
				}
				brought, err := imports.BringIn(ctx, db, app, by[0].ID, docs, try)
				if err != nil {
					return err
				}
				for _, change := range brought.Changes {
					fmt.Printf("%s %s: %s\n", change.Label, change.What, strings.Join(change.Details, ", "))
				}
				for _, f := range brought.Findings {
					fmt.Printf("finding in %s%s: %s\n", f.Document, f.Pointer, f.Text)
				}
				switch {
				case len(brought.Changes) == 0:
					fmt.Println("The draft says so already; nothing changes.")
				case try:
					fmt.Println("This was a try: nothing was changed.")
				}
				return nil
			})
		}}
	c.Flags().BoolVar(&try, "try", false, "say what would change, and change nothing")
	return c
}

// withApp works on the app of the settings, or the only one there is.
func withApp(ctx context.Context, work func(ctx context.Context, db *postgres.DB, app string) error) error {
	s, err := read()
	if err != nil {
		return err
	}
	return withDB(ctx, s, func(db *postgres.DB) error {
		if err := migrate.Version(ctx, db); err != nil {
			return err
		}
		app := s.App
		if app == "" {
			if app, err = documents.OnlyApp(ctx, db); err != nil {
				return err
			}
		}
		if app == "" {
			return errors.New("there is no app yet: “plainpath serve” prints the address to set it up")
		}
		return work(ctx, db, app)
	})
}
