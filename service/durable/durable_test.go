package durable

import (
	"bytes"
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestWrite(t *testing.T) {
	path := filepath.Join(t.TempDir(), "new", "folder", "file")
	for _, text := range []string{"one", "another one", ""} {
		require.NoError(t, Write(path, []byte(text)))
		got, err := os.ReadFile(path)
		require.NoError(t, err)
		assert.Equal(t, text, string(got))
	}
	left, err := os.ReadDir(filepath.Dir(path))
	require.NoError(t, err)
	assert.Len(t, left, 1, "nothing half made stays")
	assert.Error(t, Write(filepath.Join(path, "below a file"), nil))
}

func FuzzPack(f *testing.F) {
	f.Add([]byte("text"))
	f.Add([]byte{0x1f, 0x8b, 0, 1})
	f.Fuzz(func(t *testing.T, data []byte) {
		packed, err := Pack(data)
		require.NoError(t, err)
		back, err := Unpack(packed)
		require.NoError(t, err)
		assert.True(t, bytes.Equal(data, back))
		if out, err := Unpack(data); err == nil && !bytes.HasPrefix(data, []byte{0x1f, 0x8b}) {
			assert.True(t, bytes.Equal(data, out), "what is not packed stays as it is")
		}
	})
}
