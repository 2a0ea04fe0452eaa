package server

import (
	"context"
	"io"
	"mime"
	"strings"
	"time"

	"github.com/gofiber/fiber/v3"

	"plainpath/postgres"
	"plainpath/postgres/files"
)

func (s *server) fileRoutes(in doors) {
	in.post("/files", takes(s.beginFile))
	in.put("/files/:id/parts/:part", gives(s.filePart).asking("as").withBytes())
	in.stream("/files/:id", sendsFile(s.file))
	in.get("/files/:id/preview", sendsFile(s.filePreview))
}

// NewUpload is a file about to be sent.
type NewUpload struct {
	Name string `json:"name"`
	Size int64  `json:"size"`
	// As is the person a builder gives the file for, in a rehearsal.
	As int64 `json:"as,omitempty"`
}

// given is where and for whom a file is given: in Use in production, and on trial by builders
// for whom they rehearse as.
func (s *server) given(c fiber.Ctx, as int64) postgres.Caller {
	p := s.at(c)
	if c.Params("space") == "" {
		p.Space = postgres.Production
		return p
	}
	if as != 0 && p.Space == postgres.Trial {
		p.Person = as
	}
	return p
}

func (s *server) beginFile(c fiber.Ctx, in NewUpload) (files.FileView, error) {
	out, err := s.files.Begin(c.Context(), s.given(c, in.As), in.Name, in.Size)
	if err != nil {
		return files.FileView{}, err
	}
	c.Status(fiber.StatusCreated)
	return out, nil
}

func (s *server) filePart(c fiber.Ctx) (files.FileView, error) {
	id, err := recordID(c)
	if err != nil {
		return files.FileView{}, err
	}
	part, err := number(c, "part")
	if err != nil {
		return files.FileView{}, err
	}
	return s.files.Part(c.Context(), s.given(c, int64(fiber.Query[int](c, "as"))), id, part, c.Body())
}

// looking is where and as whom a file is looked at.
func (s *server) looking(c fiber.Ctx) postgres.Caller {
	p := s.given(c, 0)
	p.Person = viewer(c)
	return p
}

// sendFor is how long a file may take to be sent.
const sendFor = 10 * time.Minute

func (s *server) file(c fiber.Ctx) error {
	id, err := recordID(c)
	if err != nil {
		return err
	}
	// The file is read while the answer is being sent, when this request is over already.
	ctx, done := context.WithTimeout(context.WithoutCancel(c.Context()), sendFor)
	f, content, err := s.files.Open(ctx, s.looking(c), id)
	if err != nil {
		done()
		return err
	}
	setFile(c, f)
	return c.SendStreamWriter(s.watch(c, done, func(w *watched) {
		if _, err := io.Copy(w, content); err != nil {
			s.Log.Error("sending a file", "file", id, "error", err)
		}
	}))
}

// setFile says what a file is. Nothing in it may run, and what browsers do not show is
// offered to be stored.
func setFile(c fiber.Ctx, f files.FileView) {
	how := "attachment"
	kind, _, _ := strings.Cut(f.MediaType, ";")
	switch kind {
	case "image/png", "image/jpeg", "image/gif", "image/webp", "application/pdf", "text/plain", "text/csv":
		how = "inline"
	}
	c.Set(fiber.HeaderContentType, f.MediaType)
	c.Set(fiber.HeaderContentDisposition, mime.FormatMediaType(how, map[string]string{"filename": f.Name}))
	c.Set(fiber.HeaderContentSecurityPolicy, "sandbox; default-src 'none'; style-src 'unsafe-inline'")
	c.Set(fiber.HeaderCacheControl, "private, max-age=3600")
}

func (s *server) filePreview(c fiber.Ctx) error {
	id, err := recordID(c)
	if err != nil {
		return err
	}
	picture, err := s.files.Preview(c.Context(), s.looking(c), id)
	if err != nil {
		return err
	}
	c.Set(fiber.HeaderContentType, "image/png")
	c.Set(fiber.HeaderCacheControl, "private, max-age=3600")
	return c.Send(picture)
}
