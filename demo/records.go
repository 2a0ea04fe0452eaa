package demo

import (
	"context"
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"time"

	"github.com/shopspring/decimal"

	"plainpath/core/model"
	"plainpath/core/records"
	"plainpath/core/value"
)

// Writer adds records of the demo.
type Writer interface {
	Add(ctx context.Context, step string, a records.Addition) ([]int64, error)
	// File keeps a file that a record can hold, and gives its key.
	File(ctx context.Context, name string, body []byte) (int64, error)
}

// generator makes the records. The seed is fixed, so every run makes the same; only
// the dates move along with today's.
type generator struct {
	ctx    context.Context
	writer Writer
	model  *model.Model
	random *rand.Rand
	today  value.Date
	now    time.Time
	err    error
	people map[string]int64
	// liftKinds are the kinds of lifts, suitable the active engineers with a certificate of
	// a kind that has not run out.
	liftKinds map[int64]value.Value
	suitable  map[value.Value][]int64
}

// row is a record being made, by field.
type row map[string]value.Value

// Generate makes the demo's records. People are the keys of those who sign in, by
// e-mail address.
func Generate(ctx context.Context, w Writer, m *model.Model, now time.Time, people map[string]int64) error {
	g := &generator{ctx: ctx, writer: w, model: m, random: rand.New(rand.NewPCG(2026, 7)), today: value.DateOf(now),
		now: now, people: people,
		liftKinds: map[int64]value.Value{}, suitable: map[value.Value][]int64{}}
	customers := g.customers()
	contacts := g.contacts(customers)
	buildings := g.buildings(customers, contacts)
	lifts := g.lifts(buildings)
	engineers := g.engineers()
	g.papers(customers, engineers)
	calls := g.calls(lifts, contacts)
	g.visits(calls, engineers)
	g.prices(calls)
	g.rest(lifts, buildings)
	return g.err
}

func (g *generator) add(object string, rows []row) []int64 {
	if g.err != nil {
		return make([]int64, len(rows))
	}
	o := g.model.Object(object)
	a := records.Addition{Object: o}
	for i := range o.Fields {
		if f := &o.Fields[i]; f.Stored() {
			a.Fields = append(a.Fields, f)
		}
	}
	for _, r := range rows {
		cells := make([]value.Value, len(a.Fields))
		for i, f := range a.Fields {
			cells[i] = r[f.Key]
			if err := f.CheckValue(cells[i]); err != nil && g.err == nil {
				g.err = fmt.Errorf("making a %s: %w", object, err)
			}
		}
		a.Rows = append(a.Rows, cells)
	}
	keys, err := g.writer.Add(g.ctx, "demo", a)
	if err != nil {
		g.err = err
		return make([]int64, len(rows))
	}
	return keys
}

func (g *generator) chance(percent int) bool { return g.random.IntN(100) < percent }

func pick[T any](g *generator, from []T) T { return from[g.random.IntN(len(from))] }

// choice picks a value of a choice field.
func (g *generator) choice(object, field string, weights ...int) value.Value {
	choices := g.model.Object(object).Field(field).Choices
	if len(weights) == 0 {
		return value.Text(pick(g, choices).Key)
	}
	total := 0
	for _, w := range weights {
		total += w
	}
	n := g.random.IntN(total)
	for i, w := range weights {
		if n -= w; n < 0 {
			return value.Text(choices[i].Key)
		}
	}
	return nil
}

func text(s string) value.Value {
	if s == "" {
		return nil
	}
	return value.Text(s)
}

func days(from value.Date, n int) value.Date {
	d, err := from.AddDays(int64(n))
	if err != nil {
		panic(err) // the demo keeps to its own years
	}
	return d
}

func ref(id int64) value.Value { return &value.Record{ID: id} }

// fee is what a contract costs a year; some customers pay in other currencies, one in a
// currency without a rate.
func (g *generator) fee(customer int) value.Value {
	out := value.Money{Amount: decimal.New(int64(12+g.random.IntN(200))*100, 0), Currency: "EUR"}
	switch {
	case customer%9 == 4:
		out.Currency = "GBP"
	case customer%13 == 6:
		out.Currency = "SEK"
	case customer == 29:
		out.Currency = "NOK"
	}
	return out
}

func euro(n int64) value.Value {
	return value.Money{Amount: decimal.New(n, -2), Currency: "EUR"}
}

func (g *generator) phone() value.Value {
	return value.Text(fmt.Sprintf("+44 1632 960%03d", g.random.IntN(1000)))
}

func (g *generator) days(from, to int) value.Value {
	return days(g.today, from+g.random.IntN(to-from+1))
}

func (g *generator) customers() []int64 {
	var rows []row
	for i := range 40 {
		name := customerFirst[i%len(customerFirst)] + " " + customerLast[(i/len(customerFirst)*3+i)%len(customerLast)]
		r := row{"name": value.Text(name), "line_of_business": g.choice("customer", "line_of_business"),
			"status": g.choice("customer", "status", 2, 30, 3, 5), "address": g.address(),
			"logo":  g.picture(fmt.Sprintf("logo-%02d.png", i+1), i),
			"email": value.Text(fmt.Sprintf("office@customer%02d.example", i+1))}
		if g.chance(85) {
			r["phone"] = g.phone()
		}
		if g.chance(60) {
			r["web"] = value.Text(fmt.Sprintf("https://customer%02d.example", i+1))
		}
		if g.chance(70) {
			r["credit_limit"] = euro(int64(5+g.random.IntN(60)) * 100_000)
		}
		if g.chance(80) {
			r["account_manager"] = ref(g.people[pick(g, []string{"mara@quillmere.example", "fenn@quillmere.example"})])
		}
		rows = append(rows, r)
	}
	return g.add("customer", rows)
}

// names gives first and last names of which no pair repeats.
func (g *generator) names(n, skip int) [][2]string {
	var all [][2]string
	for i := range firstNames {
		for j := range lastNames {
			all = append(all, [2]string{firstNames[i], lastNames[j]})
		}
	}
	shuffle := rand.New(rand.NewPCG(11, 3))
	shuffle.Shuffle(len(all), func(i, j int) { all[i], all[j] = all[j], all[i] })
	return all[skip : skip+n]
}

func (g *generator) contacts(customers []int64) map[int64][]int64 {
	var rows []row
	var of []int64
	for i, n := range g.names(90, 0) {
		customer := customers[i%len(customers)]
		r := row{"first_name": value.Text(n[0]), "last_name": value.Text(n[1]), "customer": ref(customer),
			"position": text(pick(g, positions))}
		if g.chance(90) {
			r["email"] = value.Text(fmt.Sprintf("contact%02d@customer%02d.example", i+1, i%len(customers)+1))
		}
		if g.chance(75) {
			r["phone"] = g.phone()
		}
		rows, of = append(rows, r), append(of, customer)
	}
	out := map[int64][]int64{}
	for i, id := range g.add("contact", rows) {
		out[of[i]] = append(out[of[i]], id)
	}
	return out
}

func (g *generator) buildings(customers []int64, contacts map[int64][]int64) []int64 {
	var rows []row
	for i := range 120 {
		first := buildingFirst[i%len(buildingFirst)]
		last := buildingLast[(i/len(buildingFirst)+i)%len(buildingLast)]
		customer := customers[(i*7)%len(customers)]
		r := row{"name": value.Text(first + " " + last),
			"address": value.Text(fmt.Sprintf("%d %s", 1+g.random.IntN(120), pick(g, streets))),
			"town":    value.Text(towns[(i/30+i)%len(towns)]), "country": value.Text("QM"), "customer": ref(customer),
			"access_notes": text(pick(g, access))}
		if g.chance(92) {
			r["floors"] = value.Whole(2 + g.random.IntN(14))
		}
		if g.chance(70) && len(contacts[customer]) > 0 {
			r["key_holder"] = ref(pick(g, contacts[customer]))
		}
		rows = append(rows, r)
	}
	return g.add("building", rows)
}

func (g *generator) lifts(buildings []int64) []int64 {
	var rows []row
	for i := range 400 {
		b := buildings[g.random.IntN(len(buildings)-9)+4] // the first four and the last five have no lift
		r := row{"serial_number": value.Text(fmt.Sprintf("QL-%05d", 10000+i*37)), "label": text(pick(g, labels)),
			"building": ref(b), "model": text(pick(g, models)),
			"kind": g.choice("lift", "kind", 70, 15, 9, 6), "state": g.choice("lift", "state", 82, 6, 7, 5)}
		if g.chance(93) {
			r["stops"] = value.Whole(2 + g.random.IntN(12))
		}
		if g.chance(88) {
			r["installed_on"] = g.days(-9000, -200)
		}
		if g.chance(80) {
			r["last_inspected_on"] = g.days(-700, -1)
		}
		rows = append(rows, r)
	}
	keys := g.add("lift", rows)
	for i, id := range keys {
		g.liftKinds[id] = rows[i]["kind"]
	}
	return keys
}

// certificateFor is the kind of certificate that work on a kind of lift needs.
func certificateFor(lift value.Value) value.Value {
	switch lift {
	case value.Text("passenger"):
		return value.Text("electrical")
	case value.Text("dumbwaiter"):
		return value.Text("ropes")
	}
	return value.Text("hydraulics")
}

// inactive says which engineers are.
func inactive(i int) bool { return i%9 == 8 }

func (g *generator) engineers() []int64 {
	var rows []row
	for i, n := range g.names(26, 200) {
		r := row{"first_name": value.Text(n[0]), "last_name": value.Text(n[1]), "depot": g.choice("engineer", "depot"),
			"active": value.YesNo(!inactive(i)), "phone": g.phone(),
			"picture": g.picture(strings.ToLower(n[0])+".png", 100+i)}
		if i == 0 {
			r["first_name"], r["last_name"], r["person"] = value.Text("Eskil"), value.Text("Marlowe"),
				ref(g.people["eskil@quillmere.example"])
		}
		rows = append(rows, r)
	}
	return g.add("engineer", rows)
}

func (g *generator) papers(customers, engineers []int64) {
	var certificates, badges, contracts []row
	for i := range 80 {
		e := engineers[i%len(engineers)]
		// Every seventh engineer holds expired certificates only; some hold several of a kind.
		issued := days(g.today, -1500+g.random.IntN(1400))
		expires := days(issued, 730+g.random.IntN(700))
		if (i%len(engineers))%7 == 3 {
			issued = days(g.today, -2000+g.random.IntN(600))
			expires = days(issued, 365)
		}
		kind := g.choice("certificate", "kind", 40, 25, 25, 10)
		c := row{"engineer": ref(e), "kind": kind, "issued_on": issued, "expires_on": expires}
		if i%4 == 0 {
			c["file"] = g.file(fmt.Sprintf("certificate-%d.pdf", 700+i),
				report("Certificate", fmt.Sprintf("Issued on %s, valid until %s.", issued, expires)))
		}
		certificates = append(certificates, c)
		if !inactive(i%len(engineers)) && expires.Compare(g.today) >= 0 && !slices.Contains(g.suitable[kind], e) {
			g.suitable[kind] = append(g.suitable[kind], e)
		}
	}
	for i, e := range engineers {
		r := row{"engineer": ref(e), "badge_number": value.Text(fmt.Sprintf("B-%04d", 2100+i*13)),
			"suspended": value.YesNo(i%11 == 5)}
		if i%11 == 5 {
			r["suspended_until"], r["reason"] = g.days(5, 60), value.Text(pick(g, reasons))
		}
		badges = append(badges, r)
	}
	for i, c := range customers {
		if i%8 == 7 {
			continue
		}
		r := row{"customer": ref(c), "kind": g.choice("contract", "kind", 50, 35, 15), "starts": g.days(-1200, -30),
			"yearly_fee": g.fee(i)}
		if g.chance(60) {
			r["ends"] = g.days(-20, 900)
		}
		contracts = append(contracts, r)
	}
	g.add("certificate", certificates)
	g.add("badge", badges)
	g.add("contract", contracts)
}

func (g *generator) calls(lifts []int64, contacts map[int64][]int64) []call {
	var rows []row
	var out []call
	everybody := []int64{}
	for c := range 200 { // in the order of their keys, for a map has none
		everybody = append(everybody, contacts[int64(c)]...)
	}
	for i := range 650 {
		before := time.Duration(650-i)*26*time.Hour + time.Duration(g.random.IntN(600))*time.Minute
		opened := g.now.Add(-before).Truncate(time.Minute)
		c := call{lift: pick(g, lifts), opened: opened}
		r := row{"lift": ref(c.lift), "problem": value.Text(pick(g, problems)),
			"priority": g.choice("service_call", "priority", 8, 20, 55, 17), "opened": value.NewInstant(opened)}
		switch {
		case i%93 == 17: // a few have no state
		case i < 520:
			r["state"] = g.choice("service_call", "state", 0, 0, 0, 0, 92, 8)
		default:
			r["state"] = g.choice("service_call", "state", 30, 30, 8, 12, 18, 2)
		}
		if g.chance(70) && len(everybody) > 0 {
			r["reported_by"] = ref(pick(g, everybody))
		}
		if g.chance(85) {
			r["due"] = days(value.DateOf(opened), 1+g.random.IntN(20))
		}
		if s := r["state"]; s != nil && s != value.Text("reported") && g.chance(90) {
			c.engineer = pick(g, g.suitable[certificateFor(g.liftKinds[c.lift])])
			r["engineer"] = ref(c.engineer)
		}
		c.planned = r["state"] == value.Text("planned")
		rows, out = append(rows, r), append(out, c)
	}
	for i, id := range g.add("service_call", rows) {
		out[i].id = id
	}
	return out
}

type call struct {
	id, lift, engineer int64
	opened             time.Time
	planned            bool
}

// toCome is how many visits the first engineer, who signs in, has before them.
const toCome = 7

func (g *generator) visits(calls []call, engineers []int64) {
	var rows []row
	for i := range 900 {
		c := calls[(i*5)%len(calls)]
		engineer := c.engineer
		if engineer == 0 {
			engineer = pick(g, engineers)
		}
		starts := c.opened.Add(time.Duration(4+g.random.IntN(200)) * time.Hour).Truncate(15 * time.Minute)
		r := row{"service_call": ref(c.id), "lift": ref(c.lift), "engineer": ref(engineer),
			"starts": value.NewInstant(starts)}
		if g.chance(90) {
			r["minutes"] = value.Whole(15 * (1 + g.random.IntN(12)))
		}
		rows = append(rows, r)
	}
	for i, c := range slices.DeleteFunc(slices.Clone(calls), func(c call) bool { return !c.planned })[:toCome] {
		starts := days(g.today, 1+i/2).In(time.UTC).Add(time.Duration(8+5*(i%2)) * time.Hour)
		rows[len(rows)-toCome+i] = row{"service_call": ref(c.id), "lift": ref(c.lift), "engineer": ref(engineers[0]),
			"starts": value.NewInstant(starts), "minutes": value.Whole(int64(30 + 15*i))}
	}
	g.add("visit", rows)
}

func (g *generator) prices(calls []call) {
	var packs, parts, quotes, lines, rates []row
	for _, p := range packages {
		packs = append(packs, row{"name": value.Text(p.name), "description": value.Text(p.description),
			"price": euro(int64(p.price) * 100)})
	}
	for i := range 150 {
		parts = append(parts, row{"part_number": value.Text(fmt.Sprintf("P-%04d", 1000+i*7)),
			"name":  value.Text(partNames[i%len(partNames)] + ", " + partSizes[i/len(partNames)]),
			"price": euro(int64(250 + g.random.IntN(40_000))), "in_stock": value.Whole(g.random.IntN(60)),
			"supplier": text(pick(g, suppliers))})
	}
	for i := range 70 {
		r := row{"service_call": ref(calls[i*9].id), "state": g.choice("quote", "state", 15, 20, 50, 15)}
		if g.chance(70) {
			r["approved"] = value.YesNo(g.chance(80))
		}
		quotes = append(quotes, r)
	}
	g.add("repair_package", packs)
	g.add("spare_part", parts)
	for _, q := range g.add("quote", quotes) {
		for range 1 + g.random.IntN(4) {
			p := pick(g, parts)
			lines = append(lines, row{"quote": ref(q), "what": p["name"],
				"quantity":   value.Decimal{Decimal: decimal.New(int64(1+g.random.IntN(12)), 0)},
				"unit_price": p["price"]})
		}
	}
	g.add("quote_line", lines)
	for d := range 30 {
		for _, c := range []struct {
			code string
			rate int64
		}{{"GBP", 11_700}, {"SEK", 880}, {"CHF", 10_450}} {
			rates = append(rates, row{"currency": value.Text(c.code), "day": days(g.today, -d),
				"rate": value.Decimal{Decimal: decimal.New(c.rate+int64(g.random.IntN(60)), -4)}})
		}
	}
	g.add("exchange_rate", rates)
}

func (g *generator) rest(lifts, buildings []int64) {
	var reminders, documents []row
	for _, what := range []string{"Ring Mill House about the keys", "Order ropes for the Calder HX",
		"Check the weekend rota", "Ask finance about the open quote", "Renew the badge of the new engineer"} {
		reminders = append(reminders, row{"person": ref(g.people["dana@quillmere.example"]), "text": value.Text(what),
			"due": g.days(-3, 20), "state": g.choice("reminder", "state")})
	}
	for i, what := range []string{"Fetch the ropes for the Calder HX", "Bring the badge photo to the depot",
		"Read the note on door sensors"} {
		reminders = append(reminders, row{"person": ref(g.people["eskil@quillmere.example"]),
			"text": value.Text(what), "due": days(g.today, 3*i-2), "state": value.Text("open")})
	}
	for i := range 30 {
		documents = append(documents, g.document(i, lifts, buildings))
	}
	g.add("reminder", reminders)
	g.add("document", documents)
}
