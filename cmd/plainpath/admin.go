package main

import (
	"context"
	"fmt"
	"os"
	"text/tabwriter"

	"plainpath/postgres"
	"plainpath/postgres/accounts"

	"github.com/spf13/cobra"
)

// admin looks after the administrators from the machine itself, where nobody is shut out.
func admin() *cobra.Command {
	c := &cobra.Command{Use: "admin", Short: "Look after the administrators"}
	with := func(use, short string, args cobra.PositionalArgs, run func(ctx context.Context, s settings,
		db *postgres.DB, args []string) error) {
		c.AddCommand(&cobra.Command{Use: use, Short: short, Args: args,
			RunE: func(c *cobra.Command, args []string) error {
				s, err := read()
				if err != nil {
					return err
				}
				return withDB(c.Context(), s, func(db *postgres.DB) error { return run(c.Context(), s, db, args) })
			}})
	}
	with("add EMAIL NAME", "Add an administrator, or make somebody one, and print a link to choose a password",
		cobra.ExactArgs(2),
		func(ctx context.Context, s settings, db *postgres.DB, args []string) error {
			token, err := accounts.AddAdministrator(ctx, db, args[0], args[1])
			return printLink(s, token, err)
		})
	with("reset EMAIL", "End somebody's sessions and print a link to choose a new password", cobra.ExactArgs(1),
		func(ctx context.Context, s settings, db *postgres.DB, args []string) error {
			p, err := accounts.PersonByEmail(ctx, db, args[0])
			if err != nil {
				return err
			}
			token, err := accounts.Reset(ctx, db, p.ID, 0)
			return printLink(s, token, err)
		})
	with("unlock EMAIL", "Let somebody try to sign in again after too many attempts", cobra.ExactArgs(1),
		func(ctx context.Context, _ settings, db *postgres.DB, args []string) error {
			p, err := accounts.PersonByEmail(ctx, db, args[0])
			if err != nil {
				return err
			}
			if err := accounts.Unlock(ctx, db, p); err != nil {
				return err
			}
			fmt.Println(p.Name, "can try again.")
			return nil
		})
	with("list", "List the administrators", cobra.NoArgs,
		func(ctx context.Context, _ settings, db *postgres.DB, _ []string) error {
			all, err := accounts.Administrators(ctx, db)
			if err != nil {
				return err
			}
			if len(all) == 0 {
				fmt.Println("There is no administrator who can sign in. Add one: plainpath admin add EMAIL NAME")
			}
			w := tabwriter.NewWriter(os.Stdout, 0, 4, 2, ' ', 0)
			for _, p := range all {
				last := "never signed in"
				if p.LastSignIn != nil {
					last = "signed in " + p.LastSignIn.Format("2006-01-02 15:04 MST")
				}
				_, _ = fmt.Fprintf(w, "%s\t%s\t%s\n", p.Email, p.Name, last)
			}
			return w.Flush()
		})
	return c
}

func printLink(s settings, token string, err error) error {
	if err != nil {
		return err
	}
	fmt.Printf("Give them this link. It holds for three days and once:\n%s\n", s.link("/password/"+token))
	return nil
}
