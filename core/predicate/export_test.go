package predicate

// For tests from outside, which hold predicates against the judge.
var (
	Scope = scope
	Typed = typed
	Named = named
)
