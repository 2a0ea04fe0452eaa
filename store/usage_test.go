package store_test

import (
	"fmt"
	"regexp"
	"strings"
	"testing"

	"plainpath/core/edition"
	"plainpath/demo"
	"plainpath/store"
	"plainpath/testdb"
)

// Fields of the demo get another key and their old one back: everything follows both
// times, no finding comes up and no value is lost. Undoing brings the column back.
func TestANewKeyIsFollowedEverywhere(t *testing.T) {
	db := testdb.New(t)
	bo := personID(t, db, "bo")
	read := func() ([]edition.Document, *edition.Edition) {
		docs, err := db.Documents(t.Context(), demo.App)
		if err != nil {
			t.Fatal(err)
		}
		e, err := edition.Compile(docs)
		if err != nil {
			t.Fatal(err)
		}
		return docs, e
	}
	original, before := read()
	rename := func(object, from, to string) []string {
		t.Helper()
		changed, err := db.RenameField(t.Context(), demo.App, object, from, to, bo)
		if err != nil {
			t.Fatalf("%s of %s to %s: %v", from, object, to, err)
		}
		return changed
	}
	renamed, followed := 0, 0
	for _, key := range []string{"engineer", "certificate"} {
		o := before.Model.Object(key)
		for i := range o.Fields {
			f := &o.Fields[i]
			held := count(t, db, `SELECT count("`+f.Key+`") FROM liftcare_trial.`+key)
			followed += len(rename(key, f.Key, f.Key+"_new")) - 1
			if _, e := read(); len(e.Findings) != len(before.Findings) {
				t.Fatalf("%s of %s: %v", f.Key, key, e.Findings)
			}
			if n := count(t, db, `SELECT count("`+f.Key+`_new") FROM liftcare_trial.`+key); n != held {
				t.Errorf("%s of %s holds %d values, %d before", f.Key, key, n, held)
			}
			rename(key, f.Key+"_new", f.Key)
			renamed++
		}
	}
	was := regexp.MustCompile(`"was": \[[^\]]*\], |, "was": \[[^\]]*\]`)
	after, _ := read()
	for i, d := range after {
		if got := was.ReplaceAllString(string(d.Body), ""); got != string(original[i].Body) {
			t.Errorf("%s is not as it was:\n%s\n%s", d.Name(), got, original[i].Body)
		}
	}
	if renamed < 11 || followed < 10 {
		t.Errorf("%d fields were renamed, %d other documents followed", renamed, followed)
	}
	rename("customer", "web", "site")
	undone := store.Edit{App: demo.App, Kind: edition.ObjectDocument, Key: "customer", Person: bo}
	if _, err := db.Undo(t.Context(), undone); err != nil {
		t.Fatal(err)
	}
	if n := count(t, db, `SELECT count(web) FROM liftcare_trial.customer`); n == 0 {
		t.Error("undoing did not bring the column back")
	}
	// Production follows with the release, and says so before.
	rename("customer", "web", "site")
	p, err := db.Preview(t.Context(), demo.App)
	if err != nil || !strings.Contains(fmt.Sprint(p.Changes), "The column web is renamed to site.") {
		t.Fatalf("%+v, %v", p.Changes, err)
	}
	if _, err := db.Release(t.Context(), demo.App, bo, p.Version, ""); err != nil {
		t.Fatal(err)
	}
	if n := count(t, db, `SELECT count(site) FROM liftcare_production.customer`); n == 0 {
		t.Error("production lost the values")
	}
}

func TestWhatUsesAField(t *testing.T) {
	db := testdb.New(t)
	uses, err := db.UsesOfField(t.Context(), demo.App, "certificate", "expires_on")
	if err != nil {
		t.Fatal(err)
	}
	var in []string
	for _, u := range uses {
		in = append(in, u.Document)
	}
	got := strings.Join(in, " ")
	for _, want := range []string{"object/certificate", "object/service_call", "walkthrough/book_a_visit"} {
		if !strings.Contains(got, want) {
			t.Errorf("%s is not among %v", want, in)
		}
	}
	if unused, err := db.UsesOfField(t.Context(), demo.App, "customer", "web"); err != nil || len(unused) != 0 {
		t.Errorf("the web link of a customer is used nowhere: %v, %v", unused, err)
	}
	for _, bad := range []string{"kind", "today!", "id"} {
		if _, err := db.RenameField(t.Context(), demo.App, "certificate", "expires_on", bad, personID(t, db, "bo")); err == nil {
			t.Errorf("the key %q was taken", bad)
		}
	}
}
