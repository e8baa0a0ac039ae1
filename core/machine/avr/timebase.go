package avr

import "hemble/core/clock"

// timebase turns CPU cycles into time. CLKPR divides the oscillator by a power of two; at every
// change a new base is taken, so that nothing drifts.
type timebase struct {
	rate   clock.Rate
	cycles int64 // CPU cycle of the base
	ticks  int64 // oscillator ticks at the base
	shift  uint
	tick   clock.Time // of the oscillator, where it is a whole number of picoseconds; else 0
}

func newTimebase(rate clock.Rate) timebase {
	b := timebase{rate: rate}
	if clock.Second%clock.Time(rate) == 0 {
		b.tick = clock.Second / clock.Time(rate)
	}
	return b
}

func (b *timebase) at(cycle int64) clock.Time {
	ticks := b.ticks + (cycle-b.cycles)<<b.shift
	if b.tick != 0 {
		return clock.Time(ticks) * b.tick
	}
	return b.rate.At(ticks)
}

// step is how long a cycle takes, where that is a whole number of picoseconds; else 0.
func (b *timebase) step() clock.Time { return b.tick << b.shift }

// cycleAt is the first CPU cycle at or after t.
func (b *timebase) cycleAt(t clock.Time) int64 {
	if t == clock.Never {
		return never
	}
	ticks := b.rate.Cycles(t) - b.ticks
	if ticks <= 0 {
		return b.cycles
	}
	return b.cycles + (ticks+1<<b.shift-1)>>b.shift
}

func (b *timebase) rebase(cycle int64, shift uint) {
	b.ticks += (cycle - b.cycles) << b.shift
	b.cycles, b.shift = cycle, shift
}
