// Package submissions accepts work: one file from a student, or many at once for a class. What it has acknowledged is
// never lost.
package submissions

import (
	"context"
	"crypto/rand"
	"database/sql"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"log/slog"
	"os"
	"path/filepath"
	"strings"
	"time"

	"github.com/jmoiron/sqlx"

	"hemble/core/marking"
	"hemble/service/db"
	"hemble/service/durable"
	"hemble/service/record"
	"hemble/wire"
)

// Store keeps submissions: first the file and a receipt on the disk, then the row, then the job.
type Store struct{ *db.DB }

// Receipt is what is on disk, beside the file, before a submission is acknowledged: enough to adopt it again where the
// database lost it. One without a class is of the time before there were classes; its student is a name.
type Receipt struct {
	ID        string    `json:"id"`
	Class     string    `json:"class,omitempty"`
	Exercise  string    `json:"exercise"`
	Revision  int       `json:"revision,omitempty"`
	Student   string    `json:"student"` // login
	File      string    `json:"file"`
	Blob      string    `json:"blob"`
	Wiring    string    `json:"wiring,omitempty"`
	Comment   string    `json:"comment,omitempty"`
	By        string    `json:"by,omitempty"`
	Submitted time.Time `json:"submitted"`
}

// newID gives an identifier that sorts by time.
func newID(t time.Time) string {
	var random [5]byte
	_, _ = rand.Read(random[:])
	return fmt.Sprintf("%011x%s", t.UnixMilli(), hex.EncodeToString(random[:]))
}

// Work is work that somebody submits.
type Work struct {
	Assignment *record.Assignment
	Student    *record.Member
	By         *record.Account
	File       string
	Data       []byte
	Wiring     []byte
	Comment    string
	// Admit reports whether another attempt is taken, given those that were made; nil for always.
	Admit func(attempts int, last time.Time) error
}

// Submit keeps a submission and queues it. When it returns, nothing of it can be lost. The same work submitted twice is
// one submission: the first.
func (s *Store) Submit(ctx context.Context, h Work) (id string, same bool, err error) {
	now := s.Now()
	r := Receipt{ID: newID(now), Class: h.Assignment.Class, Exercise: h.Assignment.Exercise,
		Revision: h.Assignment.Revision,
		Student:  h.Student.Login,
		File:     h.File, Comment: h.Comment, By: h.By.Login, Submitted: now}
	if r.Blob, err = s.Blobs.Put(ctx, h.Data); err != nil {
		return "", false, err
	}
	if len(h.Wiring) > 0 {
		if r.Wiring, err = s.Blobs.Put(ctx, h.Wiring); err != nil {
			return "", false, err
		}
	}
	text, err := json.Marshal(r)
	if err != nil {
		return "", false, err
	}
	// The receipt goes before: a death in between leaves more than was acknowledged, never less.
	path := filepath.Join(s.Dir, "receipts", r.ID+".json")
	if err := durable.Write(path, text); err != nil {
		return "", false, err
	}
	if id, err = s.adopt(ctx, r, h.Admit); err != nil || id != r.ID {
		_ = os.Remove(path)
	}
	return id, id != r.ID, err
}

// adopt puts a receipt's submission and its job into the database.
func (s *Store) adopt(ctx context.Context, r Receipt, admit func(int, time.Time) error) (id string, err error) {
	id = r.ID
	return id, s.InTx(ctx, func(tx *sqlx.Tx) error {
		var at struct {
			Opening  int64 `db:"assignment"`
			Revision int64 `db:"revision"`
			Account  int64 `db:"account"`
			By       int64 `db:"by_id"`
		}
		who := `a.name = ?3`
		if r.Class == "" {
			r.Class, who = "first-class", `a.full_name = ?3 AND a.role = 'person'`
		}
		err := tx.GetContext(ctx, &at,
			`SELECT o.id AS assignment, coalesce((SELECT id FROM revision WHERE exercise_id = o.exercise_id AND number = ?4), o.revision_id) AS revision,
			a.id AS account, coalesce((SELECT id FROM account WHERE name = ?5), a.id) AS by_id
			FROM assignment o JOIN class c ON c.id = o.class_id JOIN exercise e ON e.id = o.exercise_id JOIN account a ON `+who+`
			WHERE c.name = ?1 AND e.name = ?2`, r.Class, r.Exercise, r.Student, r.Revision, r.By)
		if errors.Is(err, sql.ErrNoRows) {
			return db.ErrNotFound
		}
		if err != nil {
			return err
		}
		var before []struct {
			ID        string    `db:"id"`
			Blob      string    `db:"blob"`
			Wiring    string    `db:"wiring"`
			State     string    `db:"state"`
			Attempt   int       `db:"attempt"`
			Submitted time.Time `db:"submitted"`
		}
		if err := tx.SelectContext(ctx, &before,
			`SELECT s.id, s.blob, s.wiring, s.attempt, s.submitted_at AS submitted, j.state FROM submission s JOIN job j ON j.id = s.job_id
			WHERE s.assignment_id = ? AND s.account_id = ? ORDER BY s.attempt`, at.Opening, at.Account); err != nil {
			return err
		}
		made, attempt, last := 0, 1, time.Time{}
		for _, b := range before {
			attempt = b.Attempt + 1
			if b.State == string(wire.Cancelled) {
				continue
			}
			if b.Blob == r.Blob && b.Wiring == r.Wiring {
				id = b.ID
				return nil
			}
			if made, last = made+1, b.Submitted; b.State == string(wire.Failed) {
				made-- // not the student's fault
			}
		}
		if admit != nil {
			if err := admit(made, last); err != nil {
				return err
			}
		}
		if _, err := tx.ExecContext(ctx,
			`INSERT INTO submission (id, assignment_id, account_id, attempt, file, blob, wiring, comment, by_id, submitted_at) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?)`,
			r.ID, at.Opening, at.Account, attempt, r.File, r.Blob, r.Wiring, r.Comment, at.By,
			r.Submitted); err != nil {
			return err
		}
		job, err := tx.ExecContext(ctx,
			`INSERT INTO job (submission_id, revision_id, engine, kind, queued_at) VALUES (?, ?, ?, 'first', ?)`, r.ID,
			at.Revision, marking.Engine, r.Submitted)
		if err != nil {
			return err
		}
		number, err := job.LastInsertId()
		if err != nil {
			return err
		}
		_, err = tx.ExecContext(ctx, `UPDATE submission SET job_id = ? WHERE id = ?`, number, r.ID)
		return err
	})
}

// AdoptReceipts takes up submissions that are on disk and not in the database. One whose class, exercise or student is
// gone stays on disk.
func (s *Store) AdoptReceipts(ctx context.Context) error {
	paths, err := filepath.Glob(filepath.Join(s.Dir, "receipts", "*.json"))
	if err != nil {
		return err
	}
	known := map[string]bool{}
	var ids []string
	if err := s.Reads.SelectContext(ctx, &ids, `SELECT id FROM submission`); err != nil {
		return err
	}
	for _, id := range ids {
		known[id] = true
	}
	for _, path := range paths {
		id := strings.TrimSuffix(filepath.Base(path), ".json")
		if known[id] {
			continue
		}
		text, err := os.ReadFile(path)
		if err != nil {
			return err
		}
		var r Receipt
		if json.Unmarshal(text, &r) != nil || r.ID != id {
			slog.Warn("a receipt is damaged", "file", path)
			continue
		}
		if there, err := s.Blobs.Has(ctx, r.Blob); err != nil || !there {
			slog.Warn("a receipt without its file", "file", path)
			continue
		}
		switch _, err := s.adopt(ctx, r, nil); {
		case errors.Is(err, db.ErrNotFound):
			slog.Warn("a receipt whose class, exercise or student is gone", "file", path)
		case err != nil:
			return err
		default:
			slog.Info("a submission was taken up from its receipt", "submission", id)
		}
	}
	return nil
}

const submissionQuery = `
SELECT s.id, c.name AS class, e.name AS exercise, r.number AS revision, a.name AS login, a.full_name AS student, s.file, s.attempt, s.comment,
	s.wiring <> '' AS wiring, j.state, j.error, s.marks, coalesce(x.of_marks, '') AS "of", s.overridden, coalesce(x.met, 0) AS met, coalesce(x.partly, 0) AS partly,
	coalesce(x.missed, 0) AS missed, coalesce(x.first, '') AS "first", coalesce(x.alike, '') AS alike, s.submitted_at AS submitted, x.marked_at,
	s.assignment_id, o.class_id, s.account_id, j.revision_id, s.job_id, coalesce(m.team, '') AS "group", r.title, s.blob, s.wiring AS wiring_blob, r.blob AS text, j.done, j.trials
FROM submission s JOIN assignment o ON o.id = s.assignment_id JOIN class c ON c.id = o.class_id JOIN exercise e ON e.id = o.exercise_id
JOIN account a ON a.id = s.account_id JOIN job j ON j.id = s.job_id JOIN revision r ON r.id = j.revision_id
LEFT JOIN result x ON x.job_id = j.id LEFT JOIN member m ON m.class_id = o.class_id AND m.account_id = s.account_id`

// studentOrder is the order of the indexes of account and submission: nothing is sorted where accounts come first.
const studentOrder = ` ORDER BY a.full_name, a.id, s.attempt`

// Submission gives one submission.
func (s *Store) Submission(ctx context.Context, id string) (*record.Submission, error) {
	var out record.Submission
	return &out, s.Get(ctx, &out, submissionQuery+` WHERE s.id = ?`, id)
}

// Filter says which submissions of an assignment are wanted.
type Filter struct {
	Student int64  // 0 for all
	State   string // "" for all
	Search  string // in name, login or file
	Alike   string // "" for all
	Offset  int
	Limit   int // 0 for all
}

// Submissions lists those of an assignment by student, a student's attempts in order, and returns how many there are.
func (s *Store) Submissions(ctx context.Context, assignment int64, f Filter) (out []record.Submission, total int,
	err error) {
	from := ` FROM account a CROSS JOIN submission s ON s.account_id = a.id`
	where, args := ` WHERE s.assignment_id = ?`, []any{assignment}
	if f.State != "" || f.Alike != "" {
		from += ` JOIN job j ON j.id = s.job_id LEFT JOIN result x ON x.job_id = j.id`
	}
	if f.Student != 0 {
		where, args = where+` AND s.account_id = ?`, append(args, f.Student)
	}
	if f.State != "" {
		where, args = where+` AND j.state = ?`, append(args, f.State)
	}
	if f.Alike != "" {
		where, args = where+` AND x.alike = ?`, append(args, f.Alike)
	}
	if f.Search != "" {
		where += ` AND (instr(lower(a.full_name), lower(?)) OR instr(a.name, lower(?)) OR instr(lower(s.file), lower(?)))`
		args = append(args, f.Search, f.Search, f.Search)
	}
	if err = s.Reads.GetContext(ctx, &total, `SELECT count(*)`+from+where, args...); err != nil {
		return nil, 0, err
	}
	limit := f.Limit
	if limit == 0 {
		limit = -1
	}
	// The page is found by the few columns that order it, and only then joined with the rest.
	out, err = db.List[record.Submission](ctx, s.DB,
		submissionQuery+` WHERE s.id IN (SELECT s.id`+from+where+studentOrder+` LIMIT ? OFFSET ?)`+studentOrder,
		append(args, limit, f.Offset)...)
	return out, total, err
}

// Attempts lists the attempts at an assignment of some students, or where none are named of all, by student and in
// order: what it takes to tell which of them counts.
func (s *Store) Attempts(ctx context.Context, assignment int64, students ...int64) ([]record.Submission, error) {
	whose, args := ``, []any{assignment}
	if len(students) > 0 {
		in, some, err := sqlx.In(` AND s.account_id IN (?)`, students)
		if err != nil {
			return nil, err
		}
		whose, args = in, append(args, some...)
	}
	return db.List[record.Submission](ctx, s.DB,
		`SELECT s.id, s.account_id, a.name AS login, a.full_name AS student, coalesce(m.team, '') AS "group", s.attempt, j.state, s.marks, s.overridden, s.submitted_at AS submitted, s.job_id
		FROM submission s JOIN job j ON j.id = s.job_id JOIN account a ON a.id = s.account_id JOIN assignment o ON o.id = s.assignment_id
		LEFT JOIN member m ON m.class_id = o.class_id AND m.account_id = s.account_id
		WHERE s.assignment_id = ?`+whose+studentOrder, args...)
}

// Neighbours gives the submissions before and behind one in the order of its assignment, "" for none.
func (s *Store) Neighbours(ctx context.Context, sub *record.Submission, student int64) (previous, next string,
	err error) {
	var ids struct {
		Previous string `db:"previous"`
		Next     string `db:"next"`
	}
	err = s.Get(ctx, &ids, `SELECT coalesce(previous, '') AS previous, coalesce("next", '') AS "next" FROM (
		SELECT s.id, lag(s.id) OVER w AS previous, lead(s.id) OVER w AS "next" FROM submission s JOIN account a ON a.id = s.account_id
		WHERE s.assignment_id = ?1 AND ?2 IN (0, s.account_id) WINDOW w AS (ORDER BY a.full_name, s.account_id, s.attempt)) WHERE id = ?3`,
		sub.AssignmentID, student, sub.ID)
	return ids.Previous, ids.Next, err
}
