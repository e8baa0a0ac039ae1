package pic14

import (
	"strings"

	"hemble/core/clock"
	"hemble/core/machine"
)

// adcLayout is the converter of ten bits (DS33023A, 23; DS41291, 9).
type adcLayout struct {
	high, low      uint16 // ADRESH, ADRESL; 0 where the chip has none
	con0, con1     uint16
	channels       []pinAt
	choose         uint8                // shift of the channel in ADCON0 ...
	chooses        uint8                // ... and its bits
	goes           uint8                // the bit that starts a conversion
	ansel, anselh  uint16               // registers that make pins analog; 0 where ADCON1 does
	moreClock      uint8                // of ADCON1: the bit that halves the clock; 0 for none
	plus, minus    func(con1 uint8) int // the channel at a reference, or -1
	fixed, divided uint8                // channels of the fixed reference and of CVREF; 0 for none
}

// adcClock is the oscillator that the converter has of its own (23.4).
const adcClock = 4 * clock.Microsecond

// adc is the converter.
type adc struct {
	running bool
	value   uint16
}

func (v *Variant) defineADC() {
	l := &v.adc
	if l.con0 == 0 {
		return
	}
	v.define(l.high, "ADRESH", 0, nil, nil)
	v.define(l.low, "ADRESL", 0, nil, nil)
	v.define(l.con0, "ADCON0", 0, nil, func(m *Machine, x uint8) {
		was := m.ram[l.con0]
		m.ram[l.con0] = x
		switch {
		case x&1 == 0: // off: a conversion under way is given up
			m.ram[l.con0] &^= l.goes
			m.adc.stop(m)
		case x&l.goes == 0:
			m.adc.stop(m)
		case was&l.goes == 0:
			m.adc.start(m, m.cycle)
		}
	})
	v.define(l.con1, "ADCON1", 0, nil, func(m *Machine, x uint8) {
		m.ram[l.con1] = x
		m.setAnalog()
	})
	for i, a := range []uint16{l.ansel, l.anselh} {
		if a != 0 {
			v.define(a, [2]string{"ANSEL", "ANSELH"}[i], l.initialSelect(i), nil, func(m *Machine, x uint8) {
				m.ram[a] = x & l.initialSelect(i)
				m.setAnalog()
			})
		}
	}
}

// initialSelect has a bit for each channel of ANSEL or ANSELH: all are analog after a reset.
func (l *adcLayout) initialSelect(i int) uint8 {
	n := min(8, max(0, len(l.channels)-8*i))
	return uint8(1<<n - 1)
}

// pinModes are the analog channels by ADCON1.PCFG, and which of them are references (DS39582, table 11-2).
var pinModes = [16]struct {
	analog      uint8
	plus, minus bool
}{
	{0xff, false, false}, {0xff, true, false}, {0x1f, false, false}, {0x1f, true, false},
	{0x0b, false, false}, {0x0b, true, false}, {0, false, false}, {0, false, false},
	{0xff, true, true}, {0x3f, false, false}, {0x3f, true, false}, {0x3f, true, true},
	{0x1f, true, true}, {0x0f, true, true}, {0x01, false, false}, {0x0d, true, true},
}

// setAnalog finds out which pins are analog.
func (m *Machine) setAnalog() {
	for i := range m.ports {
		m.ports[i].analog = 0
	}
	l := &m.v.adc
	analog := uint16(0)
	switch {
	case l.con0 == 0:
	case l.ansel == 0:
		analog = uint16(pinModes[m.ram[l.con1]&15].analog)
	default:
		analog = uint16(m.ram[l.ansel])
		if l.anselh != 0 {
			analog |= uint16(m.ram[l.anselh]) << 8
		}
	}
	for i, p := range l.channels {
		if analog>>i&1 == 1 {
			m.ports[p.port].analog |= p.mask
		}
	}
	for _, p := range m.comparator.analog(m) {
		m.ports[p.port].analog |= p.mask
	}
	m.setTaken()
}

// analogBy names the registers that make pins digital.
func (v *Variant) analogBy() string {
	var names []string
	for _, a := range []uint16{v.adc.ansel, v.adc.anselh} {
		if a != 0 {
			names = append(names, v.registers.name[a])
		}
	}
	if len(names) == 0 && v.adc.con1 != 0 {
		names = append(names, "ADCON1")
	}
	if v.comparator.cmcon != 0 {
		names = append(names, "CMCON")
	}
	return strings.Join(names, ", ")
}

// ownClock tells whether the converter's clock goes on in sleep.
func (c *adc) ownClock(m *Machine) bool { return m.v.adc.con0 != 0 && m.ram[m.v.adc.con0]>>6 == 3 }

// bit is the time of a bit, in cycles and halves of them: TAD (23.4).
func (c *adc) halves(m *Machine) int64 {
	l := &m.v.adc
	if c.ownClock(m) {
		return max(1, 2*m.span(12*adcClock)/12)
	}
	halves := [3]int64{1, 4, 16}[m.ram[l.con0]>>6] // of 2, 8 and 32 clocks of the oscillator
	if l.moreClock != 0 && m.ram[l.con1]&l.moreClock != 0 {
		halves *= 2
	}
	return halves
}

// start samples the channel and begins a conversion: 12 TAD behind the instruction (23.5).
func (c *adc) start(m *Machine, cycle int64) {
	c.running, c.value = true, c.convert(m, cycle)
	m.setDue(dueADC, cycle+1+(12*c.halves(m)+1)/2)
	if !c.ownClock(m) {
		ns := m.now.At(m.cycle+c.halves(m)) - m.now.Time - (m.now.At(m.cycle) - m.now.Time)
		if ns < 2*1600*clock.Nanosecond-1 {
			m.note("adc-clock", "the converter's clock has %s for a bit; it needs 1.6 µs (ADCON0.ADCS)",
				(ns / 2).Short())
		}
	}
}

func (c *adc) stop(m *Machine) {
	c.running = false
	m.setDue(dueADC, never)
}

// trigger is the special event of a compare.
func (c *adc) trigger(m *Machine, cycle int64) {
	l := &m.v.adc
	if l.con0 != 0 && m.ram[l.con0]&1 == 1 && !c.running {
		m.ram[l.con0] |= l.goes
		c.start(m, cycle)
	}
}

// done ends a conversion.
func (c *adc) done(m *Machine) {
	l := &m.v.adc
	at := m.due[dueADC]
	c.stop(m)
	m.ram[l.con0] &^= l.goes
	if m.ram[l.con1]&0x80 != 0 { // ADFM: to the right
		m.ram[l.high], m.ram[l.low] = uint8(c.value>>8), uint8(c.value)
	} else {
		m.ram[l.high], m.ram[l.low] = uint8(c.value>>2), uint8(c.value<<6)
	}
	m.raise(m.v.flags.adc, at)
}

// convert gives the code for the input as it is now, with about half a step of noise.
func (c *adc) convert(m *Machine, cycle int64) uint16 {
	l := &m.v.adc
	low, high := int64(0), m.config.Supply
	if n := l.plus(m.ram[l.con1]); n >= 0 {
		high = m.voltage(l.channels[n], cycle)
	}
	if n := l.minus(m.ram[l.con1]); n >= 0 {
		low = m.voltage(l.channels[n], cycle)
	}
	if high <= low {
		high = low + 1
	}
	noise := int64(machine.Mix(m.config.Seed^uint64(cycle)*0x9e37)%1001) - 500 // thousandths of a step
	steps := ((c.input(m, cycle)-low)*1024*1000/(high-low) + noise) / 1000
	return uint16(max(0, min(1023, steps)))
}

// input is the voltage of the selected channel in µV.
func (c *adc) input(m *Machine, cycle int64) int64 {
	l := &m.v.adc
	n := m.ram[l.con0] >> l.choose & l.chooses
	switch {
	case n == l.fixed && n != 0:
		return fixedReference
	case n == l.divided && n != 0:
		return m.comparator.ladder(m)
	case int(n) >= len(l.channels):
		m.note("adc-channel", "ADC channel %d has no pin on this chip", n)
		return int64(machine.Mix(m.config.Seed^uint64(cycle)) % uint64(m.config.Supply))
	}
	p := l.channels[n]
	if m.ports[p.port].analog&p.mask == 0 {
		m.note("adc-digital", "%s was converted while it is a digital pin", m.v.name(p.port, bit(p.mask)))
	}
	return m.voltage(p, cycle)
}

// voltage is what a pin is at in µV. A level is one of the rails; a floating pin drifts at random.
func (m *Machine) voltage(at pinAt, cycle int64) int64 {
	p := &m.ports[at.port]
	if p.float&at.mask != 0 {
		if m.config.Watched != nil {
			name := m.v.name(at.port, bit(at.mask))
			m.note("floating-"+name, "%s was measured while nothing drove it; the value is random", name)
		}
		slow := machine.Mix(m.config.Seed ^ uint64(at.pin()+1)<<48 ^ uint64(cycle/noiseCycles/16))
		return int64(slow % uint64(m.config.Supply))
	}
	if m.config.Sample != nil {
		if v, ok := m.config.Sample(at.pin()); ok {
			return v
		}
	}
	if p.high&at.mask != 0 {
		return m.config.Supply
	}
	return 0
}
