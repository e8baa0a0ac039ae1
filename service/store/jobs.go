package store

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"time"

	"github.com/jmoiron/sqlx"

	"hemble/core/judge"
	"hemble/core/sheet"
)

// maxClaims is how often a submission is taken up again after the service died over it.
const maxClaims = 3

// ErrStale is for a result whose claim is no longer the one that counts.
var ErrStale = errors.New("this claim is stale: the job was given to another worker")

// Claim is one worker's hold on a job.
type Claim struct {
	Submission string `db:"submission_id"`
	Epoch      int64  `db:"epoch"`
	Number     int64  `db:"claim"`
}

// newEpoch begins a life of the service: what an earlier one had under way is queued again, or
// given up where it has been tried too often.
func (s *Store) newEpoch(ctx context.Context) error {
	return s.inTx(ctx, func(tx *sqlx.Tx) error {
		r, err := tx.ExecContext(ctx, `INSERT INTO epoch (started_at) VALUES (?)`, time.Now().UTC())
		if err != nil {
			return err
		}
		if s.Epoch, err = r.LastInsertId(); err != nil {
			return err
		}
		if _, err := tx.ExecContext(ctx, `UPDATE job SET state = 'failed', finished_at = ?, error = 'the service died each time it tried to mark this' WHERE state = 'running' AND claim >= ?`, time.Now().UTC(), maxClaims); err != nil {
			return err
		}
		_, err = tx.ExecContext(ctx, `UPDATE job SET state = 'queued' WHERE state = 'running'`)
		return err
	})
}

// Claim takes the oldest queued job; ErrNotFound when there is none.
func (s *Store) Claim(ctx context.Context) (Claim, error) {
	var c Claim
	err := s.db.GetContext(ctx, &c, `UPDATE job SET state = 'running', epoch = ?, claim = claim + 1
		WHERE submission_id = (SELECT submission_id FROM job WHERE state = 'queued' ORDER BY queued_at, submission_id LIMIT 1)
		RETURNING submission_id, epoch, claim`, s.Epoch)
	if errors.Is(err, sql.ErrNoRows) {
		err = ErrNotFound
	}
	return c, err
}

// Finish records a result, exactly once: ErrStale if the claim no longer holds.
func (s *Store) Finish(ctx context.Context, c Claim, sh *sheet.Sheet, first string) error {
	text, err := json.Marshal(sh)
	if err != nil {
		return err
	}
	now, n := time.Now().UTC(), sh.Count()
	return s.inTx(ctx, func(tx *sqlx.Tx) error {
		if err := s.end(ctx, tx, c, "marked", "", now); err != nil {
			return err
		}
		_, err := tx.ExecContext(ctx, `INSERT INTO result (submission_id, marks, of_marks, met, partly, missed, first, sheet, marked_at) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?)`,
			c.Submission, sh.Marks.String(), sh.Of.String(), n[judge.Met], n[judge.Partly], n[judge.Missed], first, string(text), now)
		return err
	})
}

// Fail ends a job without a result.
func (s *Store) Fail(ctx context.Context, c Claim, why string) error {
	return s.inTx(ctx, func(tx *sqlx.Tx) error { return s.end(ctx, tx, c, "failed", why, time.Now().UTC()) })
}

// Release gives a job back unfinished.
func (s *Store) Release(ctx context.Context, c Claim) error {
	_, err := s.db.ExecContext(ctx, `UPDATE job SET state = 'queued', claim = claim - 1 WHERE submission_id = ? AND state = 'running' AND epoch = ? AND claim = ?`, c.Submission, c.Epoch, c.Number)
	return err
}

func (s *Store) end(ctx context.Context, tx *sqlx.Tx, c Claim, state, why string, now time.Time) error {
	r, err := tx.ExecContext(ctx, `UPDATE job SET state = ?, error = ?, finished_at = ? WHERE submission_id = ? AND state = 'running' AND epoch = ? AND claim = ?`,
		state, why, now, c.Submission, c.Epoch, c.Number)
	if err != nil {
		return err
	}
	if n, err := r.RowsAffected(); err != nil || n != 1 {
		return errors.Join(err, ErrStale)
	}
	return nil
}

// Waiting counts the jobs that are not done.
func (s *Store) Waiting(ctx context.Context) (n int, err error) {
	err = s.db.GetContext(ctx, &n, `SELECT count(*) FROM job WHERE state IN ('queued', 'running')`)
	return n, err
}
