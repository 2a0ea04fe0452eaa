package demo

import (
	"context"
	"fmt"

	"plainpath/store"
)

// Password is that of everybody in the demo. It is a demo's: it guards nothing.
const Password = "quillmere"

// Person is one of those who can sign in to the demo.
type Person struct {
	Name    string   `json:"name"`
	Email   string   `json:"email"`
	Task    string   `json:"task"`
	Builder bool     `json:"-"`
	Roles   []string `json:"-"`
}

// People can sign in to the demo.
var People = []Person{
	{"Bo Lindqvale", "bo@quillmere.example", "Builder", true, []string{"builder"}},
	{"Dana Merrowdale", "dana@quillmere.example", "Dispatcher", false, []string{"dispatcher"}},
	{"Eskil Marlowe", "eskil@quillmere.example", "Engineer", false, []string{"engineer"}},
	{"Mara Stillwater", "mara@quillmere.example", "Service manager", false, []string{"service_manager"}},
	{"Fenn Oakenrow", "fenn@quillmere.example", "Finance", false, []string{"finance"}},
	{"Orla Northcape", "orla@customer05.example", "Owner’s desk", false, []string{"owners_desk"}},
}

// ownersCustomer is the customer that the owner's desk belongs to: the fifth made.
const ownersCustomer = 5

// Install makes the demo in an empty database: people, definition, records in both
// spaces, and a first release.
func Install(ctx context.Context, db *store.DB) error {
	documents, err := Documents()
	if err != nil {
		return err
	}
	keys := map[string]int64{}
	for _, p := range People {
		if keys[p.Email], err = db.AddPerson(ctx, store.NewPerson{Name: p.Name, Email: p.Email, Builder: p.Builder, Administrator: p.Builder}, Password); err != nil {
			return err
		}
	}
	if err := db.InstallApp(ctx, App, documents, keys[People[0].Email]); err != nil {
		return err
	}
	for _, space := range []string{store.Trial, store.Production} {
		err := db.Seed(ctx, App, space, keys[People[0].Email], func(s store.Seeding) error {
			return Generate(ctx, s, s.Model, s.Now, keys)
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
