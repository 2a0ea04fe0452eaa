package store

import (
	"context"
	"fmt"
	"time"
)

// Keep is for how long the program keeps what nobody needs for ever. Nought is as usual.
type Keep struct {
	// Attempts are tries to sign in, Intakes the files of imports that are over.
	Attempts, Intakes time.Duration
}

func (k Keep) withDefaults() Keep {
	if k.Attempts == 0 {
		k.Attempts = 90 * 24 * time.Hour
	}
	if k.Intakes == 0 {
		k.Intakes = 30 * 24 * time.Hour
	}
	return k
}

// outgoingKept is how long a file that was asked for can be fetched.
const outgoingKept = 24 * time.Hour

// mostDropped bounds what is removed at once, so that nothing waits for it; of what is large, few.
const (
	mostDropped = 5000
	mostLarge   = 20
)

// DropExpired removes what is over: some of each at a time.
func (db *DB) DropExpired(ctx context.Context) error {
	keep, now := db.Keep.withDefaults(), db.Now()
	for _, old := range []struct {
		sql    string
		before time.Time
		most   int
	}{
		{`DELETE FROM plainpath.session WHERE token_hash IN (SELECT token_hash FROM plainpath.session WHERE expires_at < $1 LIMIT $2)`, now, mostDropped},
		{`DELETE FROM plainpath.device WHERE token_hash IN (SELECT token_hash FROM plainpath.device WHERE expires_at < $1 LIMIT $2)`, now, mostDropped},
		{`DELETE FROM plainpath.password_link WHERE token_hash IN (SELECT token_hash FROM plainpath.password_link WHERE expires_at < $1 LIMIT $2)`, now, mostDropped},
		{`DELETE FROM plainpath.request WHERE (person, key) IN (SELECT person, key FROM plainpath.request WHERE at < $1 ORDER BY at LIMIT $2)`, now.Add(-requestsKept), mostDropped},
		{`DELETE FROM plainpath.outgoing WHERE id IN (SELECT id FROM plainpath.outgoing WHERE created_at < $1 ORDER BY created_at LIMIT $2)`, now.Add(-outgoingKept), mostDropped},
		{`DELETE FROM plainpath.sign_in WHERE id IN (SELECT id FROM plainpath.sign_in WHERE at < $1 ORDER BY id LIMIT $2)`, now.Add(-keep.Attempts), mostDropped},
		{`DELETE FROM plainpath.intake WHERE id IN (SELECT id FROM plainpath.intake WHERE state IN ('imported', 'failed') AND changed_at < $1 ORDER BY id LIMIT $2)`, now.Add(-keep.Intakes), mostLarge},
		{`DELETE FROM plainpath.file WHERE id IN (SELECT id FROM plainpath.file WHERE NOT kept AND added_at < $1 ORDER BY added_at LIMIT $2)`, now.Add(-leftFor), mostLarge},
	} {
		if _, err := db.ExecContext(ctx, old.sql, old.before, old.most); err != nil {
			return fmt.Errorf("removing what has expired: %w", err)
		}
	}
	return nil
}
