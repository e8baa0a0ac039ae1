package firmware

import (
	"bytes"
	"fmt"
	"os"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// record writes an Intel HEX record with its checksum.
func record(kind byte, address uint16, data ...byte) string {
	r := append([]byte{byte(len(data)), byte(address >> 8), byte(address), kind}, data...)
	sum := byte(0)
	for _, b := range r {
		sum += b
	}
	return fmt.Sprintf(":%X\n", append(r, -sum))
}

const end = ":00000001FF\n"

func TestHex(t *testing.T) {
	im, err := Read([]byte(record(0, 0x10, 1, 2, 3, 4)+record(0, 0x14, 5)+strings.ToLower(record(0, 0, 9, 8))+end), AVR)
	require.NoError(t, err)
	assert.Equal(t, []Segment{{0, []byte{9, 8}}, {0x10, []byte{1, 2, 3, 4, 5}}}, im.Flash)

	im, err = Read([]byte(strings.ReplaceAll(record(2, 0, 0x01, 0x00)+record(0, 4, 1)+record(4, 0, 0, 1)+record(0, 0,
		2)+record(3, 0, 0, 0, 0, 0)+record(5, 0, 0, 0, 0, 0)+end, "\n", "\r\n")), AVR)
	require.NoError(t, err)
	assert.Equal(t, []Segment{{0x1004, []byte{1}}, {0x10000, []byte{2}}}, im.Flash,
		"segment and linear addresses, start records passed over")

	erased := bytes.Repeat([]byte{0xff}, 32)
	im, err = Read([]byte(record(0, 0, 1, 2)+record(0, 2, erased...)+end), AVR)
	require.NoError(t, err)
	assert.Equal(t, []Segment{{0, []byte{1, 2}}}, im.Flash, "a dump's erased end was never programmed")
	anode := bytes.Repeat([]byte{0xc0, 0xf9, 0xa4, 0xb0, 0x99}, 4)
	im, err = Read([]byte(record(0, 0, anode...)+end), AVR)
	require.NoError(t, err)
	assert.Equal(t, []Segment{{0, anode}}, im.Flash, "a table of large bytes at the end is kept")
}

func TestHexProblems(t *testing.T) {
	good := record(0, 0, 1, 2, 3)
	for text, want := range map[string]string{
		"":                                  "the file is empty",
		"  \n\t":                            "the file is empty",
		"hello":                             "neither Intel HEX",
		good:                                "line 1: the file ends without its end record",
		good + good + end:                   "two records give bytes for address 0x0000",
		end:                                 "programs no byte",
		good[:9] + "\n" + end:               "line 1: a record has at least 5 bytes",
		good[:10] + "\n" + end:              "line 1: an odd number of hexadecimal digits",
		good[:11] + "\n" + end:              "line 1: the record announces 3 data bytes and has 0",
		":0300000001020GF7\n" + end:         "line 1: column 15: 'G' is not a hexadecimal digit",
		":03000000010203F8\n" + end:         "line 1: checksum F8 does not fit the line (F7 would)",
		good + end + good:                   "line 3: a record after the end record",
		good + "x\n" + end:                  "line 2: a record starts with ':'",
		record(6, 0) + end:                  "line 1: record type 06 does not exist",
		record(4, 0, 1) + end:               "line 1: an address record has 1 data bytes",
		record(4, 0, 0xff, 0) + good + end:  "line 2: address 0xFF000000 is in no memory",
		"\x7fELF\x01":                       "damaged ELF file",
		strings.Repeat("x", MaxFile) + "yz": "no firmware needs more",
	} {
		_, err := Read([]byte(text), AVR)
		if assert.Error(t, err, "%.40q", text) {
			assert.Contains(t, err.Error(), want, "%.40q", text)
		}
	}
}

const demoELF = "../../demo/course/chamber-gauge/firmware/haq-interrupts.elf"

func TestELF(t *testing.T) {
	file, err := os.ReadFile(demoELF)
	require.NoError(t, err)
	im, err := Read(file, AVR)
	require.NoError(t, err)
	hexFile, err := os.ReadFile(strings.TrimSuffix(demoELF, ".elf") + ".hex")
	require.NoError(t, err)
	fromHex, err := Read(hexFile, AVR)
	require.NoError(t, err)
	assert.Equal(t, fromHex.Flash, im.Flash, "both formats program the same bytes")
	assert.Equal(t, fromHex.Hash(), im.Hash())
	main, ok := im.Symbol("main")
	require.True(t, ok)
	line, ok := im.Line(main.Address)
	require.True(t, ok)
	assert.Contains(t, []string{"haq-interrupts.c", "gauge.h"}, line.File)
	_, ok = fromHex.Line(main.Address)
	assert.False(t, ok)

	for cut := 0; cut < len(file); cut += 97 {
		if im, err := Read(file[:cut], AVR); err == nil {
			assert.NotEmpty(t, im.Flash) // only the tail with symbols or debug information is missing
		}
	}
	object := bytes.Clone(file)
	object[16] = 1
	_, err = Read(object, AVR)
	assert.ErrorContains(t, err, "object file")
	other := bytes.Clone(file)
	other[18] = 40 // EM_ARM
	im, err = Read(other, AVR)
	require.NoError(t, err)
	assert.NotEqual(t, MachineAVR, im.Machine)
}

func FuzzHex(f *testing.F) {
	f.Add([]byte(record(0, 0, 1, 2, 3) + record(4, 0, 0, 1) + end))
	f.Add([]byte(":\r\n:00"))
	f.Fuzz(func(t *testing.T, data []byte) {
		im, err := readHex(data, AVR)
		if err == nil && im.Size() == 0 {
			t.Fatal("an image without bytes")
		}
	})
}

func FuzzELF(f *testing.F) {
	file, err := os.ReadFile(demoELF)
	require.NoError(f, err)
	f.Add(file)
	f.Fuzz(func(t *testing.T, data []byte) {
		im, err := readELF(data, AVR)
		if err != nil {
			return
		}
		for a := uint32(0); a < 0x400; a += 2 {
			im.Line(a)
		}
	})
}
