package avr

import "hemble/core/machine"

// markStart puts opStart at the reset vector and keeps what stood there.
func (m *Machine) markStart() {
	m.first = m.reference[0]
	if m.first.op != opErased && m.first.op != opIllegal {
		m.code[0].op, m.reference[0].op = opStart, opStart
	}
}

// started counts a pass through the reset vector, whether a reset or a jump led there, and gives the instruction that
// stands there.
func (m *Machine) started() instruction {
	m.unlike++
	if n, within, often := m.starts.Count(m.Now()); often {
		how := "by jumping to address 0"
		if m.io[regMCUSR]&resetWatchdog != 0 {
			how = "by watchdog resets"
		}
		m.end(machine.ResetLoop, "the program started %d times within %s, %s", n, within.Short(), how)
	}
	if m.cycle > 0 {
		m.counters.Resets++
	}
	return m.first
}
