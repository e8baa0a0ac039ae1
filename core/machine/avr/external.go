package avr

// External and pin-change interrupts (datasheet 13).
const (
	regPCIFR  = 0x3b
	regEIFR   = 0x3c
	regEIMSK  = 0x3d
	regPCICR  = 0x68
	regEICRA  = 0x69
	regPCMSK0 = 0x6b

	vectorINT0   = 1
	vectorPCINT0 = 3
)

// external is what senses edges at pins.
type external struct {
	sensing [3]uint8 // pins whose edges somebody senses, by port
	analog  [3]uint8 // pins whose digital input is switched off (DIDR0, DIDR1): they read 0
}

// Pins with a second task.
const (
	pinRXD  = 1 << 0 // PD0
	pinINT0 = 1 << 2 // PD2
	pinINT1 = 1 << 3 // PD3
	pinT0   = 1 << 4 // PD4
	pinT1   = 1 << 5 // PD5
	pinICP1 = 1 << 0 // PB0
)

func init() {
	refresh := func(m *Machine, address uint16, v uint8) {
		m.data[address] = v
		m.sense()
		m.externalRequests()
	}
	clearFlags := func(m *Machine, address uint16, v uint8) {
		m.data[address] &^= v
		m.externalRequests()
	}
	define(regPCIFR, "PCIFR", nil, clearFlags)
	define(regEIFR, "EIFR", nil, clearFlags)
	define(regEIMSK, "EIMSK", nil, refresh)
	define(regPCICR, "PCICR", nil, refresh)
	define(regEICRA, "EICRA", nil, refresh)
	for i, name := range []string{"PCMSK0", "PCMSK1", "PCMSK2"} {
		define(uint16(regPCMSK0+i), name, nil, refresh)
	}
}

// sense works out which pins anybody listens to.
func (m *Machine) sense() {
	s := [3]uint8{}
	for i := range s {
		if m.data[regPCICR]>>i&1 == 1 {
			s[i] = m.data[regPCMSK0+i]
		}
	}
	s[2] |= (m.data[regEIMSK] & 3) << 2
	if m.timers[0].externalClock() {
		s[2] |= pinT0
	}
	if m.timers[1].externalClock() {
		s[2] |= pinT1
	}
	if m.timers[1].captures() {
		s[0] |= pinICP1
	}
	if m.usart.receiving() {
		s[2] |= pinRXD
	}
	if m.spi.enabled(m) {
		s[0] |= pinSS
		if m.spi.slave(m) {
			s[0] |= pinSCK
		}
	}
	if m.twi.enabled(m) {
		s[1] |= pinSDA | pinSCL
	}
	m.ext.sensing = s
	m.scheduleNoise()
}

// pinsChanged is told what a port's nets were at before.
func (m *Machine) pinsChanged(i int, wasHigh, wasFloat uint8, cycle int64) {
	if m.ext.sensing[i] == 0 {
		return
	}
	p, noise := &m.ports[i], uint8(0)
	if (wasFloat | p.float) != 0 {
		noise = m.noise(i, cycle)
	}
	m.edges(i, wasHigh|wasFloat&noise, p.high|p.float&noise, cycle)
	if p.float != wasFloat {
		m.scheduleNoise()
	}
}

// edges handles a change of the levels that a port's pins read as.
func (m *Machine) edges(i int, old, now uint8, cycle int64) {
	changed := (old ^ now) & m.ext.sensing[i] &^ m.ext.analog[i]
	if changed == 0 {
		return
	}
	if m.data[regPCICR]>>i&1 == 1 && changed&m.data[regPCMSK0+i] != 0 {
		m.data[regPCIFR] |= 1 << i
	}
	if m.power.stopped() && i != 1 { // no clock to see the edge by; the TWI sees its address without
		m.externalRequests()
		return
	}
	switch i {
	case 0:
		if changed&pinICP1 != 0 {
			m.timers[1].captureEdge(m, now&pinICP1 != 0, cycle)
		}
		if changed&(pinSS|pinSCK) != 0 && m.spi.enabled(m) {
			m.spi.lineEdge(m, changed, cycle)
		}
	case 1:
		if changed&(pinSDA|pinSCL) != 0 && m.twi.enabled(m) {
			m.twi.lineEdge(m, changed, cycle)
		}
	case 2:
		for n := 0; n < 2; n++ {
			mask := uint8(pinINT0 << n)
			if changed&mask == 0 {
				continue
			}
			rising := now&mask != 0
			if mode := m.data[regEICRA] >> (2 * n) & 3; mode == 1 || mode == 2 && !rising || mode == 3 && rising {
				m.data[regEIFR] |= 1 << n
				if n == 0 {
					m.adc.trigger(m, triggerINT0, cycle)
				}
			}
		}
		if changed&pinT0 != 0 {
			m.timers[0].clockEdge(m, now&pinT0 != 0, cycle)
		}
		if changed&pinT1 != 0 {
			m.timers[1].clockEdge(m, now&pinT1 != 0, cycle)
		}
		if changed&pinRXD != 0 {
			m.usart.lineEdge(m, now&pinRXD != 0, cycle)
		}
	}
	m.externalRequests()
}

// externalRequests brings the interrupt requests in line with flags, masks and low levels.
func (m *Machine) externalRequests() {
	for n := uint(0); n < 2; n++ {
		request := m.data[regEIFR]>>n&1 == 1
		if m.data[regEICRA]>>(2*n)&3 == 0 { // while the pin is low
			p := &m.ports[2]
			request = (p.high|p.float)>>(2+n)&1 == 0
		}
		m.raise(vectorINT0+n, request && m.data[regEIMSK]>>n&1 == 1)
	}
	for i := uint(0); i < 3; i++ {
		m.raise(vectorPCINT0+i, (m.data[regPCIFR]&m.data[regPCICR])>>i&1 == 1)
	}
}

// scheduleNoise makes floating pins toggle at random where an interrupt or a counter listens.
func (m *Machine) scheduleNoise() {
	quiet := [3]uint8{0: pinSS | pinSCK, 1: pinSDA | pinSCL, 2: pinRXD} // buses without a partner do not toggle
	if m.data[layouts[1].timsk]&bitICF == 0 {
		quiet[0] |= pinICP1
	}
	for i := range m.ports {
		if m.ports[i].float&m.ext.sensing[i]&^quiet[i] != 0 {
			m.setDue(dueNoise, (m.cycle/noiseCycles+1)*noiseCycles)
			return
		}
	}
	m.setDue(dueNoise, never)
}

func (m *Machine) noiseEdge(cycle int64) {
	for i := range m.ports {
		p := &m.ports[i]
		m.edges(i, p.high|p.float&m.noise(i, cycle-1), p.high|p.float&m.noise(i, cycle), cycle)
	}
	m.setDue(dueNoise, cycle+noiseCycles)
	m.scheduleNoise()
}

// isFlags tells registers whose bits are cleared by writing ones, among those SBI reaches.
func isFlags(address uint16) bool {
	return address == regPCIFR || address == regEIFR || address >= regTIFR0 && address <= regTIFR0+2
}

// acknowledge clears the flag behind an interrupt that is being taken.
func (m *Machine) acknowledge(vector uint) {
	switch {
	case vector < vectorPCINT0:
		m.data[regEIFR] &^= 1 << (vector - vectorINT0)
		m.externalRequests()
	case vector < vectorWDT:
		m.data[regPCIFR] &^= 1 << (vector - vectorPCINT0)
		m.externalRequests()
	case vector == vectorWDT:
		m.dog.acknowledge(m)
	case vector <= vectorTimer0Overflow:
		for i := range m.timers {
			m.timers[i].acknowledge(m, vector)
		}
	case vector == vectorSPI:
		m.data[regSPSR] &^= bitSPIF
		m.spi.requests(m)
	case vector == vectorUSARTSent:
		m.usart.acknowledgeSent(m)
	case vector == vectorADC:
		m.data[regADCSRA] &^= bitADIF
		m.adc.requests(m)
	case vector == vectorComparator:
		m.comparator.acknowledge(m)
	}
}
