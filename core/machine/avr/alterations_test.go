package avr_test

import (
	"cmp"
	"os"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/clock"
	"hemble/core/firmware"
	"hemble/core/machine"
	"hemble/core/machine/avr"
	"hemble/core/machine/machinetest"
)

// Each slip in the program, and what it sends with the place meant otherwise.
func TestAlterations(t *testing.T) {
	chip, err := machine.Find("atmega328p")
	require.NoError(t, err)
	im := compile(t, avr.ATmega328P, "slips.c", "-Os")
	sent, _ := serial(t, avr.ATmega328P, im, 20*clock.Millisecond)
	was := strings.Fields(sent)
	require.Equal(t, []string{"1", "1", "1", "107", "4", "4", "250", "4", "8", "22", "1", "22"}, was)
	hints := machine.Hints{Shifts: []int64{-41}, Wanted: []int64{33}, Ratios: [][2]int64{{3, 2}}}
	list := chip.Alterations(im, hints)
	source, err := os.ReadFile("testdata/slips.c")
	require.NoError(t, err)
	lines := strings.Split(string(source), "\n")

	for _, c := range []struct {
		line, table string // a part of the line that the place is in, or the table
		slip        machine.Slip
		from, to    int64
		place       int // of what is sent
		want        string
	}{
		{"hundred > 99", "", machine.Number, 100, 101, 0, "0"},
		{"hundred > 99", "", machine.Number, 100, 59, 0, "1"},
		{"thousand == 1000", "", machine.Number, 1000, 1001, 1, "0"},
		{"thousand == 1000", "", machine.Number, 1000, 1500, 1, "0"},
		{"five < nine", "", machine.Reversed, 0, 0, 2, "0"},
		{"five < nine", "", machine.Inclusive, 0, 0, 2, "1"},
		{"hundred + 7", "", machine.Number, 7, 8, 3, "108"},
		{"hundred + 7", "", machine.Number, 7, 33, 3, "133"},
		{"hundred + 7", "", machine.Sign, 0, 0, 3, "93"},
		{"nine - five", "", machine.Sign, 0, 0, 4, "14"},
		{"nine >> 1", "", machine.Shift, 0, 0, 5, "18"},
		{"~five", "", machine.Inverted, 0, 0, 6, "5"},
		{"five & 0x0c", "", machine.Number, 12, 13, 7, "5"},
		{"GPIOR0 |= 1", "", machine.Number, 3, 4, 8, "16"},
		{"GPIOR0 |= 1", "", machine.Level, 0, 0, 8, "0"},
		{"GPIOR0 |= 1", "", machine.Needless, 0, 0, 8, "0"},
		{"which = 1", "", machine.Number, 1, 2, 9, "3300"},
		{"which = 1", "", machine.Needless, 0, 0, 9, "11"},
		{"", "table", machine.Number, 22, 23, 9, "23"},
		{"", "table", machine.Neighbours, 11, 22, 9, "11"},
		{"five == 5", "", machine.Reversed, 0, 0, 10, "2"},
		{"five == 5", "", machine.Regardless, 0, 0, 10, "2"},
		{"also = 2", "", machine.Number, 2, 0, 11, "20"},
	} {
		var got []string
		for _, a := range list {
			there := c.table != "" && a.Table == c.table ||
				c.table == "" && a.Line.File == "slips.c" && strings.Contains(lines[a.Line.Line-1], c.line)
			if a.Slip != c.slip || !there || c.slip == machine.Number && (a.From != c.from || a.To != c.to) ||
				c.slip == machine.Neighbours && (a.From != c.from || a.To != c.to) {
				continue
			}
			sent, _ := serial(t, avr.ATmega328P, a.Change(im), 20*clock.Millisecond)
			out := strings.Fields(sent)
			if len(out) == len(was) {
				got = append(got, out[c.place])
				out[c.place] = was[c.place]
				assert.Equal(t, was, out, "%+v changes nothing else", c)
			}
		}
		assert.Contains(t, got, c.want, "%+v", c)
	}
	bare := chip.Alterations(&firmware.Image{Flash: im.Flash}, hints)
	assert.Greater(t, len(bare), len(list), "nobody knows what its author wrote")
	for _, a := range bare {
		assert.Zero(t, a.Line)
	}
	again := chip.Alterations(im, hints)
	require.Len(t, again, len(list))
	for i := range list {
		assert.Equal(t, list[i].Change(im).Hash(), again[i].Change(im).Hash())
	}
}

// Arguments stand side by side in registers: each is a number of its own.
func TestNumbersOfArguments(t *testing.T) {
	chip, err := machine.Find("atmega328p")
	require.NoError(t, err)
	ldi := func(d, k uint16) []byte {
		w := 0xe000 | (d-16)<<4 | k&15 | k&0xf0<<4
		return []byte{byte(w), byte(w >> 8)}
	}
	for _, c := range []struct {
		name  string
		first uint16   // the register of the first byte
		bytes []uint16 // those loaded, in registers one behind the other
		from  []int64
	}{
		{"an address and a byte", 22, []uint16{0x0f, 0x01, 0x05}, []int64{0x010f, 5}},
		{"two of 16 bits", 22, []uint16{0x0f, 0x01, 0x44, 0x01}, []int64{0x010f, 0x0144}},
		{"one of 32 bits", 22, []uint16{0xa0, 0x86, 0x01, 0x00}, []int64{100_000}},
		{"one of 32 bits that is small", 22, []uint16{0xe7, 0x03, 0, 0}, []int64{999}},
		{"bytes from an odd register on", 23, []uint16{7, 9}, []int64{7, 9}},
	} {
		var code []byte
		for i, k := range c.bytes {
			code = append(code, ldi(c.first+uint16(i), k)...)
		}
		var from []int64
		for _, a := range chip.Alterations(&firmware.Image{Flash: []firmware.Segment{{Data: code}}}, machine.Hints{}) {
			assert.True(t, a.Loaded)
			if !slices.Contains(from, a.From) {
				from = append(from, a.From)
			}
		}
		assert.Equal(t, c.from, from, c.name)
	}
}

// An instruction is reached when it is first carried out, with either interpreter.
func TestReached(t *testing.T) {
	im := compile(t, avr.ATmega328P, "slips.c", "-Os")
	at := map[bool]map[uint32]clock.Time{}
	for _, reference := range []bool{false, true} {
		m := avr.New(avr.ATmega328P, machine.Config{Watched: []machine.Pin{}, Cover: true, Reference: reference})
		require.NoError(t, m.Load(im))
		m.Run(20*clock.Millisecond, nil)
		at[reference] = map[uint32]clock.Time{}
		for a := uint32(0); a < uint32(im.Size()); a += 2 {
			if when, ok := m.(machine.Covering).Reached(a); ok {
				at[reference][a] = when
			}
		}
		_, ok := m.(machine.Covering).Reached(1 << 20)
		assert.False(t, ok)
	}
	assert.Equal(t, at[true], at[false])
	assert.Greater(t, len(at[true]), 100)
	first, last := clock.Time(1<<62), clock.Time(0)
	for a, when := range at[true] {
		if line, ok := im.Own(a, nil); ok && !line.System {
			first, last = min(first, when), max(last, when)
		}
	}
	assert.Less(t, cmp.Or(first, 1), last)
	m := avr.New(avr.ATmega328P, machine.Config{Watched: []machine.Pin{}})
	require.NoError(t, m.Load(im))
	m.Run(clock.Millisecond, nil)
	_, ok := m.(machine.Covering).Reached(0)
	assert.False(t, ok, "nobody asked")
}

// In each round what is carried out is noted down anew, which changes nothing else.
func TestRounds(t *testing.T) {
	im := compile(t, avr.ATmega328P, "slips.c", "-Os")
	run := func(cover, reference bool) (machine.Machine, [32]byte) {
		m := avr.New(avr.ATmega328P, machine.Config{Watched: []machine.Pin{}, Cover: cover, Reference: reference,
			NoSkip: reference})
		require.NoError(t, m.Load(im))
		for _, at := range []clock.Time{50 * clock.Microsecond, 100 * clock.Microsecond, 20 * clock.Millisecond} {
			m.Run(at, nil)
			if cover {
				m.(machine.Covering).Anew()
			}
		}
		return m, m.Hash()
	}
	plain, want := run(true, true)
	fast, got := run(true, false)
	_, bare := run(false, false)
	assert.Equal(t, want, got)
	assert.Equal(t, want, bare)
	assert.Equal(t, machine.Rounds(1), plain.(machine.Covering).Rounds(0), "the chip starts once")
	again := 0
	for a := uint32(0); a < uint32(im.Size()); a += 2 {
		first, ok := plain.(machine.Covering).Reached(a)
		rounds := plain.(machine.Covering).Rounds(a)
		assert.Equal(t, ok, rounds != 0)
		if ok {
			assert.Equal(t, first < 50*clock.Microsecond, rounds&1 != 0)
		}
		if rounds == 7 {
			again++
		}
		// what is skipped by the fast one, as a wait that has been seen, is not noted down again
		assert.Zero(t, fast.(machine.Covering).Rounds(a)&^rounds)
	}
	assert.Greater(t, again, 5, "what is called again and again")
	assert.Zero(t, plain.(machine.Covering).Rounds(1<<20))
	quiet := avr.New(avr.ATmega328P, machine.Config{Watched: []machine.Pin{}}).(machine.Covering)
	quiet.Anew()
	assert.Zero(t, quiet.Rounds(0), "nobody asked")
}

func FuzzAlterations(f *testing.F) {
	f.Add([]byte{0x83, 0xe0, 0x87, 0xbb, 0x23, 0x30, 0x08, 0xf5, 0x2f, 0x5f, 0xc1, 0x9a, 0x80, 0x31, 0x94, 0x07,
		0x8e, 0x1b})
	f.Add([]byte{0x30, 0x58}) // 0x80 is the same with the other sign
	chip, err := machine.Find("atmega328p")
	require.NoError(f, err)
	machinetest.FuzzAlterations(f, 0, chip.Alterations)
}
