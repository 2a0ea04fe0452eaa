package repository

import (
	"context"

	"plainpath/core/records"
	"plainpath/postgres"
)

// How many records that are looked for anywhere are given, of each object and in all.
const (
	mostOfEach   = 4
	mostAnywhere = 12
)

// Anywhere finds records by what they are called, as a person may see them: of the objects named, or of any.
func (s *Repositories) Anywhere(ctx context.Context, p postgres.Caller, text string,
	of []string) ([]records.CalledView, error) {
	w, err := s.Where(ctx, p)
	if err != nil {
		return nil, err
	}
	return records.Anywhere(ctx, New(s.DB, w), text, of, mostOfEach, mostAnywhere)
}
