package hd44780

import (
	"fmt"

	"hemble/core/finding"
	"hemble/core/part"
)

// lowFirst has the first half of each byte be its low one.
const lowFirst = "low first"

// halves is a program that sends the low half of each byte first in 4-bit mode.
var halves = part.Misread{
	Entry: finding.Entry{Code: "halves-swapped", Price: finding.Unreadable, Order: 4,
		Doc:      "the low half of each byte is sent first to a character display in 4-bit mode",
		Subsumes: []finding.Code{"not-shown", "row-empty", "rows", "lcd-busy", "command", "dark"}},
	Setting: "halves", Assumed: true, Taken: map[string][]string{"": {lowFirst}}, Wiring: true, Garbles: true,
	Only: func(b part.Instance) bool {
		d0 := b.Kind.Terminal("d0")
		return d0 < 0 || b.Wired[d0] == ""
	},
	Told: func(_ part.Instance, log []part.Taken) bool { return clearedAsShift(log) },
	Text: func(b part.Instance, _ string) string {
		return fmt.Sprintf("The halves of each byte for %s come in the wrong order: the high one goes first.", b.Name)
	},
}

// clearedAsShift tells from a log that the display was never cleared, and its cursor shifted, which is 0x01 in the
// other order.
func clearedAsShift(log []part.Taken) bool {
	shifted := false
	for _, x := range log {
		if x.What == describe(clearDisplay) {
			return false
		}
		shifted = shifted || x.What == describe(clearDisplay<<4)
	}
	return shifted
}
