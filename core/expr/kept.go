package expr

import (
	"fmt"
	"strings"

	lru "github.com/hashicorp/golang-lru/v2"

	"plainpath/core/model"
)

// mostKept is how many checked expressions are kept of a model, each of some 20 kB.
const mostKept = 1000

type keptKey struct{}

// keptProgram holds the names that an expression was checked with as well: as long as it is kept, no
// other field can come to be where one of theirs was.
type keptProgram struct {
	*Program
	names []Name
}

// kept are the expressions that were checked in a model: one that stands in a document is the same after
// another part of the document changed. Nil where there is no model.
func kept(m *model.Model) *lru.Cache[string, keptProgram] {
	if m == nil {
		return nil
	}
	return m.Derived(keptKey{}, func() any {
		programs, err := lru.New[string, keptProgram](mostKept)
		if err != nil {
			panic(err) // the size is a constant
		}
		return programs
	}).(*lru.Cache[string, keptProgram])
}

// said is an expression with everything that what it means depends on in a scope of a model: the names
// that are in it. Their fields are told apart by where they are, for whoever asks gets that very field.
func (s Scope) said(source string) string {
	var b strings.Builder
	for _, n := range s.Names {
		if strings.Contains(source, n.Key) {
			n.write(&b)
		}
	}
	s.saidThere(&b, source)
	b.WriteString(source)
	return b.String()
}

func (n Name) write(b *strings.Builder) {
	fmt.Fprintf(b, "%s %s %s %t %p", n.Key, n.Type.Kind, n.Type.Object, n.Type.Empty, n.Type.field)
	for _, a := range n.Type.Answers {
		b.WriteByte('.')
		a.write(b)
	}
	b.WriteByte('\n')
}
