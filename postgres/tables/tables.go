// Package tables shows tables to people, wherever they stand: their rows, groups and counts, what is saved
// and pressed in them, and what changes in them meanwhile.
package tables

import (
	"context"
	"fmt"
	"slices"

	"github.com/jmoiron/sqlx"

	"plainpath/core/definition"
	"plainpath/core/edition"
	"plainpath/core/page"
	"plainpath/core/records"
	"plainpath/core/screen"
	"plainpath/core/table"
	"plainpath/core/value"
	"plainpath/core/walk"
	"plainpath/postgres"
	"plainpath/postgres/repository"
	"plainpath/postgres/runs"
)

// TableAt says which table is meant: one on a page, on the screen of a run or of a
// rehearsal, the list of what refers to a record, or all records of an object. Just one
// of the members is given.
type TableAt struct {
	Page      *PageTable      `json:"page,omitempty"`
	Run       *RunTable       `json:"run,omitempty"`
	Rehearsal *RehearsalTable `json:"rehearsal,omitempty"`
	Related   *RelatedTable   `json:"related,omitempty"`
	Object    string          `json:"object,omitempty"`
	// Record is a record with all its fields as a form; a table it is not.
	Record *RecordForm `json:"record,omitempty"`
	// As is an object looked at in the place of the table's own, where it can be switched.
	As string `json:"as,omitempty"`
	// Inside are rows, each opened in the table that the one before opens to; the table
	// meant is what the last opens to.
	Inside []int64 `json:"inside,omitempty"`
}

// PageTable is a table on a page, fed as what was given there has it.
type PageTable struct {
	Page  string       `json:"page"`
	Part  string       `json:"part"`
	Given screen.Given `json:"given"`
}

// RunTable is a table on the screen where a run stands.
type RunTable struct {
	Run  string `json:"run"`
	Part string `json:"part"`
	// Given is what is given so far on the screen.
	Given screen.Answers `json:"given,omitempty"`
}

// RehearsalTable is a table on the screen that a rehearsal has come to.
type RehearsalTable struct {
	Walkthrough string `json:"walkthrough"`
	// As is the person whose rights hold.
	As       int64           `json:"as"`
	Taken    screen.Answers  `json:"taken,omitempty"`
	Recorded []walk.Recorded `json:"recorded"`
	// Typing is what is given so far on the screen.
	Typing *walk.Recorded `json:"typing,omitempty"`
	Part   string         `json:"part"`
}

// RecordForm is the form of a record on its own page.
type RecordForm struct {
	Object string `json:"object"`
	Record int64  `json:"record"`
}

// RelatedTable is the list of the records that refer to a record by one of their fields.
type RelatedTable struct {
	Object string `json:"object"`
	Record int64  `json:"record"`
	From   string `json:"from"`
	Field  string `json:"field"`
}

// ShownTable is a table that was found: under whose rights, the list behind it, and the names
// its views are kept under: the one it has, then those it had.
type ShownTable struct {
	*repository.Repository
	List  *table.Listing
	names []string
}

// tableNames are the names of the table of a part.
func tableNames(in []string, part string, l *table.Listing) []string {
	var out []string
	for _, key := range append([]string{part}, l.Was()...) {
		for _, place := range in {
			out = append(out, place+"/"+key)
		}
	}
	return out
}

// within are the names of a table that lies in another or takes its place.
func (t *ShownTable) within(tail string) {
	t.names = slices.Clone(t.names)
	for i := range t.names {
		t.names[i] += tail
	}
}

// Tables gives people the tables of pages, screens and records.
type Tables struct {
	Repositories *repository.Repositories
	Runs         *runs.Runs
	// Counts keeps how many rows tables have; without it they are counted each time.
	Counts *Counts
}

// At finds a table and does something with it.
func (t *Tables) At(ctx context.Context, p postgres.Caller, at TableAt, work func(ShownTable) error) error {
	return t.outer(ctx, p, at, func(found ShownTable) error {
		if at.As != "" {
			if err := found.switchTo(at.As); err != nil {
				return err
			}
		}
		for _, row := range at.Inside {
			var err error
			if found.List, err = found.List.Into(ctx, found, row); err != nil {
				return err
			}
			found.within("/inside")
		}
		return work(found)
	})
}

// switchTo puts all records of another object that the person may see in the place of the
// table's own.
func (t *ShownTable) switchTo(object string) error {
	o := t.Edition.Model.Object(object)
	if o == nil || !t.List.SwitchesTo(object) {
		return fmt.Errorf("a table switched to %q: %w", object, postgres.ErrNotFound)
	}
	paths, err := records.FieldPaths(t.Edition.Model, o)
	if err != nil {
		return err
	}
	edit := t.List.Editable()
	t.List = table.NewListing(o, nil, paths)
	t.within("/as/" + object)
	if edit {
		t.List = t.List.ToEdit()
	}
	return nil
}

// outer finds the table that lies in no other.
func (t *Tables) outer(ctx context.Context, p postgres.Caller, at TableAt, work func(ShownTable) error) error {
	switch {
	case at.Page != nil:
		return t.onPage(ctx, p, *at.Page, work)
	case at.Run != nil:
		return t.Runs.With(ctx, at.Run.Run, p.Person, "", func(tx *sqlx.Tx, place runs.Loaded, run *walk.Run) error {
			run.Typing(at.Run.Given)
			l, err := run.Listing(ctx, at.Run.Part)
			if err != nil {
				return err
			}
			return work(ShownTable{place.Repository(tx), l, tableNames(run.Screens(), at.Run.Part, l)})
		})
	case at.Rehearsal != nil:
		return t.rehearsed(ctx, p, *at.Rehearsal, func(d *repository.Repository, run *walk.Run) error {
			l, err := run.Listing(ctx, at.Rehearsal.Part)
			if err != nil {
				return err
			}
			return work(ShownTable{d, l, tableNames(run.Screens(), at.Rehearsal.Part, l)})
		})
	case at.Related != nil:
		return t.related(ctx, p, *at.Related, work)
	}
	d, o, err := t.Repositories.Of(ctx, p, at.Object)
	if err != nil {
		return err
	}
	paths, err := records.FieldPaths(d.Edition.Model, o)
	if err != nil {
		return err
	}
	return work(ShownTable{d, table.NewListing(o, nil, paths).ToEdit(), []string{"object/" + at.Object}})
}

// rehearsed does something where a rehearsal has come to.
func (t *Tables) rehearsed(ctx context.Context, p postgres.Caller, r RehearsalTable,
	work func(*repository.Repository, *walk.Run) error) error {
	if p.Space != postgres.Trial {
		return fmt.Errorf("rehearsals are in trial: %w", postgres.ErrNotFound)
	}
	_, err := t.Runs.Rehearse(ctx, runs.Rehearsal{App: p.App, Walkthrough: r.Walkthrough, As: r.As, Taken: r.Taken,
		Recorded: r.Recorded, Typing: r.Typing}, work)
	return err
}

func (t *Tables) related(ctx context.Context, p postgres.Caller, r RelatedTable, work func(ShownTable) error) error {
	d, o, err := t.Repositories.RelatedTo(ctx, p, r.Object, r.Record)
	if err != nil {
		return err
	}
	for _, to := range d.Edition.Model.ReferrersTo(o.Key) {
		if to.Object.Key != r.From || to.Field.Key != r.Field {
			continue
		}
		l, _, err := d.RelatedListing(o, r.Record, to)
		if err != nil {
			return err
		}
		if l != nil {
			return work(ShownTable{d, l, []string{"related/" + r.Object + "/" + r.From + "." + r.Field}})
		}
	}
	return fmt.Errorf("%s.%s: %w", r.From, r.Field, postgres.ErrNotFound)
}

// Cards reads some of a list of cards.
func (t *Tables) Cards(ctx context.Context, p postgres.Caller, at TableAt, ask table.CardsAsk) (out table.CardsPage,
	err error) {
	err = t.At(ctx, p, at, func(found ShownTable) error {
		out, err = found.List.Cards(ctx, found, ask)
		return err
	})
	return out, err
}

// Rows reads a page of a table. Where all that match another look are chosen, it is said which
// rows are not among them.
func (t *Tables) Rows(ctx context.Context, p postgres.Caller, at TableAt, look table.Look,
	chosen *table.Look) (table.RowsView, error) {
	var out table.RowsView
	err := t.At(ctx, p, at, func(t ShownTable) error {
		var err error
		if out, err = t.List.Rows(ctx, t, look); err != nil || chosen == nil {
			return err
		}
		return t.List.Apart(ctx, t, &out, *chosen)
	})
	return out, err
}

// Groups counts a table by groups and makes its totals.
func (t *Tables) Groups(ctx context.Context, p postgres.Caller, at TableAt,
	look table.Look) (table.GroupsView, error) {
	var out table.GroupsView
	err := t.At(ctx, p, at, func(t ShownTable) error {
		var err error
		out, err = t.List.Groups(ctx, t, look)
		return err
	})
	return out, err
}

// Proof says where a table's rows come from. How many records others may see, and the SQL,
// only those who build are told.
func (t *Tables) Proof(ctx context.Context, p postgres.Caller, at TableAt, look table.Look,
	builder bool) (table.ProofView, error) {
	var out table.ProofView
	err := t.At(ctx, p, at, func(t ShownTable) error {
		var err error
		out, err = t.List.Proof(ctx, t, look)
		return err
	})
	if !builder {
		out.WithoutRights()
	}
	return out, err
}

// asking is where somebody stands who asks about another's table. It is found out before the
// table is, so that nothing waits for a second connection.
func (t *Tables) asking(ctx context.Context, p postgres.Caller, asker int64) (repository.Where, error) {
	p.Person = asker
	return t.Repositories.Where(ctx, p)
}

// Records finds records of a table's object by their label, as far as somebody may see
// them, whether they are in the table or not.
func (t *Tables) Records(ctx context.Context, p postgres.Caller, at TableAt, text string,
	asker int64) ([]value.Ref, error) {
	asking, err := t.asking(ctx, p, asker)
	if err != nil {
		return nil, err
	}
	var out []value.Ref
	err = t.At(ctx, p, at, func(found ShownTable) error {
		var err error
		out, err = records.Options(ctx, repository.New(found.Db, asking), found.List.Object(), text)
		return err
	})
	return out, err
}

// ProofOf says why a record is in a table or not, to somebody who may see the record.
func (t *Tables) ProofOf(ctx context.Context, p postgres.Caller, at TableAt, look table.Look, record,
	asker int64) (table.ProofRecordView, error) {
	var out table.ProofRecordView
	asking, err := t.asking(ctx, p, asker)
	if err != nil {
		return out, err
	}
	err = t.At(ctx, p, at, func(found ShownTable) error {
		d := repository.New(found.Db, asking)
		o := d.Edition.Model.Object(found.List.Object())
		if o == nil || o.BuiltIn() {
			return fmt.Errorf("object %q: %w", found.List.Object(), postgres.ErrNotFound)
		}
		seen, err := d.Record(ctx, o, record, nil)
		if err != nil {
			return err
		}
		out, err = found.List.ProofOf(ctx, found, look, record, seen.Label)
		return err
	})
	return out, err
}

// FieldsView is what a table can show: the fields of its object that the person sees, and
// those of what a reference of it points at when they ask on.
type FieldsView struct {
	Object string              `json:"object"`
	Label  string              `json:"label"`
	Fields []table.HeadingView `json:"fields"`
}

// Fields lists the fields of a table's object, or of what the references of a path lead
// to, as far as the person sees them.
func (t *Tables) Fields(ctx context.Context, p postgres.Caller, at TableAt, through string) (FieldsView, error) {
	out := FieldsView{Fields: []table.HeadingView{}}
	err := t.At(ctx, p, at, func(t ShownTable) error {
		m := t.Edition.Model
		object := t.List.Object()
		if through != "" {
			path, err := m.Path(object, through)
			if err != nil || path.Last().Target() == "" {
				return fmt.Errorf("fields through %q: %w", through, postgres.ErrNotFound)
			}
			object, through = path.Last().Target(), through+"."
		}
		grant, err := t.Space().Grant(object)
		if err != nil {
			return err
		}
		o := m.Object(object)
		out.Object, out.Label = object, o.Label
		for i := range o.Fields {
			f := &o.Fields[i]
			if !grant.MaySee() || !grant.SeesField(f.Key) {
				continue
			}
			path, err := m.Path(t.List.Object(), through+f.Key)
			if err != nil {
				return err
			}
			out.Fields = append(out.Fields, table.HeadingOf(path, f.Label))
		}
		return nil
	})
	return out, err
}

// Options finds records that a reference of a table can be compared with, or point at
// when a record is being edited.
func (t *Tables) Options(ctx context.Context, p postgres.Caller, at TableAt, path, text string,
	editing *repository.Editing) ([]value.Ref, error) {
	var out []value.Ref
	err := t.At(ctx, p, at, func(t ShownTable) error {
		to, err := t.Edition.Model.Path(t.List.Object(), path)
		if err != nil || to.Last().Target() == "" || to.Last().HoldsFile() {
			return fmt.Errorf("reference %q: %w", path, postgres.ErrNotFound)
		}
		if editing == nil || len(to.Fields) > 1 {
			out, err = records.Options(ctx, t, to.Last().Target(), text)
			return err
		}
		out, err = t.Options(ctx, t.Edition.Model.Object(t.List.Object()), to.Last(), *editing, text)
		return err
	})
	return out, err
}

// onPage works with the list behind a table of a page.
func (t *Tables) onPage(ctx context.Context, p postgres.Caller, at PageTable, work func(ShownTable) error) error {
	d, page, err := t.page(ctx, p, at.Page)
	if err != nil {
		return err
	}
	l, err := page.Listing(ctx, d, at.Given, at.Part)
	if err != nil {
		return err
	}
	return work(ShownTable{d, l, tableNames([]string{"page/" + at.Page}, at.Part, l)})
}

// page is a page that a person may open. In trial those who build may open all.
func (t *Tables) page(ctx context.Context, p postgres.Caller, key string) (*repository.Repository, *page.Program,
	error) {
	w, err := t.Repositories.Where(ctx, p)
	if err != nil {
		return nil, nil, err
	}
	page := w.Edition.Pages[key]
	if page == nil || p.Space != postgres.Trial && !edition.MayOpen(w.Person, page.Def) {
		return nil, nil, fmt.Errorf("page %q: %w", key, postgres.ErrNotFound)
	}
	if findings := w.Edition.Of("page/" + key); definition.Blocks(findings) {
		return nil, nil, &definition.BlockedError{What: "the page cannot be shown", Findings: findings}
	}
	return repository.New(t.Repositories.DB, w), page, nil
}

// PageView is a page as a person sees it.
type PageView struct {
	Key   string            `json:"key"`
	Label string            `json:"label"`
	Note  string            `json:"note,omitempty"`
	Bands []screen.BandView `json:"bands"`
	// Looked are the tables of which something depends on how they are looked at.
	Looked []string `json:"looked"`
	// Reactions are what may be set going on it.
	Reactions []screen.ReactionView `json:"reactions"`
}

// Page shows a page. When changed names parts, what does not depend on them is left out.
func (t *Tables) Page(ctx context.Context, p postgres.Caller, key string, given screen.Given,
	changed []string) (PageView, error) {
	d, page, err := t.page(ctx, p, key)
	if err != nil {
		return PageView{}, err
	}
	out := PageView{Key: key, Label: page.Def.Label, Note: page.Def.Note, Looked: page.Looked(),
		Reactions: page.Reactions()}
	out.Bands, err = page.Show(ctx, d, given, changed)
	return out, err
}

// PageOptions finds records for a reference input on a page.
func (t *Tables) PageOptions(ctx context.Context, p postgres.Caller, key string, given screen.Given, part,
	text string) ([]value.Ref, error) {
	d, page, err := t.page(ctx, p, key)
	if err != nil {
		return nil, err
	}
	return page.Options(ctx, d, given, part, text)
}
