package demo

import (
	"context"
	"fmt"

	"plainpath/store"
)

// InstallFor makes the demo's app and its records for somebody who begins in earnest. Its people are
// there, for records name them, but have no password: each can be given a link to choose one.
func InstallFor(ctx context.Context, db *store.DB, person int64) (string, error) {
	return App, install(ctx, db, person, func(p Person) (int64, error) {
		return db.AddPersonWithoutPassword(ctx, store.NewPerson{Name: p.Name, Email: p.Email})
	})
}

func install(ctx context.Context, db *store.DB, by int64, add func(Person) (int64, error)) error {
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
	if err := db.InstallApp(ctx, App, documents, by); err != nil {
		return err
	}
	for _, space := range []string{store.Trial, store.Production} {
		err := db.Seed(ctx, App, space, by, func(s store.Seeding) error {
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
			if err := db.Join(ctx, App, space, keys[p.Email], p.Roles, organisation); err != nil {
				return err
			}
		}
	}
	return nil
}
