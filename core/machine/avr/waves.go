package avr

import (
	"math/bits"
	"slices"

	"hemble/core/clock"
	"hemble/core/machine"
)

// Waves are timers whose outputs nobody answers, and for which nothing on the chip waits: PWM that lights lamps. They
// are no events. What they did is told in order before anything else is told, is looked at, or sets them anew; of many
// periods that are alike, one is told, and how often it comes again. Without them no result is another.

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

// mergeWaves brings all waves to a cycle.
func (m *Machine) mergeWaves(cycle int64) {
	waves := m.waves
	m.waves, m.inWaves = 0, true // what is told here looks at ports itself
	if m.config.Repeat != nil && m.now.step() != 0 {
		m.repeatWaves(waves, cycle)
	}
	m.bringWaves(waves, cycle)
	m.waves, m.inWaves = waves, false
}

// bringWaves brings waves to a cycle, by the order of what they do.
func (m *Machine) bringWaves(waves uint8, cycle int64) {
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
}

// repeatWaves leaves out periods of all waves together, up to a cycle. The first one may still bring about what was
// set before; if the second changes nothing but when things happen, those behind it do not either.
func (m *Machine) repeatWaves(waves uint8, cycle int64) {
	period, from := m.jointPeriod(waves)
	if (cycle-from)/period < machine.FewPeriods {
		return
	}
	m.bringWaves(waves, from+period)
	m.handOver()
	from += 2 * period
	timers, ports := slices.Clone(m.timers), slices.Clone(m.ports)
	m.wave, m.taping = m.wave[:0], true
	m.bringWaves(waves, from)
	m.handOver()
	m.taping = false
	if len(m.wave) > machine.LongWave || !m.wavesCameRound(waves, timers, ports, period) {
		return
	}
	m.unlike++
	times := (cycle - from) / period
	for w := waves; w != 0; w &= w - 1 {
		t := &m.timers[bits.TrailingZeros8(w)]
		t.synced += times * period
		t.quiet, t.edge = 0, 0
	}
	for i := range m.ports {
		if p := &m.ports[i]; p.changed != ports[i].changed {
			p.changed += times * period
		}
	}
	if len(m.wave) > 0 {
		m.counters.Edges += times * machine.CountPins(m.wave)
		m.config.Repeat(m.wave, times, m.now.step()*clock.Time(period))
	}
}

// jointPeriod is after how many cycles all waves do the same again, and from which cycle on all of them are to be told.
func (m *Machine) jointPeriod(waves uint8) (period, from int64) {
	period = 1
	for w := waves; w != 0; w &= w - 1 {
		t := &m.timers[bits.TrailingZeros8(w)]
		if !t.runs() { // it is being set anew
			return never, 0
		}
		own := t.period() << t.shift
		for c := range t.compare {
			if t.action(m, c) == 1 { // toggles
				own = 2 * t.period() << t.shift
			}
		}
		if period = machine.Together(period, own); period > machine.LongPeriod {
			return never, 0
		}
		from = max(from, t.synced)
	}
	return period, from
}

// wavesCameRound reports whether waves and ports are as they were a period ago.
func (m *Machine) wavesCameRound(waves uint8, timers []timer, ports []port, period int64) bool {
	for w := waves; w != 0; w &= w - 1 {
		i := bits.TrailingZeros8(w)
		now, then := m.timers[i], timers[i]
		then.synced += period
		now.quiet, now.edge, then.quiet, then.edge = 0, 0, 0, 0
		if now != then {
			return false
		}
	}
	return slices.EqualFunc(m.ports, ports, func(now, then port) bool {
		if now.changed != then.changed {
			then.changed += period
		}
		return now == then
	})
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
