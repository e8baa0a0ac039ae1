package pic14

import (
	"slices"

	"hemble/core/clock"
	"hemble/core/machine"
)

// Timer2 is a wave while it only makes PWM that lights lamps: each period is like the one before, nobody answers an
// edge, and nothing on the chip waits for one. It is no event then. What it did is told before anything else happens
// at a pin, is looked at, or sets it anew; of many periods one is told, and how often it comes again. Without waves no
// result is another.

// isWave reports whether the period at hand and those behind it are one.
func (m *Machine) isWave() bool {
	request := m.v.flags.timer2
	if m.config.Follow == nil || m.config.Reference || m.asleep || !m.timer2.on(m) ||
		m.ram[request.register]&request.mask == 0 || m.ram[regPIE1]&request.mask != 0 || m.ssp.active && m.ssp.byTimer {
		return false
	}
	pulses := false
	for i := range m.ccps {
		c := &m.ccps[i]
		if !c.pulsing(m) {
			continue
		}
		if c.width != c.duty(m) || m.ram[c.l.high] != m.ram[c.l.low] { // the next period is another
			return false
		}
		if c.l.bridge[0].mask != 0 && m.ram[c.l.con]>>6 == 2 { // a half bridge looks at its pause
			return false
		}
		pulses = true
	}
	if !pulses {
		return false
	}
	for i := range m.ports {
		p := &m.ports[i]
		if m.pulsed(i)&(p.watched&^p.followed|m.sensed(i)) != 0 {
			return false
		}
	}
	return true
}

// pulsed are the pins of a port that PWM has.
func (m *Machine) pulsed(port int) (pins uint8) {
	for i := range m.ccps {
		c := &m.ccps[i]
		if !c.pulsing(m) {
			continue
		}
		if p := m.ccpPin(i); p.port == port {
			pins |= p.mask
		}
		for _, p := range c.l.bridge {
			if p.port == port {
				pins |= p.mask
			}
		}
	}
	return pins & m.ports[port].override
}

// sensed are the pins of a port that something on the chip may look at by itself, and those that are more than high or
// low.
func (m *Machine) sensed(port int) uint8 {
	v := m.v
	pins := v.ports[port].drain
	for _, p := range [...]pinAt{v.external, v.clockPin0, v.clockPin1, v.gate, v.usart.receive, v.ssp.sck, v.ssp.ss} {
		if p.port == port {
			pins |= p.mask
		}
	}
	for i := range m.ccps {
		if p := m.ccpPin(i); p.port == port && !m.ccps[i].pulsing(m) {
			pins |= p.mask
		}
	}
	if port == v.onChange.port && v.onChange.mask&m.ports[port].tris != 0 {
		pins = 0xff // any edge has all its pins compared
	}
	return pins
}

// tellWave tells what the wave did up to a cycle. Mostly there is none, which costs no call.
func (m *Machine) tellWave(cycle int64) {
	if m.wave {
		m.mergeWave(cycle)
	}
}

// mergeWave brings the wave to a cycle.
func (m *Machine) mergeWave(cycle int64) {
	if m.config.Repeat != nil && m.now.Step() != 0 {
		m.repeatWave(cycle)
	}
	m.bringWave(cycle)
	m.handOver()
}

// bringWave does what the wave does up to a cycle. What comes at the same cycle comes in the order of events.
func (m *Machine) bringWave(cycle int64) {
	t := &m.timer2
	m.inWave = true
	for {
		end, edge := t.end(m), t.nextEdge(m)
		switch {
		case min(end, edge) > cycle:
			m.inWave = false
			return
		case end <= edge:
			t.period(m, end)
		default:
			t.edge(m, edge)
		}
	}
}

// repeatWave tells a whole period, and how often it comes again up to a cycle.
func (m *Machine) repeatWave(cycle int64) {
	t := &m.timer2
	from := t.end(m)
	period := t.counts(m) * t.divider(m)
	times := (cycle-from)/period - 1
	if times < machine.FewPeriods {
		return
	}
	m.bringWave(from)
	m.handOver()
	m.bringWave(from + period)
	edges := slices.Clone(m.kept)
	m.handOver()
	t.since += times * period
	t.periods = uint8((int64(t.periods) + times) % (int64(t.postscaler(m)) + 1))
	if len(edges) > 0 {
		m.counters.Edges += times * machine.CountPins(edges)
		m.config.Repeat(edges, times, m.now.Step()*clock.Time(period))
	}
}

// endWave makes the wave events again.
func (m *Machine) endWave(cycle int64) {
	if !m.wave {
		return
	}
	m.tellWave(cycle)
	m.wave = false
	m.timer2.schedule(m)
}

// keep notes edges of the wave for handOver.
func (m *Machine) keep(i int, pins uint8, t clock.Time, by *machine.Place) {
	if len(m.kept) == machine.MostKept {
		m.handOver()
	}
	m.kept = append(m.kept, machine.Edge{At: t, From: machine.Pin(i) << 3, Pins: uint32(pins),
		Levels: uint32(m.ports[i].level), Place: *by})
}

// handOver gives the edges that were kept to who follows them.
func (m *Machine) handOver() {
	if len(m.kept) == 0 {
		return
	}
	m.counters.Edges += machine.CountPins(m.kept)
	m.config.Follow(m.kept)
	m.kept = m.kept[:0]
}
