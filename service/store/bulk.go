package store

import (
	"context"
	"strings"

	"github.com/jmoiron/sqlx"

	"hemble/wire"
)

// BulkFile is a file that was handed in with others.
type BulkFile struct {
	wire.BulkFile
	Data []byte `json:"-"`
	List string `json:"list"` // the candidates, with spaces between
	Blob string `json:"blob"`
}

// AddBulk keeps files handed in together until they are confirmed.
func (s *Store) AddBulk(ctx context.Context, by *Account, opening int64, files []BulkFile) (id string, err error) {
	for i := range files {
		if files[i].Problem != "" { // what cannot be taken is not kept
			continue
		}
		if files[i].Blob, err = s.Blobs.Put(ctx, files[i].Data); err != nil {
			return "", err
		}
	}
	now := s.now()
	id = newID(now)
	return id, s.inTx(ctx, func(tx *sqlx.Tx) error {
		if _, err := tx.ExecContext(ctx, `INSERT INTO bulk (id, opening_id, account_id, created_at) VALUES (?, ?, ?, ?)`, id, opening, by.ID, now); err != nil {
			return err
		}
		for _, f := range files {
			if _, err := tx.ExecContext(ctx, `INSERT INTO bulk_file (bulk_id, number, name, size, blob, login, how, sure, problem, candidates) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?)`,
				id, f.Number, f.Name, f.Size, f.Blob, f.Login, f.How, f.Sure, f.Problem, strings.Join(f.Candidates, " ")); err != nil {
				return err
			}
		}
		return nil
	})
}

// Bulk gives files handed in together: wrong kinds first, then doubtful ones.
func (s *Store) Bulk(ctx context.Context, opening int64, id string) (*wire.Bulk, []BulkFile, error) {
	var b wire.Bulk
	if err := s.get(ctx, &b, `SELECT id, done_at IS NOT NULL AS done, created_at AS created FROM bulk WHERE id = ? AND opening_id = ?`, id, opening); err != nil {
		return nil, nil, err
	}
	files, err := list[BulkFile](ctx, s, `SELECT f.number, f.name, f.size, f.login, coalesce(a.full_name, '') AS student, f.how, f.sure, f.problem, f.submission_id AS submission, f.blob, f.candidates AS list
		FROM bulk_file f LEFT JOIN account a ON a.name = f.login WHERE f.bulk_id = ? ORDER BY f.problem = '', f.sure, f.number`, id)
	b.Files = []wire.BulkFile{}
	for i, f := range files {
		f.Candidates = strings.Fields(f.List)
		files[i] = f
		b.Files = append(b.Files, f.BulkFile)
	}
	return &b, files, err
}

// BulkTaken notes what became of one of the files.
func (s *Store) BulkTaken(ctx context.Context, id string, number int, login, submission string) error {
	return s.changeOne(ctx, `UPDATE bulk_file SET login = ?, submission_id = ? WHERE bulk_id = ? AND number = ?`, login, submission, id, number)
}

// BulkDone closes it.
func (s *Store) BulkDone(ctx context.Context, id string) error {
	return s.changeOne(ctx, `UPDATE bulk SET done_at = ? WHERE id = ?`, s.now(), id)
}
