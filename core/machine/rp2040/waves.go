package rp2040

import (
	"hemble/core/circuit"
	"hemble/core/clock"
	"hemble/core/machine"
)

// Waves are PWM slices whose edges nobody answers and nothing in the chip waits for: they are no events. What they did
// is told in batches, before anything else is, or is looked at; of many periods that are alike, one is told, and how
// often it comes again. Without them no result is another.

// isWave reports whether a slice that runs is one.
func (m *Machine) isWave(i int) bool {
	s := &m.pwm.slices[i]
	if m.config.Follow == nil || !s.runs() || m.pwm.mask>>i&1 == 1 || m.dma.waitsFor(requestPWM+uint32(i)) ||
		m.resets.held>>5&1|m.resets.held>>8&1 == 1 {
		return false
	}
	for g := m.given[functionPWM] & pinsOf(i); g != 0; g &= g - 1 {
		k := lowest(g)
		p := &m.pins[k]
		if m.watched&^m.followed>>k&1 == 1 || p.ctrl>>8 != 0 || p.pad&padOff != 0 ||
			m.bank.enabled[k>>3]>>(4*(k&7))&15 != 0 {
			return false
		}
	}
	return true
}

// tellWaves tells what waves did up to now.
func (m *Machine) tellWaves() {
	p := &m.pwm
	if p.waves == 0 {
		return
	}
	now, waves := m.core.Cycle, uint32(p.waves)
	p.waves = 0 // what is told here looks at pins itself
	if m.config.Repeat != nil && m.now.Step() != 0 {
		m.repeatWaves(waves, now)
	}
	m.bringWaves(waves, now)
	p.waves = uint8(waves)
	m.handOver()
}

// bringWaves brings waves to a cycle, by the order of what they do.
func (m *Machine) bringWaves(waves uint32, cycle int64) {
	for {
		at := m.firstEdge(waves)
		if at > cycle {
			return
		}
		for w := waves; w != 0; w &= w - 1 {
			if i := lowest(w); m.pwm.slices[i].edge == at {
				m.keepWave(i, at)
			}
		}
	}
}

// firstEdge is the cycle at which something happens next to one of some waves.
func (m *Machine) firstEdge(waves uint32) int64 {
	at := never
	for w := waves; w != 0; w &= w - 1 {
		at = min(at, m.pwm.slices[lowest(w)].edge)
	}
	return at
}

// repeatWaves leaves out periods of all waves together, up to a cycle. The first one may still bring about what was
// set before; if the second changes nothing but when things happen, those behind it do not either.
func (m *Machine) repeatWaves(waves uint32, cycle int64) {
	period, from := m.jointPeriod(waves), m.firstEdge(waves)-1
	if from >= cycle || (cycle-from)/period < machine.FewPeriods {
		return
	}
	m.bringWaves(waves, from+period)
	m.handOver()
	from += 2 * period
	pwm, pins := m.pwm, m.pins
	m.wave, m.taping = m.wave[:0], true
	m.bringWaves(waves, from)
	m.handOver()
	m.taping = false
	if m.pins != pins || len(m.wave) > machine.LongWave {
		return
	}
	on := func(s *slice, by int64) {
		if s.edge != never { // else it is as it is
			s.since, s.edge = s.since+by, s.edge+by
		}
	}
	then := pwm
	for w := waves; w != 0; w &= w - 1 {
		on(&then.slices[lowest(w)], period)
	}
	if then != m.pwm {
		return
	}
	times := (cycle - from) / period
	for w := waves; w != 0; w &= w - 1 {
		on(&m.pwm.slices[lowest(w)], times*period)
	}
	if len(m.wave) > 0 {
		m.core.Counters.Edges += times * machine.CountPins(m.wave)
		m.config.Repeat(m.wave, times, m.now.Step()*clock.Time(period))
	}
}

// jointPeriod is after how many cycles all of some waves do the same again.
func (m *Machine) jointPeriod(waves uint32) int64 {
	all := int64(1)
	for w := waves; w != 0; w &= w - 1 {
		s := &m.pwm.slices[lowest(w)]
		if s.edge == never {
			continue
		}
		own := s.period() * s.sixteenths()
		all = machine.Together(all, machine.Together(own, 16)/16)
		if all > machine.LongPeriod {
			return never
		}
	}
	return all
}

// planWave finds when something happens next to a wave: where its outputs stay as they are, only that its count comes
// to 0, once.
func (m *Machine) planWave(i int, at int64) {
	s := &m.pwm.slices[i]
	steady := true
	for g := m.given[functionPWM] & pinsOf(i); g != 0; g &= g - 1 {
		level := s.cc >> (16 * (lowest(g) & 1)) & 0xffff
		steady = steady && (level == 0 || level > s.top) &&
			m.pins[lowest(g)].drive == circuit.Output(m.pwm.high(lowest(g), at))
	}
	if steady && m.pwm.raw>>i&1 == 1 {
		s.edge = never
	} else {
		s.edge = s.next(at)
	}
}

// keepWave is an edge of a wave.
func (m *Machine) keepWave(i int, at int64) {
	p := &m.pwm
	s := &p.slices[i]
	var changed, levels uint32
	for g := m.given[functionPWM] & pinsOf(i); g != 0; g &= g - 1 {
		k := lowest(g)
		high := p.high(k, at)
		if d := circuit.Output(high); m.pins[k].drive != d {
			m.pins[k].drive = d
			m.sees(k, d.Level)
			changed |= 1 << k
			if high {
				levels |= 1 << k
			}
		}
	}
	p.wrapped(i, at)
	m.planWave(i, at)
	if changed &= m.watched; changed == 0 {
		return
	}
	if len(m.kept) == machine.MostKept {
		m.handOver()
	}
	m.kept = append(m.kept, machine.Edge{At: m.now.At(at), Pins: changed, Levels: levels, Place: s.place})
}

// handOver gives the edges that were kept to who follows them.
func (m *Machine) handOver() {
	if len(m.kept) == 0 {
		return
	}
	m.core.Counters.Edges += machine.CountPins(m.kept)
	if m.taping && len(m.wave) <= machine.LongWave {
		m.wave = append(m.wave, m.kept...)
	}
	m.config.Follow(m.kept)
	m.kept = m.kept[:0]
}
