package wasm

import (
	"encoding/binary"
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestNumbers(t *testing.T) {
	for _, v := range []uint32{0, 1, 127, 128, 300, 0x3fff, 0x4000, math.MaxUint32} {
		assert.Equal(t, binary.AppendUvarint(nil, uint64(v)), unsigned(nil, v), "%d", v)
	}
	for v, want := range map[int32][]byte{0: {0}, 2: {2}, -2: {0x7e}, 63: {63}, 64: {0xc0, 0}, -64: {0x40},
		127: {0xff, 0}, -127: {0x81, 0x7f}, 128: {0x80, 1}, -128: {0x80, 0x7f}, -129: {0xff, 0x7e},
		math.MaxInt32: {0xff, 0xff, 0xff, 0xff, 7}, math.MinInt32: {0x80, 0x80, 0x80, 0x80, 0x78}} {
		assert.Equal(t, want, signed(nil, v), "%d", v)
	}
}

func TestModule(t *testing.T) {
	var c Code
	c.Get(0)
	assert.Equal(t, []byte{0, 'a', 's', 'm', 1, 0, 0, 0,
		1, 6, 1, 0x60, 1, 0x7f, 1, 0x7f, // i32 to i32
		3, 2, 1, 0,
		5, 4, 1, 1, 2, 2, // two pages, and no more
		6, 6, 1, 0x7f, 1, 0x41, 0, 0x0b,
		7, 7, 1, 3, 'r', 'u', 'n', 0, 0,
		10, 8, 1, 6, 1, 3, 0x7f, 0x20, 0, 0x0b,
	}, c.Module(1, 1, 3, 1, 2))
}
