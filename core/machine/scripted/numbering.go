package scripted

import (
	"fmt"
	"math/bits"
	"slices"

	"hemble/core/firmware"
	"hemble/core/machine"
)

// numbering is a way in which programs for the Linux board number pins.
type numbering struct {
	name string
	// gpio gives what a number means; -1 for nothing.
	gpio func(number int) int
	is   string // what such numbers are, and how a program says so
	c    bool   // only programs in C have it
}

// ours are where GPIOs stand in wiringPi's own numbering: 0 to 16 and 21 to 31.
var ours = [32]int{17, 18, 27, 22, 23, 24, 25, 4, 2, 3, 8, 7, 10, 9, 11, 14, 15, -1, -1, -1, -1, 5, 6, 13, 19, 26, 12,
	16, 20, 21, 0, 1}

var numberings = []numbering{
	{"gpio", func(n int) int {
		if n >= 0 && n < len(header) {
			return n
		}
		return -1
	}, "the processor's, GPIO17 is 17 (GPIO.BCM; wiringPiSetupGpio)", false},
	{"header", func(n int) int { return slices.Index(header[:], n) },
		"places on the header, GPIO17 is 11 (GPIO.BOARD; wiringPiSetupPhys)", false},
	{"own", func(n int) int {
		if n >= 0 && n < len(ours) {
			return ours[n]
		}
		return -1
	}, "the library's own, GPIO17 is 0 (wiringPiSetup)", true},
}

// GPIO is what a number means in one of the numberings; -1 for nothing.
func GPIO(numbering string, number int) int {
	for _, n := range numberings {
		if n.name == numbering {
			return n.gpio(number)
		}
	}
	return -1
}

// Header is where the GPIOs are on the header, from GPIO0 on.
func Header() []int { return header[:] }

// tellNumbering tells of a program whose pins are wired to nothing while those of the same numbers in another numbering
// are.
func (m *Machine) tellNumbering() {
	if m.chip != Linux || m.numbering == "" {
		return
	}
	var used []int // numbers that the program uses
	wired := 0
	for number := range 64 {
		pin := GPIO(m.numbering, number)
		if pin < 0 || (m.driven|m.asked)>>pin&1 == 0 {
			continue
		}
		used = append(used, number)
		if m.watched[pin] {
			wired++
		}
	}
	best, most := numbering{}, wired
	for _, n := range numberings {
		if n.name == m.numbering || n.c && m.image.Script.Binary == nil {
			continue
		}
		var found uint64
		for _, number := range used {
			if pin := n.gpio(number); pin >= 0 && m.watched[pin] {
				found |= 1 << pin
			}
		}
		if bits.OnesCount64(found) > most {
			best, most = n, bits.OnesCount64(found)
		}
	}
	if best.name != "" && len(used) >= 2 && 3*most >= 2*len(used) {
		m.notes.Add("numbered-"+best.name, 0, 0, "of the %d pins that the program uses %d are wired, and %d of those with the "+
			"same numbers in another numbering: %s", len(used), wired, most, best.is)
	}
}

// numberSettings are the numberings as settings, each to be tried where it seems to be meant.
func numberSettings() (out []machine.Setting) {
	for _, n := range numberings {
		out = append(out, machine.Setting{Code: machine.NumberCode, Note: "numbered-" + n.name, Change: n.meant,
			Text: fmt.Sprintf("The pins are numbered in another way than the program says: its numbers are %s.", n.is)})
	}
	return out
}

// meant is a program with this numbering, whatever it says.
func (n numbering) meant(im *firmware.Image) *firmware.Image {
	p := *im.Script
	p.Numbering = n.name
	return &firmware.Image{Format: im.Format, Script: &p}
}
