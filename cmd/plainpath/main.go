// Command plainpath serves Plain Path and looks after its database.
package main

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"os"
	"os/signal"
	"runtime/debug"
	"syscall"
	_ "time/tzdata" // zones are known wherever the program runs

	"plainpath/postgres"
	"plainpath/postgres/apps"
	"plainpath/postgres/migrate"

	"github.com/spf13/cobra"

	"plainpath/server"
)

func main() {
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	defer stop()
	root := &cobra.Command{Use: "plainpath", Short: "Guided screen flows on a company's own data", SilenceUsage: true,
		Version: version()}
	root.AddCommand(
		command("serve", "Bring the program's own tables up to date, and serve the application", serve),
		command("migrate", "Bring the program's own tables up to date", func(ctx context.Context, s settings) error {
			return withDB(ctx, s, func(db *postgres.DB) error { return migrate.Migrate(ctx, db) })
		}),
		command("check", "Look at the settings and the database, and say what is wrong", check),
		command("demo", "Make the demo when it is not there, and serve it", serveDemo),
		admin(), exporting(), importing(),
		&cobra.Command{Use: "types", Short: "Print the exchanged types as an OpenAPI document", Args: cobra.NoArgs,
			RunE: func(*cobra.Command, []string) error { return printTypes() }},
		&cobra.Command{Use: "words", Short: "Print what people read of closed sets as a TypeScript module",
			Args: cobra.NoArgs, RunE: func(*cobra.Command, []string) error { return printWords() }},
	)
	if err := root.ExecuteContext(ctx); err != nil {
		os.Exit(1)
	}
}

// version is what the program was built from.
func version() string {
	info, ok := debug.ReadBuildInfo()
	if !ok {
		return "unknown"
	}
	said := map[string]string{}
	for _, s := range info.Settings {
		said[s.Key] = s.Value
	}
	out := said["vcs.revision"]
	if out == "" {
		return "of no known revision, " + info.GoVersion
	}
	if said["vcs.modified"] == "true" {
		out += ", changed since"
	}
	return fmt.Sprintf("%.12s of %s, %s", out, said["vcs.time"], info.GoVersion)
}

func command(use, short string, run func(context.Context, settings) error) *cobra.Command {
	return &cobra.Command{Use: use, Short: short, Args: cobra.NoArgs, RunE: func(c *cobra.Command, _ []string) error {
		s, err := read()
		if err != nil {
			return err
		}
		return run(c.Context(), s)
	}}
}

// check prints what was looked at; it fails where anything is wrong.
func check(ctx context.Context, s settings) error {
	fmt.Println("fine   settings")
	return withDB(ctx, s, func(db *postgres.DB) error {
		found, err := apps.Examine(ctx, db)
		wrong := 0
		for _, f := range found {
			if f.Wrong == "" {
				fmt.Println("fine  ", f.What)
				continue
			}
			wrong++
			fmt.Printf("WRONG  %s: %s\n", f.What, f.Wrong)
		}
		if err == nil && wrong > 0 {
			err = errors.New("not everything is as it should be")
		}
		return err
	})
}

func printWords() error {
	words, err := server.Words()
	if err != nil {
		return err
	}
	_, err = fmt.Print(words)
	return err
}

func printTypes() error {
	schema, err := server.Schema()
	if err != nil {
		return err
	}
	e := json.NewEncoder(os.Stdout)
	e.SetIndent("", "  ")
	return e.Encode(schema)
}
