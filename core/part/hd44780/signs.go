package hd44780

import (
	"fmt"
	"slices"
	"strings"

	"hemble/core/clock"
	"hemble/core/finding"
	"hemble/core/part"
)

// signs are what the instructions that were taken tell (datasheet ADE-207-272(Z), table 6).
var signs = []part.Sign{
	{Entry: finding.Entry{Code: "entry-mode", Order: 2, Sure: true,
		Doc:      "an LCD writes from right to left, or moves its picture with each character",
		Subsumes: []finding.Code{"words", "cut", "row-empty", "row-address", "rows", "columns"}},
		Find: func(b part.Instance, log []part.Taken) (string, clock.Time) {
			mode := ""
			if !readable(log) {
				return "", 0
			}
			for _, x := range log {
				switch {
				case strings.HasPrefix(x.What, entryMode):
					mode = x.What
				case x.What == "clear display": // it sets the mode back to increment, and leaves the shift
					mode = strings.Replace(mode, "decrement", "increment", 1)
				case x.What != toText:
				case strings.Contains(mode, "decrement"):
					return fmt.Sprintf("%s writes from right to left: its entry mode is set to decrement (0x04 or 0x05 in place of 0x06).",
						b.Name), x.At
				case strings.HasSuffix(mode, "shift"):
					return fmt.Sprintf("%s moves its whole picture with each character: its entry mode is set to shift (0x07 in place of 0x06).",
						b.Name), x.At
				}
			}
			return "", 0
		}},
	{Entry: finding.Entry{Code: "not-shown", Order: 3, Sure: true,
		Doc: "no text is ever shown: the display was not initialised or switched on, or what was sent did not arrive"},
		Find: func(b part.Instance, log []part.Taken) (string, clock.Time) {
			control := func(x part.Taken) bool { return strings.HasPrefix(x.What, "display o") }
			on := slices.ContainsFunc(log, func(x part.Taken) bool { return strings.HasPrefix(x.What, "display on") })
			off := slices.IndexFunc(log, control)
			if on || off < 0 || !readable(log) {
				return "", 0
			}
			return fmt.Sprintf("%s is never switched on: display control is set to off (bit 2 of 0x08 to 0x0F is 0, as in 0x08).",
				b.Name), log[off].At
		}},
	{Entry: finding.Entry{Code: "row-address", Price: finding.Constant, Order: 14, Sure: true,
		Doc:      "a row shows only the end of its text: it is written to an address before the row",
		Subsumes: []finding.Code{"words", "word", "cut", "row-empty"}},
		Find: beforeRow},
}

// beforeRow looks for text that is sent to an address off the glass, and runs on from there on to it.
func beforeRow(b part.Instance, log []part.Taken) (string, clock.Time) {
	s := sizeOf(b)
	if !readable(log) || slices.ContainsFunc(log, func(x part.Taken) bool {
		return strings.HasPrefix(x.What, "shift display") || strings.HasPrefix(x.What, entryMode) &&
			!strings.HasSuffix(x.What, "increment")
	}) {
		return "", 0
	}
	for i, x := range log[:max(0, len(log)-1)] {
		address, text := 0, log[i+1]
		if _, err := fmt.Sscanf(x.What, toAddress, &address); err != nil || s.row(address) >= 0 ||
			text.What != toText || len(text.Data) == 0 || text.Data[0] == ' ' {
			continue
		}
		at := address
		for range text.Data {
			if row := s.row(at); row >= 0 {
				start := s.starts[row*s.columns/s.half]
				return fmt.Sprintf("%s is sent text to address 0x%02X, which is off its glass: only the end of it is seen, in row %d, which begins at 0x%02X.",
					b.Name, address, row+1, start[0]*secondLine+start[1]), x.At
			}
			at = following(at)
		}
	}
	return "", 0
}

// row is where the glass shows an address; -1 where it does not.
func (s size) row(address int) int {
	line, at := address/secondLine, address%secondLine
	for i, start := range s.starts {
		if line == start[0] && at >= start[1] && at < start[1]+s.half {
			return i * s.half / s.columns
		}
	}
	return -1
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

// What logs say: see describe.
const (
	entryMode = "entry mode: "
	toText    = "write"
	toAddress = "set DDRAM address 0x%X"
)

// The lines of the controller's memory (datasheet, "Display Data RAM").
const (
	secondLine = 0x40 // the address at which it begins
	lineLength = 40
)

// readable reports whether text is sent: what comes over wrong wires is none, and its instructions tell nothing.
func readable(log []part.Taken) bool {
	text, all := 0, 0
	for _, x := range log {
		if x.What == toText && len(x.Data) > 0 {
			if all++; x.Data[0] >= ' ' && x.Data[0] <= '~' {
				text++
			}
		}
	}
	return all > 0 && text*5 >= all*4
}
