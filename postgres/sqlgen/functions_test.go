package sqlgen

import (
	"strings"
	"testing"

	"plainpath/core/expr"
	"plainpath/core/model"
	"plainpath/core/value"
)

// Whatever expressions may compute in the database is written, with what it takes in it no more often
// than is counted on where the length of expressions is bounded; and nothing is written besides.
func TestEveryFunctionIsWritten(t *testing.T) {
	written := map[string]bool{}
	for _, s := range expr.InDatabase() {
		written[s.Function] = true
		if functions[s.Function] == nil {
			t.Errorf("%s is not written", s.Function)
			continue
		}
		args := make([]scalar, len(s.Takes))
		for marked := range args {
			for i, kind := range s.Takes {
				args[i] = scalar{Kind: kind}
				if kind == value.KindMoney {
					args[i].Currency = "EUR"
				}
			}
			args[marked].SQL, args[marked].Currency = "mark", "mark of currency"
			c, err := apply(s.Function, args, house{"'UTC'", 1000})
			if err != nil || c.SQL+c.Why == "" {
				t.Errorf("%s of %v: %q, %v", s.Function, s.Takes, c.SQL, err)
				break
			}
			times := max(strings.Count(c.SQL, "mark")-strings.Count(c.SQL, "mark of"),
				strings.Count(c.Currency, "mark of"))
			if most := expr.Repeats(s.Function, s.Takes[marked]); times > most {
				t.Errorf("%s of %v has its place %d %d times, and %d are counted on", s.Function, s.Takes, marked,
					times, most)
			}
		}
	}
	for name := range functions {
		if !written[name] {
			t.Errorf("%s is written, and no expression can call it", name)
		}
	}
}

// shape writes names as they are, to look at the shape of the SQL.
type shape struct{ prefix string }

func (s shape) name(path []string, kind value.Kind) (scalar, error) {
	out := scalar{Kind: kind, SQL: s.prefix + strings.Join(path, ".")}
	if kind == value.KindMoney {
		out.Currency = out.SQL + "_currency"
	}
	return out, nil
}

func (shape) constant(v value.Value, kind value.Kind) scalar {
	return scalar{Kind: kind, SQL: value.Display(v)}
}

type shapeWithLists struct{ shape }

func (shapeWithLists) related(path []string) (related, error) {
	return related{element: shape{"x."}, link: "x.quote = t.id", from: func() string { return path[0] + " x" }}, nil
}

func quotes() *model.Model {
	return model.New("EUR",
		&model.Object{Key: "quote", Label: "Quote", Plural: "Quotes", LabelField: "name",
			Fields: []model.Field{{Key: "name", Label: "Name", Type: model.Text}}},
		&model.Object{Key: "line", Label: "Line", Plural: "Lines", LabelField: "what", Fields: []model.Field{
			{Key: "what", Label: "What", Type: model.Text}, {Key: "quote", Label: "Quote", Type: model.Reference,
				Object: "quote"},
			{Key: "pieces", Label: "Pieces", Type: model.Whole},
			{Key: "weight", Label: "Weight", Type: model.Decimal}}})
}

func TestListsAsSQL(t *testing.T) {
	m := quotes()
	scope := expr.OfRecord(m, "quote")
	for _, l := range expr.RelatedLists(m, "quote") {
		scope = scope.With(l.Name)
	}
	w := &writer{space: Space{Model: m}}
	for source, want := range map[string]string{
		"sum(all_line.map(l, l.pieces))": "plainpath.whole((SELECT sum(x) FROM (SELECT x.pieces AS x FROM all_line x WHERE x.quote = t.id) each))",
		"size(all_line)":                 "coalesce((SELECT count(*) FROM all_line x WHERE x.quote = t.id), 0)",
		"greatest(all_line.filter(l, l.pieces > 2).map(l, l.weight))": "(SELECT max(x) FROM (SELECT x.weight AS x FROM all_line x WHERE x.quote = t.id AND ((x.pieces > 2) IS TRUE) IS TRUE) each)",
		`all_line.exists(n, n.what == name)`:                          "EXISTS (SELECT 1 FROM all_line x WHERE x.quote = t.id AND ((x.what = name) IS TRUE) IS TRUE)",
		`all_line.all(n, empty(n.what))`:                              "NOT EXISTS (SELECT 1 FROM all_line x WHERE x.quote = t.id AND (x.what IS NULL) IS NOT TRUE)",
	} {
		p, err := expr.Compile(scope, source)
		if err != nil {
			t.Fatal(err)
		}
		got, err := w.expression(p, shapeWithLists{})
		if err != nil || got.SQL != want {
			t.Errorf("%s:\n%s, %v\nwant\n%s", source, got.SQL, err, want)
		}
		if _, err := w.expression(p, shape{}); err == nil {
			t.Errorf("%s has SQL where nothing is known of lists", source)
		}
	}
}

// How long a text may come out is the model's to say.
func TestTextsAreBoundedByTheModel(t *testing.T) {
	for most, want := range map[int]string{0: "<= 1048576 THEN", 2 << 20: "<= 2097152 THEN"} {
		m := quotes()
		m.MostText = most
		p, err := expr.Compile(expr.OfRecord(m, "quote"), strings.Repeat("name + ", 9)+"name")
		if err != nil {
			t.Fatal(err)
		}
		got, err := (&writer{space: Space{Model: m}}).expression(p, shape{})
		if err != nil || !strings.Contains(got.SQL, want) {
			t.Errorf("%s, %v", got.SQL, err)
		}
	}
}
