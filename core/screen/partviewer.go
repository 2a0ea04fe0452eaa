package screen

import (
	"context"
	"fmt"

	"plainpath/core/expr"
	"plainpath/core/model"
	"plainpath/core/predicate"
	"plainpath/core/records"
	"plainpath/core/value"
)

// Viewer shows a file of a record.
type Viewer struct {
	// Source is an expression that gives one record, Path the field of it that holds the file.
	Source string `json:"source"`
	Path   string `json:"path"`
}

// ViewerPartView is a file that is shown.
type ViewerPartView struct {
	// File is nil where there is no record yet, or it holds none.
	File *value.Ref `json:"file,omitempty"`
	// Chosen says that there is a record.
	Chosen bool `json:"chosen"`
}

var viewerKind = partKind{ViewerPart, func(def *Part) bool { return def.Viewer != nil }, checkViewer}

type viewer struct {
	source *expr.Program
	object string
	path   model.Path
}

func checkViewer(c *compiler, p *part, at string) content {
	const consequence = "There would be nothing to look at."
	source := c.program(p.Viewer.Source, expr.Type{Kind: value.KindRecord}, at+"/source", consequence)
	if source == nil {
		return nil
	}
	path, ok := c.Path(c.scope.Model, source.Type.Object, p.Viewer.Path, at+"/path", consequence,
		func(path model.Path) error {
			if !path.Last().HoldsFile() {
				return fmt.Errorf("%s holds no file", path.Last().Label)
			}
			return nil
		})
	if !ok {
		return nil
	}
	return &viewer{source, source.Type.Object, path}
}

func (p *viewer) show(ctx context.Context, r records.Reader, values expr.Values, _ Given, view *PartView) error {
	view.Viewer = &ViewerPartView{}
	v, err := p.source.Eval(values)
	if err != nil {
		return err
	}
	record, _ := v.(*value.Record)
	if record == nil {
		return nil
	}
	found, err := records.ByKey(ctx, r, p.object, []int64{record.ID}, []model.Path{p.path})
	if err != nil || len(found) == 0 {
		return err
	}
	view.Viewer.Chosen = true
	if file, _ := predicate.Follow(found[0], p.path).(*value.Record); file != nil {
		view.Viewer.File = &value.Ref{ID: file.ID, Label: file.Label}
	}
	return nil
}
