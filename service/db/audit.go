package db

import (
	"context"
	"time"

	"github.com/jmoiron/sqlx"
)

// Note notes, in the transaction that makes it, a change of a mark or a right. class is 0 where it is of no class.
func (s *DB) Note(ctx context.Context, tx *sqlx.Tx, by string, class int64, action, subject, detail string) error {
	_, err := tx.ExecContext(ctx,
		`INSERT INTO audit (at, by_name, class_id, action, subject, detail) VALUES (?, ?, nullif(?, 0), ?, ?, ?)`,
		s.now(), by, class, action, subject, detail)
	return err
}

// Entry is a change of a mark or a right.
type Entry struct {
	ID      int64     `db:"id"`
	At      time.Time `db:"at"`
	By      string    `db:"by"`
	Class   string    `db:"class"`
	Action  string    `db:"action"`
	Subject string    `db:"subject"`
	Detail  string    `db:"detail"`
}

// Audit lists the newest changes first, of one class or (0) of all, and how many there are; before is the id of the
// last one seen, 0 for none.
func (s *DB) Audit(ctx context.Context, class, before int64, limit int) (entries []Entry, total int, err error) {
	if err = s.Get(ctx, &total, `SELECT count(*) FROM audit WHERE ? IN (0, class_id)`, class); err != nil {
		return nil, 0, err
	}
	entries, err = List[Entry](ctx, s,
		`SELECT u.id, u.at, u.by_name AS by, coalesce(c.name, '') AS class, u.action, u.subject, u.detail
		FROM audit u LEFT JOIN class c ON c.id = u.class_id WHERE ?1 IN (0, u.class_id) AND (?2 = 0 OR u.id < ?2) ORDER BY u.id DESC LIMIT ?3`,
		class, before, limit)
	return entries, total, err
}
