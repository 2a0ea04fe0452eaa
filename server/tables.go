package server

import (
	"context"

	"github.com/gofiber/fiber/v3"

	"plainpath/core/records"
	"plainpath/core/screen"
	"plainpath/core/table"
	"plainpath/core/value"
	"plainpath/postgres"
	"plainpath/postgres/repository"
	"plainpath/postgres/tables"
)

type rowsRequest struct {
	At   tables.TableAt `json:"at"`
	Look table.Look     `json:"look"`
	// Chosen is the look all of whose rows are chosen, when that is another.
	Chosen *table.Look `json:"chosen,omitempty"`
}

type cardsRequest struct {
	At tables.TableAt `json:"at"`
	table.CardsAsk
}

type concernsRequest struct {
	At     tables.TableAt `json:"at"`
	Look   table.Look     `json:"look"`
	Change table.Touched  `json:"change"`
}

// ConcernsView says whether a change has to do with what is shown of a table.
type ConcernsView struct {
	Concerns bool `json:"concerns"`
}

type fieldsRequest struct {
	At tables.TableAt `json:"at"`
	// Through is a path of references; the fields are those of what it leads to.
	Through string `json:"through,omitempty"`
}

type cellOptionsRequest struct {
	At tables.TableAt `json:"at"`
	// Path is the reference that is filtered by, or with a record being edited, is set.
	Path    string              `json:"path"`
	Text    string              `json:"text"`
	Editing *repository.Editing `json:"editing,omitempty"`
}

type readCellsRequest struct {
	At    tables.TableAt    `json:"at"`
	Cells []tables.CellText `json:"cells"`
}

type saveRowsRequest struct {
	At   tables.TableAt      `json:"at"`
	Rows []records.RowSaving `json:"rows"`
}

type keepViewRequest struct {
	At   tables.TableAt    `json:"at"`
	Name string            `json:"name"`
	Body table.Arrangement `json:"body"`
}

type pressRequest struct {
	At     tables.TableAt `json:"at"`
	Button string         `json:"button"`
	Chosen table.Chosen   `json:"chosen"`
	// Confirmed are the lines of the button whose questions were answered with yes.
	Confirmed []int `json:"confirmed,omitempty"`
	// Tried puts what is written back, and tells what each line did.
	Tried bool `json:"tried,omitempty"`
}

type offRequest struct {
	At   tables.TableAt `json:"at"`
	Keys []int64        `json:"keys"`
}

// OffView says for each button in which of the rows asked about it is off.
type OffView struct {
	Off map[string][]int64 `json:"off"`
}

type pageRequest struct {
	Given screen.Given `json:"given"`
	// Changed are the parts whose values changed; none asks for the whole page.
	Changed []string `json:"changed,omitempty"`
}

type reactRequest struct {
	// At is the page or screen; its part is not looked at.
	At       tables.TableAt `json:"at"`
	Reaction string         `json:"reaction"`
	// Row is the row that was pressed, where one was.
	Row int64 `json:"row,omitempty"`
	// Confirmed are the lines whose questions were answered with yes.
	Confirmed []int `json:"confirmed,omitempty"`
	// Tried puts what is written back, and tells what each line did.
	Tried bool `json:"tried,omitempty"`
}

// tableRoutes are the same in Use, which is on production, and in Build.
func (s *server) tableRoutes(r doors) {
	r.get("/anywhere", gives(s.anywhere).asking("text", "of"))
	r.ask("/tables/rows", takes(s.tableRows))
	r.ask("/tables/cards", takes(s.tableCards))
	r.ask("/tables/count", takes(s.tableCount))
	r.ask("/tables/concerns", takes(s.tableConcerns))
	r.ask("/tables/groups", takes(s.tableGroups))
	r.ask("/tables/fields", takes(s.tableFields))
	r.ask("/tables/proof", takes(s.proof))
	r.ask("/tables/proof/:id/why", takes(s.proofOf))
	r.ask("/tables/records/options", takes(s.tableRecords))
	r.ask("/tables/options", takes(s.tableOptions))
	r.ask("/tables/read", takes(s.readCells))
	r.post("/tables/save", takes(s.saveRows))
	r.ask("/tables/views", takes(s.tableViews))
	r.put("/tables/views", takes(s.keepView))
	r.post("/views/:id/use", done(s.useView))
	r.remove("/views/:id", done(s.removeView))
	r.post("/tables/out", takes(s.askOut))
	r.get("/outgoing/:id", gives(s.outgoing))
	r.add(fiber.MethodGet, "/outgoing/:id/file", sends, sendsFile(s.sendOut))
	r.ask("/pages/:key", takes(s.page))
	r.stream("/changes", sendsFile(s.sendChanges))
	r.post("/press", takes(s.press))
	r.ask("/press/rows", takes(s.offRows))
	r.post("/react", takes(s.react))
	r.ask("/pages/:key/options/:part", takes(s.pageOptions))
	r.get("/records/:object/:id/history", gives(s.history).asking("before", "field"))
	r.ask("/forms", takes(s.form))
	r.post("/forms/save", takes(s.saveForm))
	r.ask("/forms/fit", takes(s.fitForm))
	r.ask("/forms/options", takes(s.formOptions))
}

// seat is where a person, or whom a builder looks as, is at work: in the space the
// address names, in production in Use.
func (s *server) seat(c fiber.Ctx) postgres.Caller {
	space := c.Params("space")
	if space == "" {
		space = postgres.Production
	}
	return postgres.Caller{App: s.app(), Space: space, Person: viewer(c)}
}

func (s *server) tableRows(c fiber.Ctx, in rowsRequest) (table.RowsView, error) {
	return s.tables.Rows(c.Context(), s.seat(c), in.At, in.Look, in.Chosen)
}

func (s *server) tableCards(c fiber.Ctx, in cardsRequest) (table.CardsPage, error) {
	return s.tables.Cards(c.Context(), s.seat(c), in.At, in.CardsAsk)
}

func (s *server) tableConcerns(c fiber.Ctx, in concernsRequest) (ConcernsView, error) {
	yes, err := s.tables.Concerns(c.Context(), s.seat(c), in.At, in.Look, in.Change)
	if err != nil {
		return ConcernsView{}, err
	}
	return ConcernsView{yes}, nil
}

// CountView is how many rows a table has.
type CountView struct {
	Total int64 `json:"total"`
}

func (s *server) tableCount(c fiber.Ctx, in rowsRequest) (CountView, error) {
	n, err := s.tables.Count(c.Context(), s.seat(c), in.At, in.Look)
	if err != nil {
		return CountView{}, err
	}
	return CountView{n}, nil
}

func (s *server) tableGroups(c fiber.Ctx, in rowsRequest) (table.GroupsView, error) {
	return s.tables.Groups(c.Context(), s.seat(c), in.At, in.Look)
}

func (s *server) proof(c fiber.Ctx, in rowsRequest) (table.ProofView, error) {
	return s.tables.Proof(c.Context(), s.seat(c), in.At, in.Look, who(c).Builder)
}

func (s *server) proofOf(c fiber.Ctx, in rowsRequest) (table.ProofRecordView, error) {
	id, err := recordID(c)
	if err != nil {
		return table.ProofRecordView{}, err
	}
	return s.tables.ProofOf(c.Context(), s.seat(c), in.At, in.Look, id, who(c).ID)
}

// tableRecords finds records of a table's object whether they are in the table or not, as
// far as the person signed in may see them.
func (s *server) tableRecords(c fiber.Ctx, in cellOptionsRequest) ([]value.Ref, error) {
	refs, err := s.tables.Records(c.Context(), s.seat(c), in.At, in.Text, who(c).ID)
	if err != nil {
		return nil, err
	}
	return notNil(refs), nil
}

func (s *server) tableFields(c fiber.Ctx, in fieldsRequest) (tables.FieldsView, error) {
	return s.tables.Fields(c.Context(), s.seat(c), in.At, in.Through)
}

func (s *server) saveRows(c fiber.Ctx, in saveRowsRequest) (records.RowsSaved, error) {
	return s.tables.SaveRows(c.Context(), s.own(c), in.At, in.Rows)
}

func (s *server) readCells(c fiber.Ctx, in readCellsRequest) ([]tables.CellRead, error) {
	return s.tables.ReadCells(c.Context(), s.seat(c), in.At, in.Cells)
}

func (s *server) tableOptions(c fiber.Ctx, in cellOptionsRequest) ([]value.Ref, error) {
	refs, err := s.tables.Options(c.Context(), s.seat(c), in.At, in.Path, in.Text, in.Editing)
	if err != nil {
		return nil, err
	}
	return notNil(refs), nil
}

func (s *server) tableViews(c fiber.Ctx, in fieldsRequest) (tables.ViewsView, error) {
	return s.tables.Views(c.Context(), s.seat(c), in.At)
}

// own is the seat of the person who is signed in: what they keep is theirs, whoever they
// look as.
func (s *server) own(c fiber.Ctx) postgres.Caller {
	p := s.seat(c)
	p.Person = who(c).ID
	return p
}

func (s *server) keepView(c fiber.Ctx, in keepViewRequest) (tables.SavedView, error) {
	return s.tables.KeepView(c.Context(), s.own(c), in.At, in.Name, in.Body)
}

func (s *server) useView(c fiber.Ctx) error {
	return s.changeView(c, s.tables.UseView)
}

func (s *server) removeView(c fiber.Ctx) error {
	return s.changeView(c, s.tables.RemoveView)
}

// changeView does something with one of the views of the person signed in.
func (s *server) changeView(c fiber.Ctx, change func(context.Context, postgres.Caller, int64) error) error {
	id, err := recordID(c)
	if err != nil {
		return err
	}
	return change(c.Context(), s.own(c), id)
}

func (s *server) page(c fiber.Ctx, in pageRequest) (tables.PageView, error) {
	return s.tables.Page(c.Context(), s.seat(c), c.Params("key"), in.Given, in.Changed)
}

func (s *server) press(c fiber.Ctx, in pressRequest) (tables.Pressed, error) {
	return s.tables.Press(c.Context(), s.own(c), in.At, in.Button, in.Chosen, in.Confirmed, tries(c, in.Tried))
}

func (s *server) offRows(c fiber.Ctx, in offRequest) (OffView, error) {
	off, err := s.tables.Off(c.Context(), s.seat(c), in.At, in.Keys)
	if err != nil {
		return OffView{}, err
	}
	return OffView{off}, nil
}

// pageOptionsRequest asks for records that an input of a page offers, as the page is filled in.
type pageOptionsRequest struct {
	Text  string       `json:"text"`
	Given screen.Given `json:"given"`
}

func (s *server) pageOptions(c fiber.Ctx, in pageOptionsRequest) ([]value.Ref, error) {
	refs, err := s.tables.PageOptions(c.Context(), s.seat(c), c.Params("key"), in.Given, c.Params("part"), in.Text)
	if err != nil {
		return nil, err
	}
	return notNil(refs), nil
}

// react sets a reaction of a page or a screen going.
func (s *server) react(c fiber.Ctx, in reactRequest) (tables.Pressed, error) {
	return s.tables.React(c.Context(), s.own(c), in.At, tables.Reaction{Key: in.Reaction, Row: in.Row,
		Confirmed: in.Confirmed, Tried: tries(c, in.Tried)})
}

// tries says whether something is tried and put back, with a trace: that is for whoever builds, in a space.
func tries(c fiber.Ctx, wanted bool) bool { return wanted && c.Params("space") != "" }
