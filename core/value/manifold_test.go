package value

import (
	"encoding/json"
	"testing"
)

func TestSeveralChoicesAreASetInOrder(t *testing.T) {
	s := NewSeveral("b", "a", "b")
	if got := s.(Several).Keys(); len(got) != 2 || got[0] != "b" {
		t.Error(got)
	}
	if !s.(Several).Has("a") || s.(Several).Has("c") || NewSeveral() != nil {
		t.Error("what is among them is not known")
	}
	if !Equal(s, NewSeveral("b", "a")) || Equal(s, NewSeveral("a")) || Equal(s, Text("b")) {
		t.Error("they are compared wrongly")
	}
	if _, ordered := Compare(s, s); ordered {
		t.Error("they have an order")
	}
}

func TestAnAddressIsTidied(t *testing.T) {
	a := NewAddress(Address{Lines: " 4 Rope Walk \n\n rear ", Town: " Varrow", Postcode: "6010 ", Country: ""})
	if a != Value(Address{"4 Rope Walk\nrear", "Varrow", "6010", ""}) ||
		Display(a) != "4 Rope Walk, rear, 6010 Varrow" {
		t.Errorf("%+v %q", a, Display(a))
	}
	if NewAddress(Address{Lines: "\n ", Town: " "}) != nil {
		t.Error("an address of nothing")
	}
	r := &Record{Fields: map[string]Value{"at": a, "note": Text("x")}}
	for field, want := range map[string]Value{"at": a, "at.town": Text("Varrow"), "at.country": nil, "at.planet": nil,
		"note.town": nil, "gone.town": nil} {
		if got := r.Get(field); got != want {
			t.Errorf("%s: %v, want %v", field, got, want)
		}
	}
}

// What travels arrives as it was sent; what is no such value is refused in words.
func TestManifoldValuesTravel(t *testing.T) {
	for _, v := range []Value{NewSeveral("a"), NewSeveral("a \"b\"", "c,d"), Address{Lines: "1\n2", Town: "T"},
		Address{Country: "C"}} {
		raw, err := json.Marshal(Wire(v))
		if err != nil {
			t.Fatal(err)
		}
		if again, err := Parse(v.Kind(), raw); err != nil || again != v {
			t.Errorf("%s: %v, %v", raw, again, err)
		}
	}
	for _, c := range []struct {
		kind Kind
		raw  string
		ok   bool
	}{{KindSeveral, `[]`, true}, {KindSeveral, `["a",""]`, false}, {KindSeveral, `"a"`, false},
		{KindSeveral, `[1]`, false},
		{KindAddress, `{}`, true}, {KindAddress, `{"town":" "}`, true}, {KindAddress, `"x"`, false},
		{KindAddress, `{"town":1}`, false}} {
		if v, err := Parse(c.kind, json.RawMessage(c.raw)); (err == nil) != c.ok || v != nil {
			t.Errorf("%s: %v, %v", c.raw, v, err)
		}
	}
}
