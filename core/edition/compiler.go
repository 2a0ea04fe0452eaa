package edition

import (
	"encoding/binary"
	"hash/maphash"

	lru "github.com/hashicorp/golang-lru/v2"

	"plainpath/core/access"
	"plainpath/core/definition"
	"plainpath/core/model"
	"plainpath/core/page"
	"plainpath/core/rules"
	"plainpath/core/walk"
)

// Compiler compiles apps and keeps what it made of their documents: where one changed, only that and
// what is made of it is compiled anew. What is kept is never changed. A nil Compiler keeps nothing. It
// is safe for use by several goroutines.
type Compiler struct {
	// MostText bounds the texts that expressions make, in bytes; nought means value.MostText. It is
	// not changed once something was compiled.
	MostText int
	models   *lru.Cache[digest, *made]
	digests  digests
}

// How many models are kept, each of some megabytes with what is compiled in it, and of how many
// documents in each.
const (
	mostModels    = 3
	mostDocuments = 400
)

// NewCompiler is a compiler that has compiled nothing yet.
func NewCompiler() *Compiler {
	models, err := lru.New[digest, *made](mostModels)
	if err != nil {
		panic(err) // the size is a constant
	}
	return &Compiler{models: models, digests: digests{maphash.MakeSeed(), maphash.MakeSeed()}}
}

// digest tells what was compiled apart, by 128 bits that nobody outside can aim at: the seeds are drawn at random.
type digest [2]uint64

type digests [2]maphash.Seed

// made is what came of the objects of an app, and of documents compiled in their model.
type made struct {
	model  *model.Model
	worked map[fieldOf]WorkedOut
	rules  *rules.Book
	check  *definition.Check
	// pieces are what came of other documents in that model, by their digests.
	pieces  *lru.Cache[digest, any]
	digests digests
}

// compiledRoles, compiledWalk and compiledPage are what came of other documents.
type (
	compiledRoles struct {
		roles  []access.Role
		policy *access.Policy
		check  *definition.Check
	}
	compiledWalk struct {
		program *walk.Program
		check   *definition.Check
	}
	compiledPage struct {
		program *page.Program
		check   *definition.Check
	}
)

// of tells documents and words apart by what they say.
func (d digests) of(what string, docs []definition.Document, words ...string) digest {
	var out digest
	for i, seed := range d {
		var h maphash.Hash
		h.SetSeed(seed)
		put := func(n int) { _, _ = h.Write(binary.BigEndian.AppendUint64(nil, uint64(n))) }
		said := func(s string) {
			put(len(s))
			_, _ = h.WriteString(s)
		}
		said(what)
		put(len(words))
		for _, w := range words {
			said(w)
		}
		for _, doc := range docs {
			said(doc.Name())
			put(len(doc.Body))
			_, _ = h.Write(doc.Body)
		}
		out[i] = h.Sum64()
	}
	return out
}

// of is what was made of an app's settings and objects, or is made now.
func (c *Compiler) of(docs []definition.Document, make func() (*made, error)) (*made, error) {
	if c == nil {
		return make()
	}
	key := c.digests.of("objects", docs)
	if have, ok := c.models.Get(key); ok {
		return have, nil
	}
	m, err := make()
	if err != nil {
		return nil, err
	}
	if m.pieces, err = lru.New[digest, any](mostDocuments); err != nil {
		return nil, err
	}
	m.digests = c.digests
	c.models.Add(key, m)
	return m, nil
}

// piece is what was made of documents in a model, or is made now.
func piece[T any](m *made, key func() digest, make func() (T, error)) (T, error) {
	if m.pieces == nil {
		return make()
	}
	at := key()
	if have, ok := m.pieces.Get(at); ok {
		if out, is := have.(T); is {
			return out, nil
		}
	}
	out, err := make()
	if err == nil {
		m.pieces.Add(at, out)
	}
	return out, err
}

// keyed is what a kind of document is read as.
type keyed[T any] interface {
	*T
	definition.Keyed
}

// bodies reads documents as what they are.
func bodies[T any, P keyed[T]](docs []definition.Document) ([]*T, error) {
	out := make([]*T, len(docs))
	for i, d := range docs {
		out[i] = new(T)
		err := definition.Decode(d.Body, out[i])
		if err == nil {
			err = d.CheckKey(P(out[i]))
		}
		if err != nil {
			return nil, &definition.UnreadableError{Document: d.Name(), Cause: err}
		}
	}
	return out, nil
}
