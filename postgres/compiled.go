package postgres

import (
	"context"
	"crypto/sha256"
	"encoding/binary"
	"encoding/json"
	"fmt"
	"time"

	lru "github.com/hashicorp/golang-lru/v2"
	"golang.org/x/sync/singleflight"

	"plainpath/core/definition"
	"plainpath/core/edition"
)

// Over is a release on the tables of another.
type Over struct {
	Edition *edition.Edition
	// stuck are the walkthroughs that cannot go on there, and why.
	Stuck map[string]string
}

// OverKey names what a release is compiled with over another.
type OverKey struct {
	ReleaseKey
	Now int
}

// DraftKey names a draft as it was at a version.
type DraftKey struct{ App, Version string }

// ReleaseKey names a release as it is compiled while another is in force.
type ReleaseKey struct {
	App    string
	Number int
}

// memo keeps the latest of what takes long to make, and makes each once, however many ask for it at
// the same time. What it holds can always be made again.
type memo[K comparable, V any] struct {
	kept   *lru.Cache[K, V]
	flight singleflight.Group
}

func newMemo[K comparable, V any](most int) *memo[K, V] {
	kept, err := lru.New[K, V](most)
	if err != nil {
		panic(err) // the size is a constant
	}
	return &memo[K, V]{kept: kept}
}

// Has says whether something is kept under a key.
func (m *memo[K, V]) Has(key K) bool { return m.kept.Contains(key) }

// longestMaking is how long the making of one edition may take.
const longestMaking = time.Minute

// Get gives what is kept under a key, or makes it. It goes on being made for others where who asked
// first does not wait for it any longer.
func (m *memo[K, V]) Get(ctx context.Context, key K, make func(context.Context) (V, error)) (V, error) {
	if have, ok := m.kept.Get(key); ok {
		return have, nil
	}
	making := m.flight.DoChan(fmt.Sprint(key), func() (any, error) {
		ctx, done := context.WithTimeout(context.WithoutCancel(ctx), longestMaking)
		defer done()
		out, err := make(ctx)
		if err == nil {
			m.kept.Add(key, out)
		}
		return out, err
	})
	var none V
	select {
	case <-ctx.Done():
		return none, ctx.Err()
	case made := <-making:
		if made.Err != nil {
			return none, made.Err
		}
		return made.Val.(V), nil
	}
}

// How many editions are kept, each of some megabytes: the draft, the release in force, the latest
// of those that runs are still on.
const mostEditions = 8

// compiled are the editions that one process has made, which all of it shares.
type compiled struct {
	byContent *memo[[sha256.Size]byte, *edition.Edition]
	Drafts    *memo[DraftKey, *edition.Edition]
	Released  *memo[ReleaseKey, *edition.Edition]
	Over      *memo[OverKey, Over]
	Apps      *memo[ReleaseKey, edition.App]
	// compiler keeps what was made of each document.
	compiler *edition.Compiler
}

func newCompiled() *compiled {
	return &compiled{newMemo[[sha256.Size]byte, *edition.Edition](mostEditions), newMemo[DraftKey, *edition.Edition](1),
		newMemo[ReleaseKey, *edition.Edition](mostEditions), newMemo[OverKey, Over](mostEditions),
		newMemo[ReleaseKey, edition.App](mostEditions), edition.NewCompiler()}
}

// Compile compiles documents unless they were compiled before, under whatever name.
func (c *compiled) Compile(ctx context.Context, docs []definition.Document) (*edition.Edition, error) {
	key, err := contentOf(docs)
	if err != nil {
		return nil, err
	}
	return c.byContent.Get(ctx, key, func(context.Context) (*edition.Edition,
		error) {
		return c.compiler.Compile(docs)
	})
}

// contentOf tells documents apart by what they say, however it is spaced.
func contentOf(docs []definition.Document) (out [sha256.Size]byte, err error) {
	sum := sha256.New()
	for _, d := range docs {
		raw, err := json.Marshal(struct {
			definition.Kind
			Key  string
			Body json.RawMessage
		}{d.Kind, d.Key, d.Body})
		if err != nil {
			return out, fmt.Errorf("reading %s: %w", d.Name(), err)
		}
		sum.Write(binary.BigEndian.AppendUint64(nil, uint64(len(raw))))
		sum.Write(raw)
	}
	return [sha256.Size]byte(sum.Sum(nil)), nil
}
