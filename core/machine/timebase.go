package machine

import (
	"math"

	"hemble/core/clock"
)

// Timebase turns the cycles of a core into time, from a moment on at which its clock last changed.
type Timebase struct {
	Rate   clock.Rate // of the oscillator
	Clocks int64      // of it in a cycle
	Cycle  int64
	Time   clock.Time
}

// At is the moment of a cycle.
func (b *Timebase) At(cycle int64) clock.Time { return b.Time + b.Rate.At((cycle-b.Cycle)*b.Clocks) }

// Clock is the moment of a clock of the oscillator, counted from cycle 0 on as if it had never changed.
func (b *Timebase) Clock(n int64) clock.Time { return b.Time + b.Rate.At(n-b.Cycle*b.Clocks) }

// CycleAt is the first cycle at or after t.
func (b *Timebase) CycleAt(t clock.Time) int64 {
	if t == clock.Never {
		return math.MaxInt64
	}
	return b.Cycle + (b.Rate.Cycles(t-b.Time)+b.Clocks-1)/b.Clocks
}

// Step is how long a cycle lasts, where that is a whole number of picoseconds; else 0.
func (b *Timebase) Step() clock.Time {
	if clock.Second%clock.Time(b.Rate) != 0 {
		return 0
	}
	return clock.Second / clock.Time(b.Rate) * clock.Time(b.Clocks)
}
