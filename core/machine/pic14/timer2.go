package pic14

// Registers of Timer2 (DS33023A, 13).
const (
	regTMR2  = 0x11
	regT2CON = 0x12
	regPR2   = 0x92

	bitTMR2ON = 1 << 2
)

// timer2 is Timer2. It is that of the cycle since. Its period is PR2 + 1 counts, and of so many periods one requests an
// interrupt.
type timer2 struct {
	count   uint8
	since   int64
	periods uint8 // since the last request
}

func (v *Variant) defineTimer2() {
	v.define(regTMR2, "TMR2", 0, func(m *Machine) uint8 {
		m.tellWave(m.cycle)
		return m.timer2.now(m)
	}, func(m *Machine, x uint8) {
		m.timer2.begin(m, x)
	})
	v.define(regT2CON, "T2CON", 0, nil, func(m *Machine, x uint8) {
		count := m.timer2.now(m)
		m.ram[regT2CON] = x & 0x7f
		m.timer2.begin(m, count) // a write clears both dividers (13.4)
	})
	v.define(regPR2, "PR2", 0xff, nil, func(m *Machine, x uint8) {
		m.timer2.sync(m)
		m.ram[regPR2] = x
		m.timer2.schedule(m)
	})
}

// begin counts on from a count, with dividers that have nothing.
func (t *timer2) begin(m *Machine, count uint8) {
	*t = timer2{count: count, since: m.cycle + 1}
	t.schedule(m)
}

// divider is how many cycles a count takes.
func (t *timer2) divider(m *Machine) int64 { return [4]int64{1, 4, 16, 16}[m.ram[regT2CON]&3] }

func (t *timer2) on(m *Machine) bool { return m.ram[regT2CON]&bitTMR2ON != 0 }

// now is the count at the present cycle, which no match lies before.
func (t *timer2) now(m *Machine) uint8 {
	if !t.on(m) || m.cycle < t.since || m.asleep {
		return t.count
	}
	return t.count + uint8((m.cycle-t.since)/t.divider(m))
}

func (t *timer2) sync(m *Machine) {
	if n := t.now(m) - t.count; n > 0 {
		t.count += n
		t.since += int64(n) * t.divider(m)
	}
}

// end is the cycle at which the count is 0 again, behind PR2.
func (t *timer2) end(m *Machine) int64 {
	return t.since + (int64(m.ram[regPR2]-t.count)+1)*t.divider(m)
}

// counts is how many counts a period has.
func (t *timer2) counts(m *Machine) int64 { return int64(m.ram[regPR2]) + 1 }

// postscaler is how many periods request nothing before one that does.
func (t *timer2) postscaler(m *Machine) uint8 { return m.ram[regT2CON] >> 3 & 15 }

// schedule announces the end of the period, and edges within it.
func (t *timer2) schedule(m *Machine) {
	if !t.on(m) || m.asleep || m.wave {
		m.setDue(dueTimer2, never)
		m.setDue(duePWM, never)
		return
	}
	m.setDue(dueTimer2, t.end(m))
	m.setDue(duePWM, t.nextEdge(m))
}

// period is the end of a period.
func (t *timer2) period(m *Machine, cycle int64) {
	t.count, t.since = 0, cycle
	if t.periods++; t.periods > t.postscaler(m) {
		t.periods = 0
		m.raise(m.v.flags.timer2, cycle)
	}
	m.ssp.timer(m, cycle)
	for i := range m.ccps {
		m.ccps[i].begin(m, cycle)
	}
	if !m.wave {
		m.wave = m.isWave()
		t.schedule(m)
	}
}

// clocks is how many clocks of the oscillator have passed in this period at a cycle.
func (t *timer2) clocks(m *Machine, cycle int64) int64 {
	return int64(t.count)*4*t.divider(m) + 4*(cycle-t.since)
}

// nextEdge is the cycle of the next edge of a pulse within the period; never where there is none.
func (t *timer2) nextEdge(m *Machine) int64 {
	first := int64(never)
	for i := range m.ccps {
		if at := m.ccps[i].edgeAt(m); at < first {
			first = at
		}
	}
	if first == never {
		return never
	}
	return max(t.since, (t.origin(m)+first+3)/4)
}

// origin is the clock of the oscillator at which the period began.
func (t *timer2) origin(m *Machine) int64 { return 4*t.since - int64(t.count)*4*t.divider(m) }

// edge ends pulses within the period.
func (t *timer2) edge(m *Machine, cycle int64) {
	origin := t.origin(m)
	for i := range m.ccps {
		if at := m.ccps[i].edgeAt(m); at != never && origin+at <= 4*cycle {
			m.ccps[i].fall(m, cycle, origin+at)
		}
	}
	if !m.wave {
		m.setDue(duePWM, t.nextEdge(m))
	}
}
