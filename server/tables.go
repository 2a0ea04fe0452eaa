package server

import (
	"context"

	"plainpath/postgres"
	"plainpath/postgres/desks"
	"plainpath/postgres/tables"

	"plainpath/core/records"

	"github.com/gofiber/fiber/v3"

	"plainpath/core/surface"
)

type rowsRequest struct {
	At   tables.TableAt `json:"at"`
	Look surface.Look   `json:"look"`
	// Chosen is the look all of whose rows are chosen, when that is another.
	Chosen *surface.Look `json:"chosen,omitempty"`
}

type concernsRequest struct {
	At     tables.TableAt  `json:"at"`
	Look   surface.Look    `json:"look"`
	Change surface.Touched `json:"change"`
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
	Path    string         `json:"path"`
	Text    string         `json:"text"`
	Editing *desks.Editing `json:"editing,omitempty"`
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
	At   tables.TableAt      `json:"at"`
	Name string              `json:"name"`
	Body surface.Arrangement `json:"body"`
}

type pressRequest struct {
	At     tables.TableAt `json:"at"`
	Button string         `json:"button"`
	Chosen surface.Chosen `json:"chosen"`
	// Confirmed is how many of the button's questions were answered with yes.
	Confirmed int `json:"confirmed,omitempty"`
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
	Given surface.Given `json:"given"`
	// Changed are the parts whose values changed; none asks for the whole page.
	Changed []string `json:"changed,omitempty"`
}

// tableRoutes are the same in Use, which is on production, and in Build.
func (s *server) tableRoutes(r doors) {
	r.ask("/tables/rows", s.tableRows)
	r.ask("/tables/count", s.tableCount)
	r.ask("/tables/concerns", s.tableConcerns)
	r.ask("/tables/groups", s.tableGroups)
	r.ask("/tables/fields", s.tableFields)
	r.ask("/tables/proof", s.proof)
	r.ask("/tables/proof/:id/why", s.proofOf)
	r.ask("/tables/records/options", s.tableRecords)
	r.ask("/tables/options", s.tableOptions)
	r.ask("/tables/read", s.readCells)
	r.post("/tables/save", s.saveRows)
	r.ask("/tables/views", s.tableViews)
	r.put("/tables/views", s.keepView)
	r.post("/views/:id/use", s.useView)
	r.remove("/views/:id", s.removeView)
	r.post("/tables/out", s.askOut)
	r.get("/outgoing/:id", s.outgoing)
	r.add(fiber.MethodGet, "/outgoing/:id/file", sends, s.sendOut)
	r.ask("/pages/:key", s.page)
	r.stream("/changes", s.sendChanges)
	r.post("/press", s.press)
	r.ask("/press/rows", s.offRows)
	r.ask("/pages/:key/options/:part", s.pageOptions)
}

// seat is where a person, or whom a builder looks as, is at work: in the space the
// address names, in production in Use.
func (s *server) seat(c fiber.Ctx) postgres.Place {
	space := c.Params("space")
	if space == "" {
		space = postgres.Production
	}
	return postgres.Place{App: s.app(), Space: space, Person: viewer(c)}
}

func (s *server) tableRows(c fiber.Ctx) error {
	var in rowsRequest
	if err := read(c, &in); err != nil {
		return err
	}
	rows, err := s.tables.Rows(c.Context(), s.seat(c), in.At, in.Look, in.Chosen)
	if err != nil {
		return err
	}
	return c.JSON(rows)
}

func (s *server) tableConcerns(c fiber.Ctx) error {
	var in concernsRequest
	if err := read(c, &in); err != nil {
		return err
	}
	yes, err := s.tables.Concerns(c.Context(), s.seat(c), in.At, in.Look, in.Change)
	if err != nil {
		return err
	}
	return c.JSON(ConcernsView{yes})
}

// CountView is how many rows a table has.
type CountView struct {
	Total int64 `json:"total"`
}

func (s *server) tableCount(c fiber.Ctx) error {
	var in rowsRequest
	if err := read(c, &in); err != nil {
		return err
	}
	n, err := s.tables.Count(c.Context(), s.seat(c), in.At, in.Look)
	if err != nil {
		return err
	}
	return c.JSON(CountView{n})
}

func (s *server) tableGroups(c fiber.Ctx) error {
	var in rowsRequest
	if err := read(c, &in); err != nil {
		return err
	}
	groups, err := s.tables.Groups(c.Context(), s.seat(c), in.At, in.Look)
	if err != nil {
		return err
	}
	return c.JSON(groups)
}

func (s *server) proof(c fiber.Ctx) error {
	var in rowsRequest
	if err := read(c, &in); err != nil {
		return err
	}
	proof, err := s.tables.Proof(c.Context(), s.seat(c), in.At, in.Look, who(c).Builder)
	if err != nil {
		return err
	}
	return c.JSON(proof)
}

func (s *server) proofOf(c fiber.Ctx) error {
	id, err := recordID(c)
	if err != nil {
		return err
	}
	var in rowsRequest
	if err := read(c, &in); err != nil {
		return err
	}
	proof, err := s.tables.ProofOf(c.Context(), s.seat(c), in.At, in.Look, id, who(c).ID)
	if err != nil {
		return err
	}
	return c.JSON(proof)
}

// tableRecords finds records of a table's object whether they are in the table or not, as
// far as the person signed in may see them.
func (s *server) tableRecords(c fiber.Ctx) error {
	var in cellOptionsRequest
	if err := read(c, &in); err != nil {
		return err
	}
	refs, err := s.tables.Records(c.Context(), s.seat(c), in.At, in.Text, who(c).ID)
	if err != nil {
		return err
	}
	return c.JSON(notNil(refs))
}

func (s *server) tableFields(c fiber.Ctx) error {
	var in fieldsRequest
	if err := read(c, &in); err != nil {
		return err
	}
	fields, err := s.tables.Fields(c.Context(), s.seat(c), in.At, in.Through)
	if err != nil {
		return err
	}
	return c.JSON(fields)
}

func (s *server) saveRows(c fiber.Ctx) error {
	var in saveRowsRequest
	if err := read(c, &in); err != nil {
		return err
	}
	saved, err := s.tables.SaveRows(c.Context(), s.own(c), in.At, in.Rows)
	if err != nil {
		return err
	}
	return c.JSON(saved)
}

func (s *server) readCells(c fiber.Ctx) error {
	var in readCellsRequest
	if err := read(c, &in); err != nil {
		return err
	}
	cells, err := s.tables.ReadCells(c.Context(), s.seat(c), in.At, in.Cells)
	if err != nil {
		return err
	}
	return c.JSON(cells)
}

func (s *server) tableOptions(c fiber.Ctx) error {
	var in cellOptionsRequest
	if err := read(c, &in); err != nil {
		return err
	}
	refs, err := s.tables.Options(c.Context(), s.seat(c), in.At, in.Path, in.Text, in.Editing)
	if err != nil {
		return err
	}
	return c.JSON(notNil(refs))
}

func (s *server) tableViews(c fiber.Ctx) error {
	var in fieldsRequest
	if err := read(c, &in); err != nil {
		return err
	}
	views, err := s.tables.Views(c.Context(), s.seat(c), in.At)
	if err != nil {
		return err
	}
	return c.JSON(views)
}

// own is the seat of the person who is signed in: what they keep is theirs, whoever they
// look as.
func (s *server) own(c fiber.Ctx) postgres.Place {
	p := s.seat(c)
	p.Person = who(c).ID
	return p
}

func (s *server) keepView(c fiber.Ctx) error {
	var in keepViewRequest
	if err := read(c, &in); err != nil {
		return err
	}
	view, err := s.tables.KeepView(c.Context(), s.own(c), in.At, in.Name, in.Body)
	if err != nil {
		return err
	}
	return c.JSON(view)
}

func (s *server) useView(c fiber.Ctx) error {
	return s.changeView(c, s.tables.UseView)
}

func (s *server) removeView(c fiber.Ctx) error {
	return s.changeView(c, s.tables.RemoveView)
}

// changeView does something with one of the views of the person signed in.
func (s *server) changeView(c fiber.Ctx, change func(context.Context, postgres.Place, int64) error) error {
	id, err := recordID(c)
	if err != nil {
		return err
	}
	if err := change(c.Context(), s.own(c), id); err != nil {
		return err
	}
	return c.SendStatus(fiber.StatusNoContent)
}

func (s *server) page(c fiber.Ctx) error {
	var in pageRequest
	if err := read(c, &in); err != nil {
		return err
	}
	page, err := s.tables.Page(c.Context(), s.seat(c), c.Params("key"), in.Given, in.Changed)
	if err != nil {
		return err
	}
	return c.JSON(page)
}

func (s *server) press(c fiber.Ctx) error {
	var in pressRequest
	if err := read(c, &in); err != nil {
		return err
	}
	pressed, err := s.tables.Press(c.Context(), s.own(c), in.At, in.Button, in.Chosen, in.Confirmed)
	if err != nil {
		return err
	}
	return c.JSON(pressed)
}

func (s *server) offRows(c fiber.Ctx) error {
	var in offRequest
	if err := read(c, &in); err != nil {
		return err
	}
	off, err := s.tables.Off(c.Context(), s.seat(c), in.At, in.Keys)
	if err != nil {
		return err
	}
	return c.JSON(OffView{off})
}

// pageOptionsRequest asks for records that an input of a page offers, as the page is filled in.
type pageOptionsRequest struct {
	Text  string        `json:"text"`
	Given surface.Given `json:"given"`
}

func (s *server) pageOptions(c fiber.Ctx) error {
	var in pageOptionsRequest
	if err := read(c, &in); err != nil {
		return err
	}
	refs, err := s.tables.PageOptions(c.Context(), s.seat(c), c.Params("key"), in.Given, c.Params("part"), in.Text)
	if err != nil {
		return err
	}
	return c.JSON(notNil(refs))
}
