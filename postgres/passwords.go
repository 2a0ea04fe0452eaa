package postgres

import (
	"context"
	"errors"
	"fmt"
	"time"
	"unicode/utf8"

	"github.com/alexedwards/argon2id"
	"golang.org/x/sync/semaphore"

	"plainpath/core/records"
)

// ErrBusy says that more passwords wait to be looked at than can be soon.
var ErrBusy = errors.New("many people sign in just now; try again in a moment")

// passwordCost follows the second recommended option of RFC 9106 with less memory.
var passwordCost = &argon2id.Params{Memory: 19 * 1024, Iterations: 2, Parallelism: 1, SaltLength: 16, KeyLength: 32}

// How passwords are bounded: shortestPassword after NIST SP 800-63B-4, in characters.
const (
	shortestPassword = 15
	LongestPassword  = 200
)

// hashing makes and compares what is kept of passwords, two at a time, for each takes much memory
// and time on purpose.
type hashing struct {
	turns *semaphore.Weighted
}

const (
	hashedAtOnce    = 2
	hashingPatience = 3 * time.Second
)

func newHashing() *hashing { return &hashing{semaphore.NewWeighted(hashedAtOnce)} }

func (h *hashing) turn(ctx context.Context, work func() error) error {
	soon, done := context.WithTimeout(ctx, hashingPatience)
	defer done()
	if err := h.turns.Acquire(soon, 1); err != nil {
		return ErrBusy
	}
	defer h.turns.Release(1)
	return work()
}

// Hash makes what is kept of a password.
func (h *hashing) Hash(ctx context.Context, password string) (out string, err error) {
	err = h.turn(ctx, func() error {
		if out, err = argon2id.CreateHash(password, passwordCost); err != nil {
			return fmt.Errorf("hashing a password: %w", err)
		}
		return nil
	})
	return out, err
}

// Same says whether a password is that of which this is kept.
func (h *hashing) Same(ctx context.Context, password, kept string) (out bool, err error) {
	err = h.turn(ctx, func() error {
		if out, err = argon2id.ComparePasswordAndHash(password, kept); err != nil {
			return fmt.Errorf("comparing passwords: %w", err)
		}
		return nil
	})
	return out, err
}

// CheckPassword says why a password is too weak.
func CheckPassword(password string) error {
	if n := utf8.RuneCountInString(password); n < shortestPassword || n > LongestPassword {
		return records.Wrong("password", "a password has %d to %d characters; a few words will do", shortestPassword,
			LongestPassword)
	}
	return nil
}
