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
	{Entry: finding.Entry{Code: elsewhere.Code, Order: 14, Sure: true}, Find: beforeRow},
}

// What logs say: see describe.
const (
	entryMode = "entry mode: "
	toText    = "write"
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
