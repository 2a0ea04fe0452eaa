package postgres

import (
	"crypto/sha256"
)

// HashToken is what is kept of a token.
func HashToken(token string) []byte {
	sum := sha256.Sum256([]byte(token))
	return sum[:]
}
