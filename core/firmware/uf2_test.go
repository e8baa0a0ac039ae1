package firmware

import (
	"bytes"
	"encoding/binary"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// arm is a layout with flash at 0x10000000.
var arm = Layout{Erased: 0xffff, Family: 0xe48bff56, Regions: []Region{{Kind: Ignored},
	{From: 0x1000_0000, Kind: Flash, Shown: 0x1000_0000}, {From: 0x1020_0000, Kind: Ignored}},
	Raw: func(file []byte) (uint32, bool) { return 0x1000_0000, bytes.HasPrefix(file, []byte("RAW")) }}

// writeUF2 makes blocks of a size.
func writeUF2(data []byte, address uint32, size int) (out []byte) {
	count := (len(data) + size - 1) / size
	for i := 0; i < count; i++ {
		part := data[i*size : min(len(data), (i+1)*size)]
		b := make([]byte, uf2Block)
		for k, v := range []uint32{uf2First, uf2Again, uf2Family, address + uint32(i*size), uint32(len(part)),
			uint32(i),
			uint32(count), arm.Family} {
			binary.LittleEndian.PutUint32(b[4*k:], v)
		}
		copy(b[32:], part)
		binary.LittleEndian.PutUint32(b[508:], uf2Last)
		out = append(out, b...)
	}
	return out
}

func TestUF2(t *testing.T) {
	data := bytes.Repeat([]byte("canal lock "), 100)
	file := writeUF2(data, 0x1000_0100, 256)
	im, err := Read(file, arm)
	require.NoError(t, err)
	assert.Equal(t, []Segment{{0x1000_0100, data}}, im.Flash)
	assert.Equal(t, "uf2", im.Format)

	broken := func(block, at int, v uint32) []byte {
		out := bytes.Clone(file)
		binary.LittleEndian.PutUint32(out[block*uf2Block+at:], v)
		return out
	}
	for text, file := range map[string][]byte{
		"whole blocks of 512":                        file[:700],
		"block 1 does not begin and end":             broken(1, 508, 1),
		"block 2 says that it has 4000 bytes":        broken(2, 16, 4000),
		"number 0 of 4000000; the file has 5":        broken(0, 24, 4_000_000),
		"number 7 of 5":                              broken(2, 20, 7),
		"number 1, behind number 1":                  broken(2, 20, 1),
		"block 3 goes to 0x20000000":                 broken(3, 12, 0x2000_0000),
		"two records give bytes for address":         broken(1, 12, 0x1000_0180),
		"all 1 blocks of the file are for another":   writeOther(t),
		"block 4 goes to 0xFFFFFF80, which is in no": broken(4, 12, 0xffff_ff80),
	} {
		_, err := Read(file, arm)
		require.ErrorContains(t, err, text)
	}
}

func writeOther(*testing.T) []byte {
	file := writeUF2([]byte{1, 2, 3, 4}, 0x1000_0000, 256)
	binary.LittleEndian.PutUint32(file[28:], 0x1234)
	return file
}

// A plain copy of flash is known by what the chip's layout says of it.
func TestPlainCopy(t *testing.T) {
	im, err := Read([]byte("RAW bytes"), arm)
	require.NoError(t, err)
	assert.Equal(t, []Segment{{0x1000_0000, []byte("RAW bytes")}}, im.Flash)
	_, err = Read([]byte("something else"), arm)
	require.ErrorContains(t, err, "nor a plain copy of the chip's flash")
	_, err = Read([]byte("RAW"+string(make([]byte, 3<<20))), arm)
	require.ErrorContains(t, err, "more than the flash has")
}

// Any image, written as UF2 with blocks of any size, reads back to the same bytes; any bytes at all give an image or a
// reason.
func FuzzUF2(f *testing.F) {
	f.Add([]byte("sluice"), uint32(0), uint16(256))
	f.Add(bytes.Repeat([]byte{7}, 3000), uint32(0x100), uint16(476))
	f.Fuzz(func(t *testing.T, data []byte, offset uint32, size uint16) {
		if im, err := readUF2(data, arm); err == nil && im.Size() == 0 {
			t.Fatal("an image without bytes")
		}
		if len(data) == 0 || len(data) > 1<<16 || size == 0 || size > uf2Most || offset > 1<<20 {
			return
		}
		want := trimErased([]Segment{{0x1000_0000 + offset, bytes.Clone(data)}}, 0xff)
		im, err := readUF2(writeUF2(data, 0x1000_0000+offset, int(size)), arm)
		if len(want) == 0 {
			require.Error(t, err)
			return
		}
		require.NoError(t, err)
		require.Equal(t, want, im.Flash)
	})
}
