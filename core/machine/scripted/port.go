package scripted

import (
	"strings"

	"hemble/core/circuit"
	"hemble/core/clock"
	"hemble/core/machine"
)

// format is how characters stand on an asynchronous line: a start bit, data bits from the lowest on, perhaps one of
// parity, stop bits.
type format struct {
	bit    uint32 // ns
	bits   int
	parity byte // n for none, e for even, o for odd
	stops  int
}

// length is how many bits a character takes.
func (f format) length() int {
	if f.parity == 'n' {
		return 1 + f.bits + f.stops
	}
	return 2 + f.bits + f.stops
}

// sum is the parity bit of a character.
func (f format) sum(v byte) bool {
	odd := f.parity == 'o'
	for i := range f.bits {
		odd = odd != (v>>i&1 == 1)
	}
	return odd
}

// port is a serial port: what it sends is the sequence of its channel.
type port struct {
	format
	tx, rx uint8

	high     bool // the line that comes in
	edges    []edge
	received []byte
}

type edge struct {
	at   clock.Time
	high bool
}

// mostReceived bounds what waits to be read.
const mostReceived = 1 << 16

// mostTyped is how long a line may be that is typed.
const mostTyped = 4095

// send gives the steps in which bytes go out.
func (p *port) send(data []byte) (steps []step) {
	after := uint32(0)
	do := func(on bool) {
		a := low
		if on {
			a = high
		}
		steps = append(steps, step{after, a, p.tx})
		after = p.bit
	}
	for _, v := range data {
		after = 0
		do(false)
		for i := range p.bits {
			do(v>>i&1 == 1)
		}
		if p.parity != 'n' {
			do(p.sum(v))
		}
		for range p.stops {
			do(true)
		}
		steps = append(steps, step{after, sent, v})
	}
	return steps
}

// changed is a change of the line that comes in.
func (p *port) changed(now clock.Time, high bool) {
	if high == p.high {
		return
	}
	p.high = high
	if len(p.edges) > 0 || !high {
		p.edges = append(p.edges, edge{now, high})
	}
}

// over is when the character that comes in is complete: the middle of its first stop bit.
func (p *port) over() clock.Time {
	if len(p.edges) == 0 {
		return clock.Never
	}
	bit := clock.Time(p.bit) * clock.Nanosecond
	return p.edges[0].at + bit*clock.Time(2*(p.length()-p.stops)+1)/2
}

// listen gives the character that is complete now. It began with an edge, and is read in the middle of its bits.
func (p *port) listen() (v byte, some bool) {
	over, start := p.over(), p.edges[0].at
	at := func(n int) (high bool) {
		middle := start + clock.Time(p.bit)*clock.Nanosecond*clock.Time(2*n+1)/2
		for _, e := range p.edges {
			if e.at > middle {
				break
			}
			high = e.high
		}
		return high
	}
	some = !at(0) // or it was a spike
	for i := range p.bits {
		if at(i + 1) {
			v |= 1 << i
		}
	}
	for len(p.edges) > 0 && (p.edges[0].at <= over || p.edges[0].high) {
		p.edges = p.edges[1:]
	}
	return v, some
}

// hear has a port take the character that is complete.
func (m *Machine) hear(channel int) {
	p := m.ports[channel]
	m.now = max(m.now, p.over())
	switch v, some := p.listen(); {
	case !some || len(p.received) >= mostReceived:
	case channel == 0 && m.chip == Linux:
		m.edit(v)
	default:
		p.received = append(p.received, v)
	}
}

// edit takes a character of a line that is typed at the console of the Linux board. It is shown at once; the script
// gets whole lines (POSIX.1-2017, 11.1.6, canonical mode).
func (m *Machine) edit(v byte) {
	switch v {
	case '\b', 0x7f:
		if len(m.typed) > 0 {
			m.typed = m.typed[:len(m.typed)-1]
			m.show("\b \b")
		}
		return
	case '\r':
		v = '\n'
	}
	if len(m.typed) < mostTyped || v == '\n' {
		m.typed = append(m.typed, v)
		m.show(string(rune(v)))
	}
	if v == '\n' {
		m.ports[0].received = append(m.ports[0].received, m.typed...)
		m.typed = m.typed[:0]
	}
}

// show gives the console what the script prints, and sends it there where somebody listens.
func (m *Machine) show(text string) {
	if console := m.ports[0]; m.watched[console.tx] {
		m.begin(0, 0, console.send([]byte(strings.ReplaceAll(text, "\n", "\r\n"))))
	}
	if m.config.Bytes == nil {
		return
	}
	for _, b := range []byte(text) {
		m.config.Bytes(machine.Byte{At: m.now, Port: m.chip.Serial[0].Name, Value: b})
	}
}

// open puts a port on its pins.
func (m *Machine) open(channel int, p *port) {
	p.high = true
	m.ports[channel], m.sequences[channel] = p, &sequence{}
	if p.tx != nobody && (channel > 0 || m.watched[p.tx]) {
		m.sequences[channel].begin(m.now, 0, []step{{0, high, p.tx}})
	}
	if p.rx != nobody && (channel > 0 || m.watched[p.rx]) {
		m.asked |= 1 << p.rx
		m.drives[p.rx] = circuit.PulledUp // a line where nobody sends is idle
	}
}

// tell tells of a character that has been sent.
func (m *Machine) tell(channel int, v byte) {
	if m.config.Bytes != nil && channel < len(m.chip.Serial) && channel > 0 {
		m.config.Bytes(machine.Byte{At: m.now, Port: m.chip.Serial[channel].Name, Value: v})
	}
}
