package postgres_test

import (
	"encoding/json"
	"errors"
	"os"
	"slices"
	"strings"
	"testing"

	"plainpath/postgres"
	"plainpath/postgres/apps"
	"plainpath/postgres/documents"
	"plainpath/postgres/drafts"

	"plainpath/core/edit"
	"plainpath/core/model"
	"plainpath/core/records"
	"plainpath/core/value"
	"plainpath/testdb"
)

// lookAlikes is a model whose keys are as long as they may be and differ in their last letters,
// or fall together when they are joined by underscores.
func lookAlikes() *model.Model {
	long := strings.Repeat("abcdefghij_", 5)[:46]
	most := int64(5)
	fields := func(target string) []model.Field {
		var out []model.Field
		for _, end := range []string{"_x", "_y"} {
			label := strings.ToUpper(end[1:])
			out = append(out,
				model.Field{Key: long + end, Label: "Text " + label, Type: model.Text, Unique: true, Most: &most},
				model.Field{Key: "n" + long[1:] + end, Label: "Number " + label, Type: model.Whole, Most: &most},
				model.Field{Key: "c" + long[1:] + end, Label: "Choice " + label, Type: model.Choice,
					Choices: []model.ChoiceValue{{Key: "red", Label: "Red"}}},
				model.Field{Key: "r" + long[1:] + end, Label: "Refers " + label, Type: model.Reference, Object: target},
				model.Field{Key: "m" + long[1:] + end[:1], Label: "Running " + label, Type: model.Number})
		}
		out[9].Key += "z" // two running numbers
		return append(out, model.Field{Key: "name", Label: "Name", Type: model.Text, Unique: true},
			model.Field{Key: "name_short", Label: "Short name", Type: model.Text, Unique: true, Most: &most})
	}
	a, b := "o"+long[1:]+"_a", "o"+long[1:]+"_b"
	return model.New("EUR",
		&model.Object{Key: a, Label: "A", Plural: "As", LabelField: "name", Fields: fields(b)},
		&model.Object{Key: b, Label: "B", Plural: "Bs", LabelField: "name", Fields: fields(a)},
		&model.Object{Key: "part", Label: "Part", Plural: "Parts", LabelField: "of_lift",
			Fields: []model.Field{{Key: "of_lift", Label: "Of", Type: model.Text, Unique: true}}},
		&model.Object{Key: "part_of", Label: "Part of", Plural: "Parts of", LabelField: "lift",
			Fields: []model.Field{{Key: "lift", Label: "Lift", Type: model.Text, Unique: true}}})
}

// belongings are the constraints, indexes and sequences of a schema, with what they mean.
const belongings = `SELECT 'constraint ' || r.relname || ' ' || k.conname || ' ' || pg_get_constraintdef(k.oid) AS what FROM pg_constraint k JOIN pg_class r ON r.oid = k.conrelid WHERE r.relnamespace = 'names_trial'::regnamespace
	UNION ALL SELECT 'index ' || indexdef FROM pg_indexes WHERE schemaname = 'names_trial'
	UNION ALL SELECT 'sequence ' || relname FROM pg_class WHERE relkind = 'S' AND relnamespace = 'names_trial'::regnamespace ORDER BY 1`

// However long keys are and however alike, every limit, uniqueness and index is there, and what
// breaks one is said of the right field.
func TestLongAndLookAlikeKeys(t *testing.T) {
	db := testdb.New(t)
	person := tester(t, db)
	m := lookAlikes()
	install(t, db, "names", person, m)
	for query, want := range map[string]int{
		`SELECT count(*) FROM pg_constraint WHERE connamespace = 'names_trial'::regnamespace AND contype = 'u'`:                                          14,
		`SELECT count(*) FROM pg_constraint WHERE connamespace = 'names_trial'::regnamespace AND contype = 'c' AND pg_get_constraintdef(oid) LIKE '%5%'`: 10,
		`SELECT count(*) FROM pg_constraint WHERE connamespace = 'names_trial'::regnamespace AND pg_get_constraintdef(oid) LIKE '%red%'`:                 4,
		`SELECT count(*) FROM pg_constraint WHERE connamespace = 'names_trial'::regnamespace AND contype = 'f' AND conname LIKE '%.reference'`:           4,
		`SELECT count(*) FROM pg_indexes WHERE schemaname = 'names_trial' AND indexdef LIKE '%gin_trgm_ops%'`:                                            10,
		`SELECT count(*) FROM pg_class WHERE relkind = 'S' AND relnamespace = 'names_trial'::regnamespace AND relname LIKE '%number'`:                    4,
	} {
		if got := count(t, db, query); got != want {
			t.Errorf("%s: %d, want %d", query, got, want)
		}
	}
	add := func(o *model.Object, f *model.Field, v value.Value) error {
		return apps.Seed(t.Context(), db, "names", postgres.Trial, person, func(d apps.Seeding) error {
			_, err := d.Add(t.Context(), "test", records.Addition{Object: o, Fields: []*model.Field{f},
				Rows: [][]value.Value{{v}}})
			return err
		})
	}
	for _, key := range m.Keys() {
		o := m.Object(key)
		for i := range o.Fields {
			f := &o.Fields[i]
			wanted, says := value.Value(value.Text("mill")), "the same "+f.Label
			switch f.Type {
			case model.Text:
				if err := add(o, f, wanted); err != nil {
					t.Fatal(err)
				}
			case model.Whole:
				wanted, says = value.Whole(6), f.Label
			default:
				continue
			}
			var wrong *records.ProblemsError
			if err := add(o, f, wanted); !errors.As(err, &wrong) || wrong.Problems[0].Pointer != "/"+f.Key ||
				!strings.Contains(wrong.Problems[0].Text, says) {
				t.Errorf("%s of %s twice or too large: %v", f.Label, o.Label, err)
			}
		}
	}
}

// A database whose names were made by the program before has them as they are made now.
func TestNamesOfAnEarlierProgramAreCarriedOver(t *testing.T) {
	db := testdb.New(t)
	person := tester(t, db)
	install(t, db, "names", person, lookAlikes())
	var before, after []string
	if err := db.Select(&before, belongings); err != nil {
		t.Fatal(err)
	}
	// As they were: joined by underscores. Long ones were lost and are made anew.
	if _, err := db.Exec(`DO $$ DECLARE c record; BEGIN
		FOR c IN SELECT conname, conrelid::regclass AS t FROM pg_constraint WHERE connamespace = 'names_trial'::regnamespace AND conname ~ '\.' AND conname !~ '^part_of\.' AND conname !~ '~' LOOP
			EXECUTE format('ALTER TABLE %s RENAME CONSTRAINT %I TO %I', c.t, c.conname, replace(c.conname, '.', '_'));
		END LOOP;
		FOR c IN SELECT indexname FROM pg_indexes WHERE schemaname = 'names_trial' AND indexname ~ '\.' AND indexname !~ '~|folded$' AND indexname !~ '^part_of\.' LOOP
			EXECUTE format('ALTER INDEX names_trial.%I RENAME TO %I', c.indexname, replace(c.indexname, '.', '_'));
		END LOOP;
		FOR c IN SELECT conname, conrelid::regclass AS t FROM pg_constraint WHERE connamespace = 'names_trial'::regnamespace AND conname ~ '~' LOOP
			EXECUTE format('ALTER TABLE %s DROP CONSTRAINT %I', c.t, c.conname);
		END LOOP; END $$`); err != nil {
		t.Fatal(err)
	}
	raw, err := os.ReadFile("migrate/migrations/00012_names.sql")
	if err != nil {
		t.Fatal(err)
	}
	_, block, _ := strings.Cut(string(raw), "-- +goose StatementBegin\n")
	block, _, _ = strings.Cut(block, "-- +goose StatementEnd")
	if _, err := db.Exec(block); err != nil {
		t.Fatal(err)
	}
	// The next change of an object makes anew what was cut.
	if _, err := drafts.Apply(t.Context(), db, documents.Edit{App: "names", Kind: "object", Key: "part", Person: person,
		Change: edit.Change{Base: 1,
			Patch: edit.Patch{{Op: "replace", Path: "/label", Value: json.RawMessage(`"Spare part"`)}}}}); err != nil {
		t.Fatal(err)
	}
	if err := db.Select(&after, belongings); err != nil {
		t.Fatal(err)
	}
	if !slices.Equal(before, after) {
		t.Errorf("%d before, %d after; lost %v, new %v", len(before), len(after), without(before, after),
			without(after, before))
	}
	if len(before) < 60 {
		t.Errorf("only %d names", len(before))
	}
}

func without(a, b []string) []string {
	return slices.DeleteFunc(slices.Clone(a), func(s string) bool { return slices.Contains(b, s) })
}
