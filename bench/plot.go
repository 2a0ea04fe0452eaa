package main

import (
	"fmt"
	"math"
	"slices"
	"strings"
	"time"
)

// The plot, in pixels: where its lines are, and how large it is with their names.
const (
	plotLeft, plotTop     = 64, 20
	plotWidth, plotHeight = 440, 380
	wholeWidth            = 860
	wholeHeight           = 450
	nameHeight            = 17
)

// Bounds of the plot: powers of ten of records, and of milliseconds.
const (
	leastSize, mostSize = 3, 6
	leastTime, mostTime = -1, 5
)

var inks = []string{"#7A2E5D", "#2F6B4F", "#9A6406", "#A63A2B", "#1C2230", "#2A6F7F", "#7A2E5D", "#2F6B4F"}

// writeGrowth writes the same figures as a table.
func writeGrowth(b *strings.Builder, grown []growth) {
	b.WriteString("\n## With more stored\n\nThe same work with more and more service calls stored. Above the line as much is asked for whatever is stored; below it everything is.\n\n")
	b.WriteString("![The time that work takes by the number of records stored](growth.svg)\n\n| Work |")
	for _, g := range grown {
		fmt.Fprintf(b, " %d |", g.size)
	}
	b.WriteString("\n|---|" + strings.Repeat("---|", len(grown)) + "\n")
	for i, w := range grown[0].works {
		if i > 0 && w.ofAll && !grown[0].works[i-1].ofAll {
			b.WriteString("| — |" + strings.Repeat(" |", len(grown)) + "\n")
		}
		fmt.Fprintf(b, "| %s |", w.name)
		for _, g := range grown {
			fmt.Fprintf(b, " %s |", show(g.works[i].took))
		}
		b.WriteString("\n")
	}
}

func across(size int) float64 {
	return plotLeft + plotWidth*(math.Log10(float64(size))-leastSize)/(mostSize-leastSize)
}

func up(d time.Duration) float64 {
	ms := math.Max(float64(d)/float64(time.Millisecond), math.Pow(10, leastTime))
	return plotTop + plotHeight*(mostTime-math.Log10(ms))/(mostTime-leastTime)
}

// plot draws the time of each piece of work by the number of records, both in powers of
// ten. What asks for all records is dashed.
func plot(grown []growth) string {
	var b strings.Builder
	fmt.Fprintf(&b, `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 %d %d" font-family="sans-serif" font-size="13" role="img" aria-label="Time by records stored">`+"\n", wholeWidth, wholeHeight)
	fmt.Fprintf(&b, `<rect width="%d" height="%d" fill="#FBFAF6"/>`+"\n", wholeWidth, wholeHeight)
	for p := leastTime; p <= mostTime; p++ {
		y := up(time.Duration(math.Pow(10, float64(p)) * float64(time.Millisecond)))
		fmt.Fprintf(&b, `<path d="M%d %.1fH%d" stroke="#DEDAD0"/><text x="%d" y="%.1f" text-anchor="end" fill="#1C2230">%s</text>`+"\n", plotLeft, y, plotLeft+plotWidth, plotLeft-8, y+4, span(p))
	}
	for p := leastSize; p <= mostSize; p++ {
		x := across(int(math.Pow10(p)))
		fmt.Fprintf(&b, `<path d="M%.1f %dV%d" stroke="#DEDAD0"/><text x="%.1f" y="%d" text-anchor="middle" fill="#1C2230">%s</text>`+"\n", x, plotTop, plotTop+plotHeight, x, plotTop+plotHeight+20, grouped(p))
	}
	fmt.Fprintf(&b, `<text x="%d" y="%d" text-anchor="middle" fill="#1C2230">service calls stored</text>`+"\n",
		plotLeft+plotWidth/2, plotTop+plotHeight+42)
	last := grown[len(grown)-1]
	names := namePlaces(last)
	for i, w := range last.works {
		var points []string
		for _, g := range grown {
			points = append(points, fmt.Sprintf("%.1f,%.1f", across(g.size), up(g.works[i].took)))
		}
		dash := ""
		if w.ofAll {
			dash = ` stroke-dasharray="6 4"`
		}
		ink := inks[i%len(inks)]
		fmt.Fprintf(&b, `<polyline points="%s" fill="none" stroke="%s" stroke-width="2"%s/>`+"\n",
			strings.Join(points, " "), ink, dash)
		end := plotLeft + plotWidth
		fmt.Fprintf(&b, `<path d="M%d %.1fL%d %.1f" stroke="%s" stroke-width="0.7"/><text x="%d" y="%.1f" fill="%s">%s</text>`+"\n", end, up(w.took), end+16, names[i], ink, end+20, names[i]+4, ink, w.name)
	}
	b.WriteString("</svg>\n")
	return b.String()
}

// namePlaces are heights for the names of the lines, beside their ends but apart from each
// other.
func namePlaces(g growth) []float64 {
	order := make([]int, len(g.works))
	for i := range order {
		order[i] = i
	}
	slices.SortFunc(order, func(a, b int) int { return int(up(g.works[a].took)*10) - int(up(g.works[b].took)*10) })
	out := make([]float64, len(order))
	free := 0.0
	for _, i := range order {
		out[i] = math.Max(up(g.works[i].took), free)
		free = out[i] + nameHeight
	}
	return out
}

func span(power int) string {
	if power >= 3 {
		return fmt.Sprintf("%g s", math.Pow10(power-3))
	}
	return fmt.Sprintf("%g ms", math.Pow10(power))
}

func grouped(power int) string {
	digits := fmt.Sprintf("%.0f", math.Pow10(power))
	for i := len(digits) - 3; i > 0; i -= 3 {
		digits = digits[:i] + "," + digits[i:]
	}
	return digits
}
