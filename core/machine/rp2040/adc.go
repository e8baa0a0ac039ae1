package rp2040

import (
	"hemble/core/circuit"
	"hemble/core/machine"
)

// adc is the converter (4.9). Conversions are done one at a time, or one after the other; the FIFO is that of CPU use.
type adc struct {
	cs, result, fcs, div uint32
	fifo                 []uint32
	mask                 uint32
	busy                 bool
}

// conversion is how long one takes, in cycles of its clock of 48 MHz (4.9.2).
const conversion = 96

func (m *Machine) readADC(offset uint32) uint32 {
	a := &m.adc
	switch offset {
	case 0x00:
		v := a.cs &^ (1 << 8)
		if !a.busy && a.cs&1 == 1 {
			v |= 1 << 8
		}
		return v
	case 0x04:
		return a.result
	case 0x08:
		v := a.fcs&0x0f00_000f | uint32(len(a.fifo))<<16
		if len(a.fifo) == 0 {
			v |= 1 << 8
		}
		if len(a.fifo) >= 4 {
			v |= 1 << 9
		}
		return v
	case 0x0c:
		if len(a.fifo) == 0 {
			return 0
		}
		v := a.fifo[0]
		a.fifo = a.fifo[1:]
		m.requestADC()
		return v
	case 0x10:
		return a.div
	case 0x14, 0x20:
		v := uint32(0)
		if n := int(a.fcs >> 24 & 15); n > 0 && len(a.fifo) >= n {
			v = 1
		}
		if offset == 0x20 {
			v &= a.mask
		}
		return v
	case 0x18:
		return a.mask
	}
	return 0
}

func (m *Machine) writeADC(offset, v uint32) {
	a := &m.adc
	switch offset {
	case 0x00:
		a.cs = v & 0x001f_700b
		if a.cs&1 == 1 && (v>>2&1 == 1 || v>>3&1 == 1) && !a.busy {
			a.start(m)
		}
	case 0x08:
		a.fcs = v & 0x0f00_000f
	case 0x10:
		a.div = v
	case 0x18:
		a.mask = v & 1
	}
	m.requestADC()
}

func (m *Machine) requestADC() { m.core.Request(22, m.readADC(0x20) != 0) }

func (a *adc) start(m *Machine) {
	rate := m.rateOf(clkADC)
	if rate == 0 {
		m.note("unmodelled clock of the ADC", "a conversion was started while the converter's clock stands: it never ends")
		return
	}
	a.busy = true
	counts := max(conversion, int64(a.div>>8)+1)
	m.setDue(dueADC, m.core.Cycle+counts*int64(m.now.Rate)/int64(rate))
}

// done ends a conversion: 12 bits of the supply (4.9.3), or the sensor's 0.706 V at 27 °C (4.9.5).
func (a *adc) done(m *Machine) {
	m.setDue(dueADC, never)
	a.busy = false
	channel := a.cs >> 12 & 7
	volts := int64(0)
	switch {
	case channel == 4 && a.cs>>1&1 == 1:
		volts = 706_000
	case channel < 4:
		volts = m.voltage(machine.Pin(26 + channel))
	}
	a.result = uint32(min(4095, max(0, volts*4096/m.config.Supply)))
	if a.fcs&1 == 1 && len(a.fifo) < 4 {
		v := a.result
		if a.fcs>>1&1 == 1 {
			v >>= 4
		}
		a.fifo = append(a.fifo, v)
	}
	if robin := a.cs >> 16 & 0x1f; robin != 0 {
		for next := (channel + 1) % 5; ; next = (next + 1) % 5 {
			if robin>>next&1 == 1 {
				a.cs = a.cs&^(7<<12) | next<<12
				break
			}
		}
	}
	if a.cs>>3&1 == 1 && a.cs&1 == 1 {
		a.start(m)
	}
	m.requestADC()
}

// voltage is what a pin's net is at, in µV.
func (m *Machine) voltage(p machine.Pin) int64 {
	m.tellWaves()
	if m.config.Sample != nil {
		if v, analog := m.config.Sample(p); analog {
			return v
		}
	}
	switch m.pins[p].level {
	case circuit.High:
		return m.config.Supply
	case circuit.Low:
		return 0
	}
	if m.config.Watched != nil {
		name := Chip.Pins[p].Name
		m.note("floating-"+name, "%s was measured while nothing drove it; the value is random", name)
	}
	return int64(m.noise()>>8) % m.config.Supply
}
