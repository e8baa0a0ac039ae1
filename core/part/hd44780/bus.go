package hd44780

import (
	"hemble/core/clock"
	"hemble/core/finding"
)

// Lines of the bus, as bits of its levels.
const (
	lineRS = iota
	lineRW
	lineE
	lineD0
)

// minEnable is the shortest E pulse of the datasheet at 5 V (PW_EH, "Bus timing characteristics").
const minEnable = 230 * clock.Nanosecond

// bus is the controller behind its eleven lines.
type bus struct {
	glass
	before  uint16     // the levels before the present instant
	eRose   clock.Time // when E last rose
	driving bool
	low     bool  // 4-bit mode: the next nibble is the low one
	high    uint8 // the high nibble that came before it
	// answer drives the data lines in mask with v, or frees them where mask is 0.
	answer func(v, mask uint8)
}

// look takes the levels of all lines. Data are taken at the falling edge of E, as they stood before it:
// what changes together with E comes too late.
func (b *bus) look(now uint16) {
	if b.shown == nil {
		b.paint()
	}
	if b.driving && now>>lineRW&1 == 0 { // a read cycle that turned into a write
		b.driving = false
		b.answer(0, 0)
	}
	if b.driving {
		now = now&^(0xff<<lineD0) | b.before&(0xff<<lineD0)
	}
	fell := b.before&^now>>lineE&1 == 1
	rose := now&^b.before>>lineE&1 == 1
	before := b.before
	b.before = now
	switch {
	case rose:
		b.eRose = b.world.Now()
		if now>>lineRW&1 == 1 {
			b.driving = true
			b.give(now>>lineRS&1 == 1)
		}
	case fell:
		if width := b.world.Now() - b.eRose; width < minEnable {
			b.world.Note("lcd-enable", "E was high for only %s; the datasheet requires %s", width.Short(),
				minEnable.Short())
		}
		if before>>lineRW&1 == 1 {
			b.given(before>>lineRS&1 == 1)
		} else {
			b.take(before>>lineRS&1 == 1, uint8(before>>lineD0))
		}
	}
}

// take is a write cycle: a byte, or a nibble of one.
func (b *bus) take(data bool, v uint8) {
	now := b.world.Now()
	if now < b.readyAt {
		what := "an instruction"
		if data {
			what = "a character"
		}
		b.world.Note("lcd-busy", "%s was sent %s before the controller was ready, and lost", what,
			(b.readyAt - now).Short())
		b.world.Log("lost while busy", v)
		return
	}
	if !b.wide {
		if !b.low {
			b.high, b.low = v&0xf0, true
			return
		}
		b.low = false
		if first := b.high; b.lowFirst {
			v = v&0xf0 | first>>4
		} else {
			v = first | v>>4
		}
	}
	data = b.meant(data, v)
	if data {
		b.world.Log(b.target(), v)
	} else {
		b.world.Log(describe(v))
	}
	b.readyAt = now + b.execute(data, v)
	if b.kept && !data && v == clearDisplay {
		b.world.After(0, settling)
	}
	b.paint()
}

// give drives the data lines while a read cycle holds E high.
func (b *bus) give(data bool) {
	v, mask := b.peek(data, b.world.Now() < b.readyAt), uint8(0xff)
	if !b.wide {
		mask = 0xf0
		if b.low {
			v <<= 4
		}
	}
	b.answer(v, mask)
}

// given ends a read cycle.
func (b *bus) given(data bool) {
	b.answer(0, 0)
	b.driving = false
	whole := b.wide || b.low
	if !b.wide {
		b.low = !b.low
	}
	if whole && data && b.world.Now() >= b.readyAt {
		b.step()
		b.readyAt = b.world.Now() + b.time(dataTime)
		b.paint()
	}
}

// notes are what the bus may report.
var notes = []finding.Entry{
	{Code: "lcd-enable", Doc: "the enable pulse of a character display is too short"},
	{Code: "lcd-busy", Doc: "a character display was sent something while it was busy, and lost it"},
}
