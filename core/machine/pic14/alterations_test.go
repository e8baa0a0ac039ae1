package pic14

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/clock"
	"hemble/core/machine"
	"hemble/core/machine/machinetest"
)

// Each word, and one that its author may have meant, both by DS33023A, table 29-2.
func TestAlterations(t *testing.T) {
	hints := machine.Hints{Shifts: []int64{3}, Wanted: []int64{77}, Ratios: [][2]int64{{2, 1}}}
	for _, c := range []struct {
		name     string
		is       uint16
		slip     machine.Slip
		from, to int64
		meant    uint16
	}{
		{"MOVLW 16, 10 taken as hexadecimal", 0x3010, machine.Number, 16, 10, 0x300a},
		{"MOVLW 20, too small by 1", 0x3014, machine.Number, 20, 21, 0x3015},
		{"SUBLW 20, by what differs", 0x3c14, machine.Number, 20, 23, 0x3c17},
		{"ADDLW 20, what is wanted", 0x3e14, machine.Number, 20, 77, 0x3e4d},
		{"MOVLW 20, by the ratio of times", 0x3014, machine.Number, 20, 40, 0x3028},
		{"XORLW 1, one bit", 0x3a01, machine.Number, 1, 129, 0x3a81},
		{"ANDLW for IORLW", 0x3901, machine.Mask, 0, 0, 0x3801},
		{"BSF for BCF", 0x1485, machine.Level, 0, 0, 0x1085},
		{"BCF of another bit", 0x1085, machine.Number, 1, 7, 0x1385},
		{"BTFSS for BTFSC", 0x1c03, machine.Reversed, 0, 0, 0x1803},
		{"BTFSC that always skips", 0x1805, machine.Regardless, 0, 0, 0x2802},
		{"BTFSC that never does", 0x1805, machine.Regardless, 0, 0, 0x0000},
		{"INCF for DECF", 0x0aa0, machine.Sign, 0, 0, 0x03a0},
		{"ADDWF for SUBWF", 0x07a0, machine.Sign, 0, 0, 0x02a0},
		{"RLF for RRF", 0x0da0, machine.Shift, 0, 0, 0x0ca0},
		{"ANDWF for IORWF", 0x05a0, machine.Mask, 0, 0, 0x04a0},
		{"COMF for MOVF", 0x0920, machine.Inverted, 0, 0, 0x0820},
		{"CALL for nothing", 0x2005, machine.Needless, 0, 0, 0x0000},
	} {
		im := image(quiet, map[uint16][]uint16{0: {c.is}})
		var got []uint16
		for _, a := range alterations(im, hints) {
			if a.Slip == c.slip && a.From == c.from && a.To == c.to {
				got = append(got, a.Change(im).Word(0))
			}
		}
		assert.Contains(t, got, c.meant, c.name)
	}
}

// A difference that goes nowhere but into a decision is a comparison.
func TestComparisonsAreNoDifferences(t *testing.T) {
	signs := func(words ...uint16) (n int) {
		for _, a := range alterations(image(quiet, map[uint16][]uint16{0: words}), machine.Hints{}) {
			if a.Slip == machine.Sign {
				n++
			}
		}
		return n
	}
	assert.Zero(t, signs(0x0220, 0x1903), "SUBWF to W, BTFSC STATUS,Z")
	assert.Equal(t, 1, signs(0x02a0, 0x1903), "to the register")
	assert.Equal(t, 1, signs(0x0220, 0x00a1), "MOVWF behind it")
}

func TestNeighboursInATable(t *testing.T) {
	im := image(quiet, map[uint16][]uint16{0: {0x343f, 0x3406, 0x3406}}) // RETLW, three times
	var got [][2]uint16
	for _, a := range alterations(im, machine.Hints{}) {
		if a.Slip == machine.Neighbours {
			meant := a.Change(im)
			got = append(got, [2]uint16{meant.Word(0), meant.Word(2)})
		}
	}
	assert.Equal(t, [][2]uint16{{0x3406, 0x343f}}, got)
}

func TestWhatIsCarriedOut(t *testing.T) {
	both(t, func(t *testing.T, plain bool) {
		m := newMachine(PIC16F877A, machine.Config{Reference: plain, Cover: true, Watched: []machine.Pin{}})
		// GOTO 2; an instruction that is passed over; NOP; GOTO 2
		require.NoError(t, m.Load(image(quiet, map[uint16][]uint16{0: {0x2802, 0x3001, 0x0000, 0x2802}})))
		m.Run(100*clock.Millisecond, nil)
		first, ok := m.Reached(0)
		assert.True(t, ok)
		_, ok = m.Reached(2)
		assert.False(t, ok)
		then, ok := m.Reached(4)
		assert.True(t, ok)
		assert.Greater(t, then, first)
		_, ok = m.Reached(1 << 20)
		assert.False(t, ok)
		m.Anew()
		m.Run(200*clock.Millisecond, nil)
		assert.Equal(t, machine.Rounds(1), m.Rounds(0))
		assert.Zero(t, m.Rounds(2))
		if plain {
			assert.Equal(t, machine.Rounds(3), m.Rounds(4))
		}
	})
}

func FuzzAlterations(f *testing.F) {
	f.Add([]byte{0x10, 0x30, 0x14, 0x3c, 0x85, 0x14, 0x03, 0x1c, 0xa0, 0x0a, 0x05, 0x20, 0x3f, 0x34, 0x06, 0x34})
	machinetest.FuzzAlterations(f, 0, alterations)
}
