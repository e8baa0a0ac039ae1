package pic14

import "hemble/core/clock"

// Registers of Timer1 (DS33023A, 12).
const (
	regTMR1L = 0x0e
	regTMR1H = 0x0f
	regT1CON = 0x10

	bitT1GINV  = 1 << 7
	bitTMR1GE  = 1 << 6
	bitT1OSCEN = 1 << 3
	bitT1SYNC  = 1 << 2
	bitTMR1CS  = 1 << 1
	bitTMR1ON  = 1 << 0

	// watchCrystal is what is taken to be at the pins of Timer1's own oscillator.
	watchCrystal = clock.Rate(32_768)
)

// timer1 is Timer1. It is that of the cycle since.
type timer1 struct {
	count   uint16
	divided int64 // clocks that the divider has
	since   int64
	returns bool // the next count is 0: a special event of a compare
}

func (v *Variant) defineTimer1() {
	v.define(regTMR1L, "TMR1L", 0, func(m *Machine) uint8 {
		m.timer1.sync(m)
		return uint8(m.timer1.count)
	}, func(m *Machine, x uint8) { m.timer1.set(m, m.timer1.count&0xff00|uint16(x)) })
	v.define(regTMR1H, "TMR1H", 0, func(m *Machine) uint8 {
		m.timer1.sync(m)
		return uint8(m.timer1.count >> 8)
	}, func(m *Machine, x uint8) { m.timer1.set(m, m.timer1.count&0x00ff|uint16(x)<<8) })
	v.define(regT1CON, "T1CON", 0, nil, func(m *Machine, x uint8) {
		m.timer1.sync(m)
		if (m.ram[regT1CON]^x)&^bitTMR1ON != 0 {
			m.timer1.divided = 0
		}
		m.ram[regT1CON] = x
		m.timer1.since = m.cycle + 1
		m.timer1.schedule(m)
	})
}

// reset leaves the count as it is, but for a loss of power.
func (t *timer1) reset(m *Machine, why cause) {
	if why == byPower {
		*t = timer1{}
	}
	t.divided, t.since = 0, m.cycle
}

// counting tells whether clocks count, and which.
func (t *timer1) counting(m *Machine) (cycles, crystal, pin bool) {
	c := m.ram[regT1CON]
	if c&bitTMR1ON == 0 || !t.open(m) {
		return false, false, false
	}
	switch {
	case c&bitTMR1CS == 0:
		return true, false, false
	case c&bitT1OSCEN != 0:
		return false, true, false
	}
	return false, false, true
}

// open is the gate, where the chip has one.
func (t *timer1) open(m *Machine) bool {
	g := m.v.gate
	if g.mask == 0 || m.ram[regT1CON]&bitTMR1GE == 0 {
		return true
	}
	high := m.ports[g.port].high&g.mask != 0
	return high == (m.ram[regT1CON]&bitT1GINV != 0)
}

// own tells whether it goes on in sleep.
func (t *timer1) own(m *Machine) bool {
	return m.ram[regT1CON]&(bitTMR1CS|bitT1SYNC) == bitTMR1CS|bitT1SYNC
}

// clocks is how many clocks there are from the cycle since to one.
func (t *timer1) clocks(m *Machine, cycle int64) int64 {
	cycles, crystal, _ := t.counting(m)
	switch {
	case cycle <= t.since:
	case m.asleep && !t.own(m):
	case cycles:
		return cycle - t.since
	case crystal:
		return watchCrystal.Cycles(m.now.At(cycle)+1) - watchCrystal.Cycles(m.now.At(t.since)+1)
	}
	return 0
}

func (t *timer1) shift(m *Machine) uint8 { return m.ram[regT1CON] >> 4 & 3 }

// sync counts up to the present cycle.
func (t *timer1) sync(m *Machine) {
	n := t.divided + t.clocks(m, m.cycle)
	shift := t.shift(m)
	t.count += uint16(n >> shift)
	t.divided = n & (1<<shift - 1)
	t.since = max(t.since, m.cycle)
}

// set writes the count, which clears the divider (12.6).
func (t *timer1) set(m *Machine, count uint16) {
	t.sync(m)
	t.count, t.divided, t.since, t.returns = count, 0, m.cycle+1, false
	t.schedule(m)
}

// after is the cycle at which it has counted n more.
func (t *timer1) after(m *Machine, n int64) int64 {
	cycles, crystal, _ := t.counting(m)
	left := n<<t.shift(m) - t.divided
	switch {
	case cycles:
		return t.since + left
	case crystal:
		began := watchCrystal.Cycles(m.now.At(t.since) + 1)
		return max(t.since+1, m.now.CycleAt(watchCrystal.At(began+left-1)))
	}
	return never
}

// schedule announces the next overflow or match.
func (t *timer1) schedule(m *Machine) {
	if t.returns {
		m.setDue(dueTimer1, t.after(m, 1))
		return
	}
	at := t.after(m, 0x1_0000-int64(t.count))
	for i := range m.ccps {
		if c := &m.ccps[i]; c.comparing(m) {
			at = min(at, t.after(m, int64(uint16(c.wide(m)-t.count-1))+1))
		}
	}
	m.setDue(dueTimer1, at)
}

// event is an overflow or a match.
func (t *timer1) event(m *Machine, cycle int64) {
	now := m.cycle
	m.cycle = cycle
	before := t.count
	t.sync(m)
	m.cycle = now
	if t.returns {
		t.returns, t.count = false, 0
	} else {
		t.counted(m, before, cycle)
	}
	t.schedule(m)
}

// counted looks at what a step of the count brought.
func (t *timer1) counted(m *Machine, before uint16, cycle int64) {
	if t.count < before {
		m.raise(m.v.flags.timer1, cycle)
	}
	for i := range m.ccps {
		if c := &m.ccps[i]; c.comparing(m) && c.wide(m) == t.count {
			c.matched(m, cycle)
		}
	}
}

// pinEdge is an edge at T1CKI.
func (t *timer1) pinEdge(m *Machine, up bool, cycle int64) {
	if _, _, pin := t.counting(m); !pin || !up || m.asleep && !t.own(m) {
		return
	}
	if t.divided++; t.divided < 1<<t.shift(m) {
		return
	}
	t.divided = 0
	if t.returns {
		t.returns, t.count = false, 0
		return
	}
	before := t.count
	t.count++
	t.counted(m, before, cycle)
}

// gated is an edge at the gate: what was counted up to it stays.
func (t *timer1) gated(m *Machine, cycle int64) {
	if m.ram[regT1CON]&bitTMR1GE == 0 {
		return
	}
	p := &m.ports[m.v.gate.port]
	p.high ^= m.v.gate.mask // as it was
	t.sync(m)
	p.high ^= m.v.gate.mask
	t.since = max(t.since, cycle)
	t.schedule(m)
}

// clockChanged announces anew what comes by the crystal's time.
func (t *timer1) clockChanged(m *Machine) {
	if _, crystal, _ := t.counting(m); crystal {
		t.schedule(m)
	}
}
