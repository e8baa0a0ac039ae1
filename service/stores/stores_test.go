package stores

import (
	"bytes"
	"database/sql"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/sheet"
	"hemble/service/backup"
	"hemble/service/blobs"
	"hemble/service/db"
	"hemble/service/grading"
	"hemble/service/ports"
	"hemble/service/submissions"
	"hemble/service/submissions/submissionstest"
	"hemble/wire"
)

// work is a data folder with that many submissions, the first of them marked.
func work(t *testing.T, dir string, n int) *Stores {
	s := open(t, dir)
	f := submissionstest.Fill(t, s.DB, []byte("text"))
	for i := range n {
		f.Hand(t, "a.hex", fmt.Append(nil, "data ", i))
	}
	c, err := s.Grading.Claim(t.Context(), grading.Here)
	require.NoError(t, err)
	require.NoError(t, s.Grading.Finish(t.Context(), c, ports.Result{Sheet: &sheet.Sheet{}, Marks: "0"}))
	return s
}

func kept(t *testing.T, dir string) []string {
	files, err := filepath.Glob(filepath.Join(dir, "files", "*", "*"))
	require.NoError(t, err)
	return files
}

func open(t *testing.T, dir string) *Stores {
	t.Helper()
	s, err := Open(t.Context(), dir, nil)
	require.NoError(t, err)
	t.Cleanup(func() { _ = s.Close() })
	return s
}

// What the first released schema held is there afterwards: exercises, who submitted, attempts, marks, files, receipts.
func TestForwardFromTheFirstSchema(t *testing.T) {
	dir := t.TempDir()
	raw, err := sql.Open("sqlite3", filepath.Join(dir, db.File))
	require.NoError(t, err)
	provider, err := db.Migrations(raw)
	require.NoError(t, err)
	_, err = provider.UpTo(t.Context(), 1)
	require.NoError(t, err)
	text, firmware := []byte("the exercise"), []byte("the firmware")
	old := db.FilesOf(dir)
	hashes := map[string]string{}
	for _, data := range [][]byte{text, firmware} {
		hash, err := old.Put(t.Context(), data)
		require.NoError(t, err)
		// as it was: not packed
		require.NoError(t, os.WriteFile(filepath.Join(dir, "files", hash[:2], hash), data, 0o600))
		require.NoError(t, os.Remove(filepath.Join(dir, "files", hash[:2], hash+blobs.Packed)))
		hashes[string(data)] = hash
	}
	now := time.Now().UTC()
	for _, q := range []string{
		`INSERT INTO account (name, role, password, created_at) VALUES ('Instructor', 'instructor', '$2a$10$x', ?1)`,
		`INSERT INTO exercise (name, created_at) VALUES ('lamps', ?1)`,
		`INSERT INTO revision (exercise_id, number, title, brief, marks, blob, created_at) VALUES (1, 1, 'Lamps', 'Light them.', '10', '` +
			hashes["the exercise"] + `', ?1)`,
		`INSERT INTO submission VALUES ('0aaa', 1, 1, 'R. Oke', 'a.hex', '` + hashes["the firmware"] + `', 1, ?1)`,
		`INSERT INTO submission VALUES ('0bbb', 1, 1, 'R. Oke', 'b.hex', '` + hashes["the firmware"] + `', 2, ?1)`,
		`INSERT INTO submission VALUES ('0ccc', 1, 1, 'V. Stroud', 'c.hex', '` + hashes["the firmware"] + `', 1, ?1)`,
		`INSERT INTO job (submission_id, state, epoch, claim, queued_at, finished_at) VALUES ('0aaa', 'marked', 1, 1, ?1, ?1)`,
		`INSERT INTO job (submission_id, state, queued_at) VALUES ('0bbb', 'queued', ?1)`,
		`INSERT INTO job (submission_id, state, error, queued_at) VALUES ('0ccc', 'failed', 'why', ?1)`,
		`INSERT INTO result VALUES ('0aaa', '7.5', '10', 1, 1, 0, 'first', '{"marks": 7.5, "of": 10, "trials": [], "findings": []}', ?1)`,
	} {
		_, err := raw.Exec(q, now)
		require.NoError(t, err, q)
	}
	require.NoError(t, raw.Close())
	require.NoError(t, os.MkdirAll(filepath.Join(dir, "receipts"), 0o700))
	require.NoError(t,
		os.WriteFile(filepath.Join(dir, "receipts", "0ddd.json"),
			[]byte(`{"id": "0ddd", "exercise": "lamps", "student": "V. Stroud", "file": "d.hex", "blob": "`+
				hashes["the exercise"]+`", "submitted": "2026-01-01T00:00:00Z"}`), 0o600))

	s := open(t, dir)
	keeper, err := s.People.Account(t.Context(), "instructor")
	require.NoError(t, err)
	assert.Equal(t, wire.Admin, keeper.Role)
	classes, err := s.Classes.Classes(t.Context(), keeper)
	require.NoError(t, err)
	require.Len(t, classes, 1)
	assert.Equal(t, 2, classes[0].Students)
	o, err := s.Exercises.Assignment(t.Context(), classes[0].ID, "lamps", 0)
	require.NoError(t, err)
	all, total, err := s.Submissions.Submissions(t.Context(), o.ID, submissions.Filter{})
	require.NoError(t, err)
	assert.Equal(t, 4, total, "the receipt that the database did not know, too")
	assert.Equal(t, "R. Oke", all[0].Student)
	assert.Equal(t, "7.5", all[0].Marks.String())
	assert.Equal(t, wire.Queued, all[1].State)
	assert.Equal(t, "why", all[2].Error)
	assert.Equal(t, "0ddd", all[3].ID)
	assert.Equal(t, 2, all[3].Attempt)
	sh, err := s.Grading.Sheet(t.Context(), all[0].Job)
	require.NoError(t, err)
	assert.Equal(t, "7.5", sh.Marks.String())
	data, err := s.Blobs.Get(t.Context(), all[0].Blob)
	require.NoError(t, err)
	assert.Equal(t, firmware, data)
	var b bytes.Buffer
	_, err = backup.Write(t.Context(), s.DB, &b)
	require.NoError(t, err)
	_, err = backup.Restore(t.Context(), &b, filepath.Join(t.TempDir(), "new"))
	require.NoError(t, err)
}

// A data folder is its owner's alone, and what a killed service left half made is swept out.
func TestTidy(t *testing.T) {
	dir := t.TempDir()
	require.NoError(t, work(t, dir, 1).Close())
	require.NoError(t, os.Chmod(dir, 0o777))
	require.NoError(t, os.Chmod(filepath.Join(dir, db.File), 0o666))
	left := []string{".backup-1/hemble.db", "receipts/.new-2", "files/ab/.new-3", "reels/1-0.json.gz.new",
		"cache/build/making-4"}
	for _, name := range left {
		require.NoError(t, os.MkdirAll(filepath.Dir(filepath.Join(dir, name)), 0o755))
		require.NoError(t, os.WriteFile(filepath.Join(dir, name), []byte("x"), 0o644))
	}
	open(t, dir)
	for _, name := range left {
		_, err := os.Stat(filepath.Join(dir, name))
		assert.Error(t, err, name)
	}
	for name, want := range map[string]os.FileMode{".": 0o700, db.File: 0o600, "receipts": 0o700} {
		info, err := os.Stat(filepath.Join(dir, name))
		require.NoError(t, err)
		assert.Equal(t, want, info.Mode().Perm(), name)
	}
}

// A change that was computed from what has changed meanwhile is refused whole.
func TestVersions(t *testing.T) {
	s := work(t, t.TempDir(), 1)
	ctx := t.Context()
	by, err := s.People.Account(ctx, "keeper")
	require.NoError(t, err)
	c, err := s.Classes.Class(ctx, by, "lock")
	require.NoError(t, err)
	key := db.ClassKey(c.ID)
	at, err := s.Version(ctx, key)
	require.NoError(t, err)
	assert.Equal(t, int64(1), at, "the result of the one submission")
	first, second := db.Holding(ctx, key, at), db.Holding(ctx, key, at)
	require.NoError(t, s.Classes.PutMember(first, "keeper", c.ID, "a", wire.SetMember{Name: "A", Role: wire.Student}))
	require.NoError(t, s.Classes.PutMember(first, "keeper", c.ID, "b", wire.SetMember{Name: "B", Role: wire.Student}),
		"the same call goes on from its own change")
	assert.ErrorIs(t, s.Classes.PutMember(second, "keeper", c.ID, "c", wire.SetMember{Name: "C", Role: wire.Student}),
		db.ErrChanged)
	_, err = s.Classes.Student(ctx, c.ID, "c")
	assert.ErrorIs(t, err, db.ErrNotFound)
	require.NoError(t, s.Classes.PutMember(db.Changing(ctx, key), "keeper", c.ID, "c",
		wire.SetMember{Name: "C", Role: wire.Student}))
	now, err := s.Version(ctx, key)
	require.NoError(t, err)
	assert.Equal(t, at+3, now)
}

// A database that is damaged, gone or of a newer release is told at the start, and nothing is served of it or changed.
func TestRefusedDatabase(t *testing.T) {
	for name, c := range map[string]struct {
		spoil func(t *testing.T, dir string)
		want  string
	}{
		"gone": {func(t *testing.T, dir string) {
			for _, end := range []string{"", "-wal", "-shm"} {
				_ = os.Remove(filepath.Join(dir, db.File+end))
			}
		}, "the receipts of 3 submissions, and no database"},
		"empty": {func(t *testing.T, dir string) {
			_ = os.Remove(filepath.Join(dir, db.File+"-wal"))
			require.NoError(t, os.WriteFile(filepath.Join(dir, db.File), nil, 0o600))
		}, "and no database"},
		"nonsense": {func(t *testing.T, dir string) {
			require.NoError(t, os.WriteFile(filepath.Join(dir, db.File), []byte(strings.Repeat("nonsense ", 5000)),
				0o600))
		}, "is damaged"},
		"pages": {func(t *testing.T, dir string) {
			f, err := os.OpenFile(filepath.Join(dir, db.File), os.O_RDWR, 0)
			require.NoError(t, err)
			_, err = f.WriteAt(bytes.Repeat([]byte{0x55}, 12_000), 8192)
			require.NoError(t, err)
			require.NoError(t, f.Close())
		}, "is damaged"},
		"newer": {func(t *testing.T, dir string) {
			s := open(t, dir)
			_, err := s.Writes.Exec(`INSERT INTO goose_db_version (version_id, is_applied) VALUES (99, 1)`)
			require.NoError(t, err)
			require.NoError(t, s.Close())
		}, "is of a newer release (schema 99"},
	} {
		t.Run(name, func(t *testing.T) {
			dir := t.TempDir()
			require.NoError(t, work(t, dir, 3).Close())
			c.spoil(t, dir)
			_, err := Open(t.Context(), dir, nil)
			assert.ErrorContains(t, err, c.want)
			assert.Len(t, kept(t, dir), 4, "nothing is lost by the try")
		})
	}
}
