package pic14

// Bits of OPTION_REG (DS33023A, 11.2).
const (
	bitT0CS = 1 << 5
	bitT0SE = 1 << 4
	bitPSA  = 1 << 3
)

// timer0 is Timer0 (DS33023A, 11). It is that of the cycle since, at which the divider had so many edges.
type timer0 struct {
	count   uint8
	divided int64 // edges of a pin that the divider has
	since   int64
	shift   uint8 // log2 of the divider
	byPin   bool
}

func (v *Variant) defineTimer0() {
	v.define(regTMR0, "TMR0", 0, func(m *Machine) uint8 {
		m.timer0.sync(m)
		return m.timer0.count
	}, func(m *Machine, x uint8) {
		t := &m.timer0
		t.count, t.divided = x, 0
		t.since = m.cycle + 3 // two cycles without counting (11.3)
		t.schedule(m)
	})
}

// running tells whether cycles count.
func (t *timer0) running(m *Machine) bool { return !t.byPin && !m.asleep }

// sync counts up to the present cycle; an overflow that is due by then was one.
func (t *timer0) sync(m *Machine) {
	if t.byPin || m.cycle < t.since || m.asleep {
		return
	}
	n := (m.cycle - t.since) >> t.shift
	t.count += uint8(n)
	t.since += n << t.shift
}

// configure takes OPTION_REG.
func (t *timer0) configure(m *Machine) {
	o := m.ram[regOPTION]
	shift := uint8(0)
	if o&bitPSA == 0 {
		shift = o&7 + 1
	}
	if byPin := o&bitT0CS != 0; byPin != t.byPin || shift != t.shift {
		t.byPin, t.shift, t.divided = byPin, shift, 0
		t.since = max(t.since, m.cycle+1)
	}
	t.schedule(m)
}

// schedule announces the overflow.
func (t *timer0) schedule(m *Machine) {
	if !t.running(m) {
		m.setDue(dueTimer0, never)
		return
	}
	m.setDue(dueTimer0, t.since+int64(256-int(t.count))<<t.shift)
}

func (t *timer0) overflow(m *Machine, cycle int64) {
	t.count, t.since = 0, cycle
	m.ram[regINTCON] |= bitT0IF
	m.requests(cycle)
	t.schedule(m)
}

// pinEdge is an edge at T0CKI.
func (t *timer0) pinEdge(m *Machine, up bool, cycle int64) {
	if !t.byPin || up == (m.ram[regOPTION]&bitT0SE != 0) || m.asleep {
		return
	}
	if t.divided++; t.divided < 1<<t.shift {
		return
	}
	t.divided = 0
	if t.count++; t.count == 0 {
		m.ram[regINTCON] |= bitT0IF
		m.requests(cycle)
	}
}
