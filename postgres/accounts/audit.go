package accounts

import (
	"context"
	"fmt"
	"strings"
	"time"
)

// AuditEntry is something that was done to accounts, rights or releases.
type AuditEntry struct {
	At   time.Time `db:"at" json:"at"`
	Who  string    `db:"who" json:"who"`
	What string    `db:"what" json:"what"`
	// Details are sentences that say more.
	Details []string `db:"-" json:"details"`
}

// auditPage is how many entries are given at once.
const auditPage = 100

// Audit lists what was done and who signed in or tried to before a moment, the latest first.
func (a *Accounts) Audit(ctx context.Context, before time.Time) ([]AuditEntry, error) {
	var rows []struct {
		AuditEntry
		Joined string `db:"joined"`
	}
	err := a.DB.SelectContext(ctx, &rows, `SELECT at, who, what, joined FROM (
		(SELECT a.at, coalesce(p.name, 'the command line') AS who, a.what, array_to_string(a.details, E'\n') AS joined FROM plainpath.audit a LEFT JOIN plainpath.person p ON p.id = a.by
			WHERE a.at < $1 ORDER BY a.at DESC LIMIT $2)
		UNION ALL
		(SELECT s.at, coalesce(p.name, s.email), CASE WHEN s.ok THEN 'signed in' WHEN s.refused THEN 'tried to sign in too often' ELSE 'tried to sign in with a wrong password' END,
			CASE WHEN s.address = '' THEN '' ELSE 'from ' || s.address END FROM plainpath.sign_in s LEFT JOIN plainpath.person p ON lower(p.email) = lower(s.email)
			WHERE s.at < $1 ORDER BY s.at DESC LIMIT $2)) entries ORDER BY at DESC LIMIT $2`, before, auditPage)
	if err != nil {
		return nil, fmt.Errorf("listing what was done: %w", err)
	}
	out := make([]AuditEntry, len(rows))
	for i, r := range rows {
		out[i] = r.AuditEntry
		out[i].Details = strings.FieldsFunc(r.Joined, func(c rune) bool { return c == '\n' })
	}
	return out, nil
}
