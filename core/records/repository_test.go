package records

import (
	"context"
	"encoding/json"
	"errors"
	"slices"
	"testing"
	"time"

	"plainpath/core/access"
	"plainpath/core/model"
	"plainpath/core/predicate"
	"plainpath/core/query"
	"plainpath/core/rules"
	"plainpath/core/value"
)

// ledger is a unit with one record in memory; it notes what it was told to do. What it is not asked for
// here it has not.
type ledger struct {
	Unit
	record *value.Record
	did    []string
	added  Addition
	set    Changing
}

func (l *ledger) note(what string) { l.did = append(l.did, what) }

func (l *ledger) Select(_ context.Context, _ Sight, _ query.Query) (Page, error) {
	copied := *l.record
	return Page{Records: []*value.Record{&copied}}, nil
}

func (l *ledger) Count(_ context.Context, _ Sight, q query.Query) (int64, error) {
	if keys, ok := q.Where.(predicate.Keys); ok {
		return int64(len(keys)), nil
	}
	return 0, nil
}

func (l *ledger) Sign(_ context.Context, cause map[string]string) error {
	l.note("sign " + cause["step"])
	return nil
}

func (l *ledger) Lock(context.Context, string, []int64) error { l.note("lock"); return nil }

func (l *ledger) Insert(_ context.Context, a Addition) ([]int64, error) {
	l.note("insert " + a.Cause["step"])
	l.added = a
	return []int64{1}, nil
}

func (l *ledger) Update(_ context.Context, c Changing) error {
	l.note("update")
	l.set = c
	return nil
}

func desk(t *testing.T, l *ledger, right access.Right) (*Repository, *model.Object) {
	t.Helper()
	m := model.New("EUR", &model.Object{Key: "lift", Label: "Lift", Plural: "Lifts", LabelField: "serial",
		Fields: []model.Field{
			{Key: "serial", Label: "Serial", Type: model.Text, Required: true},
			{Key: "stops", Label: "Stops", Type: model.Whole, Default: json.RawMessage("2")}}})
	policy, problems := access.Compile(m, "", []access.Role{{Key: "r", Label: "R",
		Objects: map[string]access.Right{"lift": right}}})
	book, wrong := rules.Compile(m, "")
	if len(problems.Findings())+len(wrong.Findings()) > 0 {
		t.Fatal(problems.Findings(), wrong.Findings())
	}
	ground := Ground{Model: m, Rules: book, Policy: policy, Zone: time.UTC,
		WorkedOut: func(string, string) (query.WorkedOut, bool) { return query.WorkedOut{}, false }}
	return NewRepository(ground, l, access.Person{Name: "Dana", Roles: []string{"r"}}, time.Now()), m.Object("lift")
}

func TestADeskSeesToDefaultsAndRights(t *testing.T) {
	l := &ledger{}
	d, o := desk(t, l, access.Right{See: true, Add: true})
	a := Addition{Object: o, Fields: []*model.Field{o.Field("serial")}, Rows: [][]value.Value{{value.Text("QL-1")}}}
	if _, err := d.Add(t.Context(), "step", a); err != nil || !slices.Equal(l.did, []string{"insert step"}) {
		t.Errorf("%q, %v", l.did, err)
	}
	if got := l.added.Rows; len(got) != 1 || !slices.Equal(got[0], []value.Value{value.Text("QL-1"), value.Whole(2)}) {
		t.Errorf("%v was written", got)
	}
	l.did = nil
	var refused Refusal
	a.Rows = [][]value.Value{{value.Failure{Why: "too large"}}}
	if _, err := d.Add(t.Context(), "step", a); !errors.As(err, &refused) || len(l.did) > 0 {
		t.Errorf("%v, %q", err, l.did)
	}
	c := Changing{Object: o, Keys: []int64{1}, Fields: a.Fields, Rows: [][]value.Value{{value.Text("QL-2")}}}
	if err := d.Change(t.Context(), "step", c); !errors.As(err, &refused) || len(l.did) > 0 {
		t.Errorf("somebody who may not change: %v, %q", err, l.did)
	}
}

func TestADeskComparesWhatSeveralEdit(t *testing.T) {
	l := &ledger{record: &value.Record{Object: "lift", ID: 1, Fields: map[string]value.Value{
		"serial": value.Text("QL-1"), "stops": value.Whole(5)}}}
	d, o := desk(t, l, access.Right{See: true, Change: true})
	raw := func(text string) map[string]json.RawMessage {
		return map[string]json.RawMessage{"stops": json.RawMessage(text)}
	}
	var theirs *MeanwhileError
	if _, err := d.Save(t.Context(), o, 1, Saving{Values: raw("7"), Before: raw("4")}); !errors.As(err, &theirs) ||
		string(theirs.Theirs) != "5" || slices.Contains(l.did, "update") {
		t.Errorf("%v, %q", err, l.did)
	}
	if _, err := d.Save(t.Context(), o, 1, Saving{Values: raw("5"), Before: raw("4")}); err != nil ||
		slices.Contains(l.did, "update") {
		t.Errorf("both wanted the same: %v, %q", err, l.did)
	}
	if _, err := d.Save(t.Context(), o, 1, Saving{Values: raw("7"), Before: raw("5")}); err != nil ||
		!slices.Contains(l.did, "update") || l.set.Rows[0][0] != value.Value(value.Whole(7)) {
		t.Errorf("%v, %q, %+v", err, l.did, l.set)
	}
}
