package predicate

import "slices"

// Never says whether a predicate is known to hold for no record before any is looked at:
// something it waits for is empty. False only means that it is not known; nil holds always.
func Never(p Predicate) bool {
	switch p := p.(type) {
	case All:
		return slices.ContainsFunc(p, Never)
	case Any:
		return !slices.ContainsFunc(p, func(m Predicate) bool { return !Never(m) })
	case Keys:
		return len(p) == 0
	case HasRelated:
		return !p.None && p.Where != nil && Never(p.Where)
	case Refers:
		return Never(p.Where) || Never(p.Filter)
	}
	return false
}

// Always says whether a predicate asks nothing, so that it holds for every record.
func Always(p Predicate) bool {
	all, ok := p.(All)
	return ok && len(all) == 0
}
