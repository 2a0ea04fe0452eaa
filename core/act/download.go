package act

import (
	"fmt"

	"plainpath/core/definition"
)

// Download sends the rows of the table as a file.
type Download struct {
	// Format is csv or xlsx.
	Format string `json:"format"`
}

func checkDownload(c *check, a *Act, at string) Plan {
	if !given(c, a, a.Download, at) {
		return nil
	}
	if f := a.Download.Format; f != "csv" && f != "xlsx" {
		pointer := at + "/download/format"
		c.Find(definition.Stop, pointer, fmt.Sprintf("%q is not a kind of file", f), "Nothing would be downloaded.",
			definition.Replace("Take CSV", pointer, "csv"))
		return nil
	}
	return &effectPlan{effect: Effect{Kind: DownloadAct, Format: a.Download.Format}}
}
