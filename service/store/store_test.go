package store

import (
	"bytes"
	"database/sql"
	"io/fs"
	"math/big"
	"os"
	"path/filepath"
	"testing"
	"time"

	"github.com/pressly/goose/v3"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/sheet"
	"hemble/service/blobs"
	"hemble/service/ports"
	"hemble/wire"
)

func open(t *testing.T, dir string) *Store {
	s, err := Open(t.Context(), dir, nil)
	require.NoError(t, err)
	return s
}

// submitted is a store with one submission of one student.
func submitted(t *testing.T, dir string) (*Store, string) { return submittedAt(t, dir, nil) }

// submittedAt is one with a clock.
func submittedAt(t *testing.T, dir string, now func() time.Time) (*Store, string) {
	s, err := Open(t.Context(), dir, now)
	require.NoError(t, err)
	keeper := Account{Login: "keeper", Name: "I. Keeper", Role: wire.Admin, Password: "x"}
	made, err := s.AddFirst(t.Context(), keeper)
	require.NoError(t, err)
	require.True(t, made)
	by, err := s.Account(t.Context(), "keeper")
	require.NoError(t, err)
	require.NoError(t, s.AddClass(t.Context(), by, "lock", "Lock"))
	c, err := s.Class(t.Context(), by, "lock")
	require.NoError(t, err)
	require.NoError(t, s.PutMember(t.Context(), "keeper", c.ID, "oke", wire.SetMember{Name: "R. Oke", Role: wire.Student}))
	require.NoError(t, s.PutExercise(t.Context(), by, NewRevision{Name: "x", Title: "X", Marks: "1", Text: []byte("text")}))
	require.NoError(t, s.Open(t.Context(), "keeper", c.ID, "x", wire.SetOpening{Terms: wire.Terms{Opens: s.Now(), Late: wire.LateFull, Counts: wire.CountsBest, ShowSheet: wire.AtOnce, ShowMarks: wire.AtOnce}}))
	return s, hand(t, s, "data")
}

func hand(t *testing.T, s *Store, data string) string {
	by, err := s.Account(t.Context(), "keeper")
	require.NoError(t, err)
	c, err := s.Class(t.Context(), by, "lock")
	require.NoError(t, err)
	o, err := s.Opening(t.Context(), c.ID, "x", 0)
	require.NoError(t, err)
	oke, err := s.Student(t.Context(), c.ID, "oke")
	require.NoError(t, err)
	id, _, err := s.Submit(t.Context(), Handed{Opening: o, Student: oke, By: by, File: "a.hex", Data: []byte(data)})
	require.NoError(t, err)
	return id
}

// A result is recorded exactly once, and only by the claim that holds.
func TestClaims(t *testing.T) {
	dir := t.TempDir()
	s, id := submitted(t, dir)
	one := &sheet.Sheet{Marks: sheet.NewMarks(big.NewRat(1, 2)), Of: sheet.NewMarks(big.NewRat(1, 1))}

	first, err := s.Claim(t.Context(), Here)
	require.NoError(t, err)
	assert.Equal(t, id, first.Submission)
	_, err = s.Claim(t.Context(), Here)
	assert.ErrorIs(t, err, ports.ErrNone, "one job is claimed once")

	require.NoError(t, s.Release(t.Context(), first))
	second, err := s.Claim(t.Context(), Here)
	require.NoError(t, err)
	require.NoError(t, s.Close()) // as if it had died

	s = open(t, dir)
	defer s.Close()
	third, err := s.Claim(t.Context(), Here)
	require.NoError(t, err)
	assert.ErrorIs(t, s.Finish(t.Context(), second, ports.Result{Sheet: one, Marks: "0.5"}), ports.ErrStale, "the claim of an earlier life is stale")
	require.NoError(t, s.Finish(t.Context(), third, ports.Result{Sheet: one, Marks: "0.5"}))
	assert.ErrorIs(t, s.Finish(t.Context(), third, ports.Result{Sheet: one, Marks: "0.5"}), ports.ErrStale)
	assert.ErrorIs(t, s.Fail(t.Context(), third, "x"), ports.ErrStale)
	sub, err := s.Submission(t.Context(), id)
	require.NoError(t, err)
	assert.Equal(t, "0.5", sub.Marks.String())
	sh, err := s.Sheet(t.Context(), sub.Job)
	require.NoError(t, err)
	assert.Equal(t, "0.5", sh.Marks.String())
}

// A submission over which the service dies again and again is set aside with the reason, and can be queued once more.
func TestPoison(t *testing.T) {
	dir := t.TempDir()
	s, id := submitted(t, dir)
	for i := 0; i < maxTries; i++ {
		_, err := s.Claim(t.Context(), Here)
		require.NoError(t, err)
		require.NoError(t, s.Close())
		s = open(t, dir)
	}
	defer s.Close()
	_, err := s.Claim(t.Context(), Here)
	assert.ErrorIs(t, err, ports.ErrNone)
	sub, err := s.Submission(t.Context(), id)
	require.NoError(t, err)
	assert.Equal(t, wire.Failed, sub.State)
	q, err := s.QueueState(t.Context())
	require.NoError(t, err)
	require.Len(t, q.Aside, 1)
	assert.Contains(t, q.Aside[0].Error, "died each time")
	require.NoError(t, s.Retry(t.Context(), "keeper", q.Aside[0].Job))
	_, err = s.Claim(t.Context(), Here)
	assert.NoError(t, err)
}

// A student who waits goes before a remark.
func TestOrderOfTheQueue(t *testing.T) {
	s, id := submitted(t, t.TempDir())
	defer s.Close()
	c, err := s.Claim(t.Context(), Here)
	require.NoError(t, err)
	require.NoError(t, s.Finish(t.Context(), c, ports.Result{Sheet: &sheet.Sheet{}, Marks: "0"}))
	by, err := s.Account(t.Context(), "keeper")
	require.NoError(t, err)
	o, err := s.OpeningOf(t.Context(), id)
	require.NoError(t, err)
	require.NoError(t, s.PutExercise(t.Context(), by, NewRevision{Name: "x", Title: "X", Marks: "1", Text: []byte("other text")}))
	rev, err := s.Revision(t.Context(), "x", 0)
	require.NoError(t, err)
	_, err = s.Propose(t.Context(), by, o, rev.ID)
	require.NoError(t, err)
	waiting := hand(t, s, "newer data")
	c, err = s.Claim(t.Context(), Here)
	require.NoError(t, err)
	assert.Equal(t, waiting, c.Submission)
	c, err = s.Claim(t.Context(), Here)
	require.NoError(t, err)
	assert.Equal(t, id, c.Submission)
}

// A cancelled submission is never marked, and does not count.
func TestCancel(t *testing.T) {
	s, id := submitted(t, t.TempDir())
	defer s.Close()
	sub, err := s.Submission(t.Context(), id)
	require.NoError(t, err)
	c, err := s.Claim(t.Context(), Here)
	require.NoError(t, err)
	require.NoError(t, s.Cancel(t.Context(), "oke", sub))
	assert.ErrorIs(t, s.Finish(t.Context(), c, ports.Result{Sheet: &sheet.Sheet{}, Marks: "1"}), ports.ErrStale)
	var refusal *Refusal
	assert.ErrorAs(t, s.Cancel(t.Context(), "oke", sub), &refusal)
	again := hand(t, s, "data")
	assert.NotEqual(t, id, again, "the same file may be handed in again")
}

// What the first released schema held is there afterwards: exercises, who handed in, attempts, marks, files, receipts.
func TestForwardFromTheFirstSchema(t *testing.T) {
	dir := t.TempDir()
	db, err := sql.Open("sqlite3", filepath.Join(dir, database))
	require.NoError(t, err)
	sub, err := fs.Sub(migrations, "migrations")
	require.NoError(t, err)
	provider, err := goose.NewProvider(goose.DialectSQLite3, db, sub)
	require.NoError(t, err)
	_, err = provider.UpTo(t.Context(), 1)
	require.NoError(t, err)
	text, firmware := []byte("the exercise"), []byte("the firmware")
	old := filesOf(dir)
	hashes := map[string]string{}
	for _, data := range [][]byte{text, firmware} {
		hash, err := old.Put(t.Context(), data)
		require.NoError(t, err)
		require.NoError(t, os.WriteFile(filepath.Join(dir, "files", hash[:2], hash), data, 0o600)) // as it was: not packed
		require.NoError(t, os.Remove(filepath.Join(dir, "files", hash[:2], hash+blobs.Packed)))
		hashes[string(data)] = hash
	}
	now := time.Now().UTC()
	for _, q := range []string{
		`INSERT INTO account (name, role, password, created_at) VALUES ('Instructor', 'instructor', '$2a$10$x', ?1)`,
		`INSERT INTO exercise (name, created_at) VALUES ('lamps', ?1)`,
		`INSERT INTO revision (exercise_id, number, title, brief, marks, blob, created_at) VALUES (1, 1, 'Lamps', 'Light them.', '10', '` + hashes["the exercise"] + `', ?1)`,
		`INSERT INTO submission VALUES ('0aaa', 1, 1, 'R. Oke', 'a.hex', '` + hashes["the firmware"] + `', 1, ?1)`,
		`INSERT INTO submission VALUES ('0bbb', 1, 1, 'R. Oke', 'b.hex', '` + hashes["the firmware"] + `', 2, ?1)`,
		`INSERT INTO submission VALUES ('0ccc', 1, 1, 'V. Stroud', 'c.hex', '` + hashes["the firmware"] + `', 1, ?1)`,
		`INSERT INTO job (submission_id, state, epoch, claim, queued_at, finished_at) VALUES ('0aaa', 'marked', 1, 1, ?1, ?1)`,
		`INSERT INTO job (submission_id, state, queued_at) VALUES ('0bbb', 'queued', ?1)`,
		`INSERT INTO job (submission_id, state, error, queued_at) VALUES ('0ccc', 'failed', 'why', ?1)`,
		`INSERT INTO result VALUES ('0aaa', '7.5', '10', 1, 1, 0, 'first', '{"marks": 7.5, "of": 10, "trials": [], "findings": []}', ?1)`,
	} {
		_, err := db.Exec(q, now)
		require.NoError(t, err, q)
	}
	require.NoError(t, db.Close())
	require.NoError(t, os.MkdirAll(filepath.Join(dir, "receipts"), 0o700))
	require.NoError(t, os.WriteFile(filepath.Join(dir, "receipts", "0ddd.json"), []byte(`{"id": "0ddd", "exercise": "lamps", "student": "V. Stroud", "file": "d.hex", "blob": "`+hashes["the exercise"]+`", "submitted": "2026-01-01T00:00:00Z"}`), 0o600))

	s := open(t, dir)
	defer s.Close()
	keeper, err := s.Account(t.Context(), "instructor")
	require.NoError(t, err)
	assert.Equal(t, wire.Admin, keeper.Role)
	classes, err := s.Classes(t.Context(), keeper)
	require.NoError(t, err)
	require.Len(t, classes, 1)
	assert.Equal(t, 2, classes[0].Students)
	o, err := s.Opening(t.Context(), classes[0].ID, "lamps", 0)
	require.NoError(t, err)
	all, total, err := s.Submissions(t.Context(), o.ID, Filter{})
	require.NoError(t, err)
	assert.Equal(t, 4, total, "the receipt that the database did not know, too")
	assert.Equal(t, "R. Oke", all[0].Student)
	assert.Equal(t, "7.5", all[0].Marks.String())
	assert.Equal(t, wire.Queued, all[1].State)
	assert.Equal(t, "why", all[2].Error)
	assert.Equal(t, "0ddd", all[3].ID)
	assert.Equal(t, 2, all[3].Attempt)
	sh, err := s.Sheet(t.Context(), all[0].Job)
	require.NoError(t, err)
	assert.Equal(t, "7.5", sh.Marks.String())
	data, err := s.Blobs.Get(t.Context(), all[0].Blob)
	require.NoError(t, err)
	assert.Equal(t, firmware, data)
	var b bytes.Buffer
	_, err = s.Backup(t.Context(), &b)
	require.NoError(t, err)
	_, err = Restore(t.Context(), &b, filepath.Join(t.TempDir(), "new"))
	require.NoError(t, err)
}

// The cache of reels forgets what was looked at longest ago.
func TestReelsForget(t *testing.T) {
	dir := t.TempDir()
	now := time.Now()
	for i, name := range []string{"1-0.json.gz", "2-0.json.gz", "3-0.json.gz"} {
		path := filepath.Join(dir, name)
		require.NoError(t, os.WriteFile(path, make([]byte, 100), 0o600))
		require.NoError(t, os.Chtimes(path, now.Add(time.Duration(i)*time.Minute), now.Add(time.Duration(i)*time.Minute)))
	}
	c := reels{Most: 280}
	require.NoError(t, c.added(dir, 100))
	left, err := os.ReadDir(dir)
	require.NoError(t, err)
	require.Len(t, left, 2)
	assert.Equal(t, "2-0.json.gz", left[0].Name())
	assert.Equal(t, int64(200), c.size)
}
