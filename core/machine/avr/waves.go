package avr

import "math/bits"

// Waves are timers whose outputs nobody answers, and for which nothing on the chip waits: PWM that lights lamps. They
// are no events. What they did is told in order before anything else is told, is looked at, or sets them anew. Without
// them no result is another.

// isWave reports whether a timer that runs is one.
func (t *timer) isWave(m *Machine) bool {
	if m.config.Follow == nil || m.config.Reference || m.io[t.timsk] != 0 || m.adc.waitsFor(m, t.index) ||
		t.index == 0 && m.usi.byTimer(m) {
		return false
	}
	waves := false
	for c := range t.compare {
		if !t.connected(m, c) {
			continue
		}
		o := &t.timerLayout.outputs[c]
		p := &m.ports[o.port]
		if (p.watched&^p.followed|p.override|p.direction|p.inputs|m.ext.sensing[o.port])&o.mask != 0 {
			return false
		}
		waves = true
	}
	return waves
}

// wavePins are the pins of a port that waves have.
func (m *Machine) wavePins(port int) (pins uint8) {
	for w := m.waves; w != 0; w &= w - 1 {
		t := &m.timers[bits.TrailingZeros8(w)]
		for c := range t.compare {
			if o := &t.timerLayout.outputs[c]; o.port == port && t.connected(m, c) {
				pins |= o.mask
			}
		}
	}
	return pins
}

// due is the cycle of the next tick at which something may happen.
func (t *timer) due(m *Machine) int64 {
	p := t.prescaler(m)
	return p.base + ((t.synced-p.base)>>t.shift+1+t.distance())<<t.shift
}

// tellWaves tells what waves did up to a cycle. Mostly there are none, which costs no call.
func (m *Machine) tellWaves(cycle int64) {
	if m.waves != 0 {
		m.mergeWaves(cycle)
	}
}

// mergeWaves brings all waves to a cycle, by the order of what they do.
func (m *Machine) mergeWaves(cycle int64) {
	waves := m.waves
	m.waves, m.inWaves = 0, true // what is told here looks at ports itself
	for waves&(waves-1) != 0 {
		first, at := 0, cycle+1
		for w := waves; w != 0; w &= w - 1 {
			t := &m.timers[bits.TrailingZeros8(w)]
			if t.edge <= t.synced {
				t.edge = t.due(m)
			}
			if t.edge < at {
				first, at = t.index, t.edge
			}
		}
		if at > cycle {
			break
		}
		m.timers[first].sync(m, at)
	}
	for w := waves; w != 0; w &= w - 1 {
		m.timers[bits.TrailingZeros8(w)].sync(m, cycle)
	}
	m.waves, m.inWaves = waves, false
}

// waveEdge gives a wave's level to its pin: who sets the port anew at the time may have begun to.
func (m *Machine) waveEdge(i int, mask uint8, cycle int64) {
	p := &m.ports[i]
	changed := (p.level ^ p.compared) & p.out & mask
	if changed == 0 {
		return
	}
	p.level ^= changed
	p.set(p.high&^changed|p.level&changed, p.float&^changed, cycle)
	if told := changed & p.watched; told != 0 {
		m.keep(i, told, cycle)
	}
}

// lookForWaves finds anew which timers are waves, where what senses pins has changed.
func (m *Machine) lookForWaves() {
	for i := range m.timers {
		if t := &m.timers[i]; m.waves>>i&1 == 1 != (t.runs() && t.isWave(m)) {
			t.schedule(m)
		}
	}
}

// runs reports whether the timer counts by itself.
func (t *timer) runs() bool { return t.shift < pinRising && !t.frozen }

// placed is where the program set a timer: what the timer does to pins comes from there.
func (t *timer) placed(m *Machine) { t.by = m.place() }
