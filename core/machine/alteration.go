package machine

import (
	"hemble/core/clock"
	"hemble/core/firmware"
)

// Slip is what sort of thing the author of a program may have got wrong in one place of it.
type Slip uint8

// The slips.
const (
	Number     Slip = iota // a number is another one than was meant
	Inclusive              // a comparison leaves out the value itself, or takes it in, where the reverse was meant
	Reversed               // a condition decides the other way
	Regardless             // a condition stands where none was meant
	Sign                   // plus for minus, or the reverse
	Shift                  // a shift to the left for one to the right, or the reverse
	Level                  // a bit is set where it was to be cleared, or the reverse
	Mask                   // and for or, or the reverse
	Inverted               // bits are inverted where they were not meant to be
	Neighbours             // two neighbours in a table are exchanged
	Needless               // a step is taken that was not meant to be
)

// Alteration is one place of a program, changed as its author may have meant it.
type Alteration struct {
	Address  uint32        // in bytes, of the instruction, or of the first byte in a table
	Line     firmware.Line // of the source; of a table, none
	Slip     Slip
	From, To int64  // of a number
	Table    string // the name of the table that it is in; "" for code
	Element  int    // which of the table's bytes
	Rare     int    // how seldom such a slip is: 0 for the usual ones
	// Reached is when the place was first carried out; of a table, and where nobody knows, 0.
	Reached clock.Time
	// Change gives the firmware with it.
	Change func(*firmware.Image) *firmware.Image
}

// Hints are what differs first between what was seen and what was expected: they tell what a number of the program may
// have been meant to be.
type Hints struct {
	Shifts []int64    // what was expected less what was seen, of numbers
	Wanted []int64    // numbers that were expected
	Ratios [][2]int64 // the time that something was expected to take, and the time that it took
}
