package postgres_test

import (
	"testing"

	"plainpath/core/definition"
	"plainpath/core/edit"
	"plainpath/core/screen"
	"plainpath/demo"
	"plainpath/postgres"
	"plainpath/postgres/documents"
	"plainpath/postgres/drafts"
	"plainpath/postgres/runs"
)

// Builders begin with what is otherwise than people have it, where people stand in what they have not finished, and
// how much is stored.
func TestWhatBuildersBeginWith(t *testing.T) {
	o := newOffice(t)
	bo, dana := o.place.Person, personID(t, o.db, "dana")
	released, err := o.records.Editions.Of(t.Context(), demo.App, postgres.Production)
	if err != nil {
		t.Fatal(err)
	}
	start := func() documents.StartView {
		t.Helper()
		view, err := documents.Start(t.Context(), o.db, demo.App, released)
		if err != nil {
			t.Fatal(err)
		}
		return view
	}
	view := start()
	if len(view.Changed) > 0 || len(view.Open) > 0 || len(view.Sizes) != len(released.Model.Keys()) {
		t.Fatalf("at first %d changed, %d open, %d sizes", len(view.Changed), len(view.Open), len(view.Sizes))
	}
	for _, s := range view.Sizes {
		want := count(t, o.db, `SELECT count(*) FROM liftcare_production.`+s.Object)
		if int(s.Records) != want || s.About {
			t.Errorf("%d %s (about: %t), want %d", s.Records, s.Label, s.About, want)
		}
	}
	for i, label := range []string{"Badge!", "Pass!"} {
		if _, err := drafts.Apply(t.Context(), o.db, documents.Edit{App: demo.App, Kind: definition.Object,
			Key: "badge", Person: bo, Change: edit.Change{Base: i + 1,
				Patch: edit.Patch{{Op: "replace", Path: "/label", Value: raw(label)}}}}); err != nil {
			t.Fatal(err)
		}
	}
	all := &runs.Runs{DB: o.db, Editions: o.records.Editions}
	for i := range 3 {
		run, err := all.Start(t.Context(), demo.App, "book_a_visit", nil, dana, "")
		if err == nil && i == 0 {
			_, err = all.Answer(t.Context(), run.ID, dana, run.Revision, "", "which",
				screen.Answers{"part": raw("Mill")})
		}
		if err != nil {
			t.Fatal(err)
		}
	}
	view = start()
	if len(view.Changed) != 1 || view.Changed[0].Label != "Pass!" || view.Changed[0].Edits != 2 ||
		view.Changed[0].People != "Bo Lindqvale" {
		t.Errorf("changed are %+v", view.Changed)
	}
	if len(view.Open) != 2 || view.Open[0].Runs != 2 || view.Open[0].Step != "which" ||
		view.Open[0].Title == "" || view.Open[0].Label != "Book a visit" || view.Open[1].Runs != 1 {
		t.Errorf("open are %+v", view.Open)
	}
}
