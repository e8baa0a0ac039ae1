package avr

import (
	"bytes"
	"slices"

	"hemble/core/clock"
	"hemble/core/machine"
)

// Rounds that a program makes again and again with the same answers, such as asking a keypad or a bus whether there is
// something new, or waving a pin, are left out. A round is found by looking for the same state at the same
// instruction, not by following what the instructions mean, so that whatever the bench answered on the way is in it.
//
// It is sound since within interpret nothing is due and no interrupt comes. What the program then does is decided by
// the state that is compared, by what the bench does to its pins (config.Around compares that), and by what is counted
// in m.unlike: time, chance, and peripherals, of which a round must not have seen anything. Edges of followed pins are
// handed over as a wave (config.Repeat). Taking this file, its place in interpret and m.unlike away changes no result.

// When to look for rounds, in edges of pins.
const (
	longestRound = 4_000   // edges that a round may have
	roundsAfter  = 16      // until the state is kept the first time, and after each round
	roundsLater  = 100_000 // at most, where there was no round
)

// rounds is how far the search is.
type rounds struct {
	at     int64 // when the next look is due, by the counter of edges
	wait   int64 // how long after a search in vain the next one begins
	kept   bool  // there is a state to compare with:
	edges  int64 // the counter then
	unlike int64
	cycle  int64
	pc     int32
	sp     uint16
	sreg   uint8
	memory []byte // registers and SRAM, then I/O registers
	ports  []port
	wave   []machine.Edge // of followed pins, since then
}

// roundsFrom gives the counter of edges at which the search begins.
func roundsFrom(config *machine.Config) int64 {
	if config.Around == nil && config.Repeat == nil || config.Reference || config.NoSkip {
		return never
	}
	return roundsAfter
}

// round looks whether the program has come round, after an edge, and leaves out what it would do again.
func (m *Machine) round() {
	r := &m.rounds
	switch edges := m.counters.Edges - r.edges; {
	case !r.kept:
		if m.waves == 0 && m.now.step() != 0 {
			m.keepRound()
		} else {
			r.at += longestRound
		}
	case m.unlike != r.unlike: // something came between; of short rounds, most are free of it
		r.wait = min(2*r.wait+roundsAfter, longestRound)
		r.kept, r.at = false, m.counters.Edges+r.wait
	case edges > longestRound:
		r.wait = min(max(2*r.wait, longestRound), roundsLater)
		r.kept, r.at = false, m.counters.Edges+r.wait
	case m.cameRound() && (m.config.Around == nil || m.config.Around.Same()):
		m.handOver()
		period := m.cycle - r.cycle
		if times := (m.deadline - 1 - m.cycle) / period; times > 0 && m.unlike == r.unlike {
			m.leaveOut(times, period, m.counters.Edges-r.edges)
		}
		r.kept, r.wait, r.at = false, 0, m.counters.Edges+roundsAfter
	}
}

// leaveOut lets rounds pass that take a period and have so many edges.
func (m *Machine) leaveOut(times, period, edges int64) {
	m.cycle += times * period
	m.counters.Edges += times * edges
	m.counters.LeftOut += times * (edges - machine.CountPins(m.rounds.wave))
	for i := range m.ports {
		m.ports[i].changed += times * period
	}
	length := m.now.step() * clock.Time(period)
	if wave := m.rounds.wave; len(wave) > 0 {
		m.config.Repeat(wave, times, length)
	}
	if m.config.Around != nil {
		m.config.Around.Again(times, length)
	}
}

// keepRound notes the state as it is.
func (m *Machine) keepRound() {
	m.handOver()
	r := &m.rounds
	r.wave = r.wave[:0]
	r.kept, r.edges, r.unlike, r.cycle = true, m.counters.Edges, m.unlike, m.cycle
	r.pc, r.sp, r.sreg = m.pc, m.sp, m.sreg
	r.memory = append(append(r.memory[:0], m.data[:int(m.ramEnd)+1]...), m.io[:]...)
	r.ports = append(r.ports[:0], m.ports...)
	if m.config.Around != nil {
		m.config.Around.Remember()
	}
}

// cameRound reports whether the state is the one that was kept.
func (m *Machine) cameRound() bool {
	r, n := &m.rounds, int(m.ramEnd)+1
	if m.pc != r.pc || m.sp != r.sp || m.sreg != r.sreg || !bytes.Equal(m.data[:n], r.memory[:n]) ||
		!bytes.Equal(m.io[:], r.memory[n:]) {
		return false
	}
	return slices.EqualFunc(m.ports, r.ports, func(now, then port) bool {
		return now.since(m.cycle) == then.since(r.cycle)
	})
}

// since is the port with its last change counted from a cycle; one before it, whose traces are gone, is all alike.
func (p port) since(cycle int64) port {
	if p.changed -= cycle; p.changed < 0 {
		p.changed, p.before, p.floatBefore = -1, 0, 0
	}
	return p
}

// waved notes edges that are handed over meanwhile.
func (m *Machine) waved() {
	if m.taping && len(m.wave) <= machine.LongWave {
		m.wave = append(m.wave, m.kept...)
	}
	if r := &m.rounds; r.kept {
		if r.wave = append(r.wave, m.kept...); len(r.wave) > longestRound {
			m.unlike++
		}
	}
}
