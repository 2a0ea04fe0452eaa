package predicate

// For tests from outside, which hold predicates against the oracle.
var (
	Scope = scope
	Typed = typed
	Named = named
)
