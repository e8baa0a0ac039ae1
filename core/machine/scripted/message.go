package scripted

import (
	"encoding/hex"
	"encoding/json"
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"

	"hemble/core/circuit"
	"hemble/core/clock"
	"hemble/core/machine"
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
	last  uint32 // line, where there are several
	code  string
	text  string
	data  []byte

	channel int
	steps   []step
	port    *port
}

var drives = map[string]circuit.Drive{"0": circuit.Output(false), "1": circuit.Output(true), "z": circuit.Released,
	"u": circuit.PulledUp, "d": circuit.PulledDown}

// known are the notes that a script's surroundings make; a script could forge others.
var known = map[string]bool{string(machine.ThreadException): true}

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
	case 'c':
		x.channel = r.channel()
		scl, sda, half := r.pin(pins), r.pin(pins), r.number(10, math.MaxUint32)
		x.line = uint32(r.number(10, math.MaxUint32))
		var err error
		if x.steps, err = twoWire(uint8(scl), uint8(sda), uint32(half), r.word()); err != nil {
			r.bad = true
		}
	case 'y':
		x.channel = r.channel()
		b := spi{clock: uint8(r.pin(pins)), out: r.line(pins), in: r.line(pins), selected: r.line(pins),
			half: uint32(r.number(10, math.MaxUint32))}
		mode := r.number(8, 7)
		b.phase, b.polarity, b.lowFirst = mode&1 == 1, mode&2 == 2, mode&4 == 4
		x.line = uint32(r.number(10, math.MaxUint32))
		x.steps = b.transfer(r.bytes())
	case 'p':
		x.channel = r.channel()
		x.port = &port{tx: r.line(pins), rx: r.line(pins), format: format{bit: uint32(r.number(10, math.MaxUint32))}}
		r.format(&x.port.format)
		r.bad = r.bad || x.channel == 0 // the console stays where it is
	case 't':
		x.channel, x.line, x.data = r.channel(), uint32(r.number(10, math.MaxUint32)), r.bytes()
	case 'm':
		x.code = r.word()
		r.bad = r.bad || !slices.ContainsFunc(numberings, func(n numbering) bool { return n.name == x.code })
	case 'l':
		x.line, x.last = uint32(r.number(10, math.MaxUint32)), uint32(r.number(10, math.MaxUint32))
	case 'f', 'r':
		x.channel = r.channel()
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

// line is a pin, or nobody.
func (f *fields) line(pins int) uint8 {
	if rest, none := strings.CutPrefix(f.rest, "- "); none {
		f.rest = rest
		return nobody
	}
	return uint8(f.pin(pins))
}

func (f *fields) channel() int { return int(f.number(10, channels-1)) }

// bytes are in hexadecimal.
func (f *fields) bytes() []byte {
	data, err := hex.DecodeString(f.word())
	f.bad = f.bad || err != nil || len(data) > mostBytes
	return data
}

// format is a word like 8n1.
func (f *fields) format(to *format) {
	w := f.word()
	if len(w) != 3 || !strings.Contains("5678", w[:1]) || !strings.Contains("neo", w[1:2]) ||
		!strings.Contains("12", w[2:]) || to.bit == 0 {
		f.bad = true
		return
	}
	to.bits, to.parity, to.stops = int(w[0]-'0'), w[1], int(w[2]-'0')
}

// text is the rest of the line, a JSON string.
func (f *fields) text() (s string) {
	f.bad = f.bad || json.Unmarshal([]byte(f.rest), &s) != nil
	f.rest = ""
	return s
}
