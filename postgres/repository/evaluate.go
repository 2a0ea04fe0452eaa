package repository

import (
	"context"
	"errors"
	"fmt"

	"plainpath/core/expr"
	"plainpath/core/model"
	"plainpath/core/rules"
	"plainpath/core/value"
	"plainpath/postgres"
	"plainpath/postgres/sqlgen"
)

// EvaluateQuestion asks what an expression over a record comes to.
type EvaluateQuestion struct {
	Expression string `json:"expression"`
	// Record is the record it is computed for.
	Record int64 `json:"record"`
}

// EvaluatedView is what an expression comes to.
type EvaluatedView struct {
	// Kind is the kind of value it gives, empty when it cannot be read.
	Kind  value.Kind `json:"kind,omitempty"`
	Shown string     `json:"shown"`
	// Problem says what is wrong with the expression, or why it cannot be computed here.
	Problem *model.Problem `json:"problem,omitempty"`
}

// Evaluate computes an expression over the fields of a record.
func (s *Repositories) Evaluate(ctx context.Context, p postgres.Caller, object string,
	ask EvaluateQuestion) (EvaluatedView, error) {
	var out EvaluatedView
	d, o, err := s.Of(ctx, p, object)
	if err != nil {
		return out, err
	}
	scope := rules.RecordScope(d.Edition.Model, d.Edition.App.Organisation, o)
	program, err := expr.Compile(scope, ask.Expression)
	if err != nil {
		problem := expr.Problem(err, "", ask.Expression)
		out.Problem = &problem
		return out, nil
	}
	out.Kind = program.Type.Kind
	if ask.Record == 0 {
		return out, nil
	}
	if _, err := d.Record(ctx, o, ask.Record, nil); errors.Is(err, postgres.ErrNotFound) {
		return out, nil
	} else if err != nil {
		return out, err
	}
	asked, err := sqlgen.Value(d.Space(), object, ask.Record, program, d.Base())
	if err != nil {
		out.Problem = &model.Problem{Text: err.Error()}
		return out, nil
	}
	row, err := d.Db.QueryRowxContext(ctx, asked.SQL, arguments(asked)...).SliceScan()
	if err != nil {
		return out, fmt.Errorf("computing %q: %w", ask.Expression, err)
	}
	if why, failed := row[2].(string); failed {
		out.Problem = &model.Problem{Text: why}
		return out, nil
	}
	v, err := sqlgen.DecodeValue(program.Type.Kind, row[0], row[1])
	if err != nil {
		return out, err
	}
	out.Shown = value.Display(v)
	return out, nil
}
