// Package files keeps the files that records hold.
package files

import (
	"bytes"
	"context"
	"database/sql"
	"errors"
	"fmt"
	"io"
	"path"
	"strings"
	"time"
	"unicode/utf8"

	"github.com/gabriel-vasile/mimetype"
	"github.com/jmoiron/sqlx"
	"golang.org/x/sync/semaphore"

	"plainpath/core/model"
	"plainpath/core/predicate"
	"plainpath/core/query"
	"plainpath/core/records"
	"plainpath/core/value"
	"plainpath/postgres"
	"plainpath/postgres/repository"
)

// Files keeps the files that people give, and hands them to whoever may see a field that
// holds one. They are in the database, in pieces of PartSize, which are sent and read one
// at a time; only a picture is read whole, once, for its preview.
type Files struct {
	Repositories *repository.Repositories
	// Most bounds the size of a file in bytes.
	Most int64
}

// FileView is a file that is arriving or has arrived.
type FileView struct {
	ID   int64  `db:"id" json:"id"`
	Name string `db:"name" json:"name"`
	Size int64  `db:"size" json:"size"`
	// MediaType is decided by the content; empty until all of the file has arrived.
	MediaType string `db:"media_type" json:"media_type,omitempty"`
}

// mostLeft is how many files of the largest size a person may leave lying about.
const mostLeft = 20

// longestName bounds the name of a file, in characters.
const longestName = 200

// Begin announces a file. It belongs to the person until a record takes it up.
func (s *Files) Begin(ctx context.Context, p postgres.Caller, name string, size int64) (FileView, error) {
	name = strings.TrimSpace(path.Base(strings.ReplaceAll(name, `\`, "/")))
	switch {
	case name == "" || name == "." || name == "/" || !utf8.ValidString(name) || strings.ContainsRune(name, 0):
		return FileView{}, &postgres.RejectedError{Text: "The file needs a name."}
	case utf8.RuneCountInString(name) > longestName:
		return FileView{},
			&postgres.RejectedError{Text: fmt.Sprintf("The name of the file is longer than %d characters. Give it a shorter one.", longestName)}
	case size <= 0:
		return FileView{}, &postgres.RejectedError{Text: name + " is empty."}
	case size > s.Most:
		return FileView{},
			&postgres.RejectedError{Text: fmt.Sprintf("%s is larger than %d MB, which is the most a file may have here.", name, s.Most>>20)}
	}
	out := FileView{Name: name, Size: size}
	var left int64
	err := s.Repositories.DB.GetContext(ctx, &left,
		`SELECT coalesce(sum(size), 0) FROM plainpath.file WHERE added_by = $1 AND NOT kept`, p.Person)
	if err != nil {
		return out, fmt.Errorf("beginning a file: %w", err)
	}
	if left > mostLeft*s.Most {
		return out,
			&postgres.RejectedError{Text: "Too many files were given that no record took up. They are removed after a day; try again then, or save the records they belong to."}
	}
	err = s.Repositories.DB.GetContext(ctx, &out.ID,
		`INSERT INTO plainpath.file (app, name, size, added_by) VALUES ($1, $2, $3, $4) RETURNING id`, p.App, name,
		size, p.Person)
	if code, _, _ := postgres.Violated(err); code == "23503" {
		return out, fmt.Errorf("person %d: %w", p.Person, postgres.ErrNotFound)
	}
	if err != nil {
		return out, fmt.Errorf("beginning a file: %w", err)
	}
	return out, nil
}

// Part takes a piece of a file. With the last one the content decides the type.
func (s *Files) Part(ctx context.Context, p postgres.Caller, id int64, number int, body []byte) (FileView, error) {
	var out FileView
	all := false
	err := s.Repositories.DB.In(ctx, func(tx *sqlx.Tx) error {
		err := tx.GetContext(ctx, &out,
			`SELECT id, name, size, coalesce(media_type, '') AS media_type FROM plainpath.file WHERE id = $1 AND app = $2 AND added_by = $3 FOR UPDATE`, id, p.App, p.Person)
		if errors.Is(err, sql.ErrNoRows) {
			return fmt.Errorf("file %d: %w", id, postgres.ErrNotFound)
		}
		if err != nil {
			return fmt.Errorf("reading file %d: %w", id, err)
		}
		if out.MediaType != "" {
			return nil // a piece that came twice, after everything had come
		}
		if from := int64(number) * postgres.PartSize; int64(number) > out.Size/postgres.PartSize || from >= out.Size ||
			int64(len(body)) != min(postgres.PartSize, out.Size-from) {
			return &postgres.RejectedError{Text: fmt.Sprintf("This piece of %s is not as it was announced. Was the file changed meanwhile? Send it again.", out.Name)}
		}
		_, err = tx.ExecContext(ctx,
			`INSERT INTO plainpath.file_part (file, number, body) VALUES ($1, $2, $3) ON CONFLICT (file, number) DO UPDATE SET body = excluded.body`, id, number, body)
		if err != nil {
			return fmt.Errorf("keeping a piece of %s: %w", out.Name, err)
		}
		var arrived int64
		if err := tx.GetContext(ctx, &arrived, `SELECT count(*) FROM plainpath.file_part WHERE file = $1`,
			id); err != nil {
			return fmt.Errorf("counting pieces: %w", err)
		}
		all = arrived*postgres.PartSize >= out.Size
		return nil
	})
	if err != nil || !all {
		return out, err
	}
	return out, Finish(ctx, s.Repositories.DB, s.Repositories.DB.Pictures, &out)
}

// Finish looks at the content of a file that has arrived. Nobody waits for that but who sent it,
// and few are looked at at once, for opening a picture takes far more room than its file.
func Finish(ctx context.Context, db sqlx.ExtContext, pictures *semaphore.Weighted, f *FileView) error {
	if err := pictures.Acquire(ctx, 1); err != nil {
		return fmt.Errorf("waiting to look at %s: %w", f.Name, err)
	}
	defer pictures.Release(1)
	content := &fileReader{ctx: ctx, db: db, file: f.ID}
	head := make([]byte, min(postgres.PartSize, f.Size))
	if _, err := io.ReadFull(content, head); err != nil {
		return fmt.Errorf("reading %s: %w", f.Name, err)
	}
	f.MediaType = mimetype.Detect(head).String()
	var small []byte
	if records.IsPicture(f.MediaType) {
		raw, err := io.ReadAll(io.MultiReader(bytes.NewReader(head), content))
		if err != nil {
			return fmt.Errorf("reading %s: %w", f.Name, err)
		}
		if small, err = preview(raw); err != nil {
			return &postgres.RejectedError{Text: fmt.Sprintf("%s looks like a picture, but cannot be read as one: %s.",
				f.Name, err)}
		}
	}
	_, err := db.ExecContext(ctx, `UPDATE plainpath.file SET media_type = $2, preview = $3 WHERE id = $1`, f.ID,
		f.MediaType, small)
	if err != nil {
		return fmt.Errorf("keeping %s: %w", f.Name, err)
	}
	return nil
}

// fileReader reads a file from its pieces.
type fileReader struct {
	ctx  context.Context
	db   sqlx.QueryerContext
	file int64
	next int
	left []byte
}

func (r *fileReader) Read(into []byte) (int, error) {
	if len(r.left) == 0 {
		err := sqlx.GetContext(r.ctx, r.db, &r.left,
			`SELECT body FROM plainpath.file_part WHERE file = $1 AND number = $2`, r.file, r.next)
		if errors.Is(err, sql.ErrNoRows) {
			return 0, io.EOF
		}
		if err != nil {
			return 0, fmt.Errorf("reading a piece of file %d: %w", r.file, err)
		}
		r.next++
	}
	n := copy(into, r.left)
	r.left = r.left[n:]
	return n, nil
}

// Open gives a file that the person may see: one of their own that no record took up yet,
// or one that a field holds which they may see, of a record that is theirs to see.
func (s *Files) Open(ctx context.Context, p postgres.Caller, id int64) (FileView, io.Reader, error) {
	out, err := s.see(ctx, p, id)
	return out, &fileReader{ctx: ctx, db: s.Repositories.DB, file: id}, err
}

// Preview gives a picture small enough to stand in a row of a table, as PNG.
func (s *Files) Preview(ctx context.Context, p postgres.Caller, id int64) ([]byte, error) {
	if _, err := s.see(ctx, p, id); err != nil {
		return nil, err
	}
	var out []byte
	if err := s.Repositories.DB.GetContext(ctx, &out, `SELECT preview FROM plainpath.file WHERE id = $1`, id); err != nil {
		return nil, fmt.Errorf("reading a picture: %w", err)
	}
	if out == nil {
		return nil, fmt.Errorf("preview of file %d: %w", id, postgres.ErrNotFound)
	}
	return out, nil
}

func (s *Files) see(ctx context.Context, p postgres.Caller, id int64) (FileView, error) {
	var out FileView
	missing := fmt.Errorf("file %d: %w", id, postgres.ErrNotFound)
	w, err := s.Repositories.Where(ctx, p)
	if err != nil {
		return out, err
	}
	d := repository.New(s.Repositories.DB, w)
	seen, err := seesFile(ctx, d, id)
	if err != nil {
		return out, err
	}
	if !seen {
		return out, missing
	}
	err = s.Repositories.DB.GetContext(ctx, &out,
		`SELECT id, name, size, media_type FROM plainpath.file WHERE id = $1 AND app = $2 AND media_type IS NOT NULL`,
		id, p.App)
	if errors.Is(err, sql.ErrNoRows) {
		return out, missing
	}
	if err != nil {
		return out, fmt.Errorf("reading file %d: %w", id, err)
	}
	return out, nil
}

// seesFile says whether a file is the person's own or in a field they may see.
func seesFile(ctx context.Context, d *repository.Repository, id int64) (bool, error) {
	m := d.Edition.Model
	asks := []query.Query{{Object: model.FileObject, Where: predicate.Keys{id}}}
	for _, r := range m.ReferrersTo(model.FileObject) {
		grant, err := d.Grant(r.Object.Key)
		if err != nil {
			return false, err
		}
		at, err := m.Path(r.Object.Key, r.Field.Key)
		if err != nil {
			return false, err
		}
		if grant.MaySee() { // a filter, for it is the person who asks
			asks = append(asks, query.Query{Object: r.Object.Key, Filter: predicate.Test{Path: at, Op: predicate.Is,
				Value: &value.Record{Object: model.FileObject, ID: id}}})
		}
	}
	picture, err := m.Path(model.PersonObject, "picture")
	if err != nil {
		return false, err
	}
	asks = append(asks, query.Query{Object: model.PersonObject, Filter: predicate.Test{Path: picture, Op: predicate.Is,
		Value: &value.Record{Object: model.FileObject, ID: id}}})
	for _, ask := range asks {
		n, err := records.Count(ctx, d, ask)
		if err != nil || n > 0 {
			return n > 0, err
		}
	}
	return false, nil
}

// LeftFor is how long a file stays that no record takes up.
const LeftFor = 24 * time.Hour
