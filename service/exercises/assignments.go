package exercises

import (
	"context"
	"encoding/json"
	"fmt"
	"strings"
	"time"

	"github.com/jmoiron/sqlx"

	"hemble/service/db"
	"hemble/service/record"
	"hemble/wire"
)

const assignmentQuery = `
SELECT o.id, o.class_id, o.revision_id, r.blob, c.archived, c.name AS class, e.name AS exercise, r.title, r.number AS revision, r.marks,
	o.opens, o.due, o.closes, o.late, o.per_day, o.grace, o.attempts, o.wait, o.counts, o.show_sheet, o.show_marks, o.takes, o.released,
	(SELECT max(number) FROM revision n WHERE n.exercise_id = o.exercise_id) AS newest,
	(SELECT count(*) FROM submission s WHERE s.assignment_id = o.id AND (?1 = 0 OR s.account_id = ?1)) AS submissions,
	(SELECT count(DISTINCT account_id) FROM submission s WHERE s.assignment_id = o.id) AS students,
	(SELECT count(*) FROM job j CROSS JOIN submission s ON s.id = j.submission_id AND s.job_id = j.id WHERE j.state IN ('queued', 'running') AND s.assignment_id = o.id AND (?1 = 0 OR s.account_id = ?1)) AS waiting,
	(SELECT count(*) FROM job j CROSS JOIN submission s ON s.id = j.submission_id AND s.job_id = j.id WHERE j.state = 'failed' AND s.assignment_id = o.id) AS failed,
	(SELECT count(*) FROM bulk b JOIN bulk_file f ON f.bulk_id = b.id WHERE b.assignment_id = o.id AND b.done_at IS NULL AND NOT f.sure AND f.problem = '' AND f.submission_id = '') AS doubtful
FROM assignment o JOIN class c ON c.id = o.class_id JOIN exercise e ON e.id = o.exercise_id JOIN revision r ON r.id = o.revision_id`

// Assignments lists what is open to a class, in the order of assignment. student is whose submissions are counted, 0
// for all.
func (s *Store) Assignments(ctx context.Context, class, student int64) ([]record.Assignment, error) {
	out, err := db.List[record.Assignment](ctx, s.DB, assignmentQuery+` WHERE o.class_id = ?2 ORDER BY o.opens, o.id`,
		student, class)
	if err != nil {
		return nil, err
	}
	for i := range out {
		if out[i].Extensions, err = s.Extensions(ctx, out[i].ID); err != nil {
			return nil, err
		}
	}
	return out, nil
}

// Assignment gives one.
func (s *Store) Assignment(ctx context.Context, class int64, exercise string, student int64) (*record.Assignment,
	error) {
	return s.assignment(ctx, ` WHERE o.class_id = ?2 AND e.name = ?3`, student, class, exercise)
}

// AssignmentOf gives the assignment that a submission belongs to.
func (s *Store) AssignmentOf(ctx context.Context, submission string) (*record.Assignment, error) {
	return s.assignment(ctx, ` WHERE o.id = (SELECT assignment_id FROM submission WHERE id = ?2)`, int64(0), submission)
}

func (s *Store) assignment(ctx context.Context, where string, args ...any) (*record.Assignment, error) {
	var o record.Assignment
	if err := s.Get(ctx, &o, assignmentQuery+where, args...); err != nil {
		return nil, err
	}
	var err error
	o.Extensions, err = s.Extensions(ctx, o.ID)
	return &o, err
}

// Assign opens an exercise to a class, or changes how it is open. A revision other than that current is for
// submissions to come; those that are there get proposed marks.
func (s *Store) Assign(ctx context.Context, by string, class int64, exercise string, number int,
	t record.Policy) error {
	return s.InTx(ctx, func(tx *sqlx.Tx) error {
		var now struct {
			Exercise int64 `db:"exercise"`
			Newest   int64 `db:"newest"`
			Wanted   int64 `db:"wanted"`
			Is       int64 `db:"is_now"`
		}
		if err := tx.GetContext(ctx, &now, `SELECT coalesce(max(e.id), 0) AS exercise,
			coalesce((SELECT id FROM revision WHERE exercise_id = e.id ORDER BY number DESC LIMIT 1), 0) AS newest,
			coalesce((SELECT id FROM revision WHERE exercise_id = e.id AND number = ?), 0) AS wanted,
			coalesce((SELECT revision_id FROM assignment WHERE exercise_id = e.id AND class_id = ?), 0) AS is_now FROM exercise e WHERE e.name = ?`,
			number, class, exercise); err != nil {
			return err
		}
		revision := now.Wanted
		switch {
		case now.Exercise == 0:
			return db.ErrNotFound
		case number == 0 && now.Is != 0:
			revision = now.Is
		case number == 0:
			revision = now.Newest
		case now.Wanted == 0:
			return db.Refused("revision", "%s has no revision %d", exercise, number)
		}
		if _, err := tx.ExecContext(ctx,
			`INSERT INTO assignment (class_id, exercise_id, revision_id, opens, due, closes, late, per_day, grace, attempts, wait, counts, show_sheet, show_marks, takes, created_at)
			VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)
			ON CONFLICT DO UPDATE SET revision_id = excluded.revision_id, opens = excluded.opens, due = excluded.due, closes = excluded.closes, late = excluded.late, per_day = excluded.per_day,
				grace = excluded.grace, attempts = excluded.attempts, wait = excluded.wait, counts = excluded.counts, show_sheet = excluded.show_sheet, show_marks = excluded.show_marks, takes = excluded.takes`,
			class, now.Exercise, revision, db.UTC(&t.Opens), db.UTC(t.Due), db.UTC(t.Closes), t.Late, t.PerDay, t.Grace,
			t.Attempts, t.Wait, t.Counts, t.ShowSheet, t.ShowMarks, strings.Join(t.Takes, " "), s.Now()); err != nil {
			return err
		}
		detail, err := json.Marshal(wire.SetAssignment{Revision: number, Policy: t.Wire()})
		if err != nil {
			return err
		}
		return s.Note(ctx, tx, by, class, "exercise assigned", exercise, string(detail))
	})
}

// Unassign takes an exercise away from a class that has submitted nothing.
func (s *Store) Unassign(ctx context.Context, by string, o *record.Assignment) error {
	return s.InTx(ctx, func(tx *sqlx.Tx) error {
		var n int
		if err := tx.GetContext(ctx, &n, `SELECT count(*) FROM submission WHERE assignment_id = ?`, o.ID); err != nil {
			return err
		}
		if n > 0 {
			return db.Refused("has-work", "there are %d submissions: set a closing time instead", n)
		}
		for _, q := range []string{`DELETE FROM extension WHERE assignment_id = ?`,
			`DELETE FROM bulk_file WHERE bulk_id IN (SELECT id FROM bulk WHERE assignment_id = ?)`,
			`DELETE FROM bulk WHERE assignment_id = ?`,
			`DELETE FROM proposal WHERE assignment_id = ?`, `DELETE FROM assignment WHERE id = ?`} {
			if _, err := tx.ExecContext(ctx, q, o.ID); err != nil {
				return err
			}
		}
		return s.Note(ctx, tx, by, o.ClassID, "exercise unassigned", o.Exercise, "")
	})
}

// SetReleased lets students see their marks, or hides them again.
func (s *Store) SetReleased(ctx context.Context, by string, o *record.Assignment, released bool) error {
	return s.InTx(ctx, func(tx *sqlx.Tx) error {
		at, action := any(nil), "marks hidden"
		if released {
			at, action = s.Now(), "marks released"
		}
		if err := db.Change(ctx, tx, `UPDATE assignment SET released = ? WHERE id = ?`, at, o.ID); err != nil {
			return err
		}
		return s.Note(ctx, tx, by, o.ClassID, action, o.Exercise, "")
	})
}

// Extensions lists those of an assignment.
func (s *Store) Extensions(ctx context.Context, assignment int64) ([]record.Extension, error) {
	return db.List[record.Extension](ctx, s.DB,
		`SELECT kind, who, due, closes, attempts, reason FROM extension WHERE assignment_id = ? ORDER BY kind, who`,
		assignment)
}

// PutExtension gives an extension, in place of an earlier one.
func (s *Store) PutExtension(ctx context.Context, by string, o *record.Assignment, x record.Extension) error {
	return s.InTx(ctx, func(tx *sqlx.Tx) error {
		if _, err := tx.ExecContext(ctx,
			`INSERT INTO extension (assignment_id, kind, who, due, closes, attempts, reason) VALUES (?, ?, ?, ?, ?, ?, ?)
			ON CONFLICT DO UPDATE SET due = excluded.due, closes = excluded.closes, attempts = excluded.attempts, reason = excluded.reason`,
			o.ID, x.Kind, x.Who, db.UTC(x.Due), db.UTC(x.Closes), x.Attempts, x.Reason); err != nil {
			return err
		}
		var what []string
		if x.Due != nil {
			what = append(what, "due "+x.Due.UTC().Format(time.RFC3339))
		}
		if x.Closes != nil {
			what = append(what, "closes "+x.Closes.UTC().Format(time.RFC3339))
		}
		if x.Attempts > 0 {
			what = append(what, fmt.Sprintf("%d more attempts", x.Attempts))
		}
		return s.Note(ctx, tx, by, o.ClassID, "extension granted", o.Exercise+": "+x.Who,
			strings.Join(append(what, x.Reason), "; "))
	})
}

// DropExtension takes an extension back.
func (s *Store) DropExtension(ctx context.Context, by string, o *record.Assignment, kind, who string) error {
	return s.InTx(ctx, func(tx *sqlx.Tx) error {
		if err := db.Change(ctx, tx, `DELETE FROM extension WHERE assignment_id = ? AND kind = ? AND who = ?`, o.ID,
			kind,
			who); err != nil {
			return err
		}
		return s.Note(ctx, tx, by, o.ClassID, "extension withdrawn", o.Exercise+": "+who, "")
	})
}

// Means gives for each assignment of a class the mean of the marks that count, before lateness.
func (s *Store) Means(ctx context.Context, class int64) (map[int64]json.Number, error) {
	rows, err := db.List[struct {
		Opening int64   `db:"assignment_id"`
		Mean    float64 `db:"mean"`
	}](ctx, s.DB, `SELECT assignment_id, avg(m) AS mean FROM (
		SELECT s.assignment_id, max(CAST(s.marks AS REAL)) AS m FROM submission s JOIN assignment o ON o.id = s.assignment_id WHERE o.class_id = ?1 AND o.counts = 'best' AND s.marks <> '' GROUP BY s.assignment_id, s.account_id
		UNION ALL
		SELECT assignment_id, m FROM (SELECT s.assignment_id, max(s.attempt), CAST(s.marks AS REAL) AS m FROM submission s JOIN assignment o ON o.id = s.assignment_id WHERE o.class_id = ?1 AND o.counts = 'last' AND s.marks <> '' GROUP BY s.assignment_id, s.account_id)
		) GROUP BY assignment_id`, class)
	out := map[int64]json.Number{}
	for _, r := range rows {
		out[r.Opening] = json.Number(fmt.Sprintf("%.2f", r.Mean))
	}
	return out, err
}
