package store

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"time"

	"github.com/jmoiron/sqlx"

	"hemble/core/judge"
	"hemble/core/marking"
	"hemble/core/sheet"
	"hemble/wire"
)

// maxClaims is how often a job is taken up before it is set aside. A service dies for other reasons, too: jobs that it died
// over go behind those that it did not, so that one of them that is to blame holds nobody else up, and one that is not soon
// finds a quiet moment.
const maxClaims = 8

// ErrStale is for a result whose claim is no longer the one that counts.
var ErrStale = errors.New("this claim is stale: the job was given to another worker")

// Claim is one worker's hold on a job.
type Claim struct {
	Job        int64  `json:"id"`
	Submission string `json:"submission_id"`
	Epoch      int64  `json:"epoch"`
	Number     int64  `json:"claim"`
}

// newEpoch begins a life of the service: what an earlier one had under way is queued again, or set aside where it has
// been tried too often.
func (s *Store) newEpoch(ctx context.Context) error {
	return s.inTx(ctx, func(tx *sqlx.Tx) error {
		r, err := tx.ExecContext(ctx, `INSERT INTO epoch (started_at) VALUES (?)`, s.now())
		if err != nil {
			return err
		}
		if s.Epoch, err = r.LastInsertId(); err != nil {
			return err
		}
		if _, err := tx.ExecContext(ctx, `UPDATE job SET state = 'failed', finished_at = ?, error = 'the service died each time it tried to mark this' WHERE state = 'running' AND claim >= ?`, s.now(), maxClaims); err != nil {
			return err
		}
		_, err = tx.ExecContext(ctx, `UPDATE job SET state = 'queued' WHERE state = 'running'`)
		return err
	})
}

// Claim gives a queued job to a worker; ErrNotFound when there is none. Those that a student waits for go before those that
// are marked again, and those that a service died over last. Within that classes take turns, within a class the people who
// hand in, and a person's own come in order: however much one of them hands in, the next turn of another is not further away.
func (s *Store) Claim(ctx context.Context) (c Claim, err error) {
	return c, s.inTx(ctx, func(tx *sqlx.Tx) error {
		var next struct {
			ID    int64 `json:"id"`
			Class int64 `json:"class_id"`
			By    int64 `json:"by_id"`
		}
		err := tx.GetContext(ctx, &next, `SELECT j.id, o.class_id, s.by_id FROM job j JOIN submission s ON s.id = j.submission_id JOIN opening o ON o.id = s.opening_id
			LEFT JOIN turn c ON c.key = 'class ' || o.class_id LEFT JOIN turn p ON p.key = 'person ' || s.by_id
			WHERE j.state = 'queued' ORDER BY j.kind = 'again', j.claim, coalesce(c.served, 0), coalesce(p.served, 0), j.id LIMIT 1`)
		if errors.Is(err, sql.ErrNoRows) {
			return ErrNotFound
		}
		if err != nil {
			return err
		}
		if _, err := tx.ExecContext(ctx, `INSERT INTO turn (key, served) SELECT column1, coalesce((SELECT served FROM turn WHERE key = 'last'), 0) + 1 FROM (VALUES ('class ' || ?), ('person ' || ?), ('last')) WHERE true
			ON CONFLICT DO UPDATE SET served = excluded.served`, next.Class, next.By); err != nil {
			return err
		}
		return tx.GetContext(ctx, &c, `UPDATE job SET state = 'running', epoch = ?, claim = claim + 1, engine = ? WHERE id = ? RETURNING id, submission_id, epoch, claim`, s.Epoch, marking.Engine, next.ID)
	})
}

// Material is what is needed to mark a job.
type Material struct {
	Text     []byte // the exercise
	Data     []byte // what was handed in
	Wiring   []byte // a wiring file; nil for none
	File     string
	Exercise string
	Class    int64
	Student  string // login
}

// Material gives what is needed to mark a submission by one of its jobs; 0 is the job that counts.
func (s *Store) Material(ctx context.Context, submission string, job int64) (*Material, error) {
	var row struct {
		Text     string `json:"text"`
		Blob     string `json:"blob"`
		Wiring   string `json:"wiring"`
		File     string `json:"file"`
		Exercise string `json:"exercise"`
		Class    int64  `json:"class_id"`
		Student  string `json:"student"`
	}
	err := s.get(ctx, &row, `SELECT r.blob AS text, s.blob, s.wiring, s.file, e.name AS exercise, o.class_id, a.name AS student
		FROM submission s JOIN job j ON j.id = CASE ?2 WHEN 0 THEN s.job_id ELSE ?2 END JOIN revision r ON r.id = j.revision_id
		JOIN opening o ON o.id = s.opening_id JOIN exercise e ON e.id = o.exercise_id JOIN account a ON a.id = s.account_id
		WHERE s.id = ?1 AND j.submission_id = s.id`, submission, job)
	if err != nil {
		return nil, err
	}
	m := &Material{File: row.File, Exercise: row.Exercise, Class: row.Class, Student: row.Student}
	if m.Text, err = s.File(row.Text); err != nil {
		return nil, err
	}
	if m.Data, err = s.File(row.Blob); err != nil {
		return nil, err
	}
	if row.Wiring != "" {
		if m.Wiring, err = s.File(row.Wiring); err != nil {
			return nil, err
		}
	}
	return m, nil
}

// Finish records a result, exactly once: ErrStale if the claim no longer holds. first tells in words where the sheet
// first differs; marks are those with the submission's overrides.
func (s *Store) Finish(ctx context.Context, c Claim, sh *sheet.Sheet, first, marks string) error {
	text, err := json.Marshal(sh)
	if err != nil {
		return err
	}
	packed, err := pack(text)
	if err != nil {
		return err
	}
	now, n := s.now(), sh.Count()
	return s.inTx(ctx, func(tx *sqlx.Tx) error {
		if err := s.end(ctx, tx, c, "marked", "", now); err != nil {
			return err
		}
		if _, err := tx.ExecContext(ctx, `INSERT INTO result (job_id, marks, of_marks, met, partly, missed, first, alike, sheet, marked_at) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?)`,
			c.Job, sh.Marks.String(), sh.Of.String(), n[judge.Met], n[judge.Partly], n[judge.Missed], first, sh.Alike(), packed, now); err != nil {
			return err
		}
		_, err := tx.ExecContext(ctx, `UPDATE submission SET marks = ? WHERE id = ? AND job_id = ?`, marks, c.Submission, c.Job)
		return err
	})
}

// Fail sets a job aside without a result.
func (s *Store) Fail(ctx context.Context, c Claim, why string) error {
	return s.inTx(ctx, func(tx *sqlx.Tx) error { return s.end(ctx, tx, c, "failed", why, s.now()) })
}

// Release gives a job back unfinished.
func (s *Store) Release(ctx context.Context, c Claim) error {
	_, err := s.write.ExecContext(ctx, `UPDATE job SET state = 'queued', claim = claim - 1 WHERE id = ? AND state = 'running' AND epoch = ? AND claim = ?`, c.Job, c.Epoch, c.Number)
	return err
}

func (s *Store) end(ctx context.Context, tx *sqlx.Tx, c Claim, state, why string, now time.Time) error {
	var class int64
	if err := tx.GetContext(ctx, &class, `SELECT o.class_id FROM submission s JOIN opening o ON o.id = s.opening_id WHERE s.id = ?`, c.Submission); err != nil {
		return err
	}
	if err := bump(ctx, tx, ClassKey(class)); err != nil {
		return err
	}
	err := change(ctx, tx, `UPDATE job SET state = ?, error = ?, finished_at = ? WHERE id = ? AND state = 'running' AND epoch = ? AND claim = ?`, state, why, now, c.Job, c.Epoch, c.Number)
	if errors.Is(err, ErrNotFound) {
		return ErrStale
	}
	return err
}

// Cancel takes a submission out of the queue before it is marked; the attempt does not count.
func (s *Store) Cancel(ctx context.Context, by string, sub *Submission) error {
	return s.inTx(ctx, func(tx *sqlx.Tx) error {
		err := change(ctx, tx, `UPDATE job SET state = 'cancelled', error = ?, finished_at = ? WHERE id = ? AND state IN ('queued', 'running')`, "cancelled by "+by, s.now(), sub.Job)
		if errors.Is(err, ErrNotFound) {
			return refused("done", "this submission is no longer waiting")
		}
		if err != nil {
			return err
		}
		return s.audit(ctx, tx, by, sub.ClassID, "submission cancelled", sub.ID, sub.Login)
	})
}

// Retry queues a job again that was set aside.
func (s *Store) Retry(ctx context.Context, by string, job int64) error {
	return s.inTx(ctx, func(tx *sqlx.Tx) error {
		if err := change(ctx, tx, `UPDATE job SET state = 'queued', claim = 0, error = '', finished_at = NULL WHERE id = ? AND state = 'failed'`, job); err != nil {
			return err
		}
		return s.audit(ctx, tx, by, 0, "job queued again", number(job), "")
	})
}

// Waiting counts the jobs that are not done.
func (s *Store) Waiting(ctx context.Context) (n int, err error) {
	err = s.db.GetContext(ctx, &n, `SELECT count(*) FROM job WHERE state IN ('queued', 'running')`)
	return n, err
}

// Line is who waits to be marked, as of one moment.
type Line struct{ waits []waits }

// waits is a job that a student waits for.
type waits struct {
	ID    int64 `json:"id"`
	Class int64 `json:"class_id"`
	By    int64 `json:"by_id"`
}

// Line reads who waits.
func (s *Store) Line(ctx context.Context) (*Line, error) {
	w, err := list[waits](ctx, s, `SELECT j.id, o.class_id, s.by_id FROM job j JOIN submission s ON s.id = j.submission_id JOIN opening o ON o.id = s.opening_id
		WHERE j.state = 'queued' AND j.kind = 'first'`)
	return &Line{w}, err
}

// Ahead tells about how many submissions are marked before one: its person's own earlier ones, and of the others, who take
// turns, not more than as many each.
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
	FROM job j JOIN submission s ON s.id = j.submission_id JOIN opening o ON o.id = s.opening_id JOIN class c ON c.id = o.class_id
	JOIN exercise e ON e.id = o.exercise_id JOIN account a ON a.id = s.account_id WHERE j.state = ? ORDER BY j.id LIMIT 200`

// QueueState tells what waits, what is under way and what was set aside.
func (s *Store) QueueState(ctx context.Context) (q wire.QueueState, err error) {
	if err = s.db.GetContext(ctx, &q.Waiting, `SELECT count(*) FROM job WHERE state = 'queued'`); err != nil {
		return q, err
	}
	if q.Running, err = list[wire.QueueJob](ctx, s, queueQuery, "running"); err != nil {
		return q, err
	}
	q.Aside, err = list[wire.QueueJob](ctx, s, queueQuery, "failed")
	return q, err
}

// Sheet gives the sheet of a job as it was marked, nil where there is none.
func (s *Store) Sheet(ctx context.Context, job int64) (*sheet.Sheet, error) {
	var packed []byte
	err := s.db.GetContext(ctx, &packed, `SELECT sheet FROM result WHERE job_id = ?`, job)
	if errors.Is(err, sql.ErrNoRows) {
		return nil, nil
	}
	if err != nil {
		return nil, err
	}
	return unpackSheet(packed)
}

func unpackSheet(packed []byte) (*sheet.Sheet, error) {
	text, err := unpack(packed)
	if err != nil {
		return nil, err
	}
	var sh sheet.Sheet
	return &sh, json.Unmarshal(text, &sh)
}

// pageOfSheets is how many sheets are held in memory at a time.
const pageOfSheets = 200

// EachSheet calls f with the sheet of each of the submissions that has one, as it was marked.
func (s *Store) EachSheet(ctx context.Context, subs []Submission, f func(*Submission, *sheet.Sheet) error) error {
	for page := range slices.Chunk(subs, pageOfSheets) {
		jobs := make([]int64, len(page))
		byJob := map[int64]*Submission{}
		for i := range page {
			jobs[i], byJob[page[i].Job] = page[i].Job, &page[i]
		}
		query, args, err := sqlx.In(`SELECT job_id, sheet FROM result WHERE job_id IN (?) ORDER BY job_id`, jobs)
		if err != nil {
			return err
		}
		rows, err := list[struct {
			Job   int64  `json:"job_id"`
			Sheet []byte `json:"sheet"`
		}](ctx, s, query, args...)
		if err != nil {
			return err
		}
		for _, r := range rows {
			sh, err := unpackSheet(r.Sheet)
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
	Submissions int `json:"submissions"`
	Jobs        int `json:"jobs"`
	Results     int `json:"results"`
}

// Count counts submissions, jobs and results.
func (s *Store) Count(ctx context.Context) (c Counts, err error) {
	return c, s.get(ctx, &c, `SELECT (SELECT count(*) FROM submission) AS submissions, (SELECT count(*) FROM job) AS jobs, (SELECT count(*) FROM result) AS results`)
}
