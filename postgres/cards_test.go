package postgres_test

import (
	"errors"
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"plainpath/core/definition"
	"plainpath/core/query"
	"plainpath/core/screen"
	"plainpath/core/table"
	"plainpath/demo"
	"plainpath/postgres/accounts"
	"plainpath/postgres/drafts"
	"plainpath/postgres/tables"
)

// Three objects that have nothing to do with each other stand in one list: all pages of it, however large, hold what
// one query over all of them gives, in its order, days and points in time together where the person is.
func TestCardsOfSeveralListsComeInOneOrder(t *testing.T) {
	o := newOffice(t)
	o.place.Person = personID(t, o.db, "dana")
	const zone = "America/Havana" // it is behind, so that days begin later than in UTC
	if err := accounts.SetZone(t.Context(), o.db, o.place.Person, zone); err != nil {
		t.Fatal(err)
	}
	for key, desc := range map[string]bool{"up": false, "down": true} {
		search := func(key, object string) string {
			return fmt.Sprintf(`{"key":%q,"label":%q,"search":{"object":%q,"where":{"all":[]}}}`, key, key, object)
		}
		source := func(key, by, faces string) string {
			return fmt.Sprintf(`{"key":%q,"label":%q,"source":"%s_found","by":%q,"faces":[%s]}`, key, key, key, by, faces)
		}
		body := fmt.Sprintf(`{"key":%q,"label":"Cards","roles":["dispatcher"],"searches":[%s],"bands":[{"columns":[{"parts":[
			{"key":"all","kind":"cards","label":"All","cards":{"desc":%t,"sources":[%s]}}]}]}]}`, key,
			strings.Join([]string{search("calls_found", "service_call"), search("visits_found", "visit"),
				search("reminders_found", "reminder")}, ","), desc, strings.Join([]string{
				source("calls", "due", `{"when":"row.priority == \"urgent\"","heading":"problem","marks":["state"]},{"heading":"number"},{"when":"true","heading":"state"}`),
				source("visits", "starts", `{"heading":"lift.building","lines":[{"path":"minutes"}]}`),
				source("reminders", "due", `{"heading":"text"}`)}, ","))
		if err := drafts.AddDocument(t.Context(), o.db, demo.App, personID(t, o.db, "bo"), definition.Document{
			Kind: definition.Page, Key: key, Body: []byte(body)}); err != nil {
			t.Fatal(err)
		}
		way := map[bool]string{false: "ASC", true: "DESC"}[desc]
		var want []string
		if err := o.db.Select(&want, fmt.Sprintf(`SELECT source || ' ' || id || ' ' || face FROM (
			SELECT 0 AS source, id, due::timestamp AT TIME ZONE $1 AS at, CASE WHEN priority = 'urgent' THEN 0 ELSE 1 END AS face FROM liftcare_trial.service_call
			UNION ALL SELECT 1, id, starts, 0 FROM liftcare_trial.visit
			UNION ALL SELECT 2, id, due::timestamp AT TIME ZONE $1, 0 FROM liftcare_trial.reminder) q
			ORDER BY at %s NULLS LAST, source, id`, way), zone); err != nil {
			t.Fatal(err)
		}
		page, err := o.tables().Page(t.Context(), o.place, key, screen.Given{}, nil)
		if err != nil {
			t.Fatal(err)
		}
		first := page.Bands[0].Columns[0].Parts[0].Cards
		at := tables.TableAt{Page: &tables.PageTable{Page: key, Part: "all"}}
		for _, sizes := range []int{50, 7, 1000} {
			shown, next := first.Cards.Cards, first.Cards.Next
			for next != "" {
				ask := table.CardsAsk{After: next, Size: sizes + rand.IntN(3)}
				more, err := o.tables().Cards(t.Context(), o.place, at, ask)
				if err != nil {
					t.Fatal(err)
				}
				shown, next = append(shown[:len(shown):len(shown)], more.Cards...), more.Next
			}
			got := make([]string, len(shown))
			for i, c := range shown {
				got[i] = fmt.Sprintf("%d %d %d", c.Source, c.ID, c.Face)
			}
			if !slices.Equal(got, want) {
				i := 0
				for i < min(len(got), len(want)) && got[i] == want[i] {
					i++
				}
				t.Fatalf("%s by %d: %d cards, want %d; they differ from the %dth: %v, want %v", key, sizes, len(got),
					len(want), i, got[i:min(i+3, len(got))], want[i:min(i+3, len(want))])
			}
		}
		only, err := o.tables().Cards(t.Context(), o.place, at, table.CardsAsk{Only: []string{"reminders"}, Size: 900})
		if err != nil || len(only.Cards) != count(t, o.db, `SELECT count(*) FROM liftcare_trial.reminder`) ||
			only.Next != "" || only.Cards[0].Source != 2 || fmt.Sprint(only.Reads) != "[reminder]" {
			t.Errorf("%d reminders alone, %q, %v, %v", len(only.Cards), only.Next, only.Reads, err)
		}
		var wrong *query.LookError
		_, err = o.tables().Cards(t.Context(), o.place, at, table.CardsAsk{After: "nowhere"})
		if !errors.As(err, &wrong) {
			t.Errorf("a place that cannot be read: %v", err)
		}
	}
}
