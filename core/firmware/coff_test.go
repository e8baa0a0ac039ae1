package firmware

import (
	"encoding/binary"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// pic is the layout of a chip with words of 14 bits.
var pic = Layout{Erased: 0x3fff, Word: 2, Regions: []Region{{Kind: Flash}, {From: 0x2000, Kind: Ignored},
	{From: 0x4000, Kind: Aside}, {From: 0x400e, Kind: Fuses}, {From: 0x4012, Kind: Ignored},
	{From: 0x4200, Kind: EEPROM, Spread: 2}, {From: 0x4400, Kind: Ignored}}}

// coffPart is a section of a file to be written.
type coffPart struct {
	at    uint32 // of a word
	words []uint16
	lines []uint16 // one for each word
}

// writeCOFF makes a linked file of sections, of one source file, with labels.
func writeCOFF(source string, labels map[string]uint32, parts []coffPart) []byte {
	le := binary.LittleEndian
	at := coffHeader + 18 + len(parts)*coffSection
	var heads, body []byte
	for _, p := range parts {
		h := make([]byte, coffSection)
		copy(h, ".org")
		le.PutUint32(h[8:], p.at)
		le.PutUint32(h[16:], uint32(2*len(p.words)))
		le.PutUint32(h[20:], uint32(at+len(body)))
		for _, w := range p.words {
			body = le.AppendUint16(body, w)
		}
		le.PutUint32(h[28:], uint32(at+len(body)))
		le.PutUint16(h[34:], uint16(len(p.lines)))
		le.PutUint32(h[36:], coffText)
		for i, n := range p.lines {
			body = le.AppendUint32(body, 0)
			body = le.AppendUint16(body, n)
			body = le.AppendUint32(body, p.at+uint32(i))
			body = append(body, make([]byte, 6)...)
		}
		heads = append(heads, h...)
	}
	names := []byte{0, 0, 0, 0}
	symbol := func(name string, value uint32, section uint16, class byte, more []byte) (out []byte) {
		out = make([]byte, coffSymbol)
		le.PutUint32(out[4:], uint32(len(names)))
		names = append(append(names, name...), 0)
		le.PutUint32(out[8:], value)
		le.PutUint16(out[12:], section)
		out[18], out[19] = class, byte(len(more)/coffSymbol)
		return append(out, more...)
	}
	file := make([]byte, coffSymbol)
	le.PutUint32(file, 4)
	names = append(append(names, source...), 0)
	symbols := symbol(".file", 0, 0xfffe, coffFile, file)
	for _, name := range sortedKeys(labels) {
		symbols = append(symbols, symbol(name, labels[name], 1, coffLabel, nil)...)
	}
	head := make([]byte, coffHeader+18)
	le.PutUint16(head, coffMagic)
	le.PutUint16(head[2:], uint16(len(parts)))
	le.PutUint32(head[8:], uint32(at+len(body)))
	le.PutUint32(head[12:], uint32(len(symbols)/coffSymbol))
	le.PutUint16(head[16:], 18)
	return append(append(append(append(head, heads...), body...), symbols...), names...)
}

func lockCOFF() []byte {
	return writeCOFF("/src/lock.asm", map[string]uint32{"main": 4, "wait": 6}, []coffPart{
		{0, []uint16{0x2804}, []uint16{3}}, {4, []uint16{0x0186, 0x2805, 0x0008}, []uint16{7, 8, 11}},
		{0x2007, []uint16{0x3f72}, nil}, {0x2100, []uint16{0x68, 0x69}, nil}})
}

func TestCOFF(t *testing.T) {
	im, err := Read(lockCOFF(), pic)
	require.NoError(t, err)
	assert.Equal(t, []Segment{{0, []byte{0x04, 0x28}}, {8, []byte{0x86, 0x01, 0x05, 0x28, 0x08, 0x00}}}, im.Flash)
	assert.Equal(t, []byte{0x72, 0x3f}, im.Fuses)
	assert.Equal(t, []Segment{{0, []byte("hi")}}, im.EEPROM)
	for address, want := range map[uint32]int{0: 3, 8: 7, 10: 8, 12: 11} {
		line, ok := im.Line(address)
		assert.True(t, ok)
		assert.Equal(t, Line{File: "lock.asm", Line: want}, line)
	}
	_, ok := im.Line(4)
	assert.False(t, ok, "nothing is there")
	s, ok := im.Symbol("wait")
	assert.True(t, ok)
	assert.Equal(t, uint32(12), s.Address)
}

func TestCOFFProblems(t *testing.T) {
	good := lockCOFF()
	for n := 2; n < len(good)-60; n += 7 { // cut off anywhere: an error, or what is whole
		_, err := Read(good[:n], pic)
		assert.Error(t, err, "%d bytes", n)
	}
	many := append([]byte{}, good...)
	binary.LittleEndian.PutUint32(many[12:], 0xffff_ffff)
	_, err := Read(many, pic)
	assert.ErrorContains(t, err, "announces 4294967295 symbols")
	_, err = Read(writeCOFF("a.asm", nil, []coffPart{{0x1800, []uint16{1}, nil}}), pic)
	assert.ErrorContains(t, err, "address 0x1800, which is in no memory")
	_, err = Read(writeCOFF("a.asm", nil, []coffPart{{0, []uint16{1, 2}, nil}, {1, []uint16{1}, nil}}), pic)
	assert.ErrorContains(t, err, "address 0x0001")
	_, err = Read(good, AVR)
	assert.ErrorContains(t, err, "neither Intel HEX", "other chips have no such files")
}

// FuzzCOFF: whatever is written comes back, and damage to it ends in an error or in a program.
func FuzzCOFF(f *testing.F) {
	f.Add("lock.asm", []byte{0x04, 0x28, 0x86, 0x01}, uint16(3), 0, byte(0))
	f.Add("", []byte{1, 2}, uint16(0x0fff), 30, byte(0xff))
	f.Fuzz(func(t *testing.T, source string, code []byte, at uint16, damage int, with byte) {
		if at &= 0xfff; len(code) < 2 || int(at)*2+len(code) > 0x2000 || len(source) > 200 {
			return
		}
		var p coffPart
		for i := 0; i+1 < len(code); i += 2 {
			p.words = append(p.words, uint16(code[i])|uint16(code[i+1])<<8)
			p.lines = append(p.lines, uint16(i+1))
		}
		p.at = uint32(at)
		file := writeCOFF(source, map[string]uint32{"a": p.at}, []coffPart{p})
		im, err := Read(file, pic)
		if err == nil {
			for i, w := range p.words {
				if got := im.Word(2*p.at + uint32(2*i)); got != w && got != 0xffff {
					t.Fatalf("word %d is %04x, not %04x", i, got, w)
				}
				line, _ := im.Line(2*p.at + uint32(2*i))
				if line.Line != 2*i+1 {
					t.Fatalf("line %d of word %d", line.Line, i)
				}
			}
		}
		if damage >= 0 && damage < len(file) {
			file[damage] = with
			if im, err := Read(file, pic); err == nil {
				im.Line(0)
				im.Symbol("a")
			}
		}
	})
}

func sortedKeys(m map[string]uint32) (out []string) {
	for k := range m {
		out = append(out, k)
	}
	slices.Sort(out)
	return out
}
