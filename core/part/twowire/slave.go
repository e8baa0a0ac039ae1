// Package twowire is the slave's side of a two-wire bus (NXP UM10204, "I²C-bus specification and user manual", section
// 3.1), for parts on such a bus.
package twowire

import (
	"fmt"
	"math/bits"
	"slices"
	"strconv"

	"hemble/core/circuit"
	"hemble/core/finding"
	"hemble/core/part"
	"hemble/core/spec"
)

// PullUps is the setting that every such part has: modules carry the bus's pull-up resistors.
var PullUps = spec.Field{Name: "pull-ups", Kind: spec.Bool, Default: "yes",
	Doc: "the module's own pull-up resistors on both lines of the bus"}

// Misread is what programs take such a bus for that switch its lines by hand.
var Misread = []part.Misread{
	{Entry: finding.Entry{Code: "bit-order", Price: finding.Wiring, Order: 2,
		Doc: "the bits of a word are sent, or wired, in reverse order"},
		Setting: "sent", Assumed: true, Taken: map[string][]string{"": {"reversed"}}, Wiring: true, Garbles: true,
		Called: func(b part.Instance, addresses []string) bool {
			return slices.Contains(addresses, fmt.Sprintf("0x%02X", bits.Reverse8(own(b)<<1)>>1))
		},
		Text: func(b part.Instance, _ string) string {
			return fmt.Sprintf("%s takes the highest bit of each byte first, and the program sends the lowest first.",
				b.Name)
		}},
	{Entry: finding.Entry{Code: "no-acknowledge", Price: finding.Unreadable, Order: 3,
		Doc:      "a byte has eight clocks where a ninth is due for the acknowledgement",
		Subsumes: []finding.Code{"dark", "not-shown"}},
		Setting: "acknowledge", Assumed: true, Taken: map[string][]string{"": {"none"}}, Wiring: true, Garbles: true,
		Called: func(b part.Instance, addresses []string) bool { // the first byte comes whole
			return slices.Equal(addresses, []string{fmt.Sprintf("0x%02X", own(b))})
		},
		Text: func(b part.Instance, _ string) string {
			return fmt.Sprintf("The program gives %s eight clocks for each byte; a ninth is due, for the acknowledgement.",
				b.Name)
		}},
}

// own is what a part answers to.
func own(b part.Instance) uint8 {
	n, _ := strconv.ParseUint(b.Settings.Text("address"), 0, 7)
	return uint8(n)
}

// Device is what answers on the bus.
type Device interface {
	// Addressed reports whether the device answers to an address, which begins a transfer.
	Addressed(address uint8, read bool) bool
	// Take is a byte that the master wrote; it reports whether to acknowledge it.
	Take(v uint8) bool
	// Give is the next byte for a master that reads.
	Give() uint8
}

// Slave is a device's end of the bus.
type Slave struct {
	world    part.Host
	sda, scl int
	device   Device
	idle     circuit.Drive // what it does to a line that it leaves alone
	turned   bool          // bits are taken from the lowest on
	eager    bool          // no clock belongs to the acknowledgement

	high     [2]bool // SDA, SCL before
	state    state
	bits     int
	shift    uint8
	answered bool // the master acknowledged a byte it read
}

type state uint8

const (
	idle    state = iota // not spoken to
	address              // taking the address
	taking               // bytes from the master
	giving               // bytes to the master
)

// New puts a device on the terminals of its part.
func New(w part.Host, b part.Instance, sda, scl int, d Device) *Slave {
	s := &Slave{world: w, sda: sda, scl: scl, device: d, idle: circuit.Released,
		turned: b.Settings.Text("sent") == "reversed", eager: b.Settings.Text("acknowledge") == "none"}
	if b.Settings.Bool("pull-ups") {
		s.idle = circuit.PulledUp
	}
	return s
}

// Changed looks at the lines. The part calls it whenever one changed.
func (s *Slave) Changed() {
	now := [2]bool{s.world.Net(s.sda).Level != circuit.Low, s.world.Net(s.scl).Level != circuit.Low}
	was := s.high
	s.high = now
	switch {
	case was[1] && now[1] && was[0] && !now[0]: // START
		s.state, s.bits, s.shift = address, 0, 0
		s.pull(s.idle)
	case was[1] && now[1] && !was[0] && now[0]: // STOP
		s.state = idle
	case s.state == idle:
	case !was[1] && now[1]:
		s.rise(now[0])
	case was[1] && !now[1]:
		s.fall()
	}
}

// Begin is power-on: the lines come up.
func (s *Slave) Begin() {
	s.pull(s.idle)
	s.world.Drive(s.scl, s.idle)
}

func (s *Slave) pull(d circuit.Drive) { s.world.Drive(s.sda, d) }

// rise is the rising edge of SCL: SDA is valid.
func (s *Slave) rise(high bool) {
	if s.bits++; s.bits > 8 {
		s.answered = !high
		return
	}
	if s.state != giving {
		s.shift <<= 1
		if high {
			s.shift |= 1
		}
	}
}

// fall is the falling edge of SCL: SDA may change.
func (s *Slave) fall() {
	switch {
	case s.bits == 8:
		if s.ninth(); s.eager {
			s.next()
		}
	case s.bits > 8:
		s.next()
	case s.state == giving:
		s.put()
	}
}

// ninth is the time for an acknowledgement.
func (s *Slave) ninth() {
	if s.turned && s.state != giving {
		s.shift = bits.Reverse8(s.shift)
	}
	ack := false
	switch s.state {
	case address:
		ack = s.device.Addressed(s.shift>>1, s.shift&1 == 1)
		if !ack {
			s.state = idle
		}
	case taking:
		ack = s.device.Take(s.shift)
	}
	if ack {
		s.pull(circuit.DrivenLow)
	} else {
		s.pull(s.idle)
	}
}

// next begins the byte after an acknowledgement.
func (s *Slave) next() {
	s.pull(s.idle)
	switch {
	case s.state == address && s.shift&1 == 1, s.state == giving && s.answered:
		s.state, s.shift = giving, s.device.Give()
	case s.state == giving:
		s.state = idle
	default:
		s.state, s.shift = taking, 0
	}
	s.bits = 0
	if s.state == giving {
		s.put()
	}
}

// put is the next bit of a byte for the master.
func (s *Slave) put() {
	if s.shift&0x80 == 0 {
		s.pull(circuit.DrivenLow)
	} else {
		s.pull(s.idle)
	}
	s.shift <<= 1
}
