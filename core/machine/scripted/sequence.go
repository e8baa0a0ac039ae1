package scripted

import (
	"slices"

	"hemble/core/circuit"
	"hemble/core/clock"
	"hemble/core/machine"
)

// channels is how many buses and serial ports a script may have at once. The first is the console.
const channels = 16

// act is what a step does.
type act uint8

const (
	low    act = iota // drive the pin
	high              // drive the pin
	letGo             // leave the pin to its pull-up
	take              // read a bit from the pin
	answer            // read an acknowledgement from the pin: low for yes
	rest              // nothing
	stop              // nothing: where a transfer goes on that nobody acknowledged
	sent              // tell of a character that has been sent: it is where others have their pin
)

// step is one thing that the hardware of a bus or a port does by itself.
type step struct {
	after uint32 // ns since the step before
	act   act
	pin   uint8
}

// sequence is what a bus or a port does while the script goes on, one step after the other.
type sequence struct {
	steps []step
	at    clock.Time // when the first of them is done
	over  clock.Time // when all is done, if everything is acknowledged
	line  uint32     // of the script

	answers int    // acknowledgements so far
	data    []byte // taken so far
	bits    int
}

// begin appends steps that may begin now.
func (q *sequence) begin(now clock.Time, line uint32, steps []step) {
	if len(q.steps) == 0 {
		q.at = now + clock.Time(steps[0].after)*clock.Nanosecond
		q.over = now
	}
	for _, s := range steps {
		q.over += clock.Time(s.after) * clock.Nanosecond
	}
	q.steps = append(q.steps, steps...)
	q.line = line
}

// pass goes on behind some steps, from a time on.
func (q *sequence) pass(n int, now clock.Time) {
	if q.steps = q.steps[n:]; len(q.steps) == 0 {
		q.steps = nil
		return
	}
	q.at = now + clock.Time(q.steps[0].after)*clock.Nanosecond
}

// next is when a channel does something by itself, or hears a character; Never where nothing is under way.
func (m *Machine) next() (at clock.Time, channel int, hears bool) {
	at = clock.Never
	for i := range channels {
		if q := m.sequences[i]; q != nil && len(q.steps) > 0 && q.at < at {
			at, channel, hears = q.at, i, false
		}
		if p := m.ports[i]; p != nil && len(p.edges) > 0 && p.over() < at {
			at, channel, hears = p.over(), i, true
		}
	}
	return at, channel, hears
}

// advance carries out a step of a channel, and gives when the bench wants to be asked again.
func (m *Machine) advance(channel int, l machine.Listener) clock.Time {
	q := m.sequences[channel]
	s, at := q.steps[0], q.at
	m.now = max(m.now, at)
	q.pass(1, at)
	pin := machine.Pin(s.pin)
	switch s.act {
	case low, high:
		return m.set(pin, circuit.Output(s.act == high), q.line, l)
	case letGo:
		d := m.rest(pin)
		if d == circuit.Released {
			d = circuit.PulledUp
		}
		return m.set(pin, d, q.line, l)
	case take:
		if q.bits&7 == 0 {
			q.data = append(q.data, 0)
		}
		q.bits++
		q.data[len(q.data)-1] <<= 1
		if m.high(int(pin)) {
			q.data[len(q.data)-1] |= 1
		}
	case answer:
		if !m.high(int(pin)) {
			q.answers++
		} else if i := slices.IndexFunc(q.steps, func(s step) bool { return s.act == stop }); i > 0 {
			q.pass(i, at)
		}
	case sent:
		m.tell(channel, s.pin)
	}
	return clock.Never
}

// set has one pin drive otherwise.
func (m *Machine) set(pin machine.Pin, d circuit.Drive, line uint32, l machine.Listener) clock.Time {
	if d.Strength == circuit.PushPull {
		m.driven |= 1 << pin
	}
	if m.drives[pin] == d {
		return clock.Never
	}
	m.drives[pin] = d
	if !m.watched[pin] || l == nil {
		return clock.Never
	}
	m.counters.Edges++
	m.one[0] = machine.Change{Pin: pin, Drive: d}
	return l.Drive(m.now, m.one[:], machine.Place{PC: line})
}
