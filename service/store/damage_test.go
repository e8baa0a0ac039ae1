package store

import (
	"archive/tar"
	"bytes"
	"compress/gzip"
	"fmt"
	"math/big"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/sheet"
	"hemble/service/ports"
	"hemble/wire"
)

// work is a store with so many submissions, the first of them marked.
func work(t *testing.T, dir string, n int) *Store {
	s, _ := submitted(t, dir)
	c, err := s.Claim(t.Context(), Here)
	require.NoError(t, err)
	one := &sheet.Sheet{Marks: sheet.NewMarks(big.NewRat(1, 2)), Of: sheet.NewMarks(big.NewRat(1, 1))}
	require.NoError(t, s.Finish(t.Context(), c, ports.Result{Sheet: one, Marks: "0.5"}))
	for i := 1; i < n; i++ {
		hand(t, s, fmt.Sprintf("data %d", i))
	}
	return s
}

func kept(t *testing.T, dir string) []string {
	files, err := filepath.Glob(filepath.Join(dir, "files", "*", "*"))
	require.NoError(t, err)
	return files
}

// One damaged and one missing file neither break a backup off nor spoil it: it names them, and all the rest comes back.
func TestDamagedFiles(t *testing.T) {
	dir := t.TempDir()
	s := work(t, dir, 6)
	files := kept(t, dir)
	require.Len(t, files, 7) // six submissions and the exercise
	require.NoError(t, os.Remove(files[1]))
	require.NoError(t, os.WriteFile(files[3], []byte("nonsense"), 0o600))
	receipts, err := filepath.Glob(filepath.Join(dir, "receipts", "*.json"))
	require.NoError(t, err)
	require.NoError(t, os.Remove(receipts[2]))

	report, err := Verify(t.Context(), dir)
	require.NoError(t, err)
	assert.Len(t, report.Damaged, 3)
	assert.Equal(t, []int{5, 5, 1}, []int{report.Files, report.Receipts, report.Results})

	var b bytes.Buffer
	damaged, err := s.Backup(t.Context(), &b)
	require.NoError(t, err)
	require.Len(t, damaged, 3)
	assert.Contains(t, damaged[0].Text, "it is missing")
	assert.Contains(t, damaged[1].Text, "its content is not what its name says")
	require.NoError(t, s.Close())

	inBackup, err := VerifyBackup(t.Context(), bytes.NewReader(b.Bytes()))
	require.NoError(t, err)
	assert.Len(t, inBackup.Damaged, 3)
	restored := filepath.Join(t.TempDir(), "restored")
	report, err = Restore(t.Context(), bytes.NewReader(b.Bytes()), restored)
	require.NoError(t, err)
	require.Len(t, report.Damaged, 3)
	assert.Contains(t, report.Damaged[0].Text, "(when the backup was made)")
	assert.Len(t, kept(t, restored), 5)
	again := open(t, restored)
	defer again.Close()
	n, err := again.Count(t.Context())
	require.NoError(t, err)
	assert.Equal(t, 6, n.Submissions, "none is gone, though the files of two are")
	_, err = os.Stat(filepath.Join(restored, damagedList))
	assert.Error(t, err)
}

// A backup that was altered or cut off on its way is restored as far as it is whole.
func TestDamagedBackup(t *testing.T) {
	s := work(t, t.TempDir(), 6)
	var b bytes.Buffer
	_, err := s.Backup(t.Context(), &b)
	require.NoError(t, err)
	require.NoError(t, s.Close())
	entries := entriesOf(t, b.Bytes())
	pack := func(change func(i int, name string, data []byte) []byte) []byte {
		var out bytes.Buffer
		z := gzip.NewWriter(&out)
		w := tar.NewWriter(z)
		for i, e := range entries {
			if data := change(i, e.name, e.data); data != nil {
				require.NoError(t, addBytes(w, e.name, data))
			}
		}
		require.NoError(t, w.Close())
		require.NoError(t, z.Close())
		return out.Bytes()
	}
	restore := func(data []byte) (*Report, error) {
		return Restore(t.Context(), bytes.NewReader(data), filepath.Join(t.TempDir(), "new"))
	}
	report, err := restore(pack(func(i int, name string, data []byte) []byte {
		if i == 2 {
			return append([]byte("x"), data...)
		}
		return data
	}))
	require.NoError(t, err)
	assert.Len(t, report.Damaged, 1)

	report, err = restore(b.Bytes()[:b.Len()-200])
	require.NoError(t, err, "cut off behind the database")
	assert.NotEmpty(t, report.Damaged)

	_, err = restore(pack(func(i int, name string, data []byte) []byte {
		if name == database {
			data = bytes.Clone(data)
			for k := 5000; k < 9000; k++ {
				data[k] ^= 0x55
			}
		}
		return data
	}))
	assert.ErrorContains(t, err, "database of the backup is damaged")
	_, err = restore(pack(func(i int, name string, data []byte) []byte {
		if name == database {
			return nil
		}
		return data
	}))
	assert.ErrorContains(t, err, "holds no database")
	entries[1].name = "files/../../x"
	_, err = restore(pack(func(i int, name string, data []byte) []byte { return data }))
	assert.ErrorContains(t, err, "this is no backup: it holds")
}

type entry struct {
	name string
	data []byte
}

func entriesOf(t *testing.T, archive []byte) (out []entry) {
	z, err := gzip.NewReader(bytes.NewReader(archive))
	require.NoError(t, err)
	for r := tar.NewReader(z); ; {
		h, err := r.Next()
		if err != nil {
			return out
		}
		var b bytes.Buffer
		_, err = b.ReadFrom(r)
		require.NoError(t, err)
		out = append(out, entry{h.Name, b.Bytes()})
	}
}

// A database that is damaged, gone or of a newer release is told at the start, and nothing is served of it or changed.
func TestRefusedDatabase(t *testing.T) {
	for name, c := range map[string]struct {
		spoil func(t *testing.T, dir string)
		want  string
	}{
		"gone": {func(t *testing.T, dir string) {
			for _, end := range []string{"", "-wal", "-shm"} {
				_ = os.Remove(filepath.Join(dir, database+end))
			}
		}, "the receipts of 3 submissions, and no database"},
		"empty": {func(t *testing.T, dir string) {
			_ = os.Remove(filepath.Join(dir, database+"-wal"))
			require.NoError(t, os.WriteFile(filepath.Join(dir, database), nil, 0o600))
		}, "and no database"},
		"nonsense": {func(t *testing.T, dir string) {
			require.NoError(t, os.WriteFile(filepath.Join(dir, database), []byte(strings.Repeat("nonsense ", 5000)), 0o600))
		}, "is damaged"},
		"pages": {func(t *testing.T, dir string) {
			f, err := os.OpenFile(filepath.Join(dir, database), os.O_RDWR, 0)
			require.NoError(t, err)
			_, err = f.WriteAt(bytes.Repeat([]byte{0x55}, 12_000), 8192)
			require.NoError(t, err)
			require.NoError(t, f.Close())
		}, "is damaged"},
		"newer": {func(t *testing.T, dir string) {
			s := open(t, dir)
			_, err := s.write.Exec(`INSERT INTO goose_db_version (version_id, is_applied) VALUES (99, 1)`)
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

// A data folder is its owner's alone, and what a killed service left half made is swept out.
func TestTidy(t *testing.T) {
	dir := t.TempDir()
	require.NoError(t, work(t, dir, 1).Close())
	require.NoError(t, os.Chmod(dir, 0o777))
	require.NoError(t, os.Chmod(filepath.Join(dir, database), 0o666))
	left := []string{".backup-1/hemble.db", "receipts/.new-2", "files/ab/.new-3", "reels/1-0.json.gz.new", "cache/build/making-4"}
	for _, name := range left {
		require.NoError(t, os.MkdirAll(filepath.Dir(filepath.Join(dir, name)), 0o755))
		require.NoError(t, os.WriteFile(filepath.Join(dir, name), []byte("x"), 0o644))
	}
	s := open(t, dir)
	defer s.Close()
	for _, name := range left {
		_, err := os.Stat(filepath.Join(dir, name))
		assert.Error(t, err, name)
	}
	for name, want := range map[string]os.FileMode{".": 0o700, database: 0o600, "receipts": 0o700} {
		info, err := os.Stat(filepath.Join(dir, name))
		require.NoError(t, err)
		assert.Equal(t, want, info.Mode().Perm(), name)
	}
}

// Classes take turns, and within a class those who hand in: sixty of one hold up another's one by a single turn.
func TestTurns(t *testing.T) {
	s := work(t, t.TempDir(), 1)
	defer s.Close()
	ctx := t.Context()
	keeper, err := s.Account(ctx, "keeper")
	require.NoError(t, err)
	who := map[string]string{} // submission by person and class
	give := func(class, login string, n int) {
		if _, err := s.Class(ctx, keeper, class); err != nil {
			require.NoError(t, s.AddClass(ctx, keeper, class, class))
		}
		c, err := s.Class(ctx, keeper, class)
		require.NoError(t, err)
		require.NoError(t, s.PutMember(ctx, "keeper", c.ID, login, wire.SetMember{Name: login, Role: wire.Student}))
		require.NoError(t, s.Open(ctx, "keeper", c.ID, "x", wire.SetOpening{Terms: wire.Terms{Opens: s.Now(), Late: wire.LateFull, Counts: wire.CountsBest, ShowSheet: wire.AtOnce, ShowMarks: wire.AtOnce}}))
		o, err := s.Opening(ctx, c.ID, "x", 0)
		require.NoError(t, err)
		m, err := s.Student(ctx, c.ID, login)
		require.NoError(t, err)
		by, err := s.Account(ctx, login)
		require.NoError(t, err)
		for i := range n {
			id, _, err := s.Submit(ctx, Handed{Opening: o, Student: m, By: by, File: "a.hex", Data: []byte(login + fmt.Sprint(i))})
			require.NoError(t, err)
			who[id] = login
		}
	}
	next := func() string {
		c, err := s.Claim(ctx, Here)
		require.NoError(t, err)
		return who[c.Submission]
	}
	give("lock", "bulk", 60)
	assert.Equal(t, "bulk", next())
	give("lock", "oke", 2)
	line, err := s.Line(ctx)
	require.NoError(t, err)
	for id, login := range who {
		sub, err := s.Submission(ctx, id)
		require.NoError(t, err)
		if login == "oke" {
			assert.Contains(t, []int{1, 3}, line.Ahead(sub.Job))
		}
	}
	assert.Equal(t, []string{"oke", "bulk", "oke", "bulk", "bulk"}, []string{next(), next(), next(), next(), next()})
	give("weir", "lee", 30)
	give("weir", "marsh", 1)
	assert.Equal(t, []string{"lee", "bulk", "marsh", "bulk", "lee", "bulk"}, []string{next(), next(), next(), next(), next(), next()})
}

// Tries are counted before they are looked at, over a restart, too.
func TestTries(t *testing.T) {
	dir := t.TempDir()
	now := time.Date(2026, 5, 4, 8, 0, 0, 0, time.UTC)
	at := func() *Store {
		s, err := Open(t.Context(), dir, func() time.Time { return now })
		require.NoError(t, err)
		return s
	}
	s := at()
	try := func() bool {
		until, err := s.Try(t.Context(), "login x", 10, 5*time.Minute)
		require.NoError(t, err)
		return until.IsZero()
	}
	for range 10 {
		assert.True(t, try())
	}
	require.NoError(t, s.Close())
	s = at()
	assert.False(t, try(), "the eleventh, after a restart")
	require.NoError(t, s.Close())
	s = at()
	defer s.Close()
	now = now.Add(4 * time.Minute)
	assert.False(t, try())
	now = now.Add(2 * time.Minute)
	for range 9 {
		assert.True(t, try())
	}
	require.NoError(t, s.Right(t.Context(), "login x", true))
	for range 10 {
		assert.True(t, try())
	}
	require.NoError(t, s.Right(t.Context(), "login x", false))
	assert.True(t, try())
	assert.False(t, try())
}

// A change that was worked out from what has changed meanwhile is refused whole.
func TestVersions(t *testing.T) {
	s := work(t, t.TempDir(), 1)
	defer s.Close()
	ctx := t.Context()
	by, err := s.Account(ctx, "keeper")
	require.NoError(t, err)
	c, err := s.Class(ctx, by, "lock")
	require.NoError(t, err)
	key := ClassKey(c.ID)
	at, err := s.Version(ctx, key)
	require.NoError(t, err)
	assert.Equal(t, int64(1), at, "the result of the one submission")
	first, second := Holding(ctx, key, at), Holding(ctx, key, at)
	require.NoError(t, s.PutMember(first, "keeper", c.ID, "a", wire.SetMember{Name: "A", Role: wire.Student}))
	require.NoError(t, s.PutMember(first, "keeper", c.ID, "b", wire.SetMember{Name: "B", Role: wire.Student}), "the same call goes on from its own change")
	assert.ErrorIs(t, s.PutMember(second, "keeper", c.ID, "c", wire.SetMember{Name: "C", Role: wire.Student}), ErrChanged)
	_, err = s.Student(ctx, c.ID, "c")
	assert.ErrorIs(t, err, ErrNotFound)
	require.NoError(t, s.PutMember(Changing(ctx, key), "keeper", c.ID, "c", wire.SetMember{Name: "C", Role: wire.Student}))
	now, err := s.Version(ctx, key)
	require.NoError(t, err)
	assert.Equal(t, at+3, now)
}
