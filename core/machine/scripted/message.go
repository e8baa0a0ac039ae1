package scripted

import (
	"encoding/json"
	"fmt"
	"math"
	"strconv"
	"strings"

	"hemble/core/circuit"
	"hemble/core/clock"
)

// message is a line that a script sends.
type message struct {
	kind  byte
	at    clock.Time
	wake  clock.Time
	pin   int
	pins  uint64
	drive circuit.Drive
	line  uint32
	code  string
	text  string
}

var drives = map[string]circuit.Drive{"0": circuit.Output(false), "1": circuit.Output(true), "z": circuit.Released,
	"u": circuit.PulledUp, "d": circuit.PulledDown}

// known are the notes that a script's surroundings make; a script could forge others.
var known = map[string]bool{"thread-exception": true}

// parse reads a line of a script on a board with so many pins.
func parse(line string, pins int) (*message, error) {
	kind, rest, _ := strings.Cut(line, " ")
	if len(kind) != 1 {
		return nil, fmt.Errorf("%.40q is no line of a script", line)
	}
	x := &message{kind: kind[0]}
	r := fields{rest: rest}
	x.at = r.time()
	switch x.kind {
	case 'w':
		x.pin = r.pin(pins)
		var ok bool
		if x.drive, ok = drives[r.word()]; !ok {
			r.bad = true
		}
		x.line = uint32(r.number(10, math.MaxUint32))
	case 'b':
	case 's':
		x.wake, x.pins = r.time(), r.number(16, math.MaxUint64)
	case 'a', 'i':
		x.pin = r.pin(pins)
	case 'o', 'x':
		x.text = r.text()
	case 'n':
		x.code = r.word()
		r.bad = r.bad || !known[x.code]
		x.text = r.text()
	default:
		r.bad = true
	}
	if r.bad || r.rest != "" {
		return nil, fmt.Errorf("%.40q is no line of a script", line)
	}
	return x, nil
}

// fields takes a line apart, word by word.
type fields struct {
	rest string
	bad  bool
}

func (f *fields) word() (w string) {
	w, f.rest, _ = strings.Cut(f.rest, " ")
	return w
}

func (f *fields) number(base int, most uint64) uint64 {
	n, err := strconv.ParseUint(f.word(), base, 64)
	if err != nil || n > most {
		f.bad = true
		return 0
	}
	return n
}

func (f *fields) time() clock.Time {
	return clock.Time(f.number(10, uint64(clock.Never/clock.Nanosecond))) * clock.Nanosecond
}

func (f *fields) pin(pins int) int { return int(f.number(10, uint64(pins-1))) }

// text is the rest of the line, a JSON string.
func (f *fields) text() (s string) {
	f.bad = f.bad || json.Unmarshal([]byte(f.rest), &s) != nil
	f.rest = ""
	return s
}
