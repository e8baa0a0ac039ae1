package hd44780

import (
	"fmt"
	"strings"

	"hemble/core/finding"
	"hemble/core/part"
)

// How RS is guessed from what is sent, of a program that leaves it at one level.
const (
	leftHigh = "high" // what is no letter is an instruction
	leftLow  = "low"  // what is a letter is one, once the display is on
)

// selected is a program that leaves RS where it is: its instructions are shown as characters, or its text is taken for
// instructions.
var selected = part.Misread{
	Entry: finding.Entry{Code: "register-select", Price: finding.Unreadable, Order: 4,
		Doc:      "RS of a character display stays at one level: instructions are shown as characters, or text is taken for instructions",
		Subsumes: []finding.Code{"not-shown", "row-empty", "rows", "lcd-busy", "command"}},
	Setting: "rs", Assumed: true, Mends: true, Taken: map[string][]string{"": {leftHigh, leftLow}}, Wiring: true,
	Partly: true,
	Told:   func(_ part.Instance, log []part.Taken) bool { return levelLeft(log) != "" },
	Text: func(b part.Instance, taken string) string {
		if taken == leftLow {
			return fmt.Sprintf("RS of %s stays low: its text is taken for instructions.", b.Name)
		}
		return fmt.Sprintf("RS of %s stays high after the first character: instructions are shown as characters.",
			b.Name)
	},
}

// levelLeft tells from a log that RS is left at a level: no instruction follows the first character, and some
// characters set an address; or there is no character at all, and many instructions are letters. "" where neither is
// so.
func levelLeft(log []part.Taken) string {
	characters, addresses, behind, letters := 0, 0, 0, 0
	for _, x := range log {
		character := len(x.Data) > 0 && !strings.HasPrefix(x.What, "lost")
		switch {
		case character:
			characters++
			if x.Data[0] >= 0x80 {
				addresses++
			}
		case characters > 0 && len(x.Data) == 0:
			behind++
		case strings.HasPrefix(x.What, "set CGRAM"):
			letters++
		}
	}
	switch {
	case characters > 0 && addresses > 0 && behind == 0:
		return leftHigh
	case characters == 0 && letters > 3:
		return leftLow
	}
	return ""
}

// meant is whether a byte is a character, where RS says that it is or is not: as it says, on any real display.
func (b *bus) meant(data bool, v uint8) bool {
	switch {
	case b.guessed == leftHigh && data:
		return v >= 0x20 && v < 0x80 || v < 8 && v != 1 && v != 2
	case b.guessed == leftLow && !data:
		return b.on && v >= 0x20 && v < 0x80
	}
	return data
}
