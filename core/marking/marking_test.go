package marking_test

import (
	"bytes"
	"context"
	"debug/elf"
	"encoding/binary"
	"encoding/json"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	_ "hemble/core/catalogue"
	"hemble/core/exercise"
	"hemble/core/machine"
	"hemble/core/marking"
	"hemble/core/sheet"
)

func read(t testing.TB, text []byte) *exercise.Exercise {
	x, problems := exercise.Read("exercise.yaml", text)
	require.NotNil(t, x, "%v", problems)
	return x
}

func mark(t testing.TB, x *exercise.Exercise, file []byte) *marking.Result {
	r, err := marking.Mark(t.Context(), x, "file", file)
	require.NoError(t, err)
	return r
}

const lampBench = `hemble: 1
name: lamp
title: A lamp
chip: {is: atmega328p}
bench: {red: {part: lamp, pins: {anode: PB0, cathode: GND}}}
trials: [{name: x, length: %LENGTH%, expect: [{reads: red, text: on, at: end}]}]
`

// flash writes an Intel HEX file of words.
func flash(words ...uint16) []byte {
	im := []byte{}
	for _, w := range words {
		im = append(im, byte(w), byte(w>>8))
	}
	return hexFile(im)
}

func hexFile(data []byte) []byte {
	var b strings.Builder
	for at := 0; at < len(data); at += 16 {
		row := data[at:min(at+16, len(data))]
		record := append([]byte{byte(len(row)), byte(at >> 8), byte(at), 0}, row...)
		sum := byte(0)
		for _, x := range record {
			sum += x
		}
		b.WriteByte(':')
		for _, x := range append(record, -sum) {
			b.WriteString(strings.ToUpper(string("0123456789abcdef"[x>>4]) + string("0123456789abcdef"[x&15])))
		}
		b.WriteByte('\n')
	}
	return []byte(b.String() + ":00000001FF\n")
}

// Bad firmware gets a clear reason on its sheet.
func TestBadFirmware(t *testing.T) {
	x := read(t, []byte(strings.Replace(lampBench, "%LENGTH%", "2s", 1)))
	good := flash(0x9a20, 0x9a28, 0xcfff)
	require.Equal(t, "1", mark(t, x, good).Sheet.Marks.String())
	flipped := []byte(string(good))
	flipped[12] ^= 3
	huge := make([]byte, 40<<20)
	var arm bytes.Buffer // an ELF file (32 bits, little-endian) with one segment of two bytes
	header := elf.Header32{Type: uint16(elf.ET_EXEC), Machine: uint16(elf.EM_ARM), Version: 1, Phoff: 52, Ehsize: 52,
		Phentsize: 32, Phnum: 1}
	copy(header.Ident[:], []byte{0x7f, 'E', 'L', 'F', byte(elf.ELFCLASS32), byte(elf.ELFDATA2LSB),
		byte(elf.EV_CURRENT)})
	for _, part := range []any{header, elf.Prog32{Type: uint32(elf.PT_LOAD), Off: 84, Filesz: 2, Memsz: 2}, [2]byte{}} {
		require.NoError(t, binary.Write(&arm, binary.LittleEndian, part))
	}
	for name, c := range map[string]struct {
		file       []byte
		code, want string
	}{
		"empty":       {nil, "firmware", "the file is empty"},
		"truncated":   {good[:20], "firmware", "cut off"},
		"bit-flipped": {flipped, "firmware", "checksum"},
		"40 MB":       {huge, "firmware", "no firmware needs more"},
		"other chip":  {arm.Bytes(), "firmware", "built for another kind of chip"},
		"too large": {[]byte(":020000040001F9\n:10000000000102030405060708090A0B0C0D0E0F78\n:00000001FF\n"),
			"firmware", "the ATmega328P ends at"},
		"runs off flash": {flash(0, 0), string(machine.OffFlash), "nothing was programmed"},
		"runs into data": {flash(0xc001, 0xffff, 0x0001), string(machine.IllegalOpcode),
			"is no instruction of this chip"},
		"overruns stack":  {flash(0, 0x920f, 0xcffe), string(machine.StackOverrun), "left the SRAM"},
		"resets for ever": {flash(0x940c, 0), string(machine.ResetLoop), "by jumping to address 0"},
		"changes nothing": {flash(0, 0xcfff), "nothing-happened", "never changed anything"},
		"sleeps for ever": {flash(0xe005, 0xbf03, 0x9588, 0xcfff), string(machine.Asleep),
			"nothing left that could wake it"},
		"watchdog, always": {flash(0xe108, 0x9300, 0x0060, 0xe008, 0x9300, 0x0060, 0xcfff), string(machine.ResetLoop),
			"by watchdog resets"},
	} {
		t.Run(name, func(t *testing.T) {
			s := mark(t, x, c.file).Sheet
			assert.Equal(t, "0", s.Marks.String())
			codes, texts := []string{}, ""
			for _, f := range s.Findings {
				codes = append(codes, string(f.Code))
				texts += f.Text
			}
			assert.Contains(t, codes, c.code)
			assert.Contains(t, texts, c.want)
		})
	}
}

// A pin switched as fast as the core can is one steady light, in bounded time and memory.
func TestPinFlood(t *testing.T) {
	if testing.Short() {
		t.Skip("it takes long; the whole of the tests has it")
	}
	if testing.Short() {
		t.Skip("forty million edges")
	}
	x := read(t, []byte(strings.Replace(lampBench, "%LENGTH%", "10s", 1)))
	r := mark(t, x, flash(0x9a20, 0x9a18, 0xcffe)) // sbi DDRB; sbi PINB; rjmp
	require.Len(t, r.Reels[0].Tracks[0].Frames, 1, "one steady light")
	assert.Equal(t, "1", r.Sheet.Marks.String())
	assert.InDelta(t, 10*4_000_000, float64(r.Reels[0].Counters.Edges), 1000)
}

func TestCancel(t *testing.T) {
	x := read(t, []byte(strings.Replace(lampBench, "%LENGTH%", "10min", 1)))
	ctx, cancel := context.WithTimeout(t.Context(), 50*time.Millisecond)
	defer cancel()
	_, err := marking.Mark(ctx, x, "file", flash(0x9a20, 0x9a18, 0xcffe))
	assert.ErrorIs(t, err, context.DeadlineExceeded)
}

func TestRounding(t *testing.T) {
	x := read(t, []byte(strings.Replace(lampBench, "%LENGTH%", "1s", 1)))
	for text, want := range map[string]string{"1.25": "1.5", "1.2": "1", "1.75": "2", "0.249": "0", "3": "3"} {
		var m sheet.Marks
		require.NoError(t, json.Unmarshal([]byte(text), &m))
		assert.Equal(t, want, m.Round(x.Step).String(), text)
		out, err := json.Marshal(m)
		require.NoError(t, err)
		assert.Equal(t, text, string(out))
	}
}
