package avr

import (
	"math/bits"

	"hemble/core/machine"
)

// ADC (datasheet 24).
const (
	regADCL   = 0x78
	regADCH   = 0x79
	regADCSRA = 0x7a
	regADCSRB = 0x7b
	regADMUX  = 0x7c

	bitADEN  = 1 << 7
	bitADSC  = 1 << 6
	bitADATE = 1 << 5
	bitADIF  = 1 << 4
	bitADIE  = 1 << 3

	bitADLAR    = 1 << 5
	bandgap     = 1_100_000 // µV, V_BG typical
	bandgap2    = 2_560_000 // µV, of those chips that have a second one
	bandgap8    = 1_300_000 // µV, that of the ATmega8
	temperature = 314_000   // µV of the temperature sensor at 25 °C (table 24-2)
)

// analogLayout is where the converter's channels and the comparator's inputs are.
type analogLayout struct {
	channels   []pinAt         // by number
	special    map[uint8]int64 // µV of those that are inside, by MUX
	mux5       uint8           // of ADCSRB: a sixth bit of the channel; 0 for none
	references [8]int64        // µV by REFS: or one of the three below
	more       bool            // ADMUX has REFS2 where others have MUX4
	ain0, ain1 pinAt
}

// References that are no voltage of the chip's own.
const (
	fromAREF = iota
	fromSupply
	reserved
)

// Sources that may trigger a conversion, ADTS2:0 (table 24-6).
const (
	triggerFree = iota
	triggerComparator
	triggerINT0
	triggerTimer0Compare
	triggerTimer0Overflow
	triggerTimer1Compare
	triggerTimer1Overflow
	triggerTimer1Capture
)

// adc converts by successive approximation. Times are in half ADC clocks, since the sample is taken
// in the middle of one (figures 24-4 to 24-6).
type adc struct {
	base    int64 // cycle at which the prescaler started
	first   bool  // the next conversion is the first after ADEN: it initialises the analog part
	running bool
	sampled bool
	began   int64 // cycle of the conversion's first ADC clock
	long    bool  // it is a first one
	mux     uint8 // ADMUX as it stood when the conversion began ...
	mux5    bool  // ... and MUX5
	held    uint16
	result  uint16
	locked  bool // ADCL was read and ADCH not yet
}

func (v *Variant) defineADC() {
	v.acknowledged[v.vectors.adc] = func(m *Machine) {
		m.io[regADCSRA] &^= bitADIF
		m.adc.requests(m)
	}
	v.define(regADMUX, "ADMUX", nil, nil)
	v.define(regADCSRB, "ADCSRB", nil, func(m *Machine, a uint16, v uint8) {
		m.io[a] = v & (0x47 | m.v.analog.mux5)
		m.comparator.update(m, m.cycle)
		m.adc.listen(m)
	})
	v.define(regADCSRA, "ADCSRA", nil, func(m *Machine, a uint16, v uint8) {
		c := &m.adc
		old := m.io[a]
		m.io[a] = v&^(bitADIF|bitADSC) | old&bitADIF&^v | old&bitADSC
		switch {
		case v&bitADEN == 0:
			m.io[a] &^= bitADSC
			c.running = false
			m.setDue(m.v.slots.adc, never)
		case old&bitADEN == 0:
			c.base, c.first = m.cycle, true
		}
		if v&(bitADEN|bitADSC) == bitADEN|bitADSC && !c.running {
			c.start(m, m.cycle)
		}
		if (v^old)&bitADATE != 0 {
			c.listen(m)
		}
		c.requests(m)
	})
	v.define(regADCL, "ADCL", func(m *Machine, _ uint16) uint8 {
		m.adc.locked = true
		return uint8(m.adc.aligned(m))
	}, func(*Machine, uint16, uint8) {})
	v.define(regADCH, "ADCH", func(m *Machine, _ uint16) uint8 {
		m.adc.locked = false
		return uint8(m.adc.aligned(m) >> 8)
	}, func(*Machine, uint16, uint8) {})
}

func (c *adc) aligned(m *Machine) uint16 {
	if m.io[regADMUX]&bitADLAR != 0 {
		return c.result << 6
	}
	return c.result
}

// divider is the ADC prescaler's (table 24-5).
func (c *adc) divider(m *Machine) int64 { return 1 << max(1, m.io[regADCSRA]&7) }

// start begins a conversion at the next ADC clock.
func (c *adc) start(m *Machine, cycle int64) {
	d := c.divider(m)
	c.began = cycle + (d-(cycle-c.base)%d)%d
	c.running, c.sampled, c.long, c.first = true, false, c.first, false
	c.mux, c.mux5 = m.io[regADMUX], m.io[regADCSRB]&m.v.analog.mux5 != 0
	m.io[regADCSRA] |= bitADSC
	halves := int64(3) // 1.5 clocks to the sample
	if c.long {
		halves = 27
	}
	m.setDue(m.v.slots.adc, c.began+halves*d/2)
}

// next takes the sample, and later ends the conversion.
func (c *adc) next(m *Machine, cycle int64) {
	m.setDue(m.v.slots.adc, never)
	if !c.running {
		return
	}
	d := c.divider(m)
	if !c.sampled {
		c.sampled, c.held = true, c.convert(m, cycle)
		clocks := int64(13)
		if c.long {
			clocks = 25
		}
		m.setDue(m.v.slots.adc, max(cycle+1, c.began+clocks*d))
		return
	}
	c.running = false
	if !c.locked {
		c.result = c.held
	}
	m.io[regADCSRA] |= bitADIF
	m.io[regADCSRA] &^= bitADSC
	if m.io[regADCSRA]&bitADATE != 0 && m.io[regADCSRB]&7 == triggerFree {
		c.start(m, cycle)
	}
	c.requests(m)
}

// trigger is told that a flag came up that conversions may wait for.
func (c *adc) trigger(m *Machine, source uint8, cycle int64) {
	if m.io[regADCSRA]&(bitADEN|bitADATE) == bitADEN|bitADATE && m.io[regADCSRB]&7 == source && !c.running {
		c.start(m, cycle)
	}
}

// timerTriggers are the timers' flags that start conversions, by ADTS.
var timerTriggers = map[uint8]struct {
	timer int
	flag  uint8
}{
	triggerTimer0Compare: {0, bitOCFA}, triggerTimer0Overflow: {0, bitTOV},
	triggerTimer1Compare: {1, bitOCFB}, triggerTimer1Overflow: {1, bitTOV}, triggerTimer1Capture: {1, bitICF},
}

// waitsFor reports whether a timer triggers conversions, so that its flags matter at their time.
func (c *adc) waitsFor(m *Machine, timer int) bool {
	if m.io[regADCSRA]&(bitADEN|bitADATE) != bitADEN|bitADATE {
		return false
	}
	source, ok := timerTriggers[m.io[regADCSRB]&7]
	return ok && source.timer == timer
}

func (c *adc) timerFlags(m *Machine, timer int, flags uint8, cycle int64) {
	if c.waitsFor(m, timer) && flags&timerTriggers[m.io[regADCSRB]&7].flag != 0 {
		c.trigger(m, m.io[regADCSRB]&7, cycle)
	}
}

// listen has the timers announce what conversions wait for.
func (c *adc) listen(m *Machine) {
	for i := range m.timers {
		m.timers[i].sync(m, m.cycle)
		m.timers[i].schedule(m)
	}
}

func (c *adc) requests(m *Machine) {
	a := m.io[regADCSRA]
	m.raise(m.v.vectors.adc, a&bitADIE != 0 && a&bitADIF != 0)
}

// reference is the voltage of a full scale in µV, by REFS1:0 (table 24-3).
func (c *adc) reference(m *Machine) int64 {
	refs := c.mux >> 6
	if m.v.analog.more {
		refs |= c.mux >> 2 & 4
	}
	switch v := m.v.analog.references[refs]; v {
	case fromAREF:
		m.note("aref",
			"the ADC compares with AREF (ADMUX.REFS), to which nothing is wired; it was taken as the supply")
	case reserved:
		m.note("refs", "ADMUX.REFS %02b is reserved; the ADC used the supply", refs)
	case fromSupply:
	default:
		return v
	}
	return m.config.Supply
}

// channel is the number that MUX selects: four bits, or six.
func (c *adc) channel(m *Machine) uint8 {
	if m.v.analog.mux5 == 0 {
		return c.mux & 15
	}
	channel := c.mux & 31
	if c.mux5 {
		channel |= 32
	}
	return channel
}

// input is the voltage of the selected channel in µV (table 24-4).
func (c *adc) input(m *Machine, cycle int64) int64 {
	channel, a := c.channel(m), &m.v.analog
	if volts, inside := a.special[channel]; inside {
		return volts
	}
	n := channel
	if channel >= 32 {
		n = channel - 32 + 8
	}
	if int(n) < len(a.channels) && (n < 8 || channel >= 32) && a.channels[n].mask != 0 {
		return m.voltageAt(a.channels[n], cycle)
	}
	m.note("adc-channel", "ADC channel %d has no pin on this chip's package", channel)
	return int64(machine.Mix(m.config.Seed^uint64(cycle)) % uint64(m.config.Supply))
}

// convert gives the code for the input as it is now, with about half a step of noise.
func (c *adc) convert(m *Machine, cycle int64) uint16 {
	reference := c.reference(m)
	noise := int64(machine.Mix(m.config.Seed^uint64(cycle)*0x9e37)%1001) - 500 // thousandths of a step
	steps := (c.input(m, cycle)*1024*1000/reference + noise) / 1000
	return uint16(max(0, min(1023, steps)))
}

// voltage is what a pin is at in µV. A level is one of the rails; a floating pin drifts at random.
func (m *Machine) voltage(port int, pin uint8, cycle int64) int64 {
	p, mask := &m.ports[port], uint8(1)<<pin
	if p.float&mask != 0 {
		if m.config.Watched != nil {
			name := m.v.name(port, int(pin))
			m.note("floating-"+name, "%s was measured while nothing drove it; the value is random", name)
		}
		slow := machine.Mix(m.config.Seed ^ uint64(port*8+int(pin)+1)<<48 ^ uint64(cycle/noiseCycles/16))
		return int64(slow % uint64(m.config.Supply))
	}
	if m.config.Sample != nil {
		if v, ok := m.config.Sample(pinAt{port, mask}.pin()); ok {
			return v
		}
	}
	return int64(bits.OnesCount8(p.high&mask)) * m.config.Supply
}
