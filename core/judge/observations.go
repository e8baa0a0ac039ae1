package judge

import (
	"math/big"

	"hemble/core/clock"
	"hemble/core/display"
)

// Observation is a stretch of a trial in which an expectation looks for one state.
type Observation struct {
	Display  string
	Wants    string          // the state, in words
	After    string          // the cue that From and To are counted from; from power-on where it is empty
	End      bool            // from the end of the cue
	From, To clock.Time      // the same where it looks at one moment
	part     *display.Region // of the display; nil for all of it
}

// Apart reports whether two looks at one display are at parts of it that have nothing in common.
func (l Observation) Apart(other Observation) bool {
	return l.part != nil && other.part != nil && l.part.Apart(*other.part)
}

// Observing is an expectation that looks for states at times that the file gives.
type Observing interface{ Observations() []Observation }

// Observations is the one stretch of reads.
func (x *reads) Observations() []Observation {
	switch {
	case x.end:
		return nil
	case x.after != nil:
		return []Observation{{Display: x.display, Wants: x.want.String(), part: display.Within(x.want),
			After: x.after.cue,
			End:   x.after.end, To: x.within}}
	}
	return []Observation{{Display: x.display, Wants: x.want.String(), part: display.Within(x.want),
		From: max(0, x.at-x.within), To: x.at + x.within}}
}

// Observations are the moments at which the answers' time is up.
func (x *answers) Observations() (out []Observation) {
	for _, row := range x.rows {
		out = append(out, Observation{Display: x.display, Wants: row.want.String(), After: row.after.cue, End: true,
			From: x.within, To: x.within})
	}
	return out
}

// Cleanable is an expectation that can ask for a display without ghosts.
type Cleanable interface {
	// Clean tells of which display, and whether it does.
	Clean() (display string, asks bool)
}

// Clean reports whether ghosts cost part of the marks.
func (x *shows) Clean() (string, bool) { return x.display, x.clean.Sign() > 0 }

// Clean is what a steady display is.
func (x *steady) Clean() (string, bool) { return x.display, true }

// Ending is an expectation of a sequence that a trial may outlast.
type Ending interface {
	// Outlasts tells of which display, and for how long nothing is said of what it shows then.
	Outlasts() (display string, by clock.Time)
}

// Timing is an expectation that frames last a time, give or take a share of it.
type Timing interface {
	// Tolerance is the share; ok is false where no frame has a length.
	Tolerance() (share *big.Rat, ok bool)
}

// Tolerance is that of the sequence.
func (x *shows) Tolerance() (*big.Rat, bool) {
	for _, f := range x.frames {
		if f.length > 0 {
			return x.tolerance, true
		}
	}
	return x.tolerance, false
}
