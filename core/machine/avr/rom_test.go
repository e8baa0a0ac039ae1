package avr

import (
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/clock"
	"hemble/core/firmware"
	"hemble/core/machine"
)

// A program that is put in the place of another one is decoded as in a place of its own, whatever differs: words,
// their neighbours, what is programmed at all, the first word behind the last one.
func TestProgramInThePlaceOfAnother(t *testing.T) {
	r := rand.New(rand.NewPCG(1, 30))
	v := ATmega168
	used := v.empty()
	im := &firmware.Image{}
	for round := range 200 {
		switch r.IntN(4) {
		case 0: // another one
			im = &firmware.Image{}
			for range 1 + r.IntN(3) {
				data := make([]byte, 1+r.IntN(3000))
				for i := range data {
					data[i] = byte(r.Uint32())
				}
				at := uint32(r.IntN(2*v.words - len(data)))
				im.Flash = append(im.Flash, firmware.Segment{Address: at, Data: data})
			}
		case 1: // at the ends
			im.Flash = append(im.Flash, firmware.Segment{Data: []byte{byte(r.Uint32()), 0x94}},
				firmware.Segment{Address: uint32(2*v.words - 2), Data: []byte{0x0c, 0x94}})
		default: // a place
			patch := map[uint32]byte{}
			for range 1 + r.IntN(3) {
				patch[uint32(r.IntN(2*v.words))] = byte(r.Uint32())
			}
			im = im.Patched(patch)
		}
		fresh := v.empty()
		require.NoError(t, fresh.load(im))
		require.NoError(t, used.load(im))
		require.Equal(t, fresh.flash, used.flash, round)
		require.Equal(t, fresh.reference, used.reference, round)
		require.Equal(t, fresh.code, used.code, round)
		used.reference[0].op, used.code[r.IntN(v.words)].op = opStart, opNOP // as running does
	}
}

// A machine that is closed runs no more, and those that take over its program run theirs.
func TestClosedMachine(t *testing.T) {
	code := []byte{0x25, 0x9a, 0x1d, 0x9a, 0xfe, 0xcf} // sbi DDRB, 5; sbi PINB, 5; rjmp -2
	blink := &firmware.Image{Flash: []firmware.Segment{{Data: code}}}
	run := func(im *firmware.Image) (machine.Stop, machine.Counters) {
		m := New(ATmega328P, machine.Config{})
		require.NoError(t, m.Load(im))
		stop := m.Run(clock.Millisecond, nothing{})
		machine.Close(m)
		machine.Close(m)
		return stop, m.Counters()
	}
	stop, first := run(blink)
	assert.Empty(t, stop.Reason)
	empty := &firmware.Image{Flash: []firmware.Segment{{Address: 0x100, Data: []byte{0, 0}}}}
	stop, _ = run(empty)
	assert.NotEmpty(t, stop.Reason, "nothing is left of the program before")
	_, again := run(blink)
	assert.Equal(t, first, again)
	unloaded := New(ATmega328P, machine.Config{})
	assert.NotEmpty(t, unloaded.Run(clock.Millisecond, nothing{}).Reason, "a machine without a program")
	big := &firmware.Image{Flash: []firmware.Segment{{Address: 0x7fff, Data: []byte{0, 0}}}}
	m := New(ATmega328P, machine.Config{})
	require.ErrorContains(t, m.Load(big), "flash up to")
	assert.NotEmpty(t, m.Run(clock.Millisecond, nothing{}).Reason, "nothing is left of another machine's program")
	require.NoError(t, m.Load(blink))
}

// nothing listens to pins.
type nothing struct{}

func (nothing) Drive(clock.Time, []machine.Change, machine.Place) clock.Time { return clock.Never }
