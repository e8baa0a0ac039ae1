package rp2040

// interpret carries out instructions up to the deadline. Where a jump leads backwards it looks for a loop that waits.
func (m *Machine) interpret() {
	c := m.core
	if m.cover != nil {
		m.interpretCovered()
		return
	}
	if m.config.Reference || m.config.NoSkip {
		c.Run()
		return
	}
	for c.Cycle < c.Deadline {
		from := c.R[15]
		c.Step()
		if pc := c.R[15]; pc <= from && from-pc < maxLoop && c.Deadline-c.Cycle > minSkip {
			m.skip(pc)
		}
	}
}

const (
	maxLoop = 2048 // bytes of a loop
	minSkip = 100  // cycles up to the next event that are worth a look
)

// skip leaves out rounds of a loop.
func (m *Machine) skip(pc uint32) {
	c := m.core
	if c.Cycle < m.polls.again[pc] {
		return
	}
	cycles, again, _ := m.polls.loops.Skip(m, pc, c.Cycle, c.Deadline)
	c.Cycle += cycles
	m.polls.again[pc] = max(again, c.Cycle)
}
