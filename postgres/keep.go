package postgres

import (
	"time"
)

// Keep is for how long the program keeps what nobody needs for ever. Nought is as usual.
type Keep struct {
	// Attempts are tries to sign in, Intakes the files of imports that are over.
	Attempts, Intakes time.Duration
}

// WithDefaults is what is kept where nothing else was said.
func (k Keep) WithDefaults() Keep {
	if k.Attempts == 0 {
		k.Attempts = 90 * 24 * time.Hour
	}
	if k.Intakes == 0 {
		k.Intakes = 30 * 24 * time.Hour
	}
	return k
}
