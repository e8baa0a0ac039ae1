package avr

import (
	"hemble/core/clock"
	"hemble/core/machine"
)

// A program that starts over and over does so faster than anybody means it to: maxStarts passes
// through the reset vector within startWindow end the run.
const (
	maxStarts   = 64
	startWindow = 4 * clock.Second
)

// startCounter counts passes through the reset vector, whether a reset or a jump led there.
type startCounter struct {
	first clock.Time // the start that opened the window
	count int
}

// markStart puts opStart at the reset vector and keeps what stood there.
func (m *Machine) markStart() {
	m.first = m.reference[0]
	if m.first.op != opErased && m.first.op != opIllegal {
		m.code[0].op, m.reference[0].op = opStart, opStart
	}
}

// started counts a pass through the reset vector and gives the instruction that stands there.
func (m *Machine) started() instruction {
	now := m.Now()
	if m.starts.count == 0 || now-m.starts.first > startWindow {
		m.starts = startCounter{first: now}
	}
	if m.starts.count++; m.starts.count > maxStarts {
		how := "by jumping to address 0"
		if m.data[regMCUSR]&resetWatchdog != 0 {
			how = "by watchdog resets"
		}
		m.end(machine.ResetLoop, "the program started %d times within %s, %s", m.starts.count,
			(now - m.starts.first).Short(), how)
	}
	if m.cycle > 0 {
		m.counters.Resets++
	}
	return m.first
}
