package server

import (
	"encoding/json"
	"fmt"
	"strings"

	"github.com/gofiber/fiber/v3"

	"plainpath/core/act"
	"plainpath/core/definition"
	"plainpath/core/edit"
	"plainpath/core/edition"
	"plainpath/core/expr"
	"plainpath/core/intake"
	"plainpath/core/model"
	"plainpath/core/page"
	"plainpath/core/predicate"
	"plainpath/core/screen"
	"plainpath/core/value"
	"plainpath/core/walk"
	"plainpath/postgres"
	"plainpath/postgres/accounts"
	"plainpath/postgres/documents"
	"plainpath/postgres/drafts"
	"plainpath/postgres/runs"
	"plainpath/postgres/schema"
)

// ContentsView lists everything the app consists of.
type ContentsView struct {
	App      string `json:"app"`
	Currency string `json:"currency"`
	// Organisation is the object that people outside the company belong to.
	Organisation string         `json:"organisation"`
	Documents    []ContentsItem `json:"documents"`
	// Removed are documents that were taken away and can be brought back.
	Removed []ContentsItem `json:"removed"`
	Objects []model.Object `json:"objects"`
	// One is a record of each object with its article: "a lift", "an engineer".
	One      map[string]string   `json:"one"`
	People   []accounts.Member   `json:"people"`
	Releases []documents.Release `json:"releases"`
	// Encodings are those that files can be brought in in.
	Encodings []intake.Encoding `json:"encodings"`
	// Operators are those that can be asked of a field, by field type.
	Operators map[model.FieldType][]predicate.Operator `json:"operators"`
	// Acts are what can be done in steps and by buttons.
	Acts []act.View `json:"acts"`
	// Functions are those that expressions can call.
	Functions []expr.Function `json:"functions"`
}

// ContentsItem is one document in the contents.
type ContentsItem struct {
	Kind     definition.Kind `json:"kind"`
	Key      string          `json:"key"`
	Label    string          `json:"label"`
	Findings int             `json:"findings"`
	// Takes is what a walkthrough or a page is handed.
	Takes []screen.Take `json:"takes,omitempty"`
}

// DocumentView is a document with what the check-up says of it.
type DocumentView struct {
	Kind     definition.Kind      `json:"kind"`
	Key      string               `json:"key"`
	Revision int                  `json:"revision"`
	Body     json.RawMessage      `json:"body"`
	Findings []definition.Finding `json:"findings"`
	// Scopes are the known values at each step of a walkthrough, by the step's key.
	Scopes map[string][]expr.Name `json:"scopes,omitempty"`
	// Wires are what each search and part of a page depends on directly.
	Wires []page.Wire `json:"wires,omitempty"`
}

type addDocumentRequest struct {
	Kind definition.Kind `json:"kind"`
	Key  string          `json:"key"`
	Body json.RawMessage `json:"body"`
}

type rehearseRequest struct {
	As       int64           `json:"as"`
	Taken    screen.Answers  `json:"taken,omitempty"`
	Recorded []walk.Recorded `json:"recorded"`
	// Remembered only fill screens in, unless Recall says that they are given in the place of what is recorded.
	Remembered []walk.Recorded `json:"remembered"`
	Recall     bool            `json:"recall,omitempty"`
	Upto       string          `json:"upto,omitempty"`
	// StopWhen is a condition on what is known; it stops before the first screen is answered where it holds.
	StopWhen string `json:"stop_when,omitempty"`
	// On is the day on whose clock it runs, today when empty.
	On string `json:"on,omitempty"`
	// Typing is what is given so far on the screen that it comes to.
	Typing *walk.Recorded `json:"typing,omitempty"`
	// Part and Text are for asking after a reference input.
	Part string `json:"part,omitempty"`
	Text string `json:"text,omitempty"`
}

type releaseRequest struct {
	Version string `json:"version"`
	Note    string `json:"note"`
	// Despite is why it is released although kept rehearsals do not come out as expected.
	Despite string `json:"despite,omitempty"`
	// Again is the number of an earlier release that is put in force again, nought for the draft.
	Again int `json:"again,omitempty"`
	// Drops is what is hidden and whose loss was confirmed.
	Drops []schema.Drop `json:"drops,omitempty"`
}

// HiddenView is what is stored and not shown any more.
type HiddenView struct {
	Hidden []schema.Hidden `json:"hidden"`
}

// ReleasedView is the release that was made.
type ReleasedView struct {
	Number int `json:"number"`
}

func (s *server) start(c fiber.Ctx) (documents.StartView, error) {
	number, err := documents.InForce(c.Context(), s.DB, s.app())
	if err != nil || number == 0 { // nobody has anything yet
		return documents.StartView{Changed: []documents.ChangedView{}, Open: []documents.OpenView{},
			Sizes: []documents.SizeView{}}, err
	}
	released, err := s.editions.Release(c.Context(), s.app(), number)
	if err != nil {
		return documents.StartView{}, err
	}
	return documents.Start(c.Context(), s.DB, s.app(), released)
}

func (s *server) contents(c fiber.Ctx) (ContentsView, error) {
	ctx := c.Context()
	docs, err := documents.Documents(ctx, s.DB, s.app())
	if err != nil {
		return ContentsView{}, err
	}
	e, err := s.editions.Draft(ctx, s.app())
	if err != nil {
		return ContentsView{}, err
	}
	out := ContentsView{App: e.App.Label, Currency: e.App.Currency, Organisation: e.App.Organisation,
		One: map[string]string{}, Operators: operators(), Acts: act.Views(), Functions: expr.Reference(),
		Encodings: intake.Encodings}
	removed, err := documents.RemovedDocuments(ctx, s.DB, s.app())
	if err != nil {
		return ContentsView{}, err
	}
	if out.Documents, err = items(docs, e); err != nil {
		return ContentsView{}, err
	}
	if out.Removed, err = items(removed, e); err != nil {
		return ContentsView{}, err
	}
	for _, key := range append(e.Model.Keys(), model.PersonObject, model.FileObject) {
		out.Objects = append(out.Objects, *e.Model.Object(key))
		out.One[key] = model.WithArticle(e.Model.Object(key).Label)
	}
	if out.People, err = accounts.Members(ctx, s.DB, s.app(), postgres.Trial, e); err != nil {
		return ContentsView{}, err
	}
	if out.Releases, err = documents.Releases(ctx, s.DB, s.app()); err != nil {
		return ContentsView{}, err
	}
	return out, nil
}

func items(docs []definition.Document, e *edition.Edition) ([]ContentsItem, error) {
	out := make([]ContentsItem, len(docs))
	for i, d := range docs {
		var named struct{ Label string }
		if err := json.Unmarshal(d.Body, &named); err != nil {
			return nil, err
		}
		out[i] = ContentsItem{Kind: d.Kind, Key: d.Key, Label: named.Label, Findings: len(e.Of(d.Name()))}
		if w := e.Walkthroughs[d.Key]; d.Kind == definition.Walkthrough && w != nil {
			out[i].Takes = w.Def.Takes
		}
		if p := e.Pages[d.Key]; d.Kind == definition.Page && p != nil {
			out[i].Takes = p.Def.Handed()
		}
	}
	return out, nil
}

func operators() map[model.FieldType][]predicate.Operator {
	out := map[model.FieldType][]predicate.Operator{}
	for _, t := range model.FieldTypes {
		if t != model.WorkedOut {
			out[t] = predicate.Operators(&model.Field{Type: t})
		}
	}
	return out
}

func (s *server) place(c fiber.Ctx) (definition.Kind, string) {
	return definition.Kind(c.Params("kind")), c.Params("key")
}

func (s *server) document(c fiber.Ctx) (DocumentView, error) {
	kind, key := s.place(c)
	d, err := documents.Document(c.Context(), s.DB, s.app(), kind, key)
	if err != nil {
		return DocumentView{}, err
	}
	return s.sendDocument(c, d)
}

func (s *server) sendDocument(c fiber.Ctx, d definition.Document) (DocumentView, error) {
	e, err := s.editions.Draft(c.Context(), s.app())
	if err != nil {
		return DocumentView{}, err
	}
	out := DocumentView{Kind: d.Kind, Key: d.Key, Revision: d.Revision, Body: d.Body, Findings: e.Of(d.Name())}
	out.Scopes, out.Wires = e.Known(d.Kind, d.Key)
	return out, nil
}

func (s *server) addDocument(c fiber.Ctx, in addDocumentRequest) (DocumentView, error) {
	if problem := model.KeyProblem(in.Key); problem != "" {
		return DocumentView{}, &postgres.RejectedError{Text: problem}
	}
	if err := drafts.AddDocument(c.Context(), s.DB, s.app(), who(c).ID, definition.Document{Kind: in.Kind, Key: in.Key,
		Body: in.Body}); err != nil {
		return DocumentView{}, err
	}
	d, err := documents.Document(c.Context(), s.DB, s.app(), in.Kind, in.Key)
	if err != nil {
		return DocumentView{}, err
	}
	c.Status(fiber.StatusCreated)
	return s.sendDocument(c, d)
}

func (s *server) edit(c fiber.Ctx) documents.Edit {
	kind, key := s.place(c)
	return documents.Edit{App: s.app(), Kind: kind, Key: key, Person: who(c).ID, Request: requestKey(c)}
}

func (s *server) editDocument(c fiber.Ctx, in edit.Change) (DocumentView, error) {
	e := s.edit(c)
	e.Change = in
	d, err := drafts.Apply(c.Context(), s.DB, e)
	if err != nil {
		return DocumentView{}, err
	}
	return s.sendDocument(c, d)
}

func (s *server) undo(c fiber.Ctx) (DocumentView, error) {
	d, err := drafts.Undo(c.Context(), s.DB, s.edit(c))
	if err != nil {
		return DocumentView{}, err
	}
	return s.sendDocument(c, d)
}

func (s *server) redo(c fiber.Ctx) (DocumentView, error) {
	d, err := drafts.Redo(c.Context(), s.DB, s.edit(c))
	if err != nil {
		return DocumentView{}, err
	}
	return s.sendDocument(c, d)
}

func (s *server) rehearsal(c fiber.Ctx, in rehearseRequest) runs.Rehearsal {
	return runs.Rehearsal{App: s.app(), Walkthrough: c.Params("key"), As: in.As, Taken: in.Taken, Recorded: in.Recorded,
		Remembered: in.Remembered, Recall: in.Recall, Upto: in.Upto, StopWhen: in.StopWhen, On: in.On,
		Typing: in.Typing, By: who(c).ID}
}

func (s *server) rehearse(c fiber.Ctx, in rehearseRequest) (runs.Rehearsed, error) {
	return s.runs.Rehearse(c.Context(), s.rehearsal(c, in), nil)
}

// rehearseAndKeep keeps the records that the rehearsal writes, when it comes to its end.
func (s *server) rehearseAndKeep(c fiber.Ctx, in rehearseRequest) (runs.Rehearsed, error) {
	ask := s.rehearsal(c, in)
	ask.Keep = true
	return s.runs.Rehearse(c.Context(), ask, nil)
}

func (s *server) rehearseOptions(c fiber.Ctx, in rehearseRequest) ([]value.Ref, error) {
	refs, err := s.runs.RehearseOptions(c.Context(), s.rehearsal(c, in), in.Part, in.Text)
	return notNil(refs), err
}

func (s *server) previewRelease(c fiber.Ctx) (drafts.Preview, error) {
	return drafts.PreviewRelease(c.Context(), s.DB, s.app(), fiber.Query[int](c, "again"))
}

func (s *server) readying(c fiber.Ctx) ([]schema.Readying, error) {
	return schema.Progress(c.Context(), s.DB, s.app())
}

func (s *server) hidden(c fiber.Ctx) (HiddenView, error) {
	found, err := schema.ListHidden(c.Context(), s.DB, s.app())
	if err != nil {
		return HiddenView{}, err
	}
	return HiddenView{found}, nil
}

func (s *server) makeRelease(c fiber.Ctx, in releaseRequest) (ReleasedView, error) {
	despite, err := s.despite(c, in)
	if err != nil {
		return ReleasedView{}, err
	}
	number, err := drafts.Release(c.Context(), s.DB, s.app(), who(c).ID, drafts.Releasing{Of: in.Again,
		Previewed: in.Version, Note: in.Note, Despite: despite, Drops: in.Drops})
	if err != nil {
		return ReleasedView{}, err
	}
	// ready before anybody needs it; it is in force all the same
	if _, err := s.editions.Release(c.Context(), s.app(), number); err != nil {
		s.Log.Error("making the release in force ready", "release", number, "error", err)
	}
	c.Status(fiber.StatusCreated)
	return ReleasedView{number}, nil
}

// despite is the reason that is kept with a release whose kept rehearsals do not come out as expected, "" where they
// do. Without a reason it is refused.
func (s *server) despite(c fiber.Ctx, in releaseRequest) (string, error) {
	if in.Again != 0 {
		return "", nil
	}
	all, err := s.runs.Examples(c.Context(), s.app(), "")
	if err != nil {
		return "", err
	}
	var failing []string
	for _, e := range all {
		if !e.Holds() && !e.Blocked { // findings stop a release by themselves
			failing = append(failing, fmt.Sprintf("“%s” of %s", e.Name, e.Label))
		}
	}
	reason := strings.TrimSpace(in.Despite)
	if len(failing) > 0 && reason == "" {
		return "", &postgres.RejectedError{Text: "Kept rehearsals do not come out as expected: " +
			strings.Join(failing, ", ") + ". Nothing was released. Mend them, or say why it is released all the same."}
	}
	if len(failing) == 0 {
		return "", nil
	}
	return reason, nil
}

func (s *server) examples(c fiber.Ctx) ([]runs.ExampleRun, error) {
	return s.runs.Examples(c.Context(), s.app(), c.Query("walkthrough"))
}

func (s *server) keepable(c fiber.Ctx, in rehearseRequest) (runs.NewExample, error) {
	return s.runs.Keepable(c.Context(), s.rehearsal(c, in))
}
