package demo

import (
	"bytes"
	"fmt"
	"image"
	"image/color"
	"image/png"
	"time"

	"github.com/go-pdf/fpdf"

	"plainpath/core/value"
)

// file keeps a file and gives what a record holds of it.
func (g *generator) file(name string, body []byte) value.Value {
	if g.err != nil {
		return nil
	}
	id, err := g.writer.File(g.ctx, name, body)
	if err != nil {
		g.err = err
		return nil
	}
	return ref(id)
}

// document is one of the demo's documents with a file of the kind that belongs to it.
func (g *generator) document(i int, lifts, buildings []int64) row {
	switch i % 6 {
	case 1, 4:
		return row{"title": value.Text(fmt.Sprintf("Shaft drawing %d", i)), "kind": value.Text("drawing"),
			"building": ref(buildings[i*3]),
			"file":     g.file(fmt.Sprintf("shaft-%02d.png", i), drawing(3+i%5))}
	case 2:
		return row{"title": value.Text(fmt.Sprintf("Machine room, photo %d", i)), "kind": value.Text("photo"),
			"building": ref(buildings[i*3]),
			"file":     g.picture(fmt.Sprintf("machine-room-%02d.png", i), 200+i)}
	case 5:
		return row{"title": value.Text(fmt.Sprintf("Price list %d", 2020+i/6)), "kind": value.Text("price_list"),
			"file": g.file(fmt.Sprintf("prices-%d.csv", 2020+i/6), prices(i))}
	}
	title := fmt.Sprintf("Inspection report %d", 2100+i)
	return row{"title": value.Text(title), "kind": value.Text("inspection_report"), "lift": ref(lifts[i*11]),
		"file": g.file(fmt.Sprintf("report-%d.pdf", 2100+i),
			report(title, "Ropes, brake and doors were looked at. Nothing stands against further use."))}
}

// report is a small PDF of one page.
func report(title, text string) []byte {
	pdf := fpdf.New("P", "mm", "A5", "")
	at := time.Date(2026, 7, 1, 9, 0, 0, 0, time.UTC) // so that every run makes the same file
	pdf.SetCreationDate(at)
	pdf.SetModificationDate(at)
	pdf.SetCatalogSort(true)
	pdf.AddPage()
	pdf.SetFont("Helvetica", "B", 16)
	pdf.Cell(0, 12, title)
	pdf.Ln(14)
	pdf.SetFont("Helvetica", "", 11)
	pdf.MultiCell(0, 6, text, "", "L", false)
	var out bytes.Buffer
	if err := pdf.Output(&out); err != nil {
		panic(err) // it is written to memory
	}
	return out.Bytes()
}

// prices is a short price list.
func prices(n int) []byte {
	var out bytes.Buffer
	fmt.Fprintln(&out, "part,price")
	for i := range 12 {
		fmt.Fprintf(&out, "Q-%03d,%d.%02d EUR\n", 100+i*7+n, 8+i*13, (i*35)%100)
	}
	return out.Bytes()
}

var (
	paper = color.NRGBA{0xfb, 0xfa, 0xf6, 0xff}
	ink   = color.NRGBA{0x1c, 0x22, 0x30, 0xff}
	inks  = []color.NRGBA{{0x7a, 0x2e, 0x5d, 0xff}, {0x2f, 0x6b, 0x4f, 0xff}, {0x9a, 0x64, 0x06, 0xff},
		{0xa6, 0x3a, 0x2b, 0xff}, {0x3d, 0x5a, 0x80, 0xff}, {0x1f, 0x6f, 0x78, 0xff}}
)

// picture is a mark of its own for each number: a pattern that is the same on both sides.
func (g *generator) picture(name string, n int) value.Value {
	const cells, side = 5, 24
	img := image.NewNRGBA(image.Rect(0, 0, cells*side, cells*side))
	bits := uint32(n)*2654435761 + 0x9e3779b9
	fore := inks[n%len(inks)]
	for y := range cells * side {
		for x := range cells * side {
			column := min(x/side, cells-1-x/side)
			c := paper
			if bits>>(uint(column*cells+y/side))&1 == 1 {
				c = fore
			}
			img.SetNRGBA(x, y, c)
		}
	}
	return g.file(name, encoded(img))
}

// drawing is a shaft with its floors, and the car at one of them.
func drawing(floors int) []byte {
	const width, floor = 160, 60
	img := image.NewNRGBA(image.Rect(0, 0, width, floors*floor+1))
	for y := range floors*floor + 1 {
		for x := range width {
			c := paper
			if y%floor == 0 || x == 50 || x == 110 || x == 0 || x == width-1 {
				c = ink
			}
			if x > 56 && x < 104 && y > floor+8 && y < 2*floor-6 {
				c = inks[4]
			}
			img.SetNRGBA(x, y, c)
		}
	}
	return encoded(img)
}

func encoded(img image.Image) []byte {
	var out bytes.Buffer
	if err := png.Encode(&out, img); err != nil {
		panic(err) // it is written to memory
	}
	return out.Bytes()
}

// address is one in the made-up towns, whose postcodes begin alike.
func (g *generator) address() value.Value {
	house, street, town := 1+g.random.IntN(90), pick(g, streets), g.random.IntN(len(towns))
	return value.NewAddress(value.Address{Lines: fmt.Sprintf("%d %s", house, street), Town: towns[town],
		Postcode: fmt.Sprintf("%d%03d", 4+town, len(street)*10), Country: "Quillmere Coast"})
}
