// Package capture reads recorded pin activity, from a logic analyser or an HDL simulation. A capture takes the place
// of a chip on the bench, so everything behind the pins is the same.
package capture

import (
	"bufio"
	"fmt"
	"io"
	"slices"
	"strconv"
	"strings"

	"hemble/core/circuit"
	"hemble/core/clock"
	"hemble/core/firmware"
	"hemble/core/machine"
)

// Options say how a capture is to be read.
type Options struct {
	Names map[string]string // pins of the chip by the names of signals that are called otherwise
	Zero  clock.Time        // the moment in the capture that counts as power-on
}

// maxSignals bounds the signals of a capture, maxWord the length of one word of it, maxChanges those that are kept of
// one input.
const (
	maxSignals = 4096
	maxWord    = 4096
	maxChanges = 100_000
)

// Replay is a capture under way; a machine.Machine that runs no firmware. It is read once, as it is needed.
type Replay struct {
	words *bufio.Scanner
	word  int // number of the word read last, for errors
	chip  *machine.Chip
	zero  clock.Time

	scale clock.Time       // ps of a unit of time
	bits  map[string][]int // pins of a signal by its code, the highest bit first; -1 for none
	found []bool           // by pin: the capture has it

	levels  []circuit.Drive // by pin, as of now
	inputs  [][]Change      // by pin
	before  []circuit.Drive // buffers of Run
	changes []machine.Change
	now     clock.Time
	last    clock.Time // of the last change
	next    clock.Time // of the changes that follow
	ended   bool
	err     error
	notes   []machine.Note
	edges   int64
}

// Change is a new level of a pin.
type Change struct {
	At   clock.Time
	High bool
}

// Open reads the header of a VCD file (IEEE 1364-2001, section 18). Signals belong to the pins that they are called by,
// in whatever scope, or to those that names says; vectors have the pins that the chip says.
func Open(r io.Reader, chip *machine.Chip, o Options) (*Replay, error) {
	t := &Replay{words: bufio.NewScanner(r), chip: chip, zero: o.Zero, bits: map[string][]int{},
		found:  make([]bool, len(chip.Pins)),
		levels: make([]circuit.Drive, len(chip.Pins)), inputs: make([][]Change, len(chip.Pins))}
	for i := range t.levels {
		t.levels[i] = circuit.Released
	}
	t.words.Buffer(make([]byte, 0, maxWord), maxWord)
	t.words.Split(bufio.ScanWords)
	for _, pin := range o.Names {
		if _, ok := chip.Pin(pin); !ok {
			return nil, fmt.Errorf("the %s has no pin %q", chip.Title, pin)
		}
	}
	if err := t.header(o.Names); err != nil {
		return nil, err
	}
	if !slices.Contains(t.found, true) {
		return nil, fmt.Errorf("no signal of the capture is called by a pin of the %s, as %s is; name them, as in %s=clk",
			chip.Title, chip.Pins[0].Name, chip.Pins[0].Name)
	}
	return t, t.body(t.zero)
}

func (t *Replay) read() (string, bool) {
	ok := t.words.Scan()
	t.word++
	return t.words.Text(), ok
}

func (t *Replay) fail(format string, args ...any) error {
	return fmt.Errorf("VCD, word %d: %s", t.word, fmt.Sprintf(format, args...))
}

// section reads up to $end.
func (t *Replay) section() (words []string, err error) {
	for {
		w, ok := t.read()
		if !ok {
			return nil, t.fail("the file ends within a section")
		}
		if w == "$end" {
			return words, nil
		}
		if len(words) < 64 { // a comment may be long
			words = append(words, w)
		}
	}
}

func (t *Replay) header(names map[string]string) error {
	for {
		w, ok := t.read()
		if !ok {
			return t.fail("$enddefinitions is missing: this is no VCD file")
		}
		if !strings.HasPrefix(w, "$") {
			return t.fail("expected a section such as $var, got %.20q: this is not a VCD file", w)
		}
		words, err := t.section()
		if err != nil {
			return err
		}
		switch w {
		case "$timescale":
			if t.scale, err = clock.Parse(strings.Join(words, "")); err != nil || t.scale <= 0 {
				return t.fail("%q is no time scale", strings.Join(words, " "))
			}
		case "$var":
			if len(words) < 4 {
				return t.fail("a $var has a kind, a width, a code and a name")
			}
			if len(t.bits) == maxSignals {
				return t.fail("there are more than %d signals", maxSignals)
			}
			t.signal(words, names)
		case "$enddefinitions":
			if t.scale == 0 {
				return t.fail("the time scale is missing")
			}
			return nil
		}
	}
}

// signal takes a $var: kind, width, code, name and perhaps a range.
func (t *Replay) signal(words []string, names map[string]string) {
	width, err := strconv.Atoi(words[1])
	if err != nil || width < 1 || width > 64 || words[0] == "real" {
		return
	}
	name, _, _ := strings.Cut(strings.Join(words[3:], ""), "[")
	if width > 1 && strings.Contains(words[3], "[") {
		name, _, _ = strings.Cut(words[3], "[")
	}
	if width == 1 { // one bit of a vector keeps its index: PORTB[3]
		name = strings.Join(words[3:], "")
	}
	if pin, ok := names[name]; ok {
		name = pin
	}
	pins := t.pins(name, width)
	if pins == nil || t.bits[words[2]] != nil {
		return
	}
	t.bits[words[2]] = pins
	for _, p := range pins {
		if p >= 0 {
			t.found[p] = true
		}
	}
}

// pins are those that a name and a width stand for.
func (t *Replay) pins(name string, width int) []int {
	upper := strings.ToUpper(name)
	if i := strings.LastIndexAny(upper, "./"); i >= 0 {
		upper = upper[i+1:]
	}
	one := func(pin string) int {
		if p, ok := t.chip.Pin(pin); ok && pin != "" {
			return int(p)
		}
		return -1
	}
	if width == 1 {
		if p := one(upper); p >= 0 {
			return []int{p}
		}
		base, index, _ := strings.Cut(strings.TrimSuffix(upper, "]"), "[")
		if bit, err := strconv.Atoi(index); err == nil {
			if vector := t.chip.Vectors[base]; bit >= 0 && bit < len(vector) && t.chip.Pins[vector[bit]].Name != "" {
				return []int{int(vector[bit])}
			}
		}
		return nil
	}
	vector := t.chip.Vectors[upper]
	if vector == nil {
		return nil
	}
	var pins []int
	for bit := width - 1; bit >= 0; bit-- {
		pin := -1
		if bit < len(vector) && t.chip.Pins[vector[bit]].Name != "" {
			pin = int(vector[bit])
		}
		pins = append(pins, pin)
	}
	return pins
}

// body takes values up to the first moment behind until, and leaves that in next.
func (t *Replay) body(until clock.Time) error {
	for {
		w, ok := t.read()
		if !ok {
			t.ended, t.next = true, clock.Never
			if err := t.words.Err(); err != nil {
				t.err = t.fail("%s", err)
			}
			return t.err
		}
		switch w[0] {
		case '#':
			at, err := strconv.ParseInt(w[1:], 10, 64)
			if err != nil || at < 0 || clock.Time(at) > clock.Never/2/t.scale {
				return t.fail("%.30q is no time", w)
			}
			if next := clock.Time(at) * t.scale; next < t.next {
				return t.fail("time goes back to %s", w)
			} else if t.next = next; next > until {
				return nil
			}
		case '$': // $dumpvars, $end and the like: the values within count
			if w == "$comment" {
				if _, err := t.section(); err != nil {
					return err
				}
			}
		case 'b', 'B':
			code, ok := t.read()
			if !ok {
				return t.fail("a value without its signal")
			}
			t.vector(w[1:], code)
		case 'r', 'R', 's', 'S':
			if _, ok := t.read(); !ok {
				return t.fail("a value without its signal")
			}
		default:
			if !strings.ContainsRune("01xXzZhHlLuUwW-", rune(w[0])) {
				return t.fail("%.20q is neither a time nor a value", w)
			}
			if pins := t.bits[w[1:]]; len(pins) == 1 {
				t.set(pins[0], w[0])
			}
		}
	}
}

// vector sets the pins of a vector; a shorter value is filled up with 0, or with x and z where those lead.
func (t *Replay) vector(value, code string) {
	pins := t.bits[code]
	if value == "" || len(value) > len(pins) {
		return
	}
	fill := byte('0')
	if value[0] != '1' {
		fill = value[0]
	}
	for i, pin := range pins {
		v := fill
		if k := i - (len(pins) - len(value)); k >= 0 {
			v = value[k]
		}
		if pin >= 0 {
			t.set(pin, v)
		}
	}
}

// set notes a value; what is neither high nor low is left open.
func (t *Replay) set(pin int, value byte) {
	d := circuit.Released
	switch value {
	case '1', 'h', 'H':
		d = circuit.DrivenHigh
	case '0', 'l', 'L':
		d = circuit.DrivenLow
	}
	if d == t.levels[pin] {
		return
	}
	t.levels[pin] = d
	if d != circuit.Released && len(t.inputs[pin]) < maxChanges {
		t.inputs[pin] = append(t.inputs[pin], Change{max(0, t.next-t.zero), d.Level == circuit.High})
	}
}

// Has reports whether the capture has a signal for a pin.
func (t *Replay) Has(pin machine.Pin) bool { return t.found[pin] }

// Changes are the levels of a pin so far, from power-on.
func (t *Replay) Changes(pin machine.Pin) []Change { return t.inputs[pin] }

// Err returns what was wrong with the part that was read so far.
func (t *Replay) Err() error { return t.err }

// Ended is when the last change of the capture came; false while it continues.
func (t *Replay) Ended() (clock.Time, bool) { return t.last, t.ended }

// Run hands over the changes up to a moment.
func (t *Replay) Run(until clock.Time, l machine.Listener) machine.Stop {
	for !t.ended && t.err == nil && t.next-t.zero <= until {
		at := t.next - t.zero
		t.before = append(t.before[:0], t.levels...)
		if err := t.body(t.next); err != nil {
			t.err = err
			break
		}
		changes := t.changes[:0]
		for pin, d := range t.levels {
			if d != t.before[pin] {
				changes = append(changes, machine.Change{Pin: machine.Pin(pin), Drive: d})
			}
		}
		t.changes = changes
		if t.last = at; len(changes) > 0 {
			t.edges += int64(len(changes))
			until = min(until, max(at, l.Drive(at, changes, machine.Place{})))
		}
	}
	t.now = max(t.now, until)
	return machine.Stop{At: until}
}

// Now is how far the replay was played.
func (t *Replay) Now() clock.Time { return t.now }

// Load refuses: a replay runs no firmware.
func (t *Replay) Load(*firmware.Image) error { return fmt.Errorf("a capture runs no firmware") }

// Reset and Input change nothing: what was recorded happened.
func (t *Replay) Reset() {}

// Input changes nothing.
func (t *Replay) Input(machine.Pin, circuit.Level) {}

// Drives is what a pin does now.
func (t *Replay) Drives(p machine.Pin) circuit.Drive { return t.levels[p] }

// Notes has nothing.
func (t *Replay) Notes() []machine.Note { return t.notes }

// Counters has the edges alone.
func (t *Replay) Counters() machine.Counters { return machine.Counters{Edges: t.edges} }

// Hash is not that of a machine's state.
func (t *Replay) Hash() [32]byte { return [32]byte{} }
