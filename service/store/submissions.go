package store

import (
	"context"
	"crypto/rand"
	"database/sql"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"time"

	"github.com/jmoiron/sqlx"

	"hemble/wire"
)

// receipt is what is on disk, beside the file, before a submission is acknowledged: enough to adopt
// it again where the database lost it.
type receipt struct {
	ID        string    `json:"id"`
	Exercise  string    `json:"exercise"`
	Student   string    `json:"student"`
	File      string    `json:"file"`
	Blob      string    `json:"blob"`
	Submitted time.Time `json:"submitted"`
}

// newID gives an identifier that sorts by time.
func newID(t time.Time) string {
	var random [5]byte
	_, _ = rand.Read(random[:])
	return fmt.Sprintf("%011x%s", t.UnixMilli(), hex.EncodeToString(random[:]))
}

// Submit keeps a submission and queues it. When it returns, nothing of it can be lost.
func (s *Store) Submit(ctx context.Context, exercise, student, file string, data []byte) (string, error) {
	now := time.Now().UTC()
	r := receipt{ID: newID(now), Exercise: exercise, Student: student, File: file, Submitted: now}
	var err error
	if r.Blob, err = s.putFile(data); err != nil {
		return "", err
	}
	text, err := json.Marshal(r)
	if err != nil {
		return "", err
	}
	if err := writeDurably(filepath.Join(s.dir, "receipts", r.ID+".json"), text); err != nil {
		return "", err
	}
	return r.ID, s.adopt(ctx, r)
}

// adopt puts a receipt's submission and its job into the database.
func (s *Store) adopt(ctx context.Context, r receipt) error {
	return s.inTx(ctx, func(tx *sqlx.Tx) error {
		var rev Revision
		err := tx.GetContext(ctx, &rev, `SELECT r.id, r.exercise_id, r.number, r.blob FROM revision r JOIN exercise e ON e.id = r.exercise_id WHERE e.name = ? ORDER BY r.number DESC LIMIT 1`, r.Exercise)
		if errors.Is(err, sql.ErrNoRows) {
			return ErrNotFound
		}
		if err != nil {
			return err
		}
		if _, err := tx.ExecContext(ctx, `INSERT INTO submission (id, exercise_id, revision_id, student, file, blob, attempt, submitted_at)
			VALUES (?, ?, ?, ?, ?, ?, 1 + (SELECT count(*) FROM submission WHERE exercise_id = ? AND student = ?), ?)`,
			r.ID, rev.ExerciseID, rev.ID, r.Student, r.File, r.Blob, rev.ExerciseID, r.Student, r.Submitted); err != nil {
			return err
		}
		_, err = tx.ExecContext(ctx, `INSERT INTO job (submission_id, queued_at) VALUES (?, ?)`, r.ID, r.Submitted)
		return err
	})
}

// adoptReceipts takes up submissions that are on disk and not in the database. One whose exercise is
// gone stays on disk.
func (s *Store) adoptReceipts(ctx context.Context) error {
	paths, err := filepath.Glob(filepath.Join(s.dir, "receipts", "*.json"))
	if err != nil {
		return err
	}
	for _, path := range paths {
		id := strings.TrimSuffix(filepath.Base(path), ".json")
		var known int
		if err := s.db.GetContext(ctx, &known, `SELECT count(*) FROM submission WHERE id = ?`, id); err != nil {
			return err
		}
		if known > 0 {
			continue
		}
		text, err := os.ReadFile(path)
		if err != nil {
			return err
		}
		var r receipt
		if json.Unmarshal(text, &r) != nil || r.ID != id {
			continue
		}
		if err := s.adopt(ctx, r); err != nil && !errors.Is(err, ErrNotFound) {
			return err
		}
	}
	return nil
}

const submissionQuery = `
SELECT s.id, e.name AS exercise, r.number AS revision, s.student, s.file, s.blob, r.blob AS exercise_blob, r.title, s.attempt, s.submitted_at,
	j.state, j.error, x.marks, x.of_marks, coalesce(x.met, 0) AS met, coalesce(x.partly, 0) AS partly, coalesce(x.missed, 0) AS missed,
	coalesce(x.first, '') AS first, x.marked_at
FROM submission s JOIN exercise e ON e.id = s.exercise_id JOIN revision r ON r.id = s.revision_id
JOIN job j ON j.submission_id = s.id LEFT JOIN result x ON x.submission_id = s.id`

type submissionRow struct {
	ID           string         `db:"id"`
	Exercise     string         `db:"exercise"`
	Revision     int            `db:"revision"`
	Student      string         `db:"student"`
	File         string         `db:"file"`
	Blob         string         `db:"blob"`
	ExerciseBlob string         `db:"exercise_blob"`
	Title        string         `db:"title"`
	Attempt      int            `db:"attempt"`
	SubmittedAt  time.Time      `db:"submitted_at"`
	State        string         `db:"state"`
	Error        string         `db:"error"`
	Marks        sql.NullString `db:"marks"`
	Of           sql.NullString `db:"of_marks"`
	Met          int            `db:"met"`
	Partly       int            `db:"partly"`
	Missed       int            `db:"missed"`
	First        string         `db:"first"`
	MarkedAt     sql.NullTime   `db:"marked_at"`
}

func (r submissionRow) wire() wire.Submission {
	s := wire.Submission{ID: r.ID, Exercise: r.Exercise, Revision: r.Revision, Student: r.Student, File: r.File, Attempt: r.Attempt,
		State: wire.State(r.State), Error: r.Error, Marks: json.Number(r.Marks.String), Of: json.Number(r.Of.String),
		Met: r.Met, Partly: r.Partly, Missed: r.Missed, First: r.First, Submitted: r.SubmittedAt}
	if r.MarkedAt.Valid {
		s.MarkedAt = &r.MarkedAt.Time
	}
	return s
}

// Submissions lists the submissions of an exercise by student, a student's attempts in order.
func (s *Store) Submissions(ctx context.Context, exercise string) ([]wire.Submission, error) {
	var rows []submissionRow
	if err := s.db.SelectContext(ctx, &rows, submissionQuery+` WHERE e.name = ? ORDER BY s.student, s.attempt`, exercise); err != nil {
		return nil, err
	}
	out := []wire.Submission{}
	for _, r := range rows {
		out = append(out, r.wire())
	}
	return out, nil
}

// Submission gives one submission.
func (s *Store) Submission(ctx context.Context, id string) (wire.Submission, error) {
	row, err := s.submission(ctx, id)
	return row.wire(), err
}

func (s *Store) submission(ctx context.Context, id string) (row submissionRow, err error) {
	err = s.db.GetContext(ctx, &row, submissionQuery+` WHERE s.id = ?`, id)
	if errors.Is(err, sql.ErrNoRows) {
		err = ErrNotFound
	}
	return row, err
}

// Material gives what is needed to mark a submission: the exercise's text and the firmware.
func (s *Store) Material(ctx context.Context, id string) (exercise, firmware []byte, file string, err error) {
	row, err := s.submission(ctx, id)
	if err != nil {
		return nil, nil, "", err
	}
	if exercise, err = s.File(row.ExerciseBlob); err != nil {
		return nil, nil, "", err
	}
	firmware, err = s.File(row.Blob)
	return exercise, firmware, row.File, err
}

// Result gives a submission with its sheet and its neighbours.
func (s *Store) Result(ctx context.Context, id string) (*wire.Result, error) {
	row, err := s.submission(ctx, id)
	if err != nil {
		return nil, err
	}
	out := &wire.Result{Submission: row.wire(), Title: row.Title}
	var sheet string
	switch err := s.db.GetContext(ctx, &sheet, `SELECT sheet FROM result WHERE submission_id = ?`, id); {
	case err == nil:
		out.Sheet = json.RawMessage(sheet)
	case !errors.Is(err, sql.ErrNoRows):
		return nil, err
	}
	list, err := s.Submissions(ctx, row.Exercise)
	if err != nil {
		return nil, err
	}
	for i := range list {
		if list[i].ID != id {
			continue
		}
		if i > 0 {
			out.Previous = list[i-1].ID
		}
		if i+1 < len(list) {
			out.Next = list[i+1].ID
		}
	}
	return out, nil
}
