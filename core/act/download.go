package act

import (
	"context"
	"encoding/json"
	"fmt"

	"plainpath/core/definition"
	"plainpath/core/expr"
	"plainpath/core/model"
	"plainpath/core/records"
	"plainpath/core/value"
)

// Download sends a file that is kept, or the rows of a table as a file.
type Download struct {
	// File is an expression that gives the file or picture; without it, rows are sent.
	File string `json:"file,omitempty"`
	// Part is the table whose rows are sent; without it, the one that the button stands on.
	Part string `json:"part,omitempty"`
	// Format is the kind of file that rows are sent as: csv or xlsx.
	Format string `json:"format,omitempty"`
}

func checkDownload(c *check, a *Act, at string) Plan {
	if !given(c, a, a.Download, at) {
		return nil
	}
	at += "/download"
	if a.Download.File != "" {
		return c.downloadFile(a.Download, at)
	}
	if f := a.Download.Format; f != "csv" && f != "xlsx" {
		c.Find(definition.Stop, at+"/format", fmt.Sprintf("%q is not a kind of file", f), "Nothing would be downloaded.",
			definition.Replace("Make it csv", at+"/format", "csv"))
		return nil
	}
	const consequence = "Nothing would be downloaded."
	if a.Download.Part == "" && c.Environment.Where == InReactions {
		c.Find(definition.Stop, at+"/part", "it does not say which table's rows are downloaded", consequence,
			c.oneTable(at))
		return nil
	}
	if a.Download.Part != "" {
		switch table, ok := c.part(a.Download.Part, at+"/part", consequence); {
		case !ok:
			return nil
		case !table.Table:
			c.Find(definition.Stop, at+"/part", fmt.Sprintf("%s shows no rows", table.Label), consequence,
				c.oneTable(at))
			return nil
		}
	}
	return &effectPlan{effect: Effect{Kind: DownloadAct, Part: a.Download.Part, Format: a.Download.Format}}
}

// oneTable mends which table is meant where there is just one.
func (c *check) oneTable(at string) *definition.Mend {
	var tables []Part
	for _, p := range c.Parts {
		if p.Table {
			tables = append(tables, p)
		}
	}
	if len(tables) != 1 {
		return nil
	}
	key, _ := json.Marshal(tables[0].Key)
	return &definition.Mend{Label: "Download " + tables[0].Label,
		Patch: []definition.Op{{Op: "add", Path: at + "/part", Value: key}}}
}

func (c *check) downloadFile(def *Download, at string) Plan {
	if def.Part != "" || def.Format != "" {
		c.Find(definition.Care, at+"/file", "a file that is kept is downloaded, and no rows",
			"The rows would not be downloaded.", &definition.Mend{Label: "Download rows",
				Patch: []definition.Op{{Op: "remove", Path: at + "/file"}}})
	}
	file := c.ExpressionOf(expr.Type{Kind: value.KindRecord, Object: model.FileObject}, c.Scope, def.File, at+"/file",
		"Nothing would be downloaded.")
	if file == nil {
		return nil
	}
	return &downloadPlan{basis{uses: file.Uses}, c.Rows, file}
}

// downloadPlan sends a file that is kept.
type downloadPlan struct {
	basis
	rows string
	file *expr.Program
}

// Do leaves the file to the browser, which is sent it only where the person may see it.
func (p *downloadPlan) Do(ctx context.Context, u records.Writer, in In) (Done, error) {
	values, err := rowKnown(ctx, u, in, p.rows, p.uses)
	if err != nil || values == nil && len(p.uses) > 0 {
		return Done{}, err
	}
	v, err := p.file.Eval(values)
	if err != nil {
		return Done{}, err
	}
	file, ok := v.(*value.Record)
	if !ok || file == nil {
		return Done{Effects: []Effect{{Kind: SayAct, Message: expr.Say("There is no file to download."), As: ToneCare}}}, nil
	}
	return Done{Effects: []Effect{{Kind: DownloadAct, Object: model.FileObject, Record: file.ID}}}, nil
}
