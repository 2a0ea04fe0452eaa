package server

import (
	"cmp"
	"slices"
	"strconv"
	"strings"

	"github.com/gofiber/fiber/v3"

	"plainpath/core/edition"
	"plainpath/core/records"
	"plainpath/core/screen"
	"plainpath/core/value"
	"plainpath/postgres"
	"plainpath/postgres/documents"
	"plainpath/postgres/repository"
	"plainpath/postgres/runs"
)

// HomeView is what a person finds in Use.
type HomeView struct {
	App string `json:"app"`
	// Home is the page that they begin with, "" for the list of what there is.
	Home string `json:"home,omitempty"`
	// Menu are the pages that they may open, in groups.
	Menu         []edition.MenuShown `json:"menu"`
	Walkthroughs []edition.MenuItem  `json:"walkthroughs"`
	Open         []runs.OpenRun      `json:"open"`
}

type startRequest struct {
	Walkthrough string `json:"walkthrough"`
	// Taken is what the walkthrough is handed.
	Taken screen.Answers `json:"taken,omitempty"`
}

type answerRequest struct {
	Revision int            `json:"revision"`
	Screen   string         `json:"screen"`
	Answers  screen.Answers `json:"answers"`
}

type backRequest struct {
	Revision int    `json:"revision"`
	Screen   string `json:"screen"`
	// Answers are what was typed on the screen that is left.
	Answers screen.Answers `json:"answers,omitempty"`
}

// givenRequest is what is given so far on a screen.
type givenRequest struct {
	Screen string         `json:"screen"`
	Given  screen.Answers `json:"given"`
	// Changed are the parts in which something else is given than before.
	Changed []string `json:"changed"`
}

// FollowedView is a screen after something was given on it; what does not follow that is marked as the same.
type FollowedView struct {
	Bands []screen.BandView `json:"bands"`
}

type runOptionsRequest struct {
	Part  string         `json:"part"`
	Text  string         `json:"text"`
	Given screen.Answers `json:"given,omitempty"`
}

type keepRequest struct {
	Revision int            `json:"revision"`
	Answers  screen.Answers `json:"answers"`
}

func requestKey(c fiber.Ctx) string { return c.Get("Idempotency-Key") }

// AnywhereView are records that are called so.
type AnywhereView struct {
	Records []records.CalledView `json:"records"`
}

func (s *server) anywhere(c fiber.Ctx) (AnywhereView, error) {
	var of []string
	if keys := c.Query("of"); keys != "" {
		of = strings.Split(keys, ",")
	}
	found, err := s.records.Anywhere(c.Context(), s.seat(c), c.Query("text"), of)
	return AnywhereView{found}, err
}

func (s *server) home(c fiber.Ctx) (HomeView, error) {
	number, err := documents.InForce(c.Context(), s.DB, s.app())
	if err != nil {
		return HomeView{}, err
	}
	out := HomeView{Menu: []edition.MenuShown{}, Walkthroughs: []edition.MenuItem{},
		Open: []runs.OpenRun{}}
	if number == 0 {
		return out, nil
	}
	e, err := s.editions.Release(c.Context(), s.app(), number)
	if err != nil {
		return HomeView{}, err
	}
	where, err := repository.WhereOf(c.Context(), s.DB, postgres.Caller{App: s.app(), Space: postgres.Production,
		Person: viewer(c)}, e)
	if err != nil {
		return HomeView{}, err
	}
	out.App, out.Home, out.Menu = e.App.Label, e.HomePage(where.Person), e.MenuFor(where.Person)
	for key, w := range e.Walkthroughs {
		if e.MayStart(where.Person, key) {
			item := edition.MenuItem{Key: key, Label: w.Def.Label, Note: w.Def.Note}
			out.Walkthroughs = append(out.Walkthroughs, item)
		}
	}
	slices.SortFunc(out.Walkthroughs, func(a, b edition.MenuItem) int { return cmp.Compare(a.Label, b.Label) })
	if out.Open, err = s.runs.Open(c.Context(), s.app(), viewer(c)); err != nil {
		return HomeView{}, err
	}
	return out, nil
}

func (s *server) startRun(c fiber.Ctx, in startRequest) (runs.Run, error) {
	run, err := s.runs.Start(c.Context(), s.app(), in.Walkthrough, in.Taken, who(c).ID, requestKey(c))
	if err != nil {
		return runs.Run{}, err
	}
	c.Status(fiber.StatusCreated)
	return run, nil
}

func (s *server) showRun(c fiber.Ctx) (runs.Run, error) {
	return s.runs.Show(c.Context(), c.Params("id"), viewer(c))
}

func (s *server) answerRun(c fiber.Ctx, in answerRequest) (runs.Run, error) {
	return s.runs.Answer(c.Context(), c.Params("id"), who(c).ID, in.Revision, requestKey(c), in.Screen, in.Answers)
}

func (s *server) backRun(c fiber.Ctx, in backRequest) (runs.Run, error) {
	return s.runs.Back(c.Context(), c.Params("id"), who(c).ID, in.Revision, requestKey(c), in.Screen,
		in.Answers)
}

func (s *server) keepRun(c fiber.Ctx, in keepRequest) (runs.Run, error) {
	return s.runs.Keep(c.Context(), c.Params("id"), who(c).ID, in.Revision, requestKey(c), in.Answers)
}

func (s *server) followRun(c fiber.Ctx, in givenRequest) (FollowedView, error) {
	bands, err := s.runs.Follow(c.Context(), c.Params("id"), viewer(c), in.Screen, in.Given, in.Changed)
	return FollowedView{bands}, err
}

func (s *server) runOptions(c fiber.Ctx, in runOptionsRequest) ([]value.Ref, error) {
	refs, err := s.runs.Options(c.Context(), c.Params("id"), viewer(c), in.Given, in.Part, in.Text)
	if err != nil {
		return nil, err
	}
	return notNil(refs), nil
}

func notNil(refs []value.Ref) []value.Ref {
	if refs == nil {
		return []value.Ref{}
	}
	return refs
}

func (s *server) discardRun(c fiber.Ctx) error {
	if err := s.runs.Discard(c.Context(), c.Params("id"), who(c).ID); err != nil {
		return err
	}
	return nil
}

// production is where people in Use are, or are looked at by a builder.
func (s *server) production(c fiber.Ctx) postgres.Caller {
	return postgres.Caller{App: s.app(), Space: postgres.Production, Person: viewer(c)}
}

func (s *server) related(c fiber.Ctx) ([]repository.RelatedList, error) {
	id, err := recordID(c)
	if err != nil {
		return nil, err
	}
	return s.records.Related(c.Context(), s.production(c), c.Params("object"), id)
}

func (s *server) removeSeen(c fiber.Ctx) error {
	id, err := recordID(c)
	if err != nil {
		return err
	}
	return s.records.Remove(c.Context(), s.own(c), c.Params("object"), id)
}

func (s *server) history(c fiber.Ctx) (repository.HistoryPage, error) {
	id, err := recordID(c)
	if err != nil {
		return repository.HistoryPage{}, err
	}
	ask := repository.HistoryAsk{Field: c.Query("field")}
	if before := c.Query("before"); before != "" {
		if ask.Before, err = strconv.ParseInt(before, 10, 64); err != nil || ask.Before < 0 {
			return repository.HistoryPage{}, postgres.ErrNotFound
		}
	}
	return s.records.History(c.Context(), s.seat(c), c.Params("object"), id, ask)
}

func (s *server) record(c fiber.Ctx) (repository.RecordView, error) {
	id, err := recordID(c)
	if err != nil {
		return repository.RecordView{}, err
	}
	return s.records.Record(c.Context(), s.production(c), c.Params("object"), id)
}
