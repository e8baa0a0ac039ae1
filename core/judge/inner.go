package judge

import (
	"math/big"

	"hemble/core/clock"
)

// inner is an expectation within another one, which judges it on a run that is seen in another way: what it looks for,
// how far it may be off and what it asks of the display stay its own.
type inner struct{ Expectation }

// Observations are those of what is judged.
func (x inner) Observations() []Observation {
	if l, ok := x.Expectation.(Observing); ok {
		return l.Observations()
	}
	return nil
}

// Tolerance is that of what is judged.
func (x inner) Tolerance() (*big.Rat, bool) {
	if t, ok := x.Expectation.(Timing); ok {
		return t.Tolerance()
	}
	return nil, false
}

// Outlasts is that of what is judged.
func (x inner) Outlasts() (string, clock.Time) {
	if e, ok := x.Expectation.(Ending); ok {
		return e.Outlasts()
	}
	return "", 0
}

// Clean is whether a display without ghosts is asked for.
func (x inner) Clean() (string, bool) {
	if c, ok := x.Expectation.(Cleanable); ok {
		return c.Clean()
	}
	return "", false
}
