package server

import (
	"archive/zip"
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"maps"
	"mime"
	"slices"
	"strings"
	"time"

	"plainpath/postgres/documents"
	"plainpath/postgres/imports"

	"github.com/getkin/kin-openapi/openapi3"
	"github.com/gofiber/fiber/v3"

	"plainpath/core/definition"
	"plainpath/core/edition"
	"plainpath/core/model"
)

// AppFiles are the documents of an app as files, with a JSON Schema for each kind beside them.
func AppFiles(docs []definition.Document) (map[string][]byte, error) {
	files, err := edition.Files(docs)
	if err != nil {
		return nil, err
	}
	schema, err := Schema()
	if err != nil {
		return nil, err
	}
	for kind, name := range edition.Schemas() {
		raw, err := jsonSchema(schema, name)
		if err != nil {
			return nil, err
		}
		files[edition.SchemaFolder+"/"+string(kind)+".json"] = raw
	}
	return files, nil
}

// jsonSchema is one type of the OpenAPI document with all that it is made of, as a JSON Schema.
func jsonSchema(all *openapi3.T, name string) ([]byte, error) {
	const from, to = "#/components/schemas/", "#/$defs/"
	defs := map[string]json.RawMessage{}
	for next := []string{name}; len(next) > 0; next = next[1:] {
		if defs[next[0]] != nil {
			continue
		}
		ref := all.Components.Schemas[next[0]]
		if ref == nil {
			return nil, fmt.Errorf("there is no type %q to describe documents by", next[0])
		}
		raw, err := json.Marshal(ref.Value)
		if err != nil {
			return nil, fmt.Errorf("describing %s: %w", next[0], err)
		}
		for _, piece := range strings.Split(string(raw), from)[1:] {
			next = append(next, piece[:strings.IndexByte(piece, '"')])
		}
		defs[next[0]] = json.RawMessage(strings.ReplaceAll(string(raw), from, to))
	}
	raw, err := json.Marshal(map[string]any{"$schema": "https://json-schema.org/draft/2020-12/schema", "title": name,
		"$ref": to + name, "$defs": defs})
	if err != nil {
		return nil, fmt.Errorf("describing %s: %w", name, err)
	}
	return definition.Stable(raw)
}

// takeOut sends the draft as an archive of its files.
func (s *server) takeOut(c fiber.Ctx) error {
	docs, err := documents.Documents(c.Context(), s.DB, s.app())
	if err != nil {
		return err
	}
	files, err := AppFiles(docs)
	if err != nil {
		return err
	}
	var out bytes.Buffer
	archive := zip.NewWriter(&out)
	for _, name := range slices.Sorted(maps.Keys(files)) {
		// the same app is the same bytes
		w, err := archive.CreateHeader(&zip.FileHeader{Name: name, Method: zip.Deflate,
			Modified: time.Date(2000, 1, 1, 0, 0, 0, 0, time.UTC)})
		if err == nil {
			_, err = w.Write(files[name])
		}
		if err != nil {
			return fmt.Errorf("packing the app: %w", err)
		}
	}
	if err := archive.Close(); err != nil {
		return fmt.Errorf("packing the app: %w", err)
	}
	c.Set(fiber.HeaderContentType, "application/zip")
	c.Set(fiber.HeaderContentDisposition,
		mime.FormatMediaType("attachment", map[string]string{"filename": s.app() + ".zip"}))
	return c.Send(out.Bytes())
}

// mostUnpacked bounds what the files of an app may come to, in bytes.
const mostUnpacked = 50 << 20

func (s *server) tryBringIn(c fiber.Ctx) (imports.Brought, error) { return s.broughtIn(c, true) }

func (s *server) bringIn(c fiber.Ctx) (imports.Brought, error) { return s.broughtIn(c, false) }

// broughtIn makes the draft what the files of an archive say.
func (s *server) broughtIn(c fiber.Ctx, try bool) (imports.Brought, error) {
	archive, err := zip.NewReader(bytes.NewReader(c.Body()), int64(len(c.Body())))
	if err != nil {
		return imports.Brought{}, fiber.NewError(fiber.StatusUnprocessableEntity,
			"This is no archive as “Take the app out” makes it, which ends in .zip.")
	}
	if err := unpacks(archive); err != nil {
		return imports.Brought{}, err
	}
	docs, err := edition.FromFiles(archive)
	if err != nil {
		return imports.Brought{}, &filesError{err}
	}
	return imports.BringIn(c.Context(), s.DB, s.app(), who(c).ID, docs, try)
}

// unpacks makes sure that the files of an archive are no larger than it says and may be.
func unpacks(archive *zip.Reader) error {
	var size int64
	for _, f := range archive.File {
		body, err := f.Open()
		if err != nil {
			return fiber.NewError(fiber.StatusUnprocessableEntity, "The file "+f.Name+" in it cannot be read.")
		}
		n, err := io.Copy(io.Discard, io.LimitReader(body, mostUnpacked-size+1))
		_ = body.Close()
		if err != nil {
			return fiber.NewError(fiber.StatusUnprocessableEntity, "The file "+f.Name+" in it cannot be read.")
		}
		if size += n; size > mostUnpacked {
			return fiber.NewError(fiber.StatusUnprocessableEntity, "The files in it are larger than any app.")
		}
	}
	return nil
}

// filesError says of each file of an app that cannot be read what is wrong with it.
type filesError struct{ cause error }

func (e *filesError) Error() string { return e.cause.Error() }

func (e *filesError) problem() Problem {
	out := Problem{Type: "files", Title: "Some of the files cannot be read, so nothing was changed.", Status: 422}
	all := []error{e.cause}
	if joined, ok := e.cause.(interface{ Unwrap() []error }); ok {
		all = joined.Unwrap()
	}
	for _, err := range all {
		var f *edition.FileError
		if errors.As(err, &f) {
			out.Problems = append(out.Problems, model.Problem{Pointer: "/" + f.File, Text: f.Error()})
		} else {
			out.Problems = append(out.Problems, model.Problem{Text: err.Error()})
		}
	}
	return out
}
