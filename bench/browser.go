package main

import (
	"context"
	"fmt"
	"slices"
	"time"

	"plainpath/postgres"

	"github.com/chromedp/chromedp"

	"plainpath/demo"
)

// How often the browser's side is measured, and how far it scrolls.
const (
	openings    = 7
	keyPresses  = 40
	scrolledTo  = 100_000
	frames      = 600
	longestWait = 10 * time.Minute
)

// browser measures what a person with a million calls waits for: the first page, the rows
// after a key press in the keyword search, and frames while scrolling.
func browser(ctx context.Context, db *postgres.DB) ([]result, error) {
	address, stop, err := serve(db)
	if err != nil {
		return nil, err
	}
	defer stop()
	options := append(chromedp.DefaultExecAllocatorOptions[:], chromedp.Flag("no-sandbox", true),
		chromedp.Flag("disable-gpu", true), chromedp.WindowSize(1280, 800))
	allocator, cancel := chromedp.NewExecAllocator(ctx, options...)
	defer cancel()
	tab, cancel := chromedp.NewContext(allocator)
	defer cancel()
	if _, err := chromedp.Run(tab, chromedp.EmulateViewport(1280, 800)); err != nil {
		return nil, fmt.Errorf("starting the browser: %w", err)
	}
	p := &page{tab, address}
	if err := p.signIn(); err != nil {
		return nil, err
	}
	var out []result
	for _, one := range []func() (result, error){p.opening, p.searching, p.scrolling} {
		r, err := one()
		if err != nil {
			return out, err
		}
		out = append(out, r)
	}
	return out, nil
}

type page struct {
	tab     context.Context
	address string
}

func eval[T any](p *page, js string) (T, error) {
	ctx, cancel := context.WithTimeout(p.tab, longestWait)
	defer cancel()
	out, err := chromedp.Run(ctx, chromedp.Evaluate[T](js, chromedp.EvalAwaitPromise))
	if err != nil {
		return out, fmt.Errorf("in the browser: %w", err)
	}
	return out, nil
}

func (p *page) open(path string) error {
	if _, err := chromedp.Run(p.tab, chromedp.Navigate(p.address+path)); err != nil {
		return fmt.Errorf("opening %s: %w", path, err)
	}
	return nil
}

func (p *page) signIn() error {
	if err := p.open("/sign-in"); err != nil {
		return err
	}
	status, err := eval[int](p,
		fmt.Sprintf(`fetch('/api/session', { method: 'POST', headers: { 'Content-Type': 'application/json' }, body: JSON.stringify({ email: 'dana@quillmere.example', password: %q }) }).then(r => r.status)`, demo.Password))
	if err == nil && status != 200 {
		err = fmt.Errorf("signing in: %d", status)
	}
	return err
}

// shown resolves when rows are in the document, with the time since the page was asked for.
const shown = `new Promise(done => { const look = () => document.querySelector('tbody tr[aria-rowindex]') ? done(performance.now()) : requestAnimationFrame(look); look() })`

// opening is from asking for a page of a million calls to its rows.
func (p *page) opening() (result, error) {
	var took []time.Duration
	var bytes float64
	for range openings {
		if err := p.open("/use/page/calls"); err != nil {
			return result{}, err
		}
		ms, err := eval[float64](p, shown)
		if err != nil {
			return result{}, err
		}
		took = append(took, milliseconds(ms))
		if bytes, err = eval[float64](p,
			`performance.getEntriesByType('resource').filter(e => e.name.endsWith('.js')).reduce((sum, e) => sum + e.encodedBodySize, 0)`); err != nil {
			return result{}, err
		}
	}
	return result{work: "The first page in the browser, until its rows are there", ours: median(took), against: "–",
		atMost: "< 1 s, ≤ 300 kB of script", note: fmt.Sprintf("%.0f kB of script compressed", bytes/1000)}, nil
}

// searching is from a key press in the keyword search to the rows that have the word.
func (p *page) searching() (result, error) {
	input := `document.querySelector('input[aria-label^="Search in"]')`
	var took []time.Duration
	for i := range keyPresses {
		word := fmt.Sprintf("%05x", (i*7919+1234)%(1<<20))
		if _, err := eval[bool](p, input+`.focus(), `+input+`.select(), true`); err != nil {
			return result{}, err
		}
		if _, err := chromedp.Run(p.tab, chromedp.KeyEvent(word[:4])); err != nil {
			return result{}, fmt.Errorf("typing: %w", err)
		}
		time.Sleep(1500 * time.Millisecond)
		// What is waited for is an answer to the whole word, and the table drawn with it.
		if _, err := eval[bool](p, `(() => {
			const fetched = window.fetch
			window.waited = new Promise(done => {
				addEventListener('keydown', () => {
					const began = performance.now()
					window.fetch = async (...asked) => {
						const answer = await fetched(...asked)
						if (String(asked[0]?.url ?? asked[0]).includes('/tables/rows')) {
							window.fetch = fetched
							setTimeout(() => requestAnimationFrame(() => requestAnimationFrame(() => done(performance.now() - began))), 0)
						}
						return answer
					}
				}, { once: true, capture: true })
			})
			return true
		})()`); err != nil {
			return result{}, err
		}
		if _, err := chromedp.Run(p.tab, chromedp.KeyEvent(word[4:])); err != nil {
			return result{}, fmt.Errorf("typing: %w", err)
		}
		ms, err := eval[float64](p, `window.waited`)
		if err != nil {
			return result{}, err
		}
		took = append(took, milliseconds(ms))
	}
	slices.Sort(took)
	return result{work: "From a key press in the keyword search to the rows on the screen: 95th percentile",
		ours: took[len(took)*95/100], against: "–", atMost: "–",
		note: fmt.Sprintf("%d records; median %s, of which the pause before asking is 200 ms", calls,
			show(took[len(took)/2]))}, nil
}

// scrolling is frames while somebody scrolls through a hundred thousand rows.
func (p *page) scrolling() (result, error) {
	if err := p.open("/use/page/calls"); err != nil {
		return result{}, err
	}
	if _, err := eval[float64](p, shown); err != nil {
		return result{}, err
	}
	if _, err := eval[bool](p, `new Promise(done => {
		const look = () => {
			const all = [...document.querySelectorAll('.scroll button')].find(b => b.innerText.startsWith('Show all'))
			if (!all) return requestAnimationFrame(look)
			all.click()
			done(true)
		}
		look()
	})`); err != nil {
		return result{}, err
	}
	// The rows on the way are read as they come into sight, page by page.
	if _, err := eval[bool](p, fmt.Sprintf(`new Promise(done => {
		const table = document.querySelector('.scroll')
		const step = () => {
			if (table.scrollHeight >= %d * 32) return done(true)
			table.scrollTop = table.scrollHeight
			requestAnimationFrame(step)
		}
		step()
	})`, scrolledTo)); err != nil {
		return result{}, err
	}
	briskly, err := p.frames(3)
	if err != nil {
		return result{}, err
	}
	fast, err := p.frames(10)
	if err != nil {
		return result{}, err
	}
	return result{work: "A frame while scrolling at the end of 100,000 rows, three rows a frame: median",
		ours: milliseconds(briskly[len(briskly)/2]), against: "–", atMost: "smooth",
		note: fmt.Sprintf("95th percentile %.1f ms; at ten rows a frame, a screen of rows in each, median %.1f, 95th percentile %.1f ms; %d frames, drawn without a graphics card", briskly[len(briskly)*95/100], fast[len(fast)/2], fast[len(fast)*95/100], len(briskly))}, nil
}

// frames are the milliseconds between frames, the shortest first, while each goes on by
// some rows.
func (p *page) frames(rows int) ([]float64, error) {
	took, err := eval[[]float64](p, fmt.Sprintf(`new Promise(done => {
		const table = document.querySelector('.scroll')
		table.scrollTop -= %[1]d * %[2]d
		const frames = []
		let last = 0
		const step = now => {
			if (last) frames.push(now - last)
			last = now
			if (frames.length >= %[2]d) return done(frames)
			table.scrollTop += %[1]d
			requestAnimationFrame(step)
		}
		requestAnimationFrame(() => requestAnimationFrame(step))
	})`, 32*rows, frames))
	slices.Sort(took)
	return took, err
}

func milliseconds(ms float64) time.Duration { return time.Duration(ms * float64(time.Millisecond)) }
