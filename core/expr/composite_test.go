package expr

import (
	"errors"
	"strings"
	"testing"

	"plainpath/core/model"
	"plainpath/core/value"
)

// fleet is a scope with a record that has several choices and an address, and one without.
func fleet() (Scope, Values) {
	kinds := []model.ChoiceValue{{Key: "ladder", Label: "Ladder"}, {Key: "winch", Label: "Winch"}}
	m := model.New("EUR", &model.Object{Key: "van", Label: "Van", Plural: "Vans", LabelField: "plate",
		Fields: []model.Field{
			{Key: "plate", Label: "Plate", Type: model.Text}, {Key: "kind", Label: "Kind", Type: model.Choice,
				Choices: kinds},
			{Key: "fittings", Label: "Fittings", Type: model.Choices, Choices: kinds},
			{Key: "stands_at", Label: "Stands at", Type: model.Address},
			{Key: "paper", Label: "Paper", Type: model.File}}})
	s := Scope{Model: m, Names: []Name{{Key: "van", Label: "Van", Type: Type{Kind: value.KindRecord, Object: "van"}},
		{Key: "bare", Label: "Bare", Type: Type{Kind: value.KindRecord, Object: "van"}},
		{Key: "asked", Label: "Asked", Type: Type{Kind: value.KindScreen,
			Answers: []Name{{Key: "kind", Label: "Kind",
				Type: OfField(&model.Field{Label: "Kind asked for", Type: model.Choice, Choices: kinds})}}}}}}
	record := func(fields map[string]value.Value) value.Value {
		return &value.Record{Object: "van", ID: 1, Fields: fields}
	}
	return s, Values{"bare": record(map[string]value.Value{}),
		"asked": &value.Record{Fields: map[string]value.Value{"kind": value.Text("winch")}},
		"van": record(map[string]value.Value{"plate": value.Text("QV-1"), "kind": value.Text("winch"),
			"fittings":  value.NewSeveral("winch", "ladder"),
			"stands_at": value.Address{Lines: "4 Rope Walk\nrear", Town: "Varrow"},
			"paper": &value.Record{Object: model.FileObject, ID: 7, Label: "x.pdf",
				Fields: map[string]value.Value{"name": value.Text("x.pdf"), "size": value.Whole(12)}}})}
}

func TestExpressionsOverManifoldValues(t *testing.T) {
	s, values := fleet()
	yes, no := value.YesNo(true), value.YesNo(false)
	for source, want := range map[string]value.Value{
		`"winch" in van.fittings`:                               yes,
		`"ladder" in bare.fittings`:                             no,
		`bare.plate in ["QV-1"]`:                                no,
		`van.plate in ["QV-2", "QV-1"]`:                         yes,
		`!("winch" in bare.fittings)`:                           yes,
		`size(van.fittings)`:                                    value.Whole(2),
		`size(bare.fittings)`:                                   nil,
		`empty(bare.fittings)`:                                  yes,
		`van.fittings.exists(f, f == "ladder")`:                 yes,
		`van.fittings.filter(f, f != "winch")`:                  value.NewSeveral("ladder"),
		`van.fittings.filter(f, f == "none")`:                   nil,
		`van.fittings == ["winch", "ladder"]`:                   yes,
		`van.stands_at.town`:                                    value.Text("Varrow"),
		`van.stands_at.postcode`:                                nil,
		`bare.stands_at.town`:                                   nil,
		`van.stands_at.town + "!"`:                              value.Text("Varrow!"),
		`text(van.stands_at)`:                                   value.Text("4 Rope Walk, rear, Varrow"),
		`empty(van.stands_at.country) && !empty(van.stands_at)`: yes,
		`van.stands_at == bare.stands_at`:                       no,
		`van.paper.name + " has " + text(van.paper.size)`:       value.Text("x.pdf has 12"),
		`empty(bare.paper.name)`:                                yes,
		`van.kind == asked.kind`:                                yes,
		`1 in [1, 2]`:                                           yes,
	} {
		p, err := Compile(s, source)
		if err != nil {
			t.Errorf("%s: %v", source, err)
			continue
		}
		got, err := p.Eval(values)
		if err != nil || got != want {
			t.Errorf("%s: %v, %v; want %v", source, got, err, want)
		}
	}
}

func TestMistakesOverManifoldValues(t *testing.T) {
	s, _ := fleet()
	for source, want := range map[string]struct {
		says   string
		offset int
	}{
		`van.stands_at.twon == "x"`:           {`there is no field "twon"`, 13},
		`van.fittings.winch`:                  {"", 12},
		`van.kind == "wnich"`:                 {`Kind is never "wnich"; did you mean "winch"?`, 12},
		`"wnich" != van.kind`:                 {`did you mean "winch"?`, 0},
		`"oven" in van.fittings`:              {`Fittings is never "oven"`, 0},
		`van.kind in ["winch", "laddr"]`:      {`did you mean "ladder"?`, 22},
		`asked.kind == "oven"`:                {`Kind asked for is never "oven"`, 14},
		`van.plate == "x" && van.kind != ""`:  {`Kind is never ""`, 32},
		`either(van.kind, "none") == "wnich"`: {`Kind is never "wnich"`, 28},
		`van.stands_at + "x"`:                 {"cannot be used with", 14},
	} {
		_, err := Compile(s, source)
		var e *Error
		if !errors.As(err, &e) || !strings.Contains(e.Text, want.says) || e.Offset != want.offset {
			t.Errorf("%s: %+v, want %+v", source, err, want)
		}
	}
	for _, sound := range []string{`either(van.kind, "none") == "none"`,
		`(empty(van.kind) ? "none" : van.kind) != "winch"`, `either(van.kind, "") in ["", "ladder"]`,
		`van.plate == "wnich"`, `van.kind == van.plate`, `van.stands_at.town == "wnich"`} {
		if _, err := Compile(s, sound); err != nil {
			t.Errorf("%s: %v", sound, err)
		}
	}
}

func TestWhatManifoldValuesUse(t *testing.T) {
	s, _ := fleet()
	p, err := Compile(s, `van.stands_at.town == "Varrow" || "winch" in van.fittings || van.paper.name != ""`)
	if err != nil {
		t.Fatal(err)
	}
	var uses []string
	for _, u := range p.Uses {
		uses = append(uses, strings.Join(u, "."))
	}
	if got := strings.Join(uses, " "); got != "van.fittings van.paper.name van.stands_at.town" {
		t.Error(got)
	}
	for source, empty := range map[string]bool{`van.stands_at.town`: true, `"winch" in van.fittings`: false,
		`either(van.stands_at.town, "x")`: false, `van.fittings`: true} {
		if p, err = Compile(s, source); err != nil || p.Type.Empty != empty {
			t.Errorf("%s can be empty: %t, %v", source, p.Type.Empty, err)
		}
	}
}
