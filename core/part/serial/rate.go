package serial

import (
	"fmt"
	"strings"

	"hemble/core/clock"
	"hemble/core/finding"
)

// Rate is the note of a part on such a line that bits are sent at another rate than it has.
var Rate = finding.Entry{Code: "serial-rate", Doc: "bits arrive at another rate than a part on a serial line has"}

// sentAt is what it says.
const sentAt = "the shortest pulses are as at %d baud; %d is expected"

// Sent is the rate in bits per second that the text of such a note tells, behind the part's name; 0 for any other text.
func Sent(note string) (rate int64) {
	var expected int64
	if _, text, ok := strings.Cut(note, ": "); ok {
		if n, _ := fmt.Sscanf(text, sentAt, &rate, &expected); n < 2 {
			return 0
		}
	}
	return rate
}

// standard are the usual rates in bits per second.
var standard = [...]int64{300, 600, 1200, 2400, 4800, 9600, 14_400, 19_200, 28_800, 38_400, 57_600, 76_800,
	115_200, 230_400}

// meter finds out at which rate bits are sent: each pulse lasts for a whole number of bits, so that the shortest that
// come again and again are of one.
type meter struct {
	set    int64 // the rate that is expected
	last   clock.Time
	pulses int
	like   [len(standard)]int // pulses that are as long as one bit at each of the rates ...
	own    int                // ... and at the one that is expected
	done   bool
}

// Bounds of what is measured.
const (
	enough = 40 // pulses until it is told
	again  = 5  // how often the shortest must come
	off    = 25 // a pulse may be off by one part of so many
)

// edge measures what lies before a change of the line; ok is true once, where another rate is found than is expected.
func (m *meter) edge(now clock.Time) (sent int64, ok bool) {
	length := now - m.last
	m.last = now
	if m.done {
		return 0, false
	}
	lasts := func(rate int64) bool {
		bit := clock.Second / clock.Time(rate)
		return length > bit-bit/off && length < bit+bit/off
	}
	if lasts(m.set) {
		m.own++
		m.pulses++
	}
	for i, rate := range standard {
		if rate != m.set && lasts(rate) {
			m.like[i]++
			m.pulses++
		}
	}
	if m.pulses < enough {
		return 0, false
	}
	m.done = true
	for i := len(standard) - 1; i >= 0 && (m.own < again || standard[i] > m.set); i-- {
		if m.like[i] >= again {
			other := max(standard[i], m.set) - min(standard[i], m.set)
			return standard[i], other*off > m.set
		}
	}
	return 0, false
}
