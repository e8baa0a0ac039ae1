package store

import (
	"context"

	"github.com/jmoiron/sqlx"

	"hemble/wire"
)

// audit notes, in the transaction that makes it, a change of a mark or a right. class is 0 where it is of no class.
func (s *Store) audit(ctx context.Context, tx *sqlx.Tx, by string, class int64, action, subject, detail string) error {
	_, err := tx.ExecContext(ctx, `INSERT INTO audit (at, by_name, class_id, action, subject, detail) VALUES (?, ?, nullif(?, 0), ?, ?, ?)`,
		s.now(), by, class, action, subject, detail)
	return err
}

// Audit lists the newest changes first, of one class or (0) of all; before is the id of the last one seen, 0 for none.
func (s *Store) Audit(ctx context.Context, class, before int64, limit int) (wire.Page[wire.AuditEntry], error) {
	var p wire.Page[wire.AuditEntry]
	var err error
	if err = s.get(ctx, &p.Total, `SELECT count(*) FROM audit WHERE ? IN (0, class_id)`, class); err != nil {
		return p, err
	}
	p.Items, err = list[wire.AuditEntry](ctx, s, `SELECT u.id, u.at, u.by_name AS by, coalesce(c.name, '') AS class, u.action, u.subject, u.detail
		FROM audit u LEFT JOIN class c ON c.id = u.class_id WHERE ?1 IN (0, u.class_id) AND (?2 = 0 OR u.id < ?2) ORDER BY u.id DESC LIMIT ?3`, class, before, limit+1)
	if err == nil && len(p.Items) > limit {
		p.Items = p.Items[:limit]
		p.Next = number(p.Items[limit-1].ID)
	}
	return p, err
}
