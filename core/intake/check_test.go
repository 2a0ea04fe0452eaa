package intake

import (
	"slices"
	"strings"
	"testing"

	"plainpath/core/model"
)

// yard is a plan for two sheets: sites, which become an object, and customers, which are
// there.
func yard(t *testing.T) ([]FoundSheet, Plan) {
	t.Helper()
	sheets := []FoundSheet{
		found(t, "Sites", "Site,Opened,Kind,Customer\nNorth Yard,2026-01-02,Open,Beacon Homes\nSouth Yard,2026-01-03,Open,Weir Homes\nEast Yard,2026-01-04,Shut,Beacon Homes\nWest Yard,2026-01-05,Shut,Weir Homes\n"+
			"Far Yard,2026-01-06,Open,Weir Homes\nNear Yard,2026-01-07,Shut,Weir Homes\n"),
		found(t, "Customers", "Name,Town,Colour\nBeacon Homes,Varrow,red\nWeir Homes,Sandholt,blue\n"),
	}
	none := func(values []string) ([]bool, error) { return make([]bool, len(values)), nil }
	if err := MatchColumns(sheets, house(), func(*model.Object, *model.Field) Holder { return none }); err != nil {
		t.Fatal(err)
	}
	return sheets, Propose(sheets, house())
}

func problems(p Plan, follows bool) string {
	var out []string
	for _, x := range p.Check(house(), follows) {
		out = append(out, x.Text)
	}
	return strings.Join(out, " | ")
}

func TestWhatKeepsAPlanFromBeingCarriedOut(t *testing.T) {
	for _, c := range []struct {
		name  string
		spoil func(sites, customers *SheetPlan)
		says  string
	}{
		{"nothing", func(*SheetPlan, *SheetPlan) {}, ""},
		{"every sheet left out", func(a, b *SheetPlan) { a.Skip, b.Skip = true, true }, "Every sheet is left out"},
		{"a name that is taken", func(a, _ *SheetPlan) { a.Object = "customer" }, `the key "customer" already`},
		{"no object", func(_, b *SheetPlan) { b.Object = "" }, "Choose the object"},
		{"the people of the program", func(_, b *SheetPlan) { b.Object = model.PersonObject }, "Choose the object"},
		{"no column", func(_, b *SheetPlan) { b.Columns[0].Skip, b.Columns[1].Skip = true, true },
			"Every column is left out"},
		{"what is required left out", func(_, b *SheetPlan) { b.Mode, b.Columns[0].Skip = ModeAdd, true },
			"Name is required for every customer"},
		{"what is required left out, of an update",
			func(_, b *SheetPlan) { b.Mode, b.Key, b.Columns[0].Skip = ModeUpdate, "town", true }, ""},
		{"no key", func(_, b *SheetPlan) { b.Key = "" }, "recognised by"},
		{"a key that is left out", func(_, b *SheetPlan) { b.Key = "since" }, "recognised by"},
		{"a running number", func(_, b *SheetPlan) { b.Columns[1].Field = "number" }, "Choose the field that"},
		{"two columns into one field", func(_, b *SheetPlan) { b.Columns[1].Field = "name" }, "Two columns go into"},
		{"a new field", func(_, b *SheetPlan) {
			b.Columns[2] = ColumnPlan{New: true, Field: "colour", Label: "Colour", Reading: Reading{Type: model.Text}}
		}, ""},
		{"a new field with a key that is taken", func(_, b *SheetPlan) {
			b.Columns[2] = ColumnPlan{New: true, Field: "status", Label: "Colour", Reading: Reading{Type: model.Text}}
		}, `a field with the key "status" already`},
		{"a new field with a key that is none", func(_, b *SheetPlan) {
			b.Columns[2] = ColumnPlan{New: true, Field: "Col our", Label: "Colour", Reading: Reading{Type: model.Text}}
		}, "cannot be a key"},
		{"a new field that is required", func(_, b *SheetPlan) {
			b.Columns[2] = ColumnPlan{New: true, Field: "colour", Label: "Colour", Reading: Reading{Type: model.Text},
				Required: true}
		}, "cannot be required while"},
		{"a new choice of nothing", func(_, b *SheetPlan) {
			b.Columns[2] = ColumnPlan{New: true, Field: "colour", Label: "Colour", Reading: Reading{Type: model.Choice}}
		}, "offers nothing to choose"},
		{"a reference to nothing said", func(a, _ *SheetPlan) { a.Columns[3].Refers = "" },
			`Choose the object that "Customer" refers to`},
		{"a reference to what is not there", func(a, _ *SheetPlan) { a.Columns[3].Refers = "boat" },
			`no object "boat"`},
		{"a reference by a date", func(a, _ *SheetPlan) { a.Columns[3].Match = "since" }, "by which field of Customer"},
		{"records recognised by a reference", func(a, _ *SheetPlan) { a.Mode, a.Key = ModeBoth, "customer" },
			"does not refer"},
	} {
		_, p := yard(t)
		c.spoil(&p.Sheets[0], &p.Sheets[1])
		got := problems(p, true)
		if (got == "") != (c.says == "") || !strings.Contains(got, c.says) {
			t.Errorf("%s: %q, want %q", c.name, got, c.says)
		}
	}
	_, p := yard(t)
	if got := problems(p, false); got != "A new object can only be made in trial; production gets it with a release." {
		t.Error(got)
	}
}

func TestReferencesOfAPlan(t *testing.T) {
	_, p := yard(t)
	if c := p.Sheets[0].Columns[3]; c.Reading.Type != model.Reference || c.Refers != "customer" || c.Match != "name" ||
		c.Choices != nil {
		t.Errorf("%+v", c)
	}
	if c := p.Sheets[0].Columns[2]; c.Refers != "" || c.Reading.Type != model.Choice {
		t.Errorf("%+v", c)
	}
	// Numbers match by chance; only words in common make them a reference.
	lifts := "Lift,Floors,Lift no\nA,1,1\nB,2,2\nC,2,3\n"
	visits := "Visit,Lift,Engineers\nX,1,1\nY,2,2\nZ,3,1\n"
	sheets := []FoundSheet{found(t, "lifts", lifts), found(t, "visits", visits)}
	if err := MatchColumns(sheets, model.New("EUR"), nil); err != nil {
		t.Fatal(err)
	}
	if m := sheets[1].Matches; len(m) != 1 || m[1].Target.Column != 2 || m[1].Matches != 3 {
		t.Errorf("%+v", m)
	}
}

func TestPlanningASheetForAnotherObject(t *testing.T) {
	sheets, p := yard(t)
	before := p.Sheets[0]
	if err := p.IntoObject(sheets, 0, house(), "customer"); err != nil {
		t.Fatal(err)
	}
	if s := p.Sheets[0]; s.New || s.Object != "customer" || len(s.Columns) != 4 || !s.Columns[0].Skip ||
		s.Columns[0].Label != "Site" {
		t.Errorf("%+v", s)
	}
	if err := p.IntoObject(sheets, 0, house(), ""); err != nil {
		t.Fatal(err)
	}
	if s := p.Sheets[0]; !s.New || s.Object != before.Object || s.Key != before.Key ||
		s.Columns[3].Refers != "customer" || len(s.Columns[2].Choices) != 2 {
		t.Errorf("back again: %+v", s)
	}
	if err := p.IntoObject(sheets, 1, house(), ""); err != nil { // its name is free no longer
		t.Fatal(err)
	}
	if s := p.Sheets[1]; s.Object != "customer_2" {
		t.Errorf("%+v", s)
	}
	for _, c := range []struct {
		sheet  int
		object string
		says   string
	}{{0, "boat", `no object "boat"`}, {0, model.PersonObject, "no object"}, {2, "", "no such column"},
		{-1, "", "no such column"}} {
		if err := p.IntoObject(sheets, c.sheet, house(), c.object); err == nil || !strings.Contains(err.Error(),
			c.says) {
			t.Errorf("%+v: %v", c, err)
		}
	}
}

func TestPlanningAColumnForAnotherField(t *testing.T) {
	sheets, p := yard(t)
	column := func() ColumnPlan { return p.Sheets[1].Columns[2] }
	for _, c := range []struct {
		field string
		check func(ColumnPlan) bool
	}{
		{"status", func(c ColumnPlan) bool { return !c.New && c.Field == "status" && c.Reading.Type == model.Choice }},
		{"since", func(c ColumnPlan) bool { return c.Reading == Reading{model.Date, YMD} && c.Label == "Since" }},
		{"", func(c ColumnPlan) bool { return c.New && c.Field == "colour" && c.Reading.Type == model.Text }},
	} {
		if err := p.IntoField(sheets, 1, 2, house(), c.field); err != nil || !c.check(column()) || column().Skip {
			t.Errorf("%q: %+v, %v", c.field, column(), err)
		}
	}
	if err := p.IntoField(sheets, 1, 1, house(), ""); err != nil || p.Sheets[1].Columns[1].Field != "town_2" {
		t.Errorf("%+v, %v", p.Sheets[1].Columns[1], err)
	}
	for _, err := range []error{p.IntoField(sheets, 1, 2, house(), "boat"), p.IntoField(sheets, 1, 3, house(), ""),
		p.ReadAs(sheets, 1, -1, Reading{Type: model.Text})} {
		if err == nil {
			t.Error("it was planned all the same")
		}
	}

	kind, customer := &p.Sheets[0].Columns[2], &p.Sheets[0].Columns[3]
	read := func(column int, r Reading) {
		t.Helper()
		if err := p.ReadAs(sheets, 0, column, r); err != nil {
			t.Fatal(err)
		}
	}
	read(2, Reading{Type: model.Text})
	read(3, Reading{Type: model.Choice})
	labels := []string{}
	for _, c := range customer.Choices {
		labels = append(labels, c.Key)
	}
	if kind.Choices != nil || customer.Refers != "" || !slices.Equal(labels, []string{"weir_homes", "beacon_homes"}) {
		t.Errorf("%+v, %+v", kind, customer)
	}
	read(2, Reading{Type: model.Reference})
	read(3, Reading{Type: model.Reference})
	if kind.Refers != "" || customer.Refers != "customer" || customer.Match != "name" || customer.Choices != nil {
		t.Errorf("%+v, %+v", kind, customer)
	}
}
