package edition

import (
	"fmt"
	"reflect"
	"regexp"
	"strings"
	"time"

	"plainpath/core/definition"
	"plainpath/core/model"
	"plainpath/core/value"
)

// App is the settings of an app.
type App struct {
	Key   string `json:"key"`
	Label string `json:"label"`
	// Currency is the house currency, an ISO 4217 code.
	Currency string `json:"currency"`
	// Organisation is the object that people outside the company belong to.
	Organisation string `json:"organisation,omitempty"`
	// Zone is the time zone of the house, such as Europe/Dublin.
	Zone string `json:"zone"`
	// Map is the address on the web at which a place is looked up, with {address} where the place is said.
	Map string `json:"map,omitempty"`
	// Menu is what pages are found by in Use; those of which it says nothing stand behind, by name.
	Menu []MenuGroup `json:"menu,omitempty"`
	// Rates is what amounts of other currencies are converted by.
	Rates *model.RateTable `json:"rates,omitempty"`
}

// DocumentKey is the key that the document gives itself.
func (a *App) DocumentKey() string { return a.Key }

// settings are those of the app. What they say of objects is checked once those are there.
func (e *Edition) settings(docs []definition.Document) error {
	apps, err := bodies[App](docs)
	if err != nil {
		return err
	}
	for _, a := range apps {
		e.App = *a
	}
	e.apps = docs
	zone, err := time.LoadLocation(e.App.Zone)
	if err != nil {
		zone = time.UTC
		e.appCheck().Find(definition.Stop, "/zone", fmt.Sprintf("there is no time zone %q", e.App.Zone),
			"Times would be shown in UTC.", nil)
	}
	e.Zone = zone
	if err := value.CheckCurrency(e.App.Currency); err != nil {
		e.appCheck().Find(definition.Stop, "/currency", err.Error(), "Amounts could not be entered or converted.", nil)
	}
	if m := e.App.Map; m != "" && (!strings.Contains(m, "{address}") || !webAddress.MatchString(m)) {
		e.appCheck().Find(definition.Care, "/map",
			"the map is an address that begins with https:// and has {address} where the place is said",
			"Addresses would have no map.", nil)
	}
	return nil
}

var webAddress = regexp.MustCompile(`^https?://[^\s{}/]+(/|\?|$)`)

func (e *Edition) appCheck() *definition.Check {
	return e.check.For(definition.Name(definition.App, e.App.Key))
}

// appDiffers says what changes of the settings.
func appDiffers(a, b *App, d *definition.Difference) {
	if a == nil {
		return
	}
	d.Setting("its name", a.Label, b.Label)
	d.Setting("the currency", a.Currency, b.Currency)
	d.Setting("the time zone", a.Zone, b.Zone)
	d.Setting("the object that people outside the company belong to", a.Organisation, b.Organisation)
	d.Setting("the map of addresses", a.Map, b.Map)
	if !reflect.DeepEqual(a.Menu, b.Menu) {
		d.Say("the menu changed")
	}
	if !reflect.DeepEqual(a.Rates, b.Rates) {
		d.Say("the table of exchange rates changed")
	}
	if a.Currency != b.Currency {
		d.Store("Amounts keep the currencies they have.")
	}
	if a.Zone != b.Zone {
		d.Store("Points in time stay the same; days, months and years begin elsewhere.")
	}
}
