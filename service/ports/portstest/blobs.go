package portstest

import (
	"bytes"
	"crypto/sha256"
	"encoding/hex"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/service/ports"
)

// TestBlobs tries each promise of ports.Blobs; spoil overwrites the place of a file with something else.
func TestBlobs(t *testing.T, b ports.Blobs, spoil func(hash string)) {
	for name, data := range map[string][]byte{"text": []byte("firmware"), "nothing": {},
		"large": bytes.Repeat([]byte{0, 7}, 1<<20), "packed already": {0x1f, 0x8b, 0}} {
		t.Run(name, func(t *testing.T) {
			sum := sha256.Sum256(data)
			want := hex.EncodeToString(sum[:])
			there, err := b.Has(t.Context(), want)
			require.NoError(t, err)
			assert.False(t, there)
			for range 2 { // the same again is the same file
				hash, err := b.Put(t.Context(), data)
				require.NoError(t, err)
				assert.Equal(t, want, hash)
			}
			there, err = b.Has(t.Context(), want)
			require.NoError(t, err)
			assert.True(t, there)
			got, err := b.Get(t.Context(), want)
			require.NoError(t, err)
			assert.True(t, bytes.Equal(data, got))
			spoil(want)
			_, err = b.Get(t.Context(), want)
			assert.ErrorContains(t, err, "damaged")
		})
	}
	there, err := b.Has(t.Context(), "")
	require.NoError(t, err)
	assert.False(t, there)
	_, err = b.Get(t.Context(), hex.EncodeToString(make([]byte, sha256.Size)))
	assert.Error(t, err)
}
