package walk

// ahead is how many screens there are at most from a place on; open says that it depends on what comes, for a
// repeat with screens has not begun.
type ahead struct {
	screens int
	open    bool
}

// and is what is ahead and so many times more.
func (a ahead) and(more ahead, times int) ahead {
	return ahead{a.screens + times*more.screens, a.open || times > 0 && more.open}
}

// or is what is ahead at most, where it goes on either way.
func (a ahead) or(b ahead) ahead { return ahead{max(a.screens, b.screens), a.open || b.open} }

// less is what is ahead of one place and not of a later one.
func (a ahead) less(later ahead) ahead {
	return ahead{a.screens - later.screens, a.open && !later.open}
}

// countScreens counts, for each instruction, how many screens there are from it on at most. Repeats are counted as
// one turn.
func (p *Program) countScreens() {
	p.ahead = make([]ahead, len(p.Code)+1)
	for at := len(p.Code) - 1; at >= 0; at-- { // it goes on further down alone
		i := &p.Code[at]
		var most ahead
		switch {
		case i.Kind == FinishStep:
		case len(i.Ways) > 0:
			for _, w := range i.Ways {
				most = most.or(p.ahead[w.Next])
			}
		default:
			most = p.ahead[i.Next]
		}
		if i.Fails > 0 {
			most = most.or(p.ahead[i.Fails])
		}
		if i.Kind == ScreenStep {
			most.screens++
		}
		if inner := p.shown[at].inner; inner != nil {
			most = most.and(inner.ahead[0], 1)
		}
		most.open = most.open || i.Loop != nil && i.Loop.Waits
		p.ahead[at] = most
	}
}
