package firmware

import (
	"bytes"
	"compress/zlib"
	"debug/elf"
	"encoding/binary"
	"math/rand/v2"
	"runtime"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// section is one of an ELF file in the making.
type section struct {
	name  string
	kind  elf.SectionType
	flags elf.SectionFlag
	link  uint32
	data  []byte
}

// writeELF makes an executable of segments of flash, and sections.
func writeELF(flash []Segment, sections ...section) []byte {
	sections = append([]section{{}}, sections...)
	sections = append(sections, section{name: ".shstrtab", kind: elf.SHT_STRTAB})
	var names []byte
	at := make([]uint32, len(sections))
	for i, s := range sections {
		at[i] = uint32(len(names))
		names = append(append(names, s.name...), 0)
	}
	if last := &sections[len(sections)-1]; last.data == nil {
		last.data = names
	}
	var body bytes.Buffer
	header := binary.Size(elf.Header32{})
	begin := header + len(flash)*binary.Size(elf.Prog32{})
	var programs, table bytes.Buffer
	for _, s := range flash {
		_ = binary.Write(&programs, binary.LittleEndian,
			elf.Prog32{Type: uint32(elf.PT_LOAD), Off: uint32(begin + body.Len()), Paddr: s.Address, Vaddr: s.Address,
				Filesz: uint32(len(s.Data)), Memsz: uint32(len(s.Data))})
		body.Write(s.Data)
	}
	for i, s := range sections {
		_ = binary.Write(&table, binary.LittleEndian,
			elf.Section32{Name: at[i], Type: uint32(s.kind), Flags: uint32(s.flags), Off: uint32(begin + body.Len()),
				Size: uint32(len(s.data)), Link: s.link})
		body.Write(s.data)
	}
	h := elf.Header32{Type: uint16(elf.ET_EXEC), Machine: MachineAVR, Version: 1, Phoff: uint32(header),
		Shoff: uint32(begin + body.Len()), Ehsize: uint16(header), Phentsize: 32, Phnum: uint16(len(flash)),
		Shentsize: 40, Shnum: uint16(len(sections)), Shstrndx: uint16(len(sections) - 1)}
	copy(h.Ident[:], "\x7fELF\x01\x01\x01")
	var out bytes.Buffer
	_ = binary.Write(&out, binary.LittleEndian, h)
	out.Write(programs.Bytes())
	out.Write(body.Bytes())
	out.Write(table.Bytes())
	return out.Bytes()
}

// zeros gives n zero bytes, compressed as sections are.
func zeros(t testing.TB, n int) []byte {
	var out bytes.Buffer
	_ = binary.Write(&out, binary.LittleEndian, elf.Chdr32{Type: uint32(elf.COMPRESS_ZLIB), Size: uint32(n),
		Addralign: 1})
	w := zlib.NewWriter(&out)
	block := make([]byte, 1<<20)
	for ; n > 0; n -= len(block) {
		_, err := w.Write(block[:min(n, len(block))])
		require.NoError(t, err)
	}
	require.NoError(t, w.Close())
	return out.Bytes()
}

// Files that announce, or unpack to, more than a firmware can have cost neither memory nor time: they are refused, or
// read without what is too large.
func TestHostileELF(t *testing.T) {
	flash := []Segment{{0, []byte{1, 2, 3, 4}}}
	large := bytes.Repeat([]byte{'a'}, 8<<20)
	symbols := make([]byte, 0, 6<<20)
	for range (6 << 20) / 16 {
		symbols = append(symbols, 1, 0, 0, 0, 0, 0, 0, 0, 4, 0, 0, 0, byte(elf.STT_FUNC), 0, 1, 0)
	}
	many := make([]section, 60_000)
	same := make([]Segment, 60_000)
	for i := range many {
		many[i] = section{name: "", kind: elf.SHT_PROGBITS}
	}
	overlapping := writeELF(append(same[:0:0], Segment{0, large}))
	header := bytes.Clone(overlapping[52:84])
	binary.LittleEndian.PutUint32(header[4:], 0)
	overlapping = append(append(bytes.Clone(overlapping[:52]), bytes.Repeat(header, 60_000)...), large...)
	binary.LittleEndian.PutUint16(overlapping[44:], 60_000)
	clear(overlapping[32:36]) // no sections
	clear(overlapping[48:52])
	attributes := append([]byte{1, 0x11, 0}, bytes.Repeat([]byte{0x3f, 0x19}, 100_000)...)
	attributes = append(attributes, 0, 0, 0)
	unit := []byte{100, 0, 0, 0, 4, 0, 0, 0, 0, 0, 4}
	unit = append(unit, bytes.Repeat([]byte{1}, 93)...)
	plain := []byte{1, 0x11, 0, 0, 0, 0}
	lines := []byte{0xff, 0xff, 1, 0, 2, 0, 0xf0, 0xff, 1, 0}
	lines = append(lines, make([]byte, 0x1ffff-6)...)
	zdebug := append([]byte("ZLIB\x00\x00\x00\xff\xff\xff\xff\xff"), 0x78, 0x9c, 0, 0, 0, 0, 0, 0)
	for name, c := range map[string]struct {
		file          []byte
		refused, note string
	}{
		"debug information": {writeELF(flash, section{".debug_info", elf.SHT_PROGBITS, elf.SHF_COMPRESSED, 0,
			zeros(t, 256<<20)}), "", "more than 8 MB"},
		"many small": {writeELF(flash, section{".debug_info", elf.SHT_PROGBITS, elf.SHF_COMPRESSED, 0,
			zeros(t, 5<<20)}, section{".debug_str", elf.SHT_PROGBITS, elf.SHF_COMPRESSED, 0, zeros(t, 5<<20)}), "",
			"more than 8 MB"},
		"older compression": {writeELF(flash, section{".zdebug_info", elf.SHT_PROGBITS, 0, 0, zdebug}), "",
			"more than 8 MB"},
		"names of sections": {writeELF(flash, section{".shstrtab", elf.SHT_STRTAB, 0, 0, nil},
			section{"x", elf.SHT_STRTAB, 0, 0, nil}), "", ""},
		"one name":             {writeELF(flash, many[:50]...), "", ""},
		"many sections":        {writeELF(flash, many...), "at most 1000 sections", ""},
		"overlapping segments": {overlapping, "announce more bytes", ""},
		"long names of symbols": {writeELF(flash, section{".symtab", elf.SHT_SYMTAB, 0, 2, symbols},
			section{".strtab", elf.SHT_STRTAB, 0, 0, large}), "", ""},
		"compressed symbols": {writeELF(flash,
			section{".symtab", elf.SHT_SYMTAB, elf.SHF_COMPRESSED, 2, zeros(t, 256<<20)},
			section{".strtab", elf.SHT_STRTAB, elf.SHF_COMPRESSED, 0, zeros(t, 256<<20)}), "", ""},
		"many attributes": {writeELF(flash, section{".debug_abbrev", elf.SHT_PROGBITS, 0, 0, attributes},
			section{".debug_info", elf.SHT_PROGBITS, 0, 0, unit}), "", "more than 64 attributes"},
		"long names": {writeELF(flash, section{".debug_abbrev", elf.SHT_PROGBITS, 0, 0, plain},
			section{".debug_info", elf.SHT_PROGBITS, 0, 0, unit},
			section{".debug_str", elf.SHT_PROGBITS, 0, 0, large[:5<<20]}), "", "names of more than"},
		"units of no table": {writeELF(flash, section{".debug_abbrev", elf.SHT_PROGBITS, 0, 0, plain},
			section{".debug_info", elf.SHT_PROGBITS, 0, 0, bytes.Replace(unit, []byte{4, 0, 0}, []byte{4, 0, 2}, 1)}),
			"", "damaged"},
		"many units": {writeELF(flash, section{".debug_abbrev", elf.SHT_PROGBITS, 0, 0, plain},
			section{".debug_info", elf.SHT_PROGBITS, 0, 0,
				bytes.Repeat([]byte{8, 0, 0, 0, 4, 0, 0, 0, 0, 0, 4, 1}, 400_000)}), "", "units"},
		"a line table's header": {writeELF(flash, section{".debug_abbrev", elf.SHT_PROGBITS, 0, 0, plain},
			section{".debug_info", elf.SHT_PROGBITS, 0, 0, unit},
			section{".debug_line", elf.SHT_PROGBITS, 0, 0, lines}), "", "line table's header"},
		"a table of no sections": {append([]byte(nil), writeELF(flash)[:60]...), "cut off", ""},
	} {
		t.Run(name, func(t *testing.T) {
			var before, after runtime.MemStats
			runtime.ReadMemStats(&before)
			began := time.Now()
			im, err := Read(c.file, AVR)
			if err == nil {
				im.Line(0)
				im.Calls(2)
			}
			runtime.ReadMemStats(&after)
			assert.Less(t, after.TotalAlloc-before.TotalAlloc, uint64(200<<20), "bytes that were asked for")
			assert.Less(t, time.Since(began), 10*time.Second)
			if c.refused != "" {
				assert.ErrorContains(t, err, c.refused)
				return
			}
			require.NoError(t, err)
			assert.Contains(t, im.Note, c.note)
			assert.Equal(t, c.note == "", im.Note == "")
			assert.Equal(t, flash, im.Flash)
		})
	}
	long := writeELF(flash, section{".text", elf.SHT_PROGBITS, 0, 0, nil})
	binary.LittleEndian.PutUint16(long[48:], 0) // as with more than 65279 sections: their number stands elsewhere
	_, err := Read(long, AVR)
	assert.ErrorContains(t, err, "sections")
	names := writeELF(flash, section{strings.Repeat("n", 70_000), elf.SHT_PROGBITS, 0, 0, nil})
	_, err = Read(names, AVR)
	assert.ErrorContains(t, err, "the names of its sections")
}

// STABS of any bytes give lines in order, or none.
func FuzzStabs(f *testing.F) {
	f.Add([]byte("\x01\x00\x00\x00\x64\x00\x00\x00\x00\x01\x00\x00\x01\x00\x00\x00\x24\x00\x00\x00\x00\x01\x00\x00\x00\x00\x00\x00\x44\x00\x05\x00\x02\x00\x00\x00"),
		[]byte("\x00main.c\x00"))
	f.Fuzz(func(t *testing.T, entries, names []byte) {
		im, err := Read(writeELF([]Segment{{0, []byte{1, 2, 3, 4}}}, section{".stab", elf.SHT_PROGBITS, 0, 0, entries},
			section{".stabstr", elf.SHT_STRTAB, 0, 0, append(names, 0)}), AVR)
		if err != nil {
			t.Fatal(err)
		}
		im.Line(2)
		for i := 1; i < len(im.lines.entries); i++ {
			if im.lines.entries[i].address < im.lines.entries[i-1].address {
				t.Fatal("lines are not in order")
			}
		}
	})
}

// Any image, written as HEX or ELF with records in any order and of any size, reads back to the same bytes.
func FuzzRoundTrip(f *testing.F) {
	f.Add(bytes.Repeat([]byte{0xc0, 0xf9, 0xa4, 0xb0}, 8), uint16(0x100), uint64(1))
	f.Add(append([]byte{1, 2}, bytes.Repeat([]byte{0xff}, 15)...), uint16(0), uint64(7))
	f.Add(bytes.Repeat([]byte{0xff}, 40), uint16(0xfff0), uint64(3))
	f.Fuzz(func(t *testing.T, data []byte, address uint16, seed uint64) {
		if len(data) == 0 || len(data) > 4096 {
			return
		}
		// Its tail of erased bytes is no part of an image; up to 15 of them are.
		want := layer{}
		want.add(uint32(address), data)
		segments, err := want.sorted(AVR)
		require.NoError(t, err)
		erased := 0
		for ; erased < len(data) && data[len(data)-1-erased] == 0xff; erased++ {
		}
		if erased >= erasedTail {
			kept := data[:len(data)-erased]
			segments = nil
			if len(kept) > 0 {
				segments = []Segment{{uint32(address), data[:len(kept)+len(kept)%2]}}
			}
		}
		random := rand.New(rand.NewPCG(seed, 1))
		var pieces []Segment
		for at := 0; at < len(data); {
			n := min(1+random.IntN(64), len(data)-at)
			pieces = append(pieces, Segment{uint32(address) + uint32(at), data[at : at+n]})
			at += n
		}
		random.Shuffle(len(pieces), func(i, j int) { pieces[i], pieces[j] = pieces[j], pieces[i] })
		var text strings.Builder
		for _, p := range pieces {
			for i, b := range p.Data { // a record does not go over a boundary of 64 KB
				text.WriteString(record(4, 0, 0, byte((p.Address+uint32(i))>>16)))
				text.WriteString(record(0, uint16(p.Address+uint32(i)), b))
			}
		}
		for format, file := range map[string][]byte{"hex": []byte(text.String() + end), "elf": writeELF(pieces)} {
			im, err := Read(file, AVR)
			if segments == nil {
				require.ErrorContains(t, err, "programs no byte", format)
				continue
			}
			require.NoError(t, err, format)
			require.Equal(t, segments, im.Flash, format)
		}
	})
}
