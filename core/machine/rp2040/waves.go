package rp2040

import (
	"math/bits"

	"hemble/core/circuit"
	"hemble/core/machine"
)

// Waves are PWM slices whose edges nobody answers and nothing in the chip waits for: they are no events. What they did
// is told in batches, before anything else is, or is looked at. Without them no result is another.

// maxKept is how many edges are handed over at once.
const maxKept = 256

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
	for {
		at := now + 1
		for w := waves; w != 0; w &= w - 1 {
			at = min(at, p.slices[lowest(w)].edge)
		}
		if at > now {
			break
		}
		for w := waves; w != 0; w &= w - 1 {
			if i := lowest(w); p.slices[i].edge == at {
				m.keepWave(i, at)
			}
		}
	}
	p.waves = uint8(waves)
	m.handOver()
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
	if len(m.kept) == maxKept {
		m.handOver()
	}
	m.kept = append(m.kept, machine.Edge{At: m.now.At(at), Pins: changed, Levels: levels, Place: s.place})
}

// handOver gives the edges that were kept to who follows them.
func (m *Machine) handOver() {
	if len(m.kept) == 0 {
		return
	}
	for i := range m.kept {
		m.core.Counters.Edges += int64(bits.OnesCount32(m.kept[i].Pins))
	}
	m.config.Follow(m.kept)
	m.kept = m.kept[:0]
}
