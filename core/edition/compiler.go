package edition

import (
	"crypto/sha256"
	"encoding/binary"

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
	return &Compiler{models: models}
}

type digest [sha256.Size]byte

// made is what came of the objects of an app, and of documents compiled in their model.
type made struct {
	model  *model.Model
	worked map[fieldOf]WorkedOut
	rules  *rules.Book
	check  *definition.Check
	pieces *lru.Cache[digest, any]
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

// sum tells documents and words apart by what they say.
func sum(what string, docs []definition.Document, words ...string) digest {
	h := sha256.New()
	put := func(b []byte) {
		h.Write(binary.BigEndian.AppendUint64(nil, uint64(len(b))))
		h.Write(b)
	}
	put([]byte(what))
	for _, w := range words {
		put([]byte(w))
	}
	for _, d := range docs {
		put([]byte(d.Name()))
		put(d.Body)
	}
	return digest(h.Sum(nil))
}

// of is what was made of an app's settings and objects, or is made now.
func (c *Compiler) of(docs []definition.Document, make func() (*made, error)) (*made, error) {
	if c == nil {
		return make()
	}
	key := sum("objects", docs)
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

// bodies reads documents as what they are.
func bodies[T any](docs []definition.Document) ([]*T, error) {
	out := make([]*T, len(docs))
	for i, d := range docs {
		out[i] = new(T)
		err := definition.Decode(d.Body, out[i])
		if err == nil {
			err = d.CheckKey()
		}
		if err != nil {
			return nil, &definition.UnreadableError{Document: d.Name(), Cause: err}
		}
	}
	return out, nil
}
