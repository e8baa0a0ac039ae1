package armm

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"hemble/core/clock"
	"hemble/core/firmware"
	"hemble/core/machine"
	"hemble/core/machine/machinetest"
)

// stored is an image with some words at 0x10000000.
func stored(words ...uint16) *firmware.Image {
	s := firmware.Segment{Address: 0x1000_0000}
	for _, w := range words {
		s.Data = append(s.Data, byte(w), byte(w>>8))
	}
	return &firmware.Image{Flash: []firmware.Segment{s}}
}

// Each instruction, and one that its author may have meant, both by ARM DDI 0419E, A6.7.
func TestAlterations(t *testing.T) {
	hints := machine.Hints{Shifts: []int64{3}, Wanted: []int64{77}, Ratios: [][2]int64{{2, 1}}}
	for _, c := range []struct {
		name     string
		is       uint16
		slip     machine.Slip
		from, to int64
		meant    uint16
	}{
		{"MOVS r2, #20, too small by 1", 0x2214, machine.Number, 20, 21, 0x2215},
		{"CMP r3, #8, too large by 1", 0x2b08, machine.Number, 8, 7, 0x2b07},
		{"CMP r3, #8, what is wanted", 0x2b08, machine.Number, 8, 77, 0x2b4d},
		{"MOVS r2, #20, by the ratio of times", 0x2214, machine.Number, 20, 40, 0x2228},
		{"MOVS r0, #1, one bit", 0x2001, machine.Number, 1, 129, 0x2081},
		{"ADDS r1, #20 by what differs", 0x3114, machine.Number, 20, 23, 0x3117},
		{"ADDS r1, #1 for SUBS", 0x3101, machine.Sign, 0, 0, 0x3901},
		{"ADDS r0, r1, #2 for #1", 0x1c88, machine.Number, 2, 1, 0x1c48},
		{"ADDS r0, r1, r2 for SUBS", 0x1888, machine.Sign, 0, 0, 0x1a88},
		{"LSLS r0, r1, #4 for LSRS", 0x0108, machine.Shift, 0, 0, 0x0908},
		{"LSLS r0, r1, #4 for #5", 0x0108, machine.Number, 4, 5, 0x0148},
		{"BEQ for BNE", 0xd002, machine.Reversed, 0, 0, 0xd102},
		{"BEQ for B", 0xd0fe, machine.Regardless, 0, 0, 0xe7fe},
		{"BEQ for nothing", 0xd002, machine.Regardless, 0, 0, 0xbf00},
		{"BLT for BLE", 0xdb02, machine.Inclusive, 0, 0, 0xdd02},
		{"BHI for BHS", 0xd802, machine.Inclusive, 0, 0, 0xd202},
		{"ANDS for ORRS", 0x4011, machine.Mask, 0, 0, 0x4311},
		{"ORRS for BICS", 0x4311, machine.Level, 0, 0, 0x4391},
		{"MVNS for MOVS", 0x43d1, machine.Inverted, 0, 0, 0x0011},
		{"STR r1, [r2, #20] for #24", 0x6151, machine.Level, 0, 0, 0x6191},
		{"STRB for nothing", 0x7011, machine.Needless, 0, 0, 0xbf00},
	} {
		im := stored(c.is)
		var got []uint16
		for _, a := range Alterations(im, hints) {
			if a.Slip == c.slip && a.From == c.from && a.To == c.to {
				got = append(got, a.Change(im).Word(0x1000_0000))
			}
		}
		assert.Contains(t, got, c.meant, c.name)
	}
}

// A number beside the code is changed where it is loaded, once, and is no instruction.
func TestANumberBesideTheCode(t *testing.T) {
	im := stored(0x4900, 0x4a00, 0x86a0, 0x0001) // LDR r1 and r2 of 100000
	var got []int64
	for _, a := range Alterations(im, machine.Hints{Ratios: [][2]int64{{3, 2}}}) {
		assert.Equal(t, machine.Number, a.Slip)
		assert.Equal(t, int64(100_000), a.From)
		assert.Equal(t, uint32(0x1000_0000), a.Address)
		meant := a.Change(im)
		assert.Equal(t, a.To, int64(meant.Word(0x1000_0004))|int64(meant.Word(0x1000_0006))<<16)
		got = append(got, a.To)
	}
	assert.Contains(t, got, int64(150_000))
	assert.Contains(t, got, int64(100_001))
	assert.Empty(t, Alterations(stored(0x4900, 0xbf00, 0x0014, 0xd000), machine.Hints{}), "the address of a register")
}

// A program that is made of numbers, and has tables without end, gives no more changes than anybody tries.
func TestChangesOfAVastProgram(t *testing.T) {
	const instructions = 1 << 19
	words := make([]uint16, instructions)
	for i := range words {
		words[i] = 0x2214 // MOVS r2, #20
	}
	im := stored(words...)
	for range 10_000 {
		im.Symbols = append(im.Symbols, firmware.Symbol{Name: "table", Address: 0x1000_0000, Size: 256, IsData: true})
	}
	assert.Less(t, len(Alterations(im, machine.Hints{})), 2*machine.MostAltered+100)

	last := uint32(0x1000_0000 + 2*(instructions-1))
	im.Symbols = nil
	only := machine.Hints{Reached: func(address uint32) (clock.Time, bool) { return 0, address == last }}
	list := Alterations(im, only)
	assert.NotEmpty(t, list)
	for _, a := range list {
		assert.Equal(t, last, a.Address)
	}
}

func FuzzAlterations(f *testing.F) {
	f.Add([]byte{0x14, 0x22, 0x08, 0x2b, 0x01, 0x31, 0xfe, 0xd0, 0x00, 0x49, 0x00, 0xbf, 0x0a, 0x00, 0x00, 0x00, 0x51,
		0x61})
	f.Add([]byte("0I")) // loads a number from beyond the end
	machinetest.FuzzAlterations(f, 0x1000_0000, Alterations)
}
