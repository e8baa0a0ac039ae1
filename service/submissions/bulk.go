package submissions

import (
	"context"
	"strings"
	"time"

	"github.com/jmoiron/sqlx"

	"hemble/service/db"
	"hemble/service/record"
	"hemble/wire"
)

// Bulk is files submitted together.
type Bulk struct {
	ID      string     `db:"id"`
	Done    bool       `db:"done"`
	Created time.Time  `db:"created"`
	Files   []BulkFile `db:"-"` // wrong kinds first, then doubtful ones, then sure ones
}

// Wire is what the API says of it.
func (b *Bulk) Wire() wire.Bulk {
	out := wire.Bulk{ID: b.ID, Done: b.Done, Created: b.Created, Files: []wire.BulkFile{}}
	for i := range b.Files {
		f := &b.Files[i]
		out.Files = append(out.Files, wire.BulkFile{Number: f.Number, Name: f.Name, Size: f.Size, Login: f.Login,
			Student: f.Student,
			How:     f.How, Sure: f.Sure, Problem: f.Problem, Submission: f.Submission, Candidates: f.Candidates})
	}
	return out
}

// BulkFile is a file that was submitted with others.
type BulkFile struct {
	Number     int          `db:"number"`
	Name       string       `db:"name"`
	Size       int          `db:"size"`
	Login      string       `db:"login"` // whose it is taken for
	Student    string       `db:"student"`
	How        string       `db:"how"`
	Sure       bool         `db:"sure"`
	Problem    string       `db:"problem"` // why it cannot be taken
	Submission string       `db:"submission"`
	Candidates record.Words `db:"candidates"` // logins, the likeliest first
	Blob       string       `db:"blob"`

	Data []byte `db:"-"`
}

// AddBulk keeps files submitted together until they are confirmed.
func (s *Store) AddBulk(ctx context.Context, by *record.Account, assignment int64, files []BulkFile) (id string,
	err error) {
	for i := range files {
		if files[i].Problem != "" { // what cannot be taken is not kept
			continue
		}
		if files[i].Blob, err = s.Blobs.Put(ctx, files[i].Data); err != nil {
			return "", err
		}
	}
	now := s.Now()
	id = newID(now)
	return id, s.InTx(ctx, func(tx *sqlx.Tx) error {
		if _, err := tx.ExecContext(ctx,
			`INSERT INTO bulk (id, assignment_id, account_id, created_at) VALUES (?, ?, ?, ?)`, id, assignment, by.ID,
			now); err != nil {
			return err
		}
		for _, f := range files {
			if _, err := tx.ExecContext(ctx,
				`INSERT INTO bulk_file (bulk_id, number, name, size, blob, login, how, sure, problem, candidates) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?)`,
				id, f.Number, f.Name, f.Size, f.Blob, f.Login, f.How, f.Sure, f.Problem,
				strings.Join(f.Candidates, " ")); err != nil {
				return err
			}
		}
		return nil
	})
}

// Bulk gives files submitted together.
func (s *Store) Bulk(ctx context.Context, assignment int64, id string) (*Bulk, error) {
	var b Bulk
	if err := s.Get(ctx, &b,
		`SELECT id, done_at IS NOT NULL AS done, created_at AS created FROM bulk WHERE id = ? AND assignment_id = ?`,
		id,
		assignment); err != nil {
		return nil, err
	}
	var err error
	b.Files, err = db.List[BulkFile](ctx, s.DB,
		`SELECT f.number, f.name, f.size, f.login, coalesce(a.full_name, '') AS student, f.how, f.sure, f.problem, f.submission_id AS submission, f.blob, f.candidates
		FROM bulk_file f LEFT JOIN account a ON a.name = f.login WHERE f.bulk_id = ? ORDER BY f.problem = '', f.sure, f.number`, id)
	return &b, err
}

// BulkTaken notes what became of one of the files.
func (s *Store) BulkTaken(ctx context.Context, id string, number int, login, submission string) error {
	return s.ChangeOne(ctx, `UPDATE bulk_file SET login = ?, submission_id = ? WHERE bulk_id = ? AND number = ?`, login,
		submission, id, number)
}

// BulkDone closes it.
func (s *Store) BulkDone(ctx context.Context, id string) error {
	return s.ChangeOne(ctx, `UPDATE bulk SET done_at = ? WHERE id = ?`, s.Now(), id)
}
