// Package marks has results as each person may see them, and what people add: overrides, comments, proposals to mark
// again, the gradebook.
package marks

import (
	"context"
	"encoding/json"
	"fmt"
	"time"

	"github.com/jmoiron/sqlx"

	"hemble/core/marking"
	"hemble/service/db"
	"hemble/service/grading"
	"hemble/service/record"
	"hemble/service/submissions"
	"hemble/wire"
)

// Store keeps what people say of results: overrides, comments, proposals of marking again.
type Store struct {
	*db.DB
	Submissions *submissions.Store
	Grading     *grading.Store
}

// Overriding is an override of one submission with the marks that the submission comes to by it.
type Overriding struct {
	Submission *record.Submission
	Marks      string
}

// AddOverride keeps an override for each of the submissions, all or none; an earlier one of the same thing is dropped.
func (s *Store) AddOverride(ctx context.Context, by *record.Account, o grading.Override, of []Overriding) error {
	return s.InTx(ctx, func(tx *sqlx.Tx) error {
		for _, x := range of {
			if _, err := tx.ExecContext(ctx,
				`UPDATE override SET withdrawn_at = ? WHERE submission_id = ? AND withdrawn_at IS NULL AND trial IS ? AND verdict IS ? AND hand_row IS ?`,
				s.Now(), x.Submission.ID, o.Trial, o.Verdict, o.Row); err != nil {
				return err
			}
			if _, err := tx.ExecContext(ctx,
				`INSERT INTO override (submission_id, trial, verdict, hand_row, marks, reason, account_id, created_at) VALUES (?, ?, ?, ?, ?, ?, ?, ?)`,
				x.Submission.ID, o.Trial, o.Verdict, o.Row, o.Marks, o.Reason, by.ID, s.Now()); err != nil {
				return err
			}
			if err := s.setMarks(ctx, tx, x); err != nil {
				return err
			}
			what := "whole"
			switch {
			case o.Row != nil:
				what = fmt.Sprintf("row %d", *o.Row+1)
			case o.Trial != nil && o.Verdict != nil:
				what = fmt.Sprintf("trial %d, expectation %d", *o.Trial+1, *o.Verdict+1)
			}
			if err := s.Note(ctx, tx, by.Login, x.Submission.ClassID, "marks overridden", x.Submission.ID,
				fmt.Sprintf("%s: %s to %s; in all %s, was %s: %s", x.Submission.Login, what, o.Marks, x.Marks,
					x.Submission.Marks, o.Reason)); err != nil {
				return err
			}
		}
		return nil
	})
}

// setMarks is held to the job that the marks were computed from.
func (s *Store) setMarks(ctx context.Context, tx *sqlx.Tx, x Overriding) error {
	return db.Change(ctx, tx,
		`UPDATE submission SET marks = ?, overridden = EXISTS (SELECT 1 FROM override v WHERE v.submission_id = submission.id AND v.withdrawn_at IS NULL) WHERE id = ? AND job_id = ?`,
		x.Marks, x.Submission.ID, x.Submission.Job)
}

// DropOverride takes an override back.
func (s *Store) DropOverride(ctx context.Context, by *record.Account, id int64, x Overriding) error {
	return s.InTx(ctx, func(tx *sqlx.Tx) error {
		if err := db.Change(ctx, tx,
			`UPDATE override SET withdrawn_at = ? WHERE id = ? AND submission_id = ? AND withdrawn_at IS NULL`, s.Now(),
			id,
			x.Submission.ID); err != nil {
			return err
		}
		if err := s.setMarks(ctx, tx, x); err != nil {
			return err
		}
		return s.Note(ctx, tx, by.Login, x.Submission.ClassID, "override withdrawn", x.Submission.ID,
			fmt.Sprintf("%s: in all %s, was %s", x.Submission.Login, x.Marks, x.Submission.Marks))
	})
}

// Comment is what somebody said of a submission.
type Comment struct {
	ID      int64     `db:"id"`
	Text    string    `db:"text"`
	By      string    `db:"by"`
	Created time.Time `db:"created"`
}

// Comments lists what was said of a submission.
func (s *Store) Comments(ctx context.Context, submission string) ([]Comment, error) {
	return db.List[Comment](ctx, s.DB,
		`SELECT c.id, c.text, a.full_name AS by, c.created_at AS created FROM comment c JOIN account a ON a.id = c.account_id WHERE c.submission_id = ? ORDER BY c.id`, submission)
}

// AddComment says the same of each of the submissions, and with keep puts it into the class's bank.
func (s *Store) AddComment(ctx context.Context, by *record.Account, class int64, submissions []string, text string,
	keep bool) error {
	return s.InTx(ctx, func(tx *sqlx.Tx) error {
		for _, id := range submissions {
			if _, err := tx.ExecContext(ctx,
				`INSERT INTO comment (submission_id, text, account_id, created_at) VALUES (?, ?, ?, ?)`, id, text,
				by.ID, s.Now()); err != nil {
				return err
			}
		}
		if keep {
			if _, err := tx.ExecContext(ctx,
				`INSERT INTO saved_comment (class_id, text) VALUES (?, ?) ON CONFLICT DO NOTHING`,
				class, text); err != nil {
				return err
			}
		}
		_, err := tx.ExecContext(ctx, `UPDATE saved_comment SET used = used + ? WHERE class_id = ? AND text = ?`,
			len(submissions), class, text)
		return err
	})
}

// DropComment takes a comment back.
func (s *Store) DropComment(ctx context.Context, submission string, id int64) error {
	return s.ChangeOne(ctx, `DELETE FROM comment WHERE id = ? AND submission_id = ?`, id, submission)
}

// SavedComment is a comment of a class's bank.
type SavedComment struct {
	ID   int64  `db:"id"`
	Text string `db:"text"`
	Used int    `db:"used"`
}

// SavedComments lists a class's bank of comments, the most used first.
func (s *Store) SavedComments(ctx context.Context, class int64) ([]SavedComment, error) {
	return db.List[SavedComment](ctx, s.DB,
		`SELECT id, text, used FROM saved_comment WHERE class_id = ? ORDER BY used DESC, text`,
		class)
}

// DropSavedComment takes a comment out of the bank.
func (s *Store) DropSavedComment(ctx context.Context, class, id int64) error {
	return s.ChangeOne(ctx, `DELETE FROM saved_comment WHERE id = ? AND class_id = ?`, id, class)
}

// Proposal is the marking again of everything that was submitted for an assignment.
type Proposal struct {
	ID           int64      `db:"id"`
	AssignmentID int64      `db:"assignment_id"`
	RevisionID   int64      `db:"revision_id"`
	Exercise     string     `db:"exercise"`
	Revision     int        `db:"revision"`
	Engine       string     `db:"engine"`
	By           string     `db:"by"`
	Created      time.Time  `db:"created"`
	Closed       *time.Time `db:"closed"`
	Waiting      int        `db:"waiting"` // submissions that are still to be marked again
}

// Wire is what the API says of it, without what would move.
func (p *Proposal) Wire() wire.Proposal {
	return wire.Proposal{ID: p.ID, Exercise: p.Exercise, Revision: p.Revision, Engine: p.Engine, By: p.By,
		Created: p.Created, Closed: p.Closed, Waiting: p.Waiting}
}

const proposalQuery = `SELECT p.id, e.name AS exercise, r.number AS revision, p.engine, a.full_name AS by, p.created_at AS created, p.closed_at AS closed, p.assignment_id, p.revision_id,
	(SELECT count(*) FROM proposed d JOIN job j ON j.id = d.job_id WHERE d.proposal_id = p.id AND j.state IN ('queued', 'running')) AS waiting
	FROM proposal p JOIN assignment o ON o.id = p.assignment_id JOIN exercise e ON e.id = o.exercise_id JOIN revision r ON r.id = p.revision_id JOIN account a ON a.id = p.account_id`

// Propose has every submission of an assignment marked again, by a revision and this engine; what comes of it changes
// nothing before it is applied. Submissions that were marked so already are not marked again.
func (s *Store) Propose(ctx context.Context, by *record.Account, o *record.Assignment, revision int64) (id int64,
	err error) {
	return id, s.InTx(ctx, func(tx *sqlx.Tx) error {
		var open int
		if err := tx.GetContext(ctx, &open,
			`SELECT count(*) FROM proposal WHERE assignment_id = ? AND closed_at IS NULL`,
			o.ID); err != nil {
			return err
		}
		if open > 0 {
			return db.Refused("open", "%s already has proposed marks; apply or discard them first",
				o.Exercise)
		}
		r, err := tx.ExecContext(ctx,
			`INSERT INTO proposal (assignment_id, revision_id, engine, account_id, created_at) VALUES (?, ?, ?, ?, ?)`,
			o.ID, revision, marking.Engine, by.ID, s.Now())
		if err != nil {
			return err
		}
		if id, err = r.LastInsertId(); err != nil {
			return err
		}
		if _, err := tx.ExecContext(ctx, `INSERT INTO job (submission_id, revision_id, engine, kind, queued_at)
			SELECT s.id, ?, ?, 'again', ? FROM submission s JOIN job j ON j.id = s.job_id WHERE s.assignment_id = ? AND j.state = 'marked' ON CONFLICT DO NOTHING`,
			revision, marking.Engine, s.Now(), o.ID); err != nil {
			return err
		}
		if _, err := tx.ExecContext(ctx, `INSERT INTO proposed (proposal_id, submission_id, job_id)
			SELECT ?, s.id, n.id FROM submission s JOIN job j ON j.id = s.job_id JOIN job n ON n.submission_id = s.id AND n.revision_id = ? AND n.engine = ?
			WHERE s.assignment_id = ? AND j.state = 'marked'`, id, revision, marking.Engine, o.ID); err != nil {
			return err
		}
		return s.Note(ctx, tx, by.Login, o.ClassID, "marks proposed", o.Exercise, fmt.Sprintf("proposal %d", id))
	})
}

// Proposals lists those of an assignment, the newest first.
func (s *Store) Proposals(ctx context.Context, assignment int64) ([]Proposal, error) {
	return db.List[Proposal](ctx, s.DB, proposalQuery+` WHERE p.assignment_id = ? ORDER BY p.id DESC`, assignment)
}

// Proposal gives one of an assignment.
func (s *Store) Proposal(ctx context.Context, assignment, id int64) (*Proposal, error) {
	var p Proposal
	return &p, s.Get(ctx, &p, proposalQuery+` WHERE p.assignment_id = ? AND p.id = ?`, assignment, id)
}

// Proposed is one submission of a proposal: the job whose result counts, and the one whose result may.
type Proposed struct {
	Submission string `db:"submission_id"`
	New        int64  `db:"job_id"`
	State      string `db:"state"`
	JobState   string `db:"job_state"`
	WasJob     int64  `db:"was_job"` // 0 until it is decided
	Was        string `db:"was"`
}

// Proposed lists the submissions of a proposal.
func (s *Store) Proposed(ctx context.Context, proposal int64) ([]Proposed, error) {
	return db.List[Proposed](ctx, s.DB,
		`SELECT d.submission_id, d.job_id, d.state, j.state AS job_state, coalesce(d.was_job, 0) AS was_job, d.was FROM proposed d JOIN job j ON j.id = d.job_id WHERE d.proposal_id = ? ORDER BY d.submission_id`, proposal)
}

// Moving is one submission whose proposed mark is decided on; Job 0 drops it.
type Moving struct {
	Submission *record.Submission
	Job        int64
	Marks      string
}

// Decide applies or drops proposed marks, all or none of those given. What is decided stays decided; when nothing is
// left to decide the proposal is closed.
func (s *Store) Decide(ctx context.Context, by *record.Account, p *Proposal, moves []Moving) error {
	return s.InTx(ctx, func(tx *sqlx.Tx) error {
		for _, m := range moves {
			state := "discarded"
			if m.Job != 0 {
				state = "applied"
			}
			if err := db.Change(ctx, tx,
				`UPDATE proposed SET state = ?, was_job = ?, was = ? WHERE proposal_id = ? AND submission_id = ? AND state = 'proposed'`,
				state, m.Submission.Job, m.Submission.Marks, p.ID, m.Submission.ID); err != nil {
				return db.Refused("decided", "%s was already decided", m.Submission.ID)
			}
			if m.Job == 0 {
				continue
			}
			if err := db.Change(ctx, tx, `UPDATE submission SET job_id = ?, marks = ? WHERE id = ? AND job_id = ?`,
				m.Job, m.Marks, m.Submission.ID, m.Submission.Job); err != nil {
				return db.Refused("changed", "%s has changed in the meantime; look again", m.Submission.ID)
			}
			detail, err := json.Marshal(map[string]any{"student": m.Submission.Login, "was": m.Submission.Marks,
				"is": m.Marks, "proposal": p.ID})
			if err != nil {
				return err
			}
			if err := s.Note(ctx, tx, by.Login, m.Submission.ClassID, "proposed marks applied", m.Submission.ID,
				string(detail)); err != nil {
				return err
			}
		}
		_, err := tx.ExecContext(ctx,
			`UPDATE proposal SET closed_at = ? WHERE id = ? AND closed_at IS NULL AND NOT EXISTS (SELECT 1 FROM proposed WHERE proposal_id = ? AND state = 'proposed')`,
			s.Now(), p.ID, p.ID)
		return err
	})
}
