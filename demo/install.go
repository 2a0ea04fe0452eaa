package demo

import (
	"context"
	"fmt"

	"plainpath/postgres"
	"plainpath/postgres/accounts"
	"plainpath/postgres/apps"
)

// InstallFor makes the demo's app and its records for somebody who begins in earnest. Its people are
// there, for records name them, but have no password: each can be given a link to choose one.
func InstallFor(ctx context.Context, db *postgres.DB, person int64) (string, error) {
	return App, install(ctx, db, person, func(p Person) (int64, error) {
		return accounts.AddPersonWithoutPassword(ctx, db, accounts.NewPerson{Name: p.Name, Email: p.Email})
	})
}

func install(ctx context.Context, db *postgres.DB, by int64, add func(Person) (int64, error)) error {
	documents, err := Documents()
	if err != nil {
		return err
	}
	keys := map[string]int64{}
	for _, p := range People {
		if keys[p.Email], err = add(p); err != nil {
			return err
		}
	}
	if by == 0 {
		by = keys[People[0].Email]
	}
	if err := apps.InstallApp(ctx, db, App, documents, by); err != nil {
		return err
	}
	for _, space := range []string{postgres.Trial, postgres.Production} {
		err := apps.Seed(ctx, db, App, space, by, func(s apps.Seeding) error {
			return Generate(ctx, s, s.Model(), s.Now, keys)
		})
		if err != nil {
			return fmt.Errorf("making the records of %s: %w", space, err)
		}
		for _, p := range People {
			organisation := int64(0)
			if p.Roles[0] == "owners_desk" {
				organisation = ownersCustomer
			}
			if err := accounts.Join(ctx, db, App, space, keys[p.Email], p.Roles, organisation); err != nil {
				return err
			}
		}
	}
	return nil
}
