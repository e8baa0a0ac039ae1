package machine

import (
	"slices"

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
	Missing                // something is not there that was meant to be
	Indented               // a line belongs to another block than was meant
	Narrow                 // a type holds less than was meant
)

// How seldom slips are, beside the usual ones.
const (
	Likely   = -1 // what was seen speaks for it; less than that: the more
	Seldom   = 1
	Unlikely = 2
)

// Alteration is one place of a program, changed as its author may have meant it.
type Alteration struct {
	Address  uint32        // in bytes, of the instruction, or of the first byte in a table
	Line     firmware.Line // of the source; of a table, none
	Slip     Slip
	From, To int64  // of a number
	Table    string // the name of the table that it is in; "" for code
	Element  int    // which of the table's bytes; of a source, where in the file
	Around   bool   // the line is where what is around it begins
	// Stands is what stands in the source, and Meant what should, where the source is known word by word.
	Stands, Meant string
	Rare          int   // how seldom such a slip is: 0 for the usual ones, or Likely and less, Seldom, Unlikely
	Effort        int64 // that making it takes, beside running it, as that of runs is counted
	// Reached is when the place was first carried out; of a table, and where nobody knows, 0.
	Reached clock.Time
	// Change gives the firmware with it.
	Change func(*firmware.Image) *firmware.Image
}

// Hints are what differs first between what was seen and what was expected: they tell what a number of the program may
// have been meant to be.
type Hints struct {
	Shifts []int64     // what was expected less what was seen, of numbers
	Pairs  [][2]int64  // numbers that were expected, and those that were seen in their places
	Wanted []int64     // numbers that were expected
	Texts  [][2]string // what was expected, and what was seen
	Told   []int64     // numbers in what the program's author was told
	Ratios [][2]int64  // the time that something was expected to take, and the time that it took, in ms
	Timing bool        // nothing is wrong but times
	// Reached tells when the instruction at a byte address was first carried out: others need not be listed; nil where
	// nobody knows.
	Reached func(address uint32) (at clock.Time, ok bool)
}

// MostAltered is how many changes of a program are listed, of its instructions and of its tables: more than are ever
// tried, and few enough for a program that is made to have many.
const MostAltered = 10_000

// Runs reports whether an instruction may have been carried out.
func (h Hints) Runs(address uint32) bool {
	if h.Reached == nil {
		return true
	}
	_, ok := h.Reached(address)
	return ok
}

// Each gives the numbers that one may have been meant to be, with how seldom that is; flips adds those with one bit of
// a byte turned. Some come more than once.
func (h Hints) Each(is int64, flips bool, try func(rare int, to int64)) {
	for _, to := range h.near(is) {
		if off := to - is; h.Timing && (off == 1 || off == -1) {
			try(Seldom, to)
		} else {
			try(0, to)
		}
	}
	for _, to := range h.far(is) {
		try(Seldom, to)
	}
	for bit := 0; flips && bit < 8; bit++ {
		try(Unlikely, is^1<<bit)
	}
}

// near are the numbers that one is likely to have been meant to be.
func (h Hints) near(is int64) (out []int64) {
	for _, s := range h.Shifts {
		out = append(out, is+s, is-s)
	}
	if is > 3 { // a time
		for _, r := range h.Ratios {
			out = append(out, Rounded((is*r[0]+r[1]/2)/r[1]))
		}
	}
	if is > 99 { // a time in ms, beside another one
		for _, r := range h.Ratios {
			out = append(out, Rounded(is+r[0]-r[1]))
		}
	}
	return append(out, is+1, is-1)
}

// about is how far from the number that is meant one is, in percent, that comes from a time as it was seen.
const about = 2

// Rounded is the number of two digits that is meant by one, where it is near to one.
func Rounded(n int64) int64 {
	unit := int64(1)
	for n/unit >= 100 {
		unit *= 10
	}
	to := (n + unit/2) / unit * unit
	if off := to - n; 100*max(off, -off) <= about*n {
		return to
	}
	return n
}

// mostStep is the largest number that a program may count by.
const mostStep = 16

// far are those that are less likely.
func (h Hints) far(is int64) []int64 {
	out := slices.Clone(h.Wanted)
	if -mostStep <= is && is <= mostStep { // the other way
		out = append(out, -is)
	}
	return append(out, 2*is, is/2, 10*is, is/10, is+2, is-2, 0, 1)
}

// Rewrites reports whether words of 16 bits are others than an image has at their byte addresses.
func Rewrites(im *firmware.Image, words map[uint32]uint16) bool {
	for at, w := range words {
		low, ok := im.Byte(at)
		high, also := im.Byte(at + 1)
		if ok && low != byte(w) || also && high != byte(w>>8) {
			return true
		}
	}
	return false
}

// Rewritten has some words of 16 bits, the low byte first, in place of others, by their byte addresses.
func Rewritten(words map[uint32]uint16) func(*firmware.Image) *firmware.Image {
	return func(im *firmware.Image) *firmware.Image {
		bytes := map[uint32]byte{}
		for at, w := range words {
			bytes[at], bytes[at+1] = byte(w), byte(w>>8)
		}
		return im.Patched(bytes)
	}
}
