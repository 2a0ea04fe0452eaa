package intake

import (
	"reflect"
	"strings"
	"testing"
	"time"

	"plainpath/core/model"
	"plainpath/core/value"
)

func house() *model.Model {
	return model.New("EUR",
		&model.Object{Key: "customer", Label: "Customer", Plural: "Customers", LabelField: "name",
			Fields: []model.Field{
				{Key: "name", Label: "Name", Type: model.Text, Required: true, Unique: true},
				{Key: "town", Label: "Town", Type: model.Text}, {Key: "number", Label: "Number", Type: model.Number},
				{Key: "since", Label: "Since", Type: model.Date}, {Key: "status", Label: "Status", Type: model.Choice,
					Choices: []model.ChoiceValue{{Key: "active", Label: "Active"},
						{Key: "gone", Label: "Gone away", Retired: true}}}}})
}

func found(t *testing.T, name, content string) FoundSheet {
	t.Helper()
	_, a := analyse(t, name+".csv", []byte(content), 0)
	return FoundSheet{Name: name, Analysis: a}
}

func TestASheetBecomesAnObject(t *testing.T) {
	f := found(t, "spare_parts", "Part no,Name,In stock,Price each,Notes,Group\n"+
		"P-1,Door belt,4,€ 12.50,,Doors\nP-2,Door shoe,0,€ 3.10,,Doors\nP-3,Rope,9,€ 80.00,,Ropes\nP-4,Sheave,2,€ 140.00,,Ropes\nP-5,Roller,2,€ 4.00,,Doors\nP-6,Lamp,7,€ 2.20,,Doors\n")
	p := Propose([]FoundSheet{f}, house())
	s := p.Sheets[0]
	if !s.New || s.Object != "spare_part" || s.Label != "Spare part" || s.Plural != "Spare parts" ||
		s.Key != "part_no" || s.LabelField != "part_no" || s.Mode != ModeAdd {
		t.Fatalf("%+v", s)
	}
	o := s.NewObject()
	var got []string
	for _, f := range o.Fields {
		got = append(got, f.Key+":"+string(f.Type))
	}
	if strings.Join(got, " ") != "part_no:text name:text in_stock:whole_number price_each:money group:choice" {
		t.Error(got)
	}
	if len(o.Fields[4].Choices) != 2 || !reflect.DeepEqual(o.Fields[4].Choices[0],
		model.ChoiceValue{Key: "doors", Label: "Doors"}) || !o.Fields[0].Unique || !o.Fields[0].Required {
		t.Errorf("%+v", o.Fields)
	}
	if problems := model.New("EUR", o).Check(o); len(problems) != 0 {
		t.Error(problems)
	}
}

func TestASheetGoesIntoTheObjectItIsLike(t *testing.T) {
	for name, c := range map[string]struct {
		sheet, headings string
		into            string
	}{
		"by its headings":         {"export 2026", "Name,Town,Since,Colour", "customer"},
		"by its name":             {"Customers", "Name,Colour,Shape,Size", "customer"},
		"too few in common":       {"export", "Name,Colour,Shape", ""},
		"two headings are little": {"towers", "Name,Town", ""},
	} {
		n := strings.Count(c.headings, ",")
		p := Propose([]FoundSheet{found(t, c.sheet, c.headings+"\nBeacon Homes"+strings.Repeat(",x",
			n)+"\nWeir Homes"+strings.Repeat(",y", n)+"\n")}, house())
		s := p.Sheets[0]
		if (c.into == "") != s.New || c.into != "" && (s.Object != c.into || s.Key != "name" || s.Mode != ModeBoth) {
			t.Errorf("%s: %+v", name, s)
		}
		for _, column := range s.Columns {
			if !s.New && column.Label == "Colour" && !column.Skip {
				t.Errorf("%s: %+v goes nowhere", name, column)
			}
		}
	}
}

func TestSheetsInTheOrderOfTheirReferences(t *testing.T) {
	sheet := func(object string, refers ...string) SheetPlan {
		s := SheetPlan{Object: object, New: true}
		for _, r := range refers {
			s.Columns = append(s.Columns, ColumnPlan{Field: r, Refers: r})
		}
		return s
	}
	for _, c := range []struct {
		name   string
		sheets []SheetPlan
		want   string
	}{
		{"as they come", []SheetPlan{sheet("a"), sheet("b")}, "ab"},
		{"what is referred to first", []SheetPlan{sheet("a", "b"), sheet("b", "c"), sheet("c")}, "cba"},
		{"only what is brought in", []SheetPlan{sheet("a", "z"), sheet("b")}, "ab"},
		{"a circle", []SheetPlan{sheet("a", "b"), sheet("b", "a")}, "circle"},
		{"to itself", []SheetPlan{sheet("a", "a"), sheet("b")}, "ab"},
		{"a circle through a sheet left out",
			[]SheetPlan{sheet("a", "b"), {Object: "b", Skip: true, Columns: []ColumnPlan{{Refers: "a"}}}}, "a"},
	} {
		order, err := (&Plan{Sheets: c.sheets}).Sequence()
		got := ""
		for _, i := range order {
			got += c.sheets[i].Object
		}
		if err != nil {
			got = err.Error()
		}
		if !strings.Contains(got, c.want) {
			t.Errorf("%s: %q", c.name, got)
		}
	}
}

func TestKeysOfWords(t *testing.T) {
	for words, want := range map[string]string{"Serial number": "serial_number", "Überprüft am": "uberpruft_am",
		"2nd floor": "nd_floor", "%": "field", "": "field",
		"E-Mail (office)": "e_mail_office", "ÅÄÖ": "aao", "日付": "field",
		strings.Repeat("long ", 20): "long_long_long_long_long_long_long_long"} {
		if got := KeyOf(words); got != want || model.KeyProblem(got) != "" {
			t.Errorf("%q: %q, want %q", words, got, want)
		}
	}
	for plural, want := range map[string]string{"Lifts": "Lift", "Companies": "Company", "Glass": "Glass",
		"Staff":   "Staff",
		"Species": "Species", "Series": "Series", "Delivery addresses": "Delivery address", "Status": "Status",
		"News": "News"} {
		if got := inflect.Singular(plural); got != want {
			t.Errorf("%s: %s", plural, got)
		}
	}
	for i, want := range map[int]string{0: "A", 25: "Z", 26: "AA", 27: "AB", 701: "ZZ", 702: "AAA"} {
		if got := columnLetters(i); got != want {
			t.Errorf("%d: %s", i, got)
		}
	}
}

func TestCellsOfAField(t *testing.T) {
	customer := house().Object("customer")
	most := int64(10)
	short := model.Field{Label: "Short", Type: model.Text, Most: &most}
	refers := model.Field{Label: "Customer", Type: model.Reference, Object: "customer", Required: true}
	for _, c := range []struct {
		name       string
		field      *model.Field
		reading    Reading
		cell, want string
		refused    string
	}{
		{"text as it is", customer.Field("town"), Reading{Type: model.Text}, " Varrow ", " Varrow ", ""},
		{"only spaces are empty", customer.Field("town"), Reading{Type: model.Text}, "  ", "", ""},
		{"what is required", customer.Field("name"), Reading{Type: model.Text}, " ", "", "Name is required"},
		{"too long", &short, Reading{Type: model.Text}, "more than ten", "", "at most 10"},
		{"a choice by its label, whatever the case", customer.Field("status"), Reading{Type: model.Choice}, "ACTIVE",
			"active", ""},
		{"a choice by its key", customer.Field("status"), Reading{Type: model.Text}, "active", "active", ""},
		{"a retired choice", customer.Field("status"), Reading{Type: model.Choice}, "Gone away", "", "is retired"},
		{"no choice", customer.Field("status"), Reading{Type: model.Choice}, "Sleeping", "", `has no value "Sleeping"`},
		{"a date, day first", customer.Field("since"), Reading{model.Date, DMY}, "3/4/2026", "2026-04-03", ""},
		{"another form than read", customer.Field("since"), Reading{model.Date, DMY}, "2026-04-03", "", "day first"},
		{"a date for a field of dates though read as text", customer.Field("since"), Reading{Type: model.Text},
			"3 Apr 2026", "2026-04-03", ""},
		{"a name stays a name", &refers, Reading{Type: model.Reference}, " Weir Homes ", "Weir Homes", ""},
		{"a reference that is required", &refers, Reading{Type: model.Reference}, "", "", "Customer is required"},
	} {
		column := ColumnPlan{Reading: c.reading}
		v, err := column.Cell(c.field, c.cell, time.UTC)
		if c.refused != "" {
			if err == nil || !strings.Contains(err.Error(), c.refused) {
				t.Errorf("%s: %v, %v", c.name, v, err)
			}
			continue
		}
		if err != nil || value.Display(v) != c.want {
			t.Errorf("%s: %q, %v", c.name, value.Display(v), err)
		}
	}
}

func TestTheReadingThatSuitsAField(t *testing.T) {
	_, a := analyse(t, "x.csv", []byte("When,Many\n03/04/2026,\"1.234,5\"\n25/04/2026,\"7,5\"\n"), 0)
	for _, c := range []struct {
		column int
		want   model.FieldType
		form   string
	}{{0, model.Date, DMY}, {1, model.Decimal, Comma}, {0, model.Whole, Point}, {0, model.DateTime, YMD},
		{0, model.Email, ""}} {
		if got := a.Columns[c.column].ReadingFor(&model.Field{Type: c.want}); got != (Reading{c.want, c.form}) {
			t.Errorf("%s for %s: %+v", c.want, a.Columns[c.column].Heading, got)
		}
	}
}

func TestDatesInEveryForm(t *testing.T) {
	for _, c := range []struct{ text, form, want string }{
		{"2026-03-01", YMD, "2026-03-01"}, {"2026/3/1", YMD, "2026-03-01"}, {"01.03.2026", DMY, "2026-03-01"},
		{"1-3-26", DMY, "2026-03-01"}, {"3/1/26", MDY, "2026-03-01"},
		{"1 March 2026", DMY, "2026-03-01"}, {"Mar 1, 2026", YMD, "2026-03-01"}, {"01-Mar-1999", MDY, "1999-03-01"},
		{"1/3/50", DMY, "1950-03-01"}, {"1/3/49", DMY, "2049-03-01"},
		{"29.02.2024", DMY, "2024-02-29"}, {"2026-03-01 00:00:00", YMD, "2026-03-01"},
		{"29.02.2025", DMY, ""}, {"31/04/2026", DMY, ""}, {"13/13/2026", MDY, ""}, {"0/1/2026", DMY, ""},
		{"1/0/2026", DMY, ""}, {"2026-03", YMD, ""}, {"20260301", YMD, ""},
		{"1/3/2026x", DMY, ""}, {"1 Marz 2026", DMY, ""}, {"1//3/2026", DMY, "2026-03-01"}, {"1///3/2026", DMY, ""},
		{"2026-03-01 10:00", YMD, ""}, {"1/3/02026", DMY, ""}, {"26-3-1", YMD, ""},
	} {
		v, err := Reading{model.Date, c.form}.Value(c.text, time.UTC)
		if got := value.Display(v); got != c.want || (err == nil) != (c.want != "") {
			t.Errorf("%q with %s: %q, %v", c.text, c.form, got, err)
		}
	}
	dublin, err := time.LoadLocation("Europe/Dublin")
	if err != nil {
		t.Fatal(err)
	}
	for text, want := range map[string]string{"2026-07-01 09:30": "2026-07-01T08:30:00Z",
		"2026-07-01T09:30:15.25Z": "2026-07-01T09:30:15.25Z", "2026-07-01 9:30 PM": "2026-07-01T20:30:00Z",
		"2026-07-01 09:30 +0200": "2026-07-01T07:30:00Z", "2026-07-01T09:30+02:00": "2026-07-01T07:30:00Z",
		"2026-07-01": "", "2026-07-01 25:00": "", "2026-07-01 half nine": ""} {
		v, err := Reading{model.DateTime, YMD}.Value(text, dublin)
		got := ""
		if i, ok := v.(value.Instant); ok {
			got = i.Format(time.RFC3339Nano)
		}
		if got != want || (err == nil) != (want != "") {
			t.Errorf("%q: %q, %v", text, got, err)
		}
	}
}

func TestNumbersAndAmountsInEveryForm(t *testing.T) {
	for _, c := range []struct {
		text string
		r    Reading
		want string
	}{
		{"1,234,567", Reading{model.Whole, Point}, "1234567"}, {"1 234 567", Reading{model.Whole, Comma}, "1234567"},
		{"1'234", Reading{model.Whole, Point}, "1234"}, {"-12", Reading{model.Whole, Point}, "-12"},
		{"(12)", Reading{model.Whole, Point}, "-12"}, {"\u221212", Reading{model.Whole, Point}, "-12"},
		{"0", Reading{model.Whole, Point}, "0"}, {"12.50", Reading{model.Decimal, Point}, "12.5"},
		{"0,5", Reading{model.Decimal, Comma}, "0.5"}, {"12,5 %", Reading{model.Decimal, Comma}, "0.125"},
		{"1\u00a0234,5", Reading{model.Decimal, Comma}, "1234.5"},
		{"12,34", Reading{model.Whole, Point}, ""}, {"1,2345", Reading{model.Whole, Point}, ""},
		{",5", Reading{model.Decimal, Comma}, "0.5"}, {".5", Reading{model.Decimal, Point}, "0.5"},
		{"-.25", Reading{model.Decimal, Point}, "-0.25"}, {".", Reading{model.Decimal, Point}, ""},
		{"5.", Reading{model.Decimal, Point}, ""}, {"007", Reading{model.Whole, Point}, ""},
		{"00.5", Reading{model.Decimal, Point}, ""}, {"-0", Reading{model.Whole, Point}, ""},
		{"1e5", Reading{model.Decimal, Point}, "100000"}, {"1.5E-3", Reading{model.Decimal, Point}, "0.0015"},
		{"1e3", Reading{model.Whole, Point}, "1000"}, {"1.5e0", Reading{model.Whole, Point}, ""},
		{"1e999999999", Reading{model.Decimal, Point}, ""}, {"e5", Reading{model.Decimal, Point}, ""},
		{"+5", Reading{model.Whole, Point}, "5"}, {"5-", Reading{model.Whole, Point}, "-5"},
		{"+-5", Reading{model.Whole, Point}, ""}, {"(1,200.50)", Reading{model.Decimal, Point},
			"-1200.5"}, {"2'000.00", Reading{model.Decimal, Point}, "2000"},
		{"--5", Reading{model.Whole, Point}, ""},
		{"(5", Reading{model.Whole, Point}, ""}, {"1234567890123456", Reading{model.Whole, Point}, "1234567890123456"},
		{"9223372036854775808", Reading{model.Whole, Point}, ""}, {"1,234 567", Reading{model.Whole, Point}, ""},
		{"50%", Reading{model.Whole, Point}, ""},
		{"€ 1.234,50", Reading{model.Money, Comma}, "1234.50 EUR"}, {"1,234.50 USD", Reading{model.Money, Point},
			"1234.50 USD"}, {"£12", Reading{model.Money, Point}, "12.00 GBP"}, {"-€ 3,50", Reading{model.Money, Comma},
			"-3.50 EUR"},
		{"EUR -3.50", Reading{model.Money, Point}, "-3.50 EUR"}, {"(3.50) EUR", Reading{model.Money, Point},
			"-3.50 EUR"}, {"12 XQQ", Reading{model.Money, Point}, ""}, {"12", Reading{model.Money, Point}, ""},
		{"€ 12 EUR", Reading{model.Money, Point}, ""}, {"€", Reading{model.Money, Point}, ""},
		{"€ x", Reading{model.Money, Point}, ""}, {"12 %EUR", Reading{model.Money, Point}, ""},
		{"on", Reading{Type: model.YesNo}, "yes"}, {"N", Reading{Type: model.YesNo}, "no"},
		{"maybe", Reading{Type: model.YesNo}, ""},
		{"https://quillmere.example/x", Reading{Type: model.WebLink}, "https://quillmere.example/x"},
		{"https://two words", Reading{Type: model.WebLink}, ""}, {"ftp://x", Reading{Type: model.WebLink}, ""},
		{"dana@quillmere", Reading{Type: model.Email}, ""},
		{"Dana <dana@quillmere.example>", Reading{Type: model.Email}, ""},
		{"01632 960123", Reading{Type: model.Phone}, ""},
	} {
		v, err := c.r.Value(c.text, time.UTC)
		if got := value.Display(v); got != c.want || (err == nil) != (c.want != "") {
			t.Errorf("%q as %s %s: %q, %v; want %q", c.text, c.r.Type, c.r.Form, got, err, c.want)
		}
	}
}

func TestDelimitersAreFound(t *testing.T) {
	for sample, want := range map[string]rune{"a;b;c\n1,5;2;3\n": ';', "a,b\n1,2\n": ',', "a\tb\n1\t2\n": '\t',
		"a|b|c\n1|2|3\n": '|', "only one\nvalue\n": ',',
		"name;note\n\"x;y\";\"a, b, c\"\n": ';', "time,place\n10:30,x\n11:45,y\n": ',', "": ','} {
		if got := Delimiter(sample); got != want {
			t.Errorf("%q: %q, want %q", sample, got, want)
		}
	}
}

// Cells that hold several choices are taken apart; an address keeps its lines.
func TestCellsOfSeveralThings(t *testing.T) {
	body := "Name,Speaks,Address\nIlse,\"Norse, Welsh\",\"4 Rope Walk, Varrow\"\nOona,welsh;  ,\"Mill Bank 2\n5130 Sandholt\"\nPetra,,\nJoss,Greek,x\n"
	found := []FoundSheet{found(t, "people.csv", body)}
	plan := Propose(found, model.New("EUR"))
	for column, kind := range map[int]model.FieldType{1: model.Choices, 2: model.Address} {
		if err := plan.ReadAs(found, 0, column, Reading{Type: kind}); err != nil {
			t.Fatal(err)
		}
	}
	o := plan.Sheets[0].NewObject()
	if problems := model.New("EUR", o).Check(o); len(problems) > 0 {
		t.Fatal(problems)
	}
	speaks, address := o.Field("speaks"), o.Field("address")
	if len(speaks.Choices) != 3 {
		t.Fatalf("%+v", speaks.Choices)
	}
	cell := func(f *model.Field, column int, text string) string {
		t.Helper()
		v, err := plan.Sheets[0].Columns[column].Cell(f, text, time.UTC)
		if err != nil {
			return err.Error()
		}
		return f.Shown(v)
	}
	for text, want := range map[string]string{"Norse, Welsh": "Norse, Welsh", "welsh; norse;": "Welsh, Norse", " ": "",
		"Welsh|Greek\nWelsh": "Welsh, Greek", "Welsh, Latin": `Speaks has no value "Latin"`} {
		if got := cell(speaks, 1, text); got != want {
			t.Errorf("%q: %q, want %q", text, got, want)
		}
	}
	for text, want := range map[string]string{"4 Rope Walk, Varrow": "4 Rope Walk, Varrow",
		"Mill Bank 2, rear\n5130 Sandholt": "Mill Bank 2, rear, 5130 Sandholt", " , ": ""} {
		if got := cell(address, 2, text); got != want {
			t.Errorf("%q: %q, want %q", text, got, want)
		}
	}
}
