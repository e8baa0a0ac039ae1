package backup

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"

	"hemble/service/db"
	"hemble/service/grading"
	"hemble/service/submissions"
)

// Damage is what is wrong with one thing that a data folder or a backup holds, or should hold.
type Damage struct {
	What string `json:"what"` // a file's name, or what in the database
	Text string `json:"text"`
}

// Report is what came of looking through a data folder or a backup.
type Report struct {
	Files, Receipts, Results int // that were found whole
	Damaged                  []Damage
}

func (r *Report) damage(what, format string, args ...any) {
	r.Damaged = append(r.Damaged, Damage{what, fmt.Sprintf(format, args...)})
}

// blobQuery lists every file that the database speaks of, with one of the things that need it.
const blobQuery = `SELECT blob, min(why) AS why FROM (
	SELECT r.blob, 'revision ' || r.number || ' of ' || e.name AS why FROM revision r JOIN exercise e ON e.id = r.exercise_id
	UNION SELECT f.blob, f.path || ' of an exercise' FROM revision_file f
	UNION SELECT s.blob, 'submission ' || s.id FROM submission s
	UNION SELECT s.wiring, 'the wiring of submission ' || s.id FROM submission s
	UNION SELECT b.blob, 'files submitted together' FROM bulk_file b
	UNION SELECT l.blob, 'library ' || l.name FROM library l) WHERE blob <> '' GROUP BY blob ORDER BY blob`

type needed struct {
	Blob string `db:"blob"`
	Why  string `db:"why"`
}

// Verify looks through a data folder: the db.File, each file by its content, each receipt, each mark sheet. A service
// may be at work in it.
func Verify(ctx context.Context, dir string) (*Report, error) {
	file := filepath.Join(dir, db.File)
	if _, err := os.Stat(file); err != nil {
		return nil, db.Missing(dir)
	}
	s, err := db.View(dir, file, "_query_only=on&_busy_timeout=10000")
	if err != nil {
		return nil, err
	}
	defer s.Reads.Close()
	out := &Report{}
	var problems []string
	if err := s.Reads.SelectContext(ctx, &problems, `PRAGMA integrity_check(20)`); err != nil {
		out.damage(db.File, "%s", err)
		return out, nil
	}
	for _, p := range problems {
		if p != "ok" {
			out.damage(db.File, "%s", p)
		}
	}
	blobs, err := db.List[needed](ctx, s, blobQuery)
	if err != nil {
		out.damage(db.File, "%s", err)
		return out, nil
	}
	for _, b := range blobs {
		if ctx.Err() != nil {
			return nil, ctx.Err()
		}
		if _, err := s.Blobs.Get(ctx, b.Blob); err != nil {
			out.damage("files/"+b.Blob[:2]+"/"+b.Blob, "%s: %s", b.Why, plainly(err))
			continue
		}
		out.Files++
	}
	var ids []string
	if err := s.Reads.SelectContext(ctx, &ids, `SELECT id FROM submission ORDER BY id`); err != nil {
		return nil, err
	}
	for _, id := range ids {
		name := "receipts/" + id + ".json"
		text, err := os.ReadFile(filepath.Join(dir, filepath.FromSlash(name)))
		var r submissions.Receipt
		switch {
		case err != nil:
			out.damage(name, "%s", plainly(err))
		case json.Unmarshal(text, &r) != nil || r.ID != id:
			out.damage(name, "it cannot be read")
		default:
			out.Receipts++
		}
	}
	return out, verifySheets(ctx, s, out)
}

func verifySheets(ctx context.Context, s *db.DB, out *Report) error {
	rows, err := s.Reads.QueryContext(ctx,
		`SELECT x.job_id, j.submission_id, x.sheet FROM result x JOIN job j ON j.id = x.job_id ORDER BY x.job_id`)
	if err != nil {
		out.damage(db.File, "%s", err)
		return nil
	}
	defer rows.Close()
	for rows.Next() {
		var job int64
		var submission string
		var packed []byte
		if err := rows.Scan(&job, &submission, &packed); err != nil {
			return err
		}
		if _, err := grading.UnpackSheet(packed); err != nil {
			out.damage("the mark sheet of submission "+submission, "job %d: %s", job, err)
			continue
		}
		out.Results++
	}
	return rows.Err()
}

// plainly says in a few words what is wrong with a file.
func plainly(err error) string {
	if errors.Is(err, fs.ErrNotExist) {
		return "it is missing"
	}
	return err.Error()
}
