package scripted

import (
	"math/bits"
	"slices"

	"hemble/core/firmware"
)

// tellNumbering tells of a script whose pins are wired to nothing while those of the same numbers in the other
// numbering are: positions on the header were given where the processor's numbers count, or the reverse.
func (m *Machine) tellNumbering() {
	if m.chip != Linux {
		return
	}
	used := m.driven | m.asked
	n, wired := bits.OnesCount64(used), 0
	for pin := range header {
		if used>>pin&1 == 1 && m.watched[pin] {
			wired++
		}
	}
	meant := func(other func(int) int) (found int) {
		for pin := range header {
			if to := other(pin); used>>pin&1 == 1 && to >= 0 && m.watched[to] {
				found++
			}
		}
		return found
	}
	position := func(pin int) int { return slices.Index(header[:], pin) } // GPIO11 is given, pin 11 meant
	// pin 11, which is GPIO17, is given, and GPIO11 meant
	number := func(pin int) int {
		if header[pin] < len(header) {
			return header[pin]
		}
		return -1
	}
	if best := max(meant(position), meant(number)); n >= 2 && best > wired && 3*best >= 2*n {
		m.notes.Add("numbering-scheme", 0, 0, "of the %d pins that the script uses %d are wired, and %d of those with the same "+
			"numbers in the other numbering: GPIO.BCM counts GPIOs, GPIO.BOARD the pins of the header", n, wired, best)
	}
}

// exchanged is a script with the other numbering.
func exchanged(im *firmware.Image) *firmware.Image {
	p := *im.Script
	p.Exchanged = true
	return &firmware.Image{Format: im.Format, Script: &p}
}
