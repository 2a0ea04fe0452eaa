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

// Viewer shows a file of a record, or something else that one field of it holds.
type Viewer struct {
	// Source is an expression that gives one record, Path the field of it that holds the file.
	Source string `json:"source"`
	Path   string `json:"path"`
}

// FilePartView is a file that is shown.
type FilePartView struct {
	// File is nil where there is no record yet, or it holds none.
	File *value.Ref `json:"file,omitempty"`
	// Chosen says that there is a record.
	Chosen bool `json:"chosen"`
}

var (
	viewerKind = partKind{ViewerPart, func(def *Part) bool { return def.Viewer != nil },
		func(c *compiler, p *part, at string) content {
			held := c.held(p.Viewer, at, "There would be nothing to look at.", "holds no file", (*model.Field).HoldsFile)
			if held == nil {
				return nil
			}
			return &viewer{held, func(view *PartView, file *FilePartView) { view.Viewer = file }}
		}}
	pictureKind = partKind{PicturePart, func(def *Part) bool { return def.Picture != nil },
		func(c *compiler, p *part, at string) content {
			held := c.held(p.Picture, at, "There would be no picture.", "holds no picture",
				func(f *model.Field) bool { return f.Type == model.Picture })
			if held == nil {
				return nil
			}
			return &viewer{held, func(view *PartView, file *FilePartView) { view.Picture = file }}
		}}
)

// held is what one field of a record holds.
type held struct {
	source *expr.Program
	object string
	path   model.Path
}

// held checks which field of which record is shown; it is nil where that cannot be. Not says what is wrong with a field
// that does not do.
func (c *compiler) held(def *Viewer, at, consequence, not string, does func(*model.Field) bool) *held {
	source := c.program(def.Source, expr.Type{Kind: value.KindRecord}, at+"/source", consequence)
	if source == nil {
		return nil
	}
	path, ok := c.Path(c.scope.Model, source.Type.Object, def.Path, at+"/path", consequence,
		func(path model.Path) error {
			if !does(path.Last()) {
				return fmt.Errorf("%s %s", path.Last().Label, not)
			}
			return nil
		})
	if !ok {
		return nil
	}
	return &held{source, source.Type.Object, path}
}

// read is what the field holds, and whether there is a record.
func (p *held) read(ctx context.Context, r records.Reader, values expr.Values) (value.Value, bool, error) {
	v, err := p.source.Eval(values)
	if err != nil {
		return nil, false, err
	}
	record, _ := v.(*value.Record)
	if record == nil {
		return nil, false, nil
	}
	found, err := records.ByKey(ctx, r, p.object, []int64{record.ID}, []model.Path{p.path})
	if err != nil || len(found) == 0 {
		return nil, false, err
	}
	return predicate.Follow(found[0], p.path), true, nil
}

type viewer struct {
	*held
	put func(*PartView, *FilePartView)
}

func (p *viewer) show(ctx context.Context, r records.Reader, values expr.Values, _ Given, view *PartView) error {
	v, chosen, err := p.read(ctx, r, values)
	if err != nil {
		return err
	}
	out := &FilePartView{Chosen: chosen}
	if file, _ := v.(*value.Record); file != nil {
		out.File = &value.Ref{ID: file.ID, Label: file.Label}
	}
	p.put(view, out)
	return nil
}
