package vision

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/clock"
	"hemble/core/display"
	"hemble/core/machine"
)

// scanned drives four digits of eight segments in turn, a slot each, with the patterns of one moment and of another
// from half the time on; look is called every so often.
func scanned(slot, length, every clock.Time, before, after [4]uint8, look func(*Emissive, clock.Time)) []display.Frame {
	of := make([]int, 32)
	for i := range of {
		of[i] = i / 8
	}
	l := NewEmissive(of, full)
	next := every
	for t, digit := clock.Time(0), 0; t < length; t, digit = t+slot, (digit+1)%4 {
		p := before
		if t >= length/2 {
			p = after
		}
		for ; look != nil && next <= t; next += every {
			look(l, next)
		}
		for i := range of {
			on := int64(0)
			if i/8 == digit {
				on = int64(p[digit] >> (i % 8) & 1)
			}
			l.Set(t, i, on*full, &machine.Place{})
		}
	}
	return l.Finish(length)
}

// A changed digit is glimpsed within a few hundredths of a second, a steady one always looks the same, and who looks
// changes nothing of what was seen.
func TestGlimpseOfDigits(t *testing.T) {
	before, after := [4]uint8{6, 0x5b, 0x4f, 0x66}, [4]uint8{0x5b, 0x5b, 0x4f, 0x66}
	for _, slot := range []clock.Time{100 * us, ms, 3 * ms, 6 * ms} {
		var was display.Lights
		var seen clock.Time
		length := 2 * clock.Second
		frames := scanned(slot, length, 8*ms, before, after, func(l *Emissive, at clock.Time) {
			now := l.Glimpse(at).Lights
			switch {
			case at < length/4 || at > length*3/4: // settling
			case at <= length/2:
				if was != nil {
					require.Equal(t, was, now, "at %s, slots of %s", at.Short(), slot.Short())
				}
				was = now
			case seen == 0 && now[0] == display.Lit && now[2] != display.Lit:
				seen = at - length/2
			}
		})
		assert.NotZero(t, seen)
		assert.LessOrEqual(t, seen, 4*slot+Window+8*ms, "slots of %s", slot.Short())
		assert.Equal(t, scanned(slot, length, 8*ms, before, after, nil), frames)
	}
}

func TestGlimpseOfCells(t *testing.T) {
	s := NewLCD(4, LCDResponse, false)
	write := func(at clock.Time, text string) {
		for i, c := range text {
			s.Paint(at, i, uint16(c), machine.Place{})
		}
	}
	write(0, "ABCD")
	assert.EqualValues(t, 'A', s.Glimpse(500 * ms).Cells[0])
	write(500*ms, "XBCD")
	assert.EqualValues(t, 'A', s.Glimpse(510 * ms).Cells[0], "not there yet")
	assert.EqualValues(t, 'X', s.Glimpse(520 * ms).Cells[0])
	assert.EqualValues(t, 'A', s.Now(520 * ms).Cells[0], "nothing is sure yet")
	s.Paint(600*ms, 0, ' ', machine.Place{})
	s.Paint(602*ms, 0, 'X', machine.Place{})
	assert.EqualValues(t, 'X', s.Glimpse(603 * ms).Cells[0], "it was gone for a moment only")
}
