// Package rtl simulates programmable logic: a design's word-level netlist, exactly and deterministically, with values
// of two states, as an FPGA that was configured has them. Nothing of a particular device is modelled but its pins, its
// oscillator and that registers begin as the design says.
package rtl

import (
	"crypto/sha256"
	"fmt"
	"slices"

	"hemble/core/circuit"
	"hemble/core/clock"
	"hemble/core/firmware"
	"hemble/core/machine"
	"hemble/core/netlist"
)

// Machine is a device with a design.
type Machine struct {
	config  machine.Config
	chip    *machine.Chip
	state   *state
	clock   place // of the port at the oscillator's pin; word -1 for none
	falling bool  // falling edges of it matter
	half    int64 // edges of the oscillator so far: even ones rise
	now     clock.Time

	outputs  []output
	inputs   [][]place // by pin: the bits of the design that see it
	levels   []circuit.Level
	drives   []circuit.Drive
	watched  []bool
	pulls    []circuit.Drive
	listener machine.Listener
	stale    bool // inputs changed, and nothing was settled yet
	changes  []machine.Change

	stop     machine.Stop
	notes    machine.Notes
	counters machine.Counters
	skipper  skipper
	most     int64 // cells that a run may compute
}

// output is a bit of the design at a pin.
type output struct {
	pin   machine.Pin
	at    place // limb -1 for a constant
	fixed bool
	three *cell // of one that may let go
}

func newMachine(chip *machine.Chip, config machine.Config) machine.Machine {
	m := &Machine{config: config, chip: chip, most: maxWork, clock: place{word: -1}}
	n := len(chip.Pins)
	m.inputs, m.levels, m.drives = make([][]place, n), make([]circuit.Level, n), make([]circuit.Drive, n)
	m.pulls, m.watched = make([]circuit.Drive, n), make([]bool, n)
	if m.config.Clock == 0 {
		m.config.Clock = chip.Clock
	}
	if m.config.ClockPin == "" {
		m.config.ClockPin = chip.ClockPin
	}
	m.drives[chip.Reset] = circuit.PulledUp
	for i := range n {
		m.levels[i], m.drives[i], m.pulls[i] = circuit.Float, circuit.Released, circuit.Released
		m.watched[i] = config.Watched == nil
	}
	for _, p := range config.Watched {
		m.watched[p] = true
	}
	_ = m.configure(&program{})
	return m
}

// Load puts a design into the device, as at power-on.
func (m *Machine) Load(im *firmware.Image) error {
	if im.Design == nil {
		return fmt.Errorf("this is no design of programmable logic")
	}
	p, err := compile(im.Design)
	if err != nil {
		return err
	}
	return m.configure(p)
}

// configure begins with a program.
func (m *Machine) configure(p *program) error {
	m.state = newState(p)
	m.half, m.now, m.stop = 0, 0, machine.Stop{}
	m.notes.Reset()
	m.counters = machine.Counters{}
	m.outputs = nil
	for i := range m.inputs {
		m.inputs[i], m.pulls[i] = nil, circuit.Released
	}
	if p.design == nil {
		return nil
	}
	if err := m.wire(p.design); err != nil {
		return err
	}
	m.tellUnused(p.design)
	m.tellNarrow(p.design)
	m.falling = m.clock.word >= 0 && p.usesLevel(m.clock)
	m.skipper = newSkipper(m)
	for pin := range m.inputs {
		m.feed(machine.Pin(pin))
	}
	m.stale = true
	for _, o := range m.outputs {
		m.drives[o.pin] = m.drive(&o)
	}
	return nil
}

// usesLevel tells whether anything looks at a clock otherwise than by its rising edge.
func (p *program) usesLevel(at place) bool {
	if len(p.words[at.word].fan) > 0 {
		return true
	}
	for _, g := range p.groups {
		if g.clock.at == at && !g.clock.high {
			return true
		}
	}
	for i := range p.registers {
		r := &p.registers[i]
		for _, l := range []line{r.enable, r.reset, r.force, r.open} {
			if l.used && l.at == at {
				return true
			}
		}
		for _, w := range []wide{r.d, r.forceTo, r.set, r.clear, r.address, r.mask} {
			for _, o := range w.limbs {
				for _, piece := range o.pieces {
					if piece.limb == at.limb {
						return true
					}
				}
			}
		}
	}
	return slices.ContainsFunc(p.registers, func(r register) bool { return r.open.used && r.open.at == at })
}

// wire finds out which bit of the design is at which pin.
func (m *Machine) wire(d *netlist.Design) error {
	for _, p := range d.Ports {
		for i := range p.Bits {
			name := p.Bit(i)
			board, ok := d.Pins[name]
			if !ok {
				continue
			}
			pin, ok := m.chip.Pin(board)
			if !ok {
				return fmt.Errorf("port %s is at pin %s, which the device has not", name, board)
			}
			if p.Input {
				if at, ok := m.state.inputs[name]; ok {
					m.inputs[pin] = append(m.inputs[pin], at)
					if board == m.config.ClockPin {
						m.clock = at
					}
				}
			}
			if p.Output {
				m.outputs = append(m.outputs, m.output(pin, p.Bits[i]))
			}
		}
	}
	for name, pull := range d.Pulls {
		if pin, ok := m.chip.Pin(d.Pins[name]); ok {
			m.pulls[pin] = circuit.PulledUp
			if pull == netlist.PullDown {
				m.pulls[pin] = circuit.PulledDown
			}
			m.drives[pin] = m.pulls[pin]
		}
	}
	slices.SortStableFunc(m.outputs, func(a, b output) int { return int(a.pin) - int(b.pin) })
	return nil
}

func (m *Machine) output(pin machine.Pin, b netlist.Bit) output {
	o := output{pin: pin, at: place{limb: -1}, fixed: b == netlist.One}
	at, ok := m.state.at[b]
	if !ok || b < 0 {
		return o
	}
	o.at = at
	for i := range m.state.cells {
		if c := &m.state.cells[i]; c.op == opThree && c.y == at.word {
			o.three = c
		}
	}
	return o
}

// drive is what an output does to its net.
func (m *Machine) drive(o *output) circuit.Drive {
	if o.three != nil {
		v, driven := o.three.three(m.state.arena)
		if !driven {
			return m.pulls[o.pin]
		}
		return circuit.Output(v != 0)
	}
	if o.at.limb < 0 {
		return circuit.Output(o.fixed)
	}
	return circuit.Output(bitAt(m.state.arena, o.at))
}

// feed gives the design what a pin is at.
func (m *Machine) feed(pin machine.Pin) {
	if m.chip.Pins[pin].Name == m.config.ClockPin {
		return // the oscillator's
	}
	on := m.levels[pin] == circuit.High
	if m.levels[pin] == circuit.Float {
		switch m.pulls[pin] {
		case circuit.PulledUp:
			on = true
		case circuit.PulledDown:
		default:
			on = machine.Mix(m.config.Seed^uint64(pin+1)<<40)&1 == 1
		}
	}
	for _, at := range m.inputs[pin] {
		m.state.set(at, on)
	}
}

// Input is what a pin's net is at, from now on.
func (m *Machine) Input(pin machine.Pin, level circuit.Level) {
	if m.levels[pin] == level {
		return
	}
	if pin == m.chip.Reset && level == circuit.Low && m.state.design != nil {
		m.levels[pin] = level
		m.again()
		return
	}
	m.levels[pin] = level
	m.feed(pin)
	m.stale = true
	m.skipper.hopeAgain(m.half)
}

// Drives gives what a pin does to its net now.
func (m *Machine) Drives(pin machine.Pin) circuit.Drive { return m.drives[pin] }

// Reset configures the device anew.
func (m *Machine) Reset() { m.again() }

// again is a configuration anew, in the middle of time.
func (m *Machine) again() {
	p := m.state.program
	m.state = newState(p)
	m.skipper = newSkipper(m)
	if m.falling && m.half > 0 && m.half&1 == 0 { // the oscillator is high, which is no edge
		m.state.set(m.clock, true)
		for i := range p.groups {
			p.groups[i].was = p.groups[i].clock.active(m.state.arena)
		}
	}
	for pin := range m.inputs {
		m.feed(machine.Pin(pin))
	}
	m.stale = true
}

// Now is the present simulated time.
func (m *Machine) Now() clock.Time { return m.now }

// Notes lists what a person should know of.
func (m *Machine) Notes() []machine.Note { return m.notes.List }

// Counters tell the effort so far.
func (m *Machine) Counters() machine.Counters {
	c := m.counters
	c.Instructions, c.Cycles = m.state.work, m.half/2
	return c
}

// maxWork bounds the cells that a run computes.
const maxWork = 60_000_000

// Run continues until the given moment.
func (m *Machine) Run(until clock.Time, l machine.Listener) machine.Stop {
	m.listener = l
	if m.stale {
		m.tellFloating()
		until = min(until, m.changed())
	}
	for m.stop.Reason == "" {
		t := m.edgeTime(m.half + 1)
		if t > until || m.clock.word < 0 {
			break
		}
		if m.config.Effort > 0 && m.Counters().Effort() > m.config.Effort {
			m.end(machine.TooMuch, "the run took more effort than it was given")
			break
		}
		if m.state.work > m.most {
			m.end(machine.TooMuch, "the design is too much to follow: after %s, with %d edges of the oscillator, its logic was "+
				"computed %d million times and nothing in it could be left out", m.now, m.half, m.state.work/1_000_000)
			break
		}
		if n := m.skip(until); n > 0 {
			m.half += n
			m.now = m.edgeTime(m.half)
			continue
		}
		m.half++
		if !m.falling && m.half&1 == 1 {
			m.half++ // the falling edge is nobody's concern
			if t = m.edgeTime(m.half); t > until {
				m.half -= 2
				break
			}
		}
		m.now = t
		m.state.set(m.clock, m.half&1 == 0)
		until = min(until, m.changed())
		if !m.falling {
			m.low()
		}
	}
	if m.stop.Reason != "" {
		return m.stop
	}
	m.now = max(m.now, until)
	return machine.Stop{At: m.now}
}

// low has the oscillator fall without anybody noticing.
func (m *Machine) low() {
	s := m.state
	s.arena[m.clock.limb] &^= 1 << m.clock.shift
	for i := range s.groups {
		if s.groups[i].clock.at == m.clock {
			s.groups[i].was = false
		}
	}
}

// edgeTime is the moment of an edge of the oscillator.
func (m *Machine) edgeTime(half int64) clock.Time { return (2 * m.config.Clock).At(half) }

// changed settles the design and tells what its outputs do then.
func (m *Machine) changed() (until clock.Time) {
	until = clock.Never
	for range maxRounds {
		m.stale = false
		if !m.state.settle() {
			m.end(machine.Restless, "the design comes to no rest at %s: registers set each other off again and again", m.now)
			return m.now
		}
		m.changes = m.changes[:0]
		by := int32(-1)
		for i := range m.outputs {
			o := &m.outputs[i]
			d := m.drive(o)
			if d == m.drives[o.pin] {
				continue
			}
			m.drives[o.pin] = d
			if o.at.limb >= 0 {
				by = max(by, m.state.cause[o.at.word])
			}
			if m.watched[o.pin] {
				m.changes = append(m.changes, machine.Change{Pin: o.pin, Drive: d})
			}
		}
		if len(m.changes) > 0 && m.listener != nil {
			m.counters.Edges += int64(len(m.changes))
			until = min(until, m.listener.Drive(m.now, m.changes, machine.Place{PC: uint32(by + 1)}))
		}
		if !m.stale {
			return until
		}
	}
	return until
}

// tellUnused tells of wired inputs that the design does not look at.
func (m *Machine) tellUnused(d *netlist.Design) {
	for _, name := range d.Unused() {
		pin, ok := m.chip.Pin(d.Pins[name])
		if board := d.Pins[name]; ok && m.watched[pin] && board != m.config.ClockPin {
			m.notes.Add("unused-"+board, 0, 0, "the design has an input %s, at %s, and does nothing with it", name, board)
		}
	}
}

// tellNarrow tells of registers that never get to what they are compared with.
func (m *Machine) tellNarrow(d *netlist.Design) {
	for _, n := range d.Narrow {
		m.notes.Add("narrow-register", 0, 0, "%s has %d bits and is compared with a number that needs %d: it never gets there",
			n.Register, n.Bits, n.Needs)
	}
}

// widened is a design whose registers have the bits that they need.
func widened(im *firmware.Image) *firmware.Image {
	if im.Design == nil || im.Design.Wider == nil {
		return im
	}
	out := *im.Design.Wider
	out.Pins, out.Pulls = im.Design.Pins, im.Design.Pulls
	return &firmware.Image{Format: im.Format, Design: &out}
}

// tellFloating tells of wired inputs that nothing drives.
func (m *Machine) tellFloating() {
	if m.config.Watched == nil || m.now > 0 {
		return
	}
	for pin, bits := range m.inputs {
		if len(bits) > 0 && m.levels[pin] == circuit.Float && m.watched[pin] && m.pulls[pin] == circuit.Released {
			name := m.chip.Pins[pin].Name
			m.notes.Add("floating-"+name, m.now, 0, "nothing drives the input at %s; what it reads is chance (is a pull-up "+
				"missing?)", name)
		}
	}
}

func (m *Machine) end(reason machine.Reason, format string, args ...any) {
	if m.stop.Reason == "" {
		m.stop = machine.Stop{Reason: reason, Text: fmt.Sprintf(format, args...), At: m.now}
	}
}

// Hash is over the whole state: equal hashes mean that two machines go on alike.
func (m *Machine) Hash() [32]byte {
	h := sha256.New()
	fmt.Fprint(h, m.state.arena, m.half, m.levels, m.drives, m.stop)
	for _, x := range m.state.memories {
		fmt.Fprint(h, x.data)
	}
	for _, g := range m.state.groups {
		fmt.Fprint(h, g.was)
	}
	return [32]byte(h.Sum(nil))
}
