package predicate

import "plainpath/core/model"

// Paths are the paths that a predicate asks about; all says that it looks at nothing else, such
// as at related records or through an expression.
func Paths(p Predicate) (paths []model.Path, all bool) {
	all = true
	each := func(members []Predicate) {
		for _, m := range members {
			more, only := Paths(m)
			paths, all = append(paths, more...), all && only
		}
	}
	switch p := p.(type) {
	case nil, Keys:
	case All:
		each(p)
	case Any:
		each(p)
	case Not:
		return Paths(p.Of)
	case Test:
		paths = append(paths, p.Path)
	case Same:
		paths = append(paths, p.Path)
	case InCurrency:
		paths = append(paths, p.Path)
	default:
		all = false
	}
	return paths, all
}
