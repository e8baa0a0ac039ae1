package blobs

import (
	"testing"

	"github.com/stretchr/testify/require"

	"hemble/service/durable"
	"hemble/service/ports/portstest"
)

func TestLocal(t *testing.T) {
	other, err := durable.Pack([]byte("something else"))
	require.NoError(t, err)
	for name, bad := range map[string][]byte{"another file": other, "no gzip": []byte("no gzip"),
		"cut off": {0x1f, 0x8b, 0}} {
		t.Run(name, func(t *testing.T) {
			l := Local{Dir: t.TempDir()}
			portstest.TestBlobs(t, l, func(hash string) { require.NoError(t, durable.Write(l.Path(hash), bad)) })
		})
	}
}
