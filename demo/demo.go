package demo

import (
	"context"

	"plainpath/postgres"
	"plainpath/postgres/accounts"
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
func Install(ctx context.Context, db *postgres.DB) error {
	return install(ctx, db, 0, func(p Person) (int64, error) {
		return accounts.AddPerson(ctx, db, accounts.NewPerson{Name: p.Name, Email: p.Email, Builder: p.Builder,
			Administrator: p.Builder}, Password)
	})
}
