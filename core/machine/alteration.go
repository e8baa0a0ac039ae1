package machine

import (
	"strconv"
	"strings"

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
	Loaded   bool   // the number is put somewhere: most that are wrong are compared with something, or counted by
	Table    string // the name of the table that it is in; "" for code
	Element  int    // which of the table's bytes; of a source, where in the file, or which gap
	Bytes    int    // of the table; few are a single variable's
	Around   bool   // the line is where what is around it begins
	Behind   bool   // what is missing is behind the line
	Places   int    // that have the same number, all of them changed, the first one on the line; 0 for one
	// Stands is what stands in the source, and Meant what should, where the source is known word by word.
	Stands, Meant string
	Rare          int   // how seldom such a slip is: 0 for the usual ones, or Likely and less, Seldom, Unlikely
	Effort        int64 // that making it takes, beside running it, as that of runs is counted
	// Leads tells that the place is what the program came by to the first difference: on a line from which something
	// was called, or a little before it.
	Leads bool
	// Recent tells that the place was carried out before the first difference, and not shortly before what led to that.
	Recent bool
	// Reached is when the place was first carried out; of a table, and where nobody knows, 0.
	Reached clock.Time
	// Change gives the firmware with it.
	Change func(*firmware.Image) *firmware.Image
}

// Numbers are the one that stands there and the one that was meant; both are 0 for what is no number.
func (a *Alteration) Numbers() (is, meant int64) {
	if a.Stands == "" {
		return a.From, a.To
	}
	whole := func(written string) (int64, error) {
		return strconv.ParseInt(strings.TrimRight(written, "uUlL"), 0, 64)
	}
	is, err := whole(a.Stands)
	meant, wrong := whole(a.Meant)
	if err != nil || wrong != nil {
		return 0, 0
	}
	return is, meant
}

// MostAltered is how many changes of a program are listed, of its instructions and of its tables: more than are ever
// tried, and few enough for a program that is made to have many.
const MostAltered = 10_000

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
