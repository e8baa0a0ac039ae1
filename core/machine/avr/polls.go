package avr

import "hemble/core/machine/loops"

// Skipping of polling loops: package loops finds them, and finds out how many rounds of them can be left out. Taking
// this file, follow.go and the two places in interpret away changes no result.
//
// It is sound since every change from outside comes as an event: pins, serial ports, conversions, and the timers'
// interrupts have a due time, and a run looks up before it.

// State is where the machine stands; see loops.Machine.
func (m *Machine) State() (pc uint32, cycle, deadline int64, busy bool, instructions int64) {
	return uint32(m.pc), m.cycle, m.deadline, m.irq != 0, m.counters.Instructions
}

// Pass lets cycles pass.
func (m *Machine) Pass(cycles int64) { m.cycle += cycles }

// Marked tells a counted wait, which loops.go skips, or a known head.
func (m *Machine) Marked(pc uint32) bool { return m.code[pc].op >= opLoopDEC }

// Mark has run stop at an instruction, or no longer.
func (m *Machine) Mark(pc uint32, on bool) {
	switch {
	case !on:
		m.code[pc].op = m.reference[pc].op
	case m.code[pc].op < opStart:
		if h := &m.heat; h.running != nil && h.running.within[pc] {
			m.exit()
		}
		m.code[pc].op = opPoll
	}
}

// Advance carries out one instruction.
func (m *Machine) Advance() (back bool) {
	if m.code[m.pc].op == opReach {
		m.reach()
	}
	from, in := m.pc, m.reference[m.pc]
	m.counters.Instructions++
	m.execute(in)
	m.pc &= m.pcMask
	switch in.op {
	case opRJMP, opJMP, opBRBS, opBRBC:
		return m.pc <= from
	}
	return false
}

var _ loops.Machine = (*Machine)(nil)
