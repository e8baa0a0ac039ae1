package avr

// Analog comparator (datasheet 23).
const (
	regACSR = 0x50

	bitACD  = 1 << 7
	bitACBG = 1 << 6
	bitACO  = 1 << 5
	bitACI  = 1 << 4
	bitACIE = 1 << 3
	bitACIC = 1 << 2

	bitACME = 1 << 6 // of ADCSRB

)

// comparator compares AIN0 (or the bandgap) with AIN1 (or an ADC channel). It looks again whenever a
// voltage at a pin changes.
type comparator struct {
	used bool // its registers were touched: until then it need not look
	high bool
}

func (v *Variant) defineComparator() {
	v.acknowledged[v.vectors.comparator] = func(m *Machine) { m.comparator.acknowledge(m) }
	v.define(regACSR, "ACSR", func(m *Machine, a uint16) uint8 {
		m.comparator.used = true
		m.comparator.update(m, m.cycle)
		v := m.io[a] &^ bitACO
		if m.comparator.high {
			v |= bitACO
		}
		return v
	}, func(m *Machine, a uint16, v uint8) {
		m.comparator.used = true
		m.io[a] = v&^(bitACO|bitACI) | m.io[a]&bitACI&^v
		m.comparator.update(m, m.cycle)
		m.comparator.requests(m)
	})
}

// update compares now.
func (c *comparator) update(m *Machine, cycle int64) {
	if !c.used || m.io[regACSR]&bitACD != 0 {
		return
	}
	a, plus := &m.v.analog, int64(bandgap)
	if m.io[regACSR]&bitACBG == 0 {
		plus = m.voltageAt(a.ain0, cycle)
	}
	minus := int64(0)
	if m.io[regADCSRB]&bitACME != 0 && m.io[regADCSRA]&bitADEN == 0 {
		n := int(m.io[regADMUX] & 7)
		if m.io[regADCSRB]&a.mux5 != 0 {
			n += 8
		}
		minus = m.voltageAt(a.channels[n%len(a.channels)], cycle)
	} else {
		minus = m.voltageAt(a.ain1, cycle)
	}
	high := plus > minus
	if high == c.high {
		return
	}
	c.high = high
	if m.power.stopped() { // no clock to see the edge by
		return
	}
	if m.io[regACSR]&bitACIC != 0 && m.timers[1].captures() {
		m.timers[1].captureEdge(m, high, cycle)
	}
	if mode := m.io[regACSR] & 3; mode == 0 || mode == 2 && !high || mode == 3 && high { // table 23-2
		m.io[regACSR] |= bitACI
		m.adc.trigger(m, triggerComparator, cycle)
	}
	c.requests(m)
}

func (c *comparator) requests(m *Machine) {
	a := m.io[regACSR]
	m.raise(m.v.vectors.comparator, a&bitACIE != 0 && a&bitACI != 0)
}

func (c *comparator) acknowledge(m *Machine) {
	m.io[regACSR] &^= bitACI
	c.requests(m)
}

// voltageAt is what a pin is at in µV.
func (m *Machine) voltageAt(p pinAt, cycle int64) int64 {
	return m.voltage(p.port, log2(p.mask), cycle)
}
