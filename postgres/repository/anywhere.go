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

// Anywhere finds records of any object by what they are called, as a person may see them.
func (s *Repositories) Anywhere(ctx context.Context, p postgres.Caller, text string) ([]records.CalledView, error) {
	w, err := s.Where(ctx, p)
	if err != nil {
		return nil, err
	}
	return records.Anywhere(ctx, New(s.DB, w), text, mostOfEach, mostAnywhere)
}
