package backup

import (
	"archive/tar"
	"bytes"
	"compress/gzip"
	"fmt"
	"math/big"
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/sheet"
	"hemble/service/db"
	"hemble/service/grading"
	"hemble/service/ports"
	"hemble/service/stores"
	"hemble/service/submissions/submissionstest"
)

// work is a data folder with that many submissions, the first of them marked.
func work(t *testing.T, dir string, n int) *stores.Stores {
	s, err := stores.Open(t.Context(), dir, nil)
	require.NoError(t, err)
	t.Cleanup(func() { _ = s.Close() })
	f := submissionstest.Fill(t, s.DB, []byte("text"))
	for i := range n {
		f.Hand(t, "a.hex", fmt.Append(nil, "data ", i))
	}
	c, err := s.Grading.Claim(t.Context(), grading.Here)
	require.NoError(t, err)
	one := &sheet.Sheet{Marks: sheet.NewMarks(big.NewRat(1, 2)), Of: sheet.NewMarks(big.NewRat(1, 1))}
	require.NoError(t, s.Grading.Finish(t.Context(), c, ports.Result{Sheet: one, Marks: "0.5"}))
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
	damaged, err := Write(t.Context(), s.DB, &b)
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
	again, err := stores.Open(t.Context(), restored, nil)
	require.NoError(t, err)
	defer again.Close()
	n, err := again.Grading.Count(t.Context())
	require.NoError(t, err)
	assert.Equal(t, 6, n.Submissions, "none is gone, though the files of two are")
	_, err = os.Stat(filepath.Join(restored, "damaged.json"))
	assert.Error(t, err)
}

// A backup that was altered or cut off on its way is restored as far as it is whole.
func TestDamagedBackup(t *testing.T) {
	s := work(t, t.TempDir(), 6)
	var b bytes.Buffer
	_, err := Write(t.Context(), s.DB, &b)
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
		if name == db.File {
			data = bytes.Clone(data)
			for k := 5000; k < 9000; k++ {
				data[k] ^= 0x55
			}
		}
		return data
	}))
	assert.ErrorContains(t, err, "database of the backup is damaged")
	_, err = restore(pack(func(i int, name string, data []byte) []byte {
		if name == db.File {
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
