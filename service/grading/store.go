// Package grading marks submissions: it keeps the job queue and its results, gives jobs to workers, and builds and
// runs what was submitted. It also simulates on request.
package grading

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"log/slog"
	"slices"
	"time"

	"github.com/jmoiron/sqlx"

	"hemble/core/judge"
	"hemble/core/marking"
	"hemble/core/sheet"
	"hemble/service/db"
	"hemble/service/durable"
	"hemble/service/ports"
	"hemble/service/record"
	"hemble/service/submissions"
	"hemble/wire"
)

// Store keeps jobs and what came of them: it is the queue of the workers, and the record of results.
type Store struct {
	*db.DB
	Submissions *submissions.Store
	reels       reels
}

// maxTries is how often a job is taken up before it is quarantined. A service dies for other reasons, too: jobs that it
// died over go behind those that it did not, so that one of them that is to blame holds nobody else up, and one that is
// not soon finds a quiet moment.
const maxTries = 8

// Here is the worker's name of those that live in the process that holds the data folder.
const Here = "here"

var _ ports.Jobs = (*Store)(nil)

// EndLeases ends what the workers of this process held in an earlier life: they are dead, for the folder is locked by
// this one. Those of other workers run out by themselves.
func (s *Store) EndLeases(ctx context.Context) error {
	_, err := s.Writes.ExecContext(ctx, `UPDATE job SET lease_until = ? WHERE state = 'running' AND worker = ?`,
		s.Now(), Here)
	return err
}

// sweep returns the jobs whose leases ran out, and sets those aside that were tried too often.
func (s *Store) sweep(ctx context.Context, tx *sqlx.Tx, now time.Time) error {
	var lost []struct {
		ID    int64 `db:"id"`
		Tries int   `db:"tries"`
		Class int64 `db:"class_id"`
	}
	if err := tx.SelectContext(ctx, &lost,
		`SELECT j.id, j.tries, o.class_id FROM job j JOIN submission s ON s.id = j.submission_id JOIN assignment o ON o.id = s.assignment_id
		WHERE j.state = 'running' AND j.lease_until <= ?`, now); err != nil {
		return err
	}
	for _, j := range lost {
		query, args := `UPDATE job SET state = 'queued' WHERE id = ?`, []any{j.ID}
		if j.Tries >= maxTries {
			query, args = `UPDATE job SET state = 'failed', finished_at = ?, error = 'the service died each time it tried to mark this' WHERE id = ?`, []any{now, j.ID}
		}
		if _, err := tx.ExecContext(ctx, query, args...); err != nil {
			return err
		}
		if err := db.Bump(ctx, tx, db.ClassKey(j.Class)); err != nil {
			return err
		}
	}
	return nil
}

// Claim gives a job to a worker. Those that a student waits for go before those that are marked again, and those that a
// worker died over last. Within that classes take turns, within a class the people who submit, and a person's own come
// in order: however much one of them submits, the next turn of another is not further away.
func (s *Store) Claim(ctx context.Context, worker string) (c ports.Claim, err error) {
	none := false
	err = s.InTx(ctx, func(tx *sqlx.Tx) error {
		now := s.Now()
		if err := s.sweep(ctx, tx, now); err != nil {
			return err
		}
		var next struct {
			ID    int64 `db:"id"`
			Class int64 `db:"class_id"`
			By    int64 `db:"by_id"`
		}
		err := tx.GetContext(ctx, &next,
			`SELECT j.id, o.class_id, s.by_id FROM job j JOIN submission s ON s.id = j.submission_id JOIN assignment o ON o.id = s.assignment_id
			LEFT JOIN turn c ON c.key = 'class ' || o.class_id LEFT JOIN turn p ON p.key = 'person ' || s.by_id
			WHERE j.state = 'queued' ORDER BY j.kind = 'again', j.tries, coalesce(c.served, 0), coalesce(p.served, 0), j.id LIMIT 1`)
		if errors.Is(err, sql.ErrNoRows) {
			none = true // what was swept is kept
			return nil
		}
		if err != nil {
			return err
		}
		if _, err := tx.ExecContext(ctx,
			`INSERT INTO turn (key, served) SELECT column1, coalesce((SELECT served FROM turn WHERE key = 'last'), 0) + 1 FROM (VALUES ('class ' || ?), ('person ' || ?), ('last')) WHERE true
			ON CONFLICT DO UPDATE SET served = excluded.served`, next.Class, next.By); err != nil {
			return err
		}
		return tx.GetContext(ctx, &c,
			`UPDATE job SET state = 'running', worker = ?, lease_until = ?, claim = claim + 1, tries = tries + 1, done = 0, trials = 0, engine = ?
			WHERE id = ? RETURNING id, submission_id, claim`, worker, now.Add(ports.Lease), marking.Engine, next.ID)
	})
	if err == nil && none {
		err = ports.ErrNone
	}
	return c, err
}

// holds is where a claim is the one that counts.
const holds = ` WHERE id = ? AND state = 'running' AND claim = ?`

// Heartbeat renews the lease of a claim.
func (s *Store) Heartbeat(ctx context.Context, c ports.Claim, p ports.Progress) error {
	return stale(db.Change(ctx, s.Writes, `UPDATE job SET lease_until = ?, done = ?, trials = ?`+holds,
		s.Now().Add(ports.Lease), p.Done, p.Of, c.Job, c.Number))
}

// Cancelled reports whether a claim no longer holds.
func (s *Store) Cancelled(ctx context.Context, c ports.Claim) (bool, error) {
	var n int
	err := s.Reads.GetContext(ctx, &n, `SELECT count(*) FROM job`+holds, c.Job, c.Number)
	return n == 0, err
}

// stale is the error for a claim that no row holds.
func stale(err error) error {
	if errors.Is(err, db.ErrNotFound) {
		return ports.ErrStale
	}
	return err
}

// Material is what is needed to mark a job.
type Material struct {
	Text     []byte // the exercise
	Data     []byte // what was submitted
	Wiring   []byte // a wiring file; nil for none
	File     string
	Exercise string
	Class    int64
	Student  string // login
}

// Material gives what is needed to mark a submission by one of its jobs; 0 is the job that counts.
func (s *Store) Material(ctx context.Context, submission string, job int64) (*Material, error) {
	var row struct {
		Text     string `db:"text"`
		Blob     string `db:"blob"`
		Wiring   string `db:"wiring"`
		File     string `db:"file"`
		Exercise string `db:"exercise"`
		Class    int64  `db:"class_id"`
		Student  string `db:"student"`
	}
	err := s.Get(ctx, &row,
		`SELECT r.blob AS text, s.blob, s.wiring, s.file, e.name AS exercise, o.class_id, a.name AS student
		FROM submission s JOIN job j ON j.id = CASE ?2 WHEN 0 THEN s.job_id ELSE ?2 END JOIN revision r ON r.id = j.revision_id
		JOIN assignment o ON o.id = s.assignment_id JOIN exercise e ON e.id = o.exercise_id JOIN account a ON a.id = s.account_id
		WHERE s.id = ?1 AND j.submission_id = s.id`, submission, job)
	if err != nil {
		return nil, err
	}
	m := &Material{File: row.File, Exercise: row.Exercise, Class: row.Class, Student: row.Student}
	if m.Text, err = s.Blobs.Get(ctx, row.Text); err != nil {
		return nil, err
	}
	if m.Data, err = s.Blobs.Get(ctx, row.Blob); err != nil {
		return nil, err
	}
	if row.Wiring != "" {
		if m.Wiring, err = s.Blobs.Get(ctx, row.Wiring); err != nil {
			return nil, err
		}
	}
	return m, nil
}

// Finish records a result.
func (s *Store) Finish(ctx context.Context, c ports.Claim, r ports.Result) error {
	for i, one := range r.Reels {
		if err := s.PutReel(c.Job, i, one); err != nil {
			slog.Warn("keeping a reel", "submission", c.Submission, "error", err)
		}
	}
	text, err := json.Marshal(r.Sheet)
	if err != nil {
		return err
	}
	packed, err := durable.Pack(text)
	if err != nil {
		return err
	}
	sh, now, n := r.Sheet, s.Now(), r.Sheet.Count()
	return later(s.InTx(ctx, func(tx *sqlx.Tx) error {
		if err := s.end(ctx, tx, c, "marked", "", now); err != nil {
			return err
		}
		if _, err := tx.ExecContext(ctx,
			`INSERT INTO result (job_id, marks, of_marks, met, partly, missed, first, alike, sheet, marked_at) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?)`,
			c.Job, sh.Marks.String(), sh.Of.String(), n[judge.Met], n[judge.Partly], n[judge.Missed], sh.First(),
			sh.Alike(), packed, now); err != nil {
			return err
		}
		_, err := tx.ExecContext(ctx, `UPDATE submission SET marks = ? WHERE id = ? AND job_id = ?`, r.Marks,
			c.Submission, c.Job)
		return err
	}))
}

// later marks an error that a full disk caused as one to come back with.
func later(err error) error {
	if db.Full(err) {
		return fmt.Errorf("%w: %w", ports.ErrLater, err)
	}
	return err
}

// Fail sets a job aside.
func (s *Store) Fail(ctx context.Context, c ports.Claim, why string) error {
	return later(s.InTx(ctx, func(tx *sqlx.Tx) error { return s.end(ctx, tx, c, "failed", why, s.Now()) }))
}

// Release gives a job back.
func (s *Store) Release(ctx context.Context, c ports.Claim) error {
	return later(stale(db.Change(ctx, s.Writes, `UPDATE job SET state = 'queued', tries = tries - 1`+holds, c.Job,
		c.Number)))
}

func (s *Store) end(ctx context.Context, tx *sqlx.Tx, c ports.Claim, state, why string, now time.Time) error {
	var class int64
	if err := tx.GetContext(ctx, &class,
		`SELECT o.class_id FROM submission s JOIN assignment o ON o.id = s.assignment_id WHERE s.id = ?`,
		c.Submission); err != nil {
		return err
	}
	if err := db.Bump(ctx, tx, db.ClassKey(class)); err != nil {
		return err
	}
	return stale(db.Change(ctx, tx, `UPDATE job SET state = ?, error = ?, finished_at = ?`+holds, state, why, now,
		c.Job, c.Number))
}

// Cancel takes a submission out of the queue before it is marked; the attempt does not count.
func (s *Store) Cancel(ctx context.Context, by string, sub *record.Submission) error {
	return s.InTx(ctx, func(tx *sqlx.Tx) error {
		err := db.Change(ctx, tx,
			`UPDATE job SET state = 'cancelled', error = ?, finished_at = ? WHERE id = ? AND state IN ('queued', 'running')`,
			"cancelled by "+by, s.Now(), sub.Job)
		if errors.Is(err, db.ErrNotFound) {
			return db.Refused("done", "this submission is not in the queue any more")
		}
		if err != nil {
			return err
		}
		return s.Note(ctx, tx, by, sub.ClassID, "submission cancelled", sub.ID, sub.Login)
	})
}

// Retry queues a job again that was quarantined.
func (s *Store) Retry(ctx context.Context, by string, job int64) error {
	return s.InTx(ctx, func(tx *sqlx.Tx) error {
		if err := db.Change(ctx, tx,
			`UPDATE job SET state = 'queued', tries = 0, error = '', finished_at = NULL WHERE id = ? AND state = 'failed'`, job); err != nil {
			return err
		}
		return s.Note(ctx, tx, by, 0, "job queued again", db.Number(job), "")
	})
}

// Waiting counts the jobs that are not done.
func (s *Store) Waiting(ctx context.Context) (n int, err error) {
	err = s.Reads.GetContext(ctx, &n, `SELECT count(*) FROM job WHERE state IN ('queued', 'running')`)
	return n, err
}

// Line is who waits to be marked, as of one moment.
type Line struct{ waits []waits }

// waits is a job that a student waits for.
type waits struct {
	ID    int64 `db:"id"`
	Class int64 `db:"class_id"`
	By    int64 `db:"by_id"`
}

// Line reads who waits.
func (s *Store) Line(ctx context.Context) (*Line, error) {
	w, err := db.List[waits](ctx, s.DB,
		`SELECT j.id, o.class_id, s.by_id FROM job j JOIN submission s ON s.id = j.submission_id JOIN assignment o ON o.id = s.assignment_id
		WHERE j.state = 'queued' AND j.kind = 'first'`)
	return &Line{w}, err
}

// Ahead tells about how many submissions are marked before one: its person's own earlier ones, and of the others, who
// take turns, not more than as many each.
func (l *Line) Ahead(job int64) int {
	i := slices.IndexFunc(l.waits, func(w waits) bool { return w.ID == job })
	if i < 0 {
		return 0
	}
	own := l.waits[i]
	mine, others, classes := 0, map[int64]int{}, map[int64]int{}
	for _, w := range l.waits {
		switch {
		case w.Class != own.Class:
			classes[w.Class]++
		case w.By != own.By:
			others[w.By]++
		case w.ID < own.ID:
			mine++
		}
	}
	inClass := mine
	for _, n := range others {
		inClass += min(n, mine+1)
	}
	ahead := inClass
	for _, n := range classes {
		ahead += min(n, inClass+1)
	}
	return ahead
}

const queueQuery = `SELECT j.id AS job, j.submission_id AS submission, c.name AS class, e.name AS exercise, a.full_name AS student, j.kind, j.error, j.queued_at AS queued
	FROM job j JOIN submission s ON s.id = j.submission_id JOIN assignment o ON o.id = s.assignment_id JOIN class c ON c.id = o.class_id
	JOIN exercise e ON e.id = o.exercise_id JOIN account a ON a.id = s.account_id WHERE j.state = ? ORDER BY j.id LIMIT 200`

// QueueJob is a job as who runs the service looks at it.
type QueueJob struct {
	Job        int64     `db:"job"`
	Submission string    `db:"submission"`
	Class      string    `db:"class"`
	Exercise   string    `db:"exercise"`
	Student    string    `db:"student"`
	Kind       string    `db:"kind"` // first or again
	Error      string    `db:"error"`
	Queued     time.Time `db:"queued"`
}

// QueueState is how many jobs wait, which are under way and which were quarantined.
type QueueState struct {
	Waiting              int
	Running, Quarantined []QueueJob
}

// Wire is what the API says of it.
func (q *QueueState) Wire() wire.QueueState {
	jobs := func(all []QueueJob) []wire.QueueJob {
		out := []wire.QueueJob{}
		for _, j := range all {
			out = append(out, wire.QueueJob(j))
		}
		return out
	}
	return wire.QueueState{Waiting: q.Waiting, Running: jobs(q.Running), Quarantined: jobs(q.Quarantined)}
}

// QueueState reads it.
func (s *Store) QueueState(ctx context.Context) (q QueueState, err error) {
	if err = s.Reads.GetContext(ctx, &q.Waiting, `SELECT count(*) FROM job WHERE state = 'queued'`); err != nil {
		return q, err
	}
	if q.Running, err = db.List[QueueJob](ctx, s.DB, queueQuery, "running"); err != nil {
		return q, err
	}
	q.Quarantined, err = db.List[QueueJob](ctx, s.DB, queueQuery, "failed")
	return q, err
}

// Sheet gives the sheet of a job as it was marked, nil where there is none.
func (s *Store) Sheet(ctx context.Context, job int64) (*sheet.Sheet, error) {
	var packed []byte
	err := s.Reads.GetContext(ctx, &packed, `SELECT sheet FROM result WHERE job_id = ?`, job)
	if errors.Is(err, sql.ErrNoRows) {
		return nil, nil
	}
	if err != nil {
		return nil, err
	}
	return UnpackSheet(packed)
}

// UnpackSheet reads a sheet as it is kept.
func UnpackSheet(packed []byte) (*sheet.Sheet, error) {
	text, err := durable.Unpack(packed)
	if err != nil {
		return nil, err
	}
	var sh sheet.Sheet
	if err := json.Unmarshal(text, &sh); err != nil {
		return nil, err
	}
	for i := range sh.Trials {
		for k := range sh.Trials[i].Verdicts {
			v := &sh.Trials[i].Verdicts[k]
			v.Sequence = judge.IsSequence(v.Kind) // sheets of earlier releases do not say it
		}
	}
	return &sh, nil
}

// pageOfSheets is how many sheets are held in memory at a time.
const pageOfSheets = 200

// EachSheet calls f with the sheet of each of the submissions that has one, as it was marked.
func (s *Store) EachSheet(ctx context.Context, subs []record.Submission,
	f func(*record.Submission, *sheet.Sheet) error) error {
	for page := range slices.Chunk(subs, pageOfSheets) {
		jobs := make([]int64, len(page))
		byJob := map[int64]*record.Submission{}
		for i := range page {
			jobs[i], byJob[page[i].Job] = page[i].Job, &page[i]
		}
		query, args, err := sqlx.In(`SELECT job_id, sheet FROM result WHERE job_id IN (?) ORDER BY job_id`, jobs)
		if err != nil {
			return err
		}
		rows, err := db.List[struct {
			Job   int64  `db:"job_id"`
			Sheet []byte `db:"sheet"`
		}](ctx, s.DB, query, args...)
		if err != nil {
			return err
		}
		for _, r := range rows {
			sh, err := UnpackSheet(r.Sheet)
			if err != nil {
				return fmt.Errorf("the sheet of job %d: %w", r.Job, err)
			}
			if err := f(byJob[r.Job], sh); err != nil {
				return err
			}
		}
	}
	return nil
}

// Counts are how many there are of what belongs together.
type Counts struct {
	Submissions int `db:"submissions"`
	Jobs        int `db:"jobs"`
	Results     int `db:"results"`
}

// Count counts submissions, jobs and results.
func (s *Store) Count(ctx context.Context) (c Counts, err error) {
	return c, s.Get(ctx, &c,
		`SELECT (SELECT count(*) FROM submission) AS submissions, (SELECT count(*) FROM job) AS jobs, (SELECT count(*) FROM result) AS results`)
}

// Load is how many jobs of a kind are in a state, and since when the oldest is.
type Load struct {
	Kind   string
	State  string
	Jobs   int
	Oldest *time.Time // nil for none
}

// Loads counts the jobs that are not done, of each kind and state.
func (s *Store) Loads(ctx context.Context) (out []Load, err error) {
	for _, kind := range []string{"first", "again"} {
		for _, state := range []string{"queued", "running", "failed"} {
			l := Load{Kind: kind, State: state}
			if err := s.Get(ctx, &l.Jobs, `SELECT count(*) FROM job WHERE state = ? AND kind = ?`, state,
				kind); err != nil {
				return nil, err
			}
			if l.Jobs > 0 {
				l.Oldest = &time.Time{}
				if err := s.Get(ctx, l.Oldest,
					`SELECT queued_at FROM job WHERE state = ? AND kind = ? ORDER BY id LIMIT 1`, state,
					kind); err != nil && err != db.ErrNotFound {
					return nil, err
				}
			}
			out = append(out, l)
		}
	}
	return out, nil
}
