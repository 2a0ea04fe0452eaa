package postgres_test

import (
	"errors"
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"github.com/jmoiron/sqlx"

	"plainpath/core/act"
	"plainpath/core/definition"
	"plainpath/core/walk"
	"plainpath/demo"
	"plainpath/postgres"
	"plainpath/postgres/repository"
)

// repeats makes repeats over engineers at random.
type repeats struct {
	r    *rand.Rand
	keys int
}

func (g *repeats) key(of string) string {
	g.keys++
	return fmt.Sprintf("%s_%d", of, g.keys)
}

func (g *repeats) pick(of ...string) string { return of[g.r.IntN(len(of))] }

func (g *repeats) value() string {
	return g.pick(`{"expression":"each.first_name + \"x\""}`, `{"expression":"each.last_name"}`,
		`{"literal":"Same"}`, `{"expression":"upper(each.first_name)"}`)
}

func (g *repeats) act() string {
	switch g.r.IntN(7) {
	case 0, 1:
		return fmt.Sprintf(`{"key":%q,"kind":"change","change":{"of":"each","values":[{"field":%q,"value":%s}]}}`,
			g.key("change"), g.pick("first_name", "last_name"), g.value())
	case 2:
		return fmt.Sprintf(`{"key":%q,"kind":"change","change":{"of":"each","their":{"object":"badge","field":"engineer"%s},"item":"its",
			"values":[{"field":"suspended","value":{"literal":true}},{"field":"reason","value":%s}]}}`, g.key("badge"),
			g.pick("", `,"none":"stop"`), g.pick(`{"expression":"its.badge_number + \"!\""}`, `{"expression":"each.first_name"}`,
				`{"expression":"its.engineer.last_name"}`))
	case 3, 4:
		return fmt.Sprintf(`{"key":%q,"kind":"add","add":{"object":"certificate","values":[{"field":"engineer","value":{"expression":"each"}},
			{"field":"kind","value":{"literal":%q}},{"field":"issued_on","value":{"expression":"today"}},{"field":"expires_on","value":{"literal":"2041-01-01"}}]}}`,
			g.key("add"), g.pick("electrical", "ropes"))
	case 5:
		return fmt.Sprintf(`{"key":%q,"kind":"remove","remove":{"of":"each","their":{"object":"certificate","field":"engineer"}}}`, g.key("gone"))
	}
	return fmt.Sprintf(`{"key":%q,"kind":"branch","branch":{"ways":[{"title":"A","when":%q,"steps":[%s]}],"otherwise":[%s]}}`,
		g.key("way"), g.pick("each.active", `size(each.first_name) > 5`, `each.depot == "quillmere"`,
			`each.last_name < "M"`), g.steps(1), g.steps(g.r.IntN(2)))
}

func (g *repeats) steps(n int) string {
	out := make([]string, n)
	for i := range out {
		out[i] = g.act()
		if !strings.Contains(out[i], `"kind":"branch"`) && g.r.IntN(4) == 0 {
			out[i] = strings.Replace(out[i], `"kind":`, fmt.Sprintf(`"only_when":%q,"kind":`,
				g.pick("each.active", `each.depot != "varrow"`, "size(all) > 3", "each.first_name > \"K\"")), 1)
		}
	}
	return strings.Join(out, ",")
}

// Whatever is done for each of a list gives the same records, as much history and the same refusals, whether it is done
// for all at once or turn by turn.
func TestARepeatIsTheSameAtOnceAndTurnByTurn(t *testing.T) {
	r := newRehearsing(t, "mara")
	g := &repeats{r: rand.New(rand.NewPCG(15, 2))}
	r.db.MustExec(`DELETE FROM liftcare_trial.badge WHERE id IN (SELECT id FROM liftcare_trial.badge ORDER BY id LIMIT 2)`)
	r.add("nothing", `{"key":"done","kind":"finish","finish":{"message":"done"}}`)
	e, err := r.runs.Editions.Draft(t.Context(), demo.App)
	if err != nil {
		t.Fatal(err)
	}
	before := r.left(e.Walkthroughs["nothing"])
	sets, turns, refusals, same := 0, 0, 0, 0
	for n := range 60 {
		key := fmt.Sprintf("repeat_%d", n)
		r.add(key, fmt.Sprintf(`{"key":"all","kind":"search","search":{"object":"engineer","where":{},"order":[{"path":"last_name"},{"path":"first_name"}]}},
			{"key":"each_of","kind":"repeat","repeat":{"for_each":%q,"item":"each","steps":[%s]}},{"key":"done","kind":"finish","finish":{"message":"done"}}`,
			g.pick("all", "take(all, 20)"), g.steps(1+g.r.IntN(4))))
		e, err := r.runs.Editions.Draft(t.Context(), demo.App)
		if err != nil {
			t.Fatal(err)
		}
		found := slices.DeleteFunc(e.Of("walkthrough/"+key), func(f definition.Finding) bool {
			return strings.Contains(f.Text, "may start this") // and is refused, which is what is compared
		})
		if len(found) > 0 {
			t.Logf("%s: %+v", key, found)
			continue
		}
		p := e.Walkthroughs[key]
		loop := p.Code[1].Loop
		atOnce := r.left(p)
		if loop.AtOnce == nil {
			turns++
			continue
		}
		sets++
		set := loop.AtOnce
		loop.AtOnce = nil
		oneByOne := r.left(p)
		loop.AtOnce = set
		if strings.HasPrefix(atOnce, "refused") {
			refusals++
		}
		if atOnce == before {
			same++
		}
		if atOnce != oneByOne {
			t.Errorf("%s: at once\n%s\nturn by turn\n%s", r.body(key), atOnce, oneByOne)
		}
	}
	if sets < 15 || turns < 10 || refusals < 3 || same > sets/4 {
		t.Errorf("%d at once, %d of them refused and %d changed nothing, %d turn by turn: the test tries too little", sets,
			refusals, same, turns)
	}
}

func (r *rehearsing) body(key string) string {
	var s string
	if err := r.db.Get(&s, `SELECT jsonb_pretty(body->'steps'->1) FROM plainpath.document WHERE key = $1`, key); err != nil {
		r.t.Fatal(err)
	}
	return s
}

// left is what a walkthrough without screens leaves: records, how much history, or why it is refused.
func (r *rehearsing) left(p *walk.Program) string {
	r.t.Helper()
	e, err := r.runs.Editions.Draft(r.t.Context(), demo.App)
	if err != nil {
		r.t.Fatal(err)
	}
	w, err := repository.WhereOf(r.t.Context(), r.db, postgres.Caller{App: demo.App, Space: postgres.Trial,
		Person: r.as}, e)
	if err != nil {
		r.t.Fatal(err)
	}
	var out string
	err = r.db.Tried(r.t.Context(), func(q sqlx.ExtContext) error {
		d := repository.New(q, w)
		d.Unit.Rehearsed = new(int64)
		done, err := p.Rehearse(r.t.Context(), d, walk.Replay{})
		if err != nil {
			return err
		}
		if !done.Run.State.Closed {
			return errors.New("it has not come to its end")
		}
		return sqlx.GetContext(r.t.Context(), q, &out, `SELECT concat(
			(SELECT string_agg(concat_ws('|', first_name, last_name, depot, active), E'\n' ORDER BY id) FROM liftcare_trial.engineer), E'\n',
			(SELECT string_agg(concat_ws('|', engineer, badge_number, suspended, reason), E'\n' ORDER BY id) FROM liftcare_trial.badge), E'\n',
			(SELECT string_agg(concat_ws('|', engineer, kind, issued_on, expires_on), E'\n' ORDER BY engineer, kind, issued_on, expires_on) FROM liftcare_trial.certificate), E'\n',
			(SELECT count(*) FROM liftcare_trial.history))`)
	})
	var refused *act.RefusedError
	if errors.As(err, &refused) {
		return "refused"
	}
	if err != nil {
		r.t.Fatal(err)
	}
	return out
}
