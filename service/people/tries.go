package people

import (
	"context"
	"database/sql"
	"errors"
	"time"

	"github.com/jmoiron/sqlx"
)

// maxTryRows bounds how many logins and addresses are remembered for their wrong tries.
const maxTryRows = 20_000

// Try counts a try to sign in before it is looked at, so that many at once are counted as many. Once there were more
// than most without a right one, the key is locked for a time, and until then is when it ends. What lies back longer
// than that is forgotten. A zero until means that the try may be made.
func (s *Store) Try(ctx context.Context, key string, most int, lock time.Duration) (until time.Time, err error) {
	return until, s.InTx(ctx, func(tx *sqlx.Tx) error {
		now := s.Now()
		var row struct {
			Count int        `db:"count"`
			Until *time.Time `db:"until"`
			Last  time.Time  `db:"last_at"`
		}
		err := tx.GetContext(ctx, &row, `SELECT count, until, last_at FROM wrong_try WHERE key = ?`, key)
		if err != nil && !errors.Is(err, sql.ErrNoRows) {
			return err
		}
		if row.Until != nil && now.Before(*row.Until) {
			until = *row.Until
			return nil
		}
		if now.Sub(row.Last) > lock {
			row.Count = 0
		}
		row.Count++
		row.Until = nil
		if row.Count > most {
			until = now.Add(lock)
			row.Count, row.Until = 0, &until
		}
		if _, err := tx.ExecContext(ctx,
			`INSERT INTO wrong_try (key, count, until, last_at) VALUES (?, ?, ?, ?) ON CONFLICT DO UPDATE SET count = excluded.count, until = excluded.until, last_at = excluded.last_at`,
			key, row.Count, row.Until, now); err != nil {
			return err
		}
		_, err = tx.ExecContext(ctx,
			`DELETE FROM wrong_try WHERE last_at < ? OR key IN (SELECT key FROM wrong_try ORDER BY last_at DESC LIMIT -1 OFFSET ?)`,
			now.Add(-24*time.Hour), maxTryRows)
		return err
	})
}

// Right takes back a try that was right: all of them, or the last alone.
func (s *Store) Right(ctx context.Context, key string, all bool) error {
	_, err := s.Writes.ExecContext(ctx,
		`UPDATE wrong_try SET count = CASE ? WHEN 1 THEN 0 ELSE max(0, count - 1) END WHERE key = ?`, all, key)
	return err
}
