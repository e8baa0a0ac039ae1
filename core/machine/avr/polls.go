package avr

import "hemble/core/machine/loops"

// Skipping of polling loops: where to look for one, and when. Package loops finds out how many rounds of it can be left
// out. Taking this file, follow.go and the two places in interpret away changes no result.
//
// It is sound since every change from outside comes as an event: pins, serial ports, conversions, and the timers'
// interrupts have a due time, and a run looks up before it.

// polls decides when to look for a loop.
type polls struct {
	at     int64 // not before this cycle, at any place
	wait   int64 // how long to leave it after a failure
	headAt int64 // not before this cycle, at a head that is known
	done   int64 // instructions interpreted when it was last looked for
	loops  loops.Loops
	failed [64]uint8 // how often in a row heads, by their address, were of no use
}

// How long to leave it: at first, and at most. To walk round a few loops costs about as much as it takes to interpret
// 20,000 cycles.
const (
	firstWait = 64
	lastFound = 30_011  // where a loop was found
	lastWait  = 500_009 // no multiple of a timer's period
	enough    = 500     // cycles
)

// findPoll looks for a loop where the machine happens to be. The head of one that could be skipped is marked, so
// that the interpreter stops there.
func (m *Machine) findPoll() {
	p := &m.polls
	if m.irq != 0 || m.deadline-m.cycle < minSkip { // something is about to happen
		p.at = max(m.cycle, m.deadline) + firstWait
		return
	}
	if m.counters.Instructions-p.done < p.wait/2 { // most cycles were skipped as counted waits
		p.at = m.cycle + max(p.wait, firstWait)
		return
	}
	p.done = m.counters.Instructions
	for range maxHeads {
		if !m.toLoopHead() {
			break
		}
		head := m.pc
		if m.skipRounds() {
			if m.code[head].op < opStart {
				m.code[head].op = opPoll
			}
			p.at, p.wait = m.cycle+lastFound, firstWait
			return
		}
	}
	p.wait = min(max(2*p.wait, firstWait), lastWait)
	p.at = m.cycle + p.wait
}

// skipPoll leaves out rounds of a loop at whose marked head the machine stands. A head that is of no use any more is
// unmarked.
func (m *Machine) skipPoll() {
	p := &m.polls
	if m.cycle < p.headAt || m.irq != 0 || m.deadline-m.cycle < minSkip {
		return
	}
	failed := &p.failed[uint(m.pc)%uint(len(p.failed))]
	if m.skipRounds() {
		*failed = 0
		p.at = m.cycle + lastFound
		return
	}
	if *failed++; *failed > maxFailures {
		*failed = 0
		m.code[m.pc].op = m.reference[m.pc].op
		p.at, p.wait = m.cycle+firstWait, firstWait
	}
}

// skipRounds leaves out as many rounds as can be; it reports whether this is a loop that is known, and it was worth it.
func (m *Machine) skipRounds() bool {
	cycles, again, found := m.polls.loops.Skip(m, uint32(m.pc), m.cycle, m.deadline)
	m.cycle += cycles
	m.polls.headAt = again
	return found && (cycles >= enough || m.deadline-m.cycle < 2*enough)
}

// toLoopHead continues, as usual, up to where a jump backwards leads: there least is under way. It reports whether one
// came soon, and in time.
func (m *Machine) toLoopHead() bool {
	for range maxSteps {
		if m.code[m.pc].op >= opLoopDEC { // a counted wait, which loops.go skips, or a known head
			return false
		}
		from, in := m.pc, m.reference[m.pc]
		m.counters.Instructions++
		m.execute(in)
		m.pc &= m.pcMask
		if m.deadline-m.cycle < minSkip || m.irq != 0 {
			return false
		}
		switch in.op {
		case opRJMP, opJMP, opBRBS, opBRBC:
			if m.pc <= from {
				return true
			}
		}
	}
	return false
}

// Bounds of the search.
const (
	minSkip     = 100 // cycles up to the next event that are worth a look
	maxHeads    = 4   // loops, from the inner ones out, that are tried
	maxSteps    = 300 // instructions until a jump backwards
	maxFailures = 20
)
