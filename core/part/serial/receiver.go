// Package serial is the asynchronous line of terminals and serial modules: a start bit, eight data bits,
// lowest first, a stop bit (the usual 8N1 framing of a UART).
package serial

import (
	"hemble/core/circuit"
	"hemble/core/clock"
	"hemble/core/part"
	"hemble/core/spec"
)

// Baud is the setting that every such part has.
var Baud = spec.Field{Name: "baud", Kind: spec.Int, Min: 300, Max: 1_000_000, Default: "9600", Doc: "bits per second"}

const dataBits = 8

// Receiver samples a line as a UART does, in the middle of each bit.
type Receiver struct {
	world    part.Host
	terminal int
	timer    int
	bit      clock.Time
	taken    func(start clock.Time, v uint8, framed bool)

	high  bool
	start clock.Time // of the character coming in; -1 for none
	edges []edge     // since then
	rate  meter
}

type edge struct {
	at   clock.Time
	high bool
}

// NewReceiver listens to a terminal with a timer of its part. taken gets each character with the time of its
// start bit, and whether its stop bit was there.
func NewReceiver(w part.Host, terminal, timer int, baud int64,
	taken func(start clock.Time, v uint8, framed bool)) *Receiver {
	return &Receiver{world: w, terminal: terminal, timer: timer, bit: clock.Second / clock.Time(baud), taken: taken,
		high: true, start: -1, rate: meter{set: baud}}
}

// Changed looks at the line. The part calls it whenever the line changed; a line that floats is idle.
func (r *Receiver) Changed() {
	high := r.world.Net(r.terminal).Level != circuit.Low
	if high == r.high {
		return
	}
	r.high = high
	now := r.world.Now()
	if sent, ok := r.rate.edge(now); ok {
		r.world.Note("serial-rate", sentAt, sent, r.rate.set)
	}
	if r.start >= 0 {
		r.edges = append(r.edges, edge{now, high})
	} else if !high {
		r.start, r.edges = now, r.edges[:0]
		r.world.After(r.timer, r.bit*(2*dataBits+3)/2)
	}
}

// Wake is the middle of the stop bit.
func (r *Receiver) Wake() {
	start := r.start
	r.start = -1
	if r.at(start + r.bit/2) { // a spike, no start bit
		return
	}
	v := uint8(0)
	for i := 0; i < dataBits; i++ {
		if r.at(start + r.bit*clock.Time(2*i+3)/2) {
			v |= 1 << i
		}
	}
	r.taken(start, v, r.high)
}

// at is the level of the line at a time since the start bit began.
func (r *Receiver) at(t clock.Time) bool {
	high := false
	for _, e := range r.edges {
		if e.at > t {
			break
		}
		high = e.high
	}
	return high
}

// Sender puts characters on a line.
type Sender struct {
	world    part.Host
	terminal int
	timer    int
	bit      clock.Time
	queue    []byte
	left     int // bits of the first of queue still to send, stop bit included
}

// NewSender drives a terminal with a timer of its part.
func NewSender(w part.Host, terminal, timer int, baud int64) *Sender {
	return &Sender{world: w, terminal: terminal, timer: timer, bit: clock.Second / clock.Time(baud)}
}

// Idle is the line at rest.
func (s *Sender) Idle() { s.world.Drive(s.terminal, circuit.DrivenHigh) }

// Send adds characters to those still to go.
func (s *Sender) Send(text []byte) {
	s.queue = append(s.queue, text...)
	if s.left == 0 && len(s.queue) > 0 {
		s.begin()
	}
}

func (s *Sender) begin() {
	s.left = dataBits + 1
	s.world.Drive(s.terminal, circuit.DrivenLow)
	s.world.After(s.timer, s.bit)
}

// Wake is the end of a bit.
func (s *Sender) Wake() {
	if s.left == 0 { // the stop bit is over
		if s.queue = s.queue[1:]; len(s.queue) > 0 {
			s.begin()
		}
		return
	}
	s.left--
	s.world.Drive(s.terminal, circuit.Output(s.left == 0 || s.queue[0]>>(dataBits-s.left)&1 == 1))
	s.world.After(s.timer, s.bit)
}
