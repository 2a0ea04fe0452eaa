package e2e

import (
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
)

// Files stand in a table beside their viewer, which is made from nothing: a PDF with words looked for in it, a picture,
// a sheet, a text, a PDF that is damaged and a file of a kind that is not shown.
func TestFilesAreSeenBesideTheirTable(t *testing.T) {
	t.Parallel() // most of it is waiting
	s := newSite(t)
	of := `UPDATE plainpath.file f SET name = $2, media_type = $3 FROM liftcare_trial.document d WHERE d.file = f.id AND d.title = $1`
	for _, file := range [][3]string{{"Price list 2021", "notes.txt", "text/plain; charset=utf-8"},
		{"Price list 2022", "broken.pdf", "application/pdf"}, {"Price list 2023", "sheets.zip", "application/zip"}} {
		if _, err := s.db.Exec(of, file[0], file[1], file[2]); err != nil {
			t.Fatal(err)
		}
	}
	b := s.browser(t)
	b.signIn("Bo Lindqvale")
	b.newPage("Papers")
	b.press("+ add")
	b.choose("A table of", "Documents")
	b.see("30 records")
	b.press("+ a band below")
	b.choose("The file of", "Documents › the row chosen")
	b.see("Nothing is chosen yet.")
	b.row("Inspection report 2103")
	b.see("report-2103.pdf")
	b.until(`(e => { e?.scrollIntoView(); return !!e })(document.querySelector('.pdf'))`, "there is no PDF")
	b.until(`document.querySelectorAll('.pdf canvas').length === 1 && document.querySelector('.text')?.innerText.includes('Inspection report 2103')`, "the page is not drawn")
	b.enter("Look for words in the document", "STANDS against")
	b.see("1 of 1")
	b.until(`document.querySelector('.text mark')?.textContent === 'stands against'`, "the words are not marked")
	b.enter("Look for words in the document", "elephants")
	b.see("Not found")
	width := func() float64 {
		return run(b, chromedp.Evaluate[float64](`document.querySelector('.pdf .page').getBoundingClientRect().width`))
	}
	b.axeInBoth("viewer")
	was := width()
	b.press("Larger")
	b.until(`document.querySelector('.pdf canvas').width > 0`, "it is not drawn")
	if now := width(); now < was*1.2 {
		t.Errorf("it is %g wide, %g before", now, was)
	}
	b.row("Shaft drawing 1")
	b.until(`(i => i?.complete && i.naturalWidth > 100)(document.querySelector('.viewer img'))`, "there is no picture")
	b.gone("report-2103.pdf")
	b.enter("Search title", "Price list")
	b.see("5 records")
	b.row("Price list 2020")
	b.until(`document.querySelectorAll('.viewer tbody tr').length > 5 && document.querySelector('.viewer th').innerText === 'part'`, "there is no sheet")
	b.row("Price list 2021")
	b.until(`document.querySelector('.viewer pre')?.innerText.startsWith('part')`, "there is no text")
	b.row("Price list 2022")
	b.see("This PDF cannot be read")
	b.row("Price list 2023")
	b.see("This kind of file is not shown here.")
	b.until(`document.querySelector('.viewer a[download]')?.download === 'sheets.zip'`, "it cannot be downloaded")
	b.keys(kb.Escape)
}
