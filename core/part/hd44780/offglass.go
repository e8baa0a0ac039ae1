package hd44780

import (
	"fmt"
	"slices"
	"strconv"
	"strings"

	"hemble/core/clock"
	"hemble/core/finding"
	"hemble/core/part"
)

// row is where the glass shows an address; -1 where it does not.
func (s size) row(address int) int {
	for row := range s.rows {
		for column := 0; column < s.columns; column += s.half {
			line, at := s.place(row, column)
			if by := address - line*secondLine - at; by >= 0 && by < s.half {
				return row
			}
		}
	}
	return -1
}

// begin is the address at which a row begins.
func (s size) begin(row int) int {
	line, at := s.place(row, 0)
	return line*secondLine + at
}

// following is the address behind one, where there are two lines.
func following(address int) int {
	switch address {
	case lineLength - 1:
		return secondLine
	case secondLine + lineLength - 1:
		return 0
	}
	return address + 1
}

// elsewhere is a program that sends the text of a row to an address off the glass. With a display that takes the first
// such address for the beginning of that row, it stands where it should.
var elsewhere = part.Misread{
	Entry: finding.Entry{Code: "row-address", Price: finding.Unreadable, Order: 5,
		Doc:      "a row is written to an address off the glass, so that nothing of it is seen, or only its end",
		Subsumes: []finding.Code{"words", "word", "cut", "row-empty"}},
	Setting: "row-begins", Assumed: true, Mends: true, Taken: map[string][]string{"": {"2", "3", "4", "1"}}, Wiring: true,
	Partly: true,
	Told: func(b part.Instance, log []part.Taken) bool {
		return slices.ContainsFunc(sentTo(log), func(s sent) bool { return sizeOf(b).row(s.address) < 0 })
	},
	Text: func(b part.Instance, taken string) string {
		row, _ := strconv.Atoi(taken)
		s := sizeOf(b)
		if row > s.rows {
			return fmt.Sprintf("%s has no row %d.", b.Name, row)
		}
		return fmt.Sprintf("The text for row %d of %s is sent to an address off its glass: that row begins at 0x%02X.", row,
			b.Name, s.begin(row-1))
	},
}

// sent is text that was sent to an address.
type sent struct {
	at      clock.Time
	address int
	text    []int
}

// sentTo lists what a log has of them, but for spaces; none where the picture moves, which shows other addresses.
func sentTo(log []part.Taken) (out []sent) {
	for i, x := range log {
		if strings.HasPrefix(x.What, "shift display") || strings.HasPrefix(x.What, entryMode) &&
			!strings.HasSuffix(x.What, "increment") {
			return nil
		}
		one := sent{at: x.At}
		if _, err := fmt.Sscanf(x.What, "set DDRAM address 0x%X", &one.address); err != nil || i+1 == len(log) {
			continue
		}
		if next := log[i+1]; next.What == toText && len(next.Data) > 0 && next.Data[0] != ' ' {
			one.text = next.Data
			out = append(out, one)
		}
	}
	if !readable(log) {
		return nil
	}
	return out
}

// beforeRow looks for text that is sent to an address off the glass, and runs on from there on to it.
func beforeRow(b part.Instance, log []part.Taken) (string, clock.Time) {
	s := sizeOf(b)
	for _, x := range sentTo(log) {
		at := x.address
		if s.row(at) >= 0 {
			continue
		}
		for range x.text {
			if row := s.row(at); row >= 0 {
				return fmt.Sprintf("%s is sent text to address 0x%02X, which is off its glass: only the end of it is seen, in row %d, which begins at 0x%02X.",
					b.Name, x.address, row+1, s.begin(row)), x.at
			}
			at = following(at)
		}
	}
	return "", 0
}

// begins takes the first address off the glass for the beginning of a row, on no real display.
type begins struct {
	size  size
	row   int // counted from 1; 0 for none
	first int // that address, once it was sent; 0 before
}

// newBegins is that for the row that a setting names.
func newBegins(s size, named string) begins {
	row, _ := strconv.Atoi(named)
	if row > s.rows {
		row = 0
	}
	return begins{size: s, row: row}
}

// at is where an address is taken to be.
func (b *begins) at(address uint8) uint8 {
	if b.row == 0 || b.size.row(int(address)) >= 0 {
		return address
	}
	if b.first == 0 {
		b.first = int(address)
	}
	if by := int(address) - b.first; by >= 0 && by < b.size.columns {
		return uint8(b.size.begin(b.row-1) + by)
	}
	return address
}
