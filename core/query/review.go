package query

import (
	"plainpath/core/model"
	"plainpath/core/predicate"
)

// Review asks which records break what must hold of them. It looks at stored records
// whoever asks, so what it answers is for whoever wrote them.
type Review struct {
	Object string
	// Keys are the records to look at; nil means all.
	Keys []int64
	// Holds are predicates about the record.
	Holds []predicate.Predicate
	// Candidates are rules of references, bound with predicate.Edited.
	Candidates []Candidates
	Limit      int
}

// Candidates are the records a reference field may point at.
type Candidates struct {
	Field *model.Field
	Where predicate.Predicate
}

// Proof asks which of several predicates hold of one record.
type Proof struct {
	Object string
	Key    int64
	Tests  []predicate.Predicate
	Edited *Edited
}
