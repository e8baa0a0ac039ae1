package avr

// Two-wire serial interface (datasheet 22), master and slave. The lines are open drain: the chip only
// ever pulls them low, and a pull-up resistor, its own or the board's, lets them rise.
const (
	regTWBR  = 0xb8
	regTWSR  = 0xb9
	regTWAR  = 0xba
	regTWDR  = 0xbb
	regTWCR  = 0xbc
	regTWAMR = 0xbd

	bitTWINT = 1 << 7
	bitTWEA  = 1 << 6
	bitTWSTA = 1 << 5
	bitTWSTO = 1 << 4
	bitTWWC  = 1 << 3
	bitTWEN  = 1 << 2
	bitTWIE  = 1 << 0
)

// twiLayout is where the two lines are, both on one port.
type twiLayout struct {
	port     int
	sda, scl uint8
}

// Status codes (tables 22-2 to 22-6).
const (
	statusStart          = 0x08
	statusRepeatedStart  = 0x10
	statusSentSLAW       = 0x18 // acknowledged; 0x20 not
	statusSentData       = 0x28 // acknowledged; 0x30 not
	statusLost           = 0x38
	statusSentSLAR       = 0x40 // acknowledged; 0x48 not
	statusGotData        = 0x50 // acknowledged by us; 0x58 not
	statusOwnSLAW        = 0x60
	statusGeneralCall    = 0x70
	statusSlaveGot       = 0x80 // acknowledged; 0x88 not
	statusGeneralGot     = 0x90 // acknowledged; 0x98 not
	statusSlaveStop      = 0xa0
	statusOwnSLAR        = 0xa8
	statusSlaveSent      = 0xb8 // acknowledged; 0xc0 not
	statusSlaveLast      = 0xc8
	statusNothing        = 0xf8
	statusNotAcknowledge = 0x08 // added to the codes above
)

// twiState is what the interface is doing.
type twiState uint8

const (
	twiIdle     twiState = iota
	twiWaiting           // for the bus to become free, to send a START
	twiStarting          // SDA was pulled low; SCL follows
	twiRestart           // SCL low, SDA released, for a repeated START
	twiRestart2          // SCL high again
	twiOwner             // TWINT is set: the program decides, SCL is held low
	twiLow               // master, a bit: SCL is low
	twiRising            // SCL was released; a slave may hold it
	twiHigh              // SCL is high
	twiStopLow           // SDA pulled low for a STOP
	twiStopHigh          // SCL released for a STOP
	twiAddress           // slave: the address comes in
	twiSlaveIn           // slave receiver
	twiSlaveOut          // slave transmitter
	twiHeld              // slave: TWINT is set and SCL held low once the master lets it fall
)

type twi struct {
	state     twiState
	bit       int // bits of the byte done, 0 to 8; the ninth is the acknowledge
	shift     uint8
	ack       bool
	address   bool // the byte is the first after a START
	reading   bool // master receiver
	sda, scl  bool // what we pull low
	busy      bool // between a START and a STOP by anyone
	next      twiState
	general   bool
	addressed bool // as a slave
}

func (v *Variant) defineTWI() {
	v.deepWakes |= 1 << v.vectors.twi
	v.define(regTWBR, "TWBR", nil, nil)
	v.define(regTWSR, "TWSR", nil, func(m *Machine, a uint16, v uint8) { m.io[a] = m.io[a]&0xf8 | v&3 })
	v.define(regTWAR, "TWAR", nil, nil)
	v.define(regTWAMR, "TWAMR", nil, func(m *Machine, a uint16, v uint8) { m.io[a] = v &^ 1 })
	v.define(regTWDR, "TWDR", nil, func(m *Machine, a uint16, v uint8) {
		if m.io[regTWCR]&bitTWINT == 0 && m.twi.state != twiIdle {
			m.io[regTWCR] |= bitTWWC
			return
		}
		m.io[regTWCR] &^= bitTWWC
		m.io[a] = v
	})
	v.define(regTWCR, "TWCR", nil, func(m *Machine, a uint16, v uint8) {
		t := &m.twi
		old := m.io[a]
		m.io[a] = v&^(bitTWINT|bitTWWC|2) | old&(bitTWINT|bitTWWC)
		if v&bitTWEN == 0 {
			t.off(m)
			return
		}
		if old&bitTWEN == 0 {
			t.lines(m, m.cycle)
			m.sense()
		}
		if v&bitTWINT != 0 {
			m.io[a] &^= bitTWINT
		}
		t.requests(m)
		if v&bitTWINT != 0 || old&bitTWINT == 0 && t.state == twiIdle {
			t.command(m, m.cycle)
		}
	})
}

// reset leaves the initial values that are not zero.
func (t *twi) reset(m *Machine) {
	*t = twi{}
	m.io[regTWSR], m.io[regTWAR], m.io[regTWDR] = statusNothing, 0xfe, 0xff
}

func (t *twi) off(m *Machine) {
	*t = twi{}
	m.io[regTWCR] &^= bitTWINT | bitTWWC | bitTWSTO
	m.setDue(m.v.slots.twi, never)
	t.lines(m, m.cycle)
	m.sense()
	t.requests(m)
}

func (t *twi) enabled(m *Machine) bool { return m.io[regTWCR]&bitTWEN != 0 }

// wakes reports whether an address could still wake the core.
func (t *twi) wakes(m *Machine) bool {
	return m.io[regTWCR]&(bitTWEN|bitTWEA|bitTWIE) == bitTWEN|bitTWEA|bitTWIE
}

// half is half a period of SCL in CPU cycles (22.5.2).
func (t *twi) half(m *Machine) int64 {
	return max(4, (16+2*int64(m.io[regTWBR])<<(2*(m.io[regTWSR]&3)))/2)
}

// lines brings the pins in line with what we pull low.
func (t *twi) lines(m *Machine, cycle int64) {
	p := &m.ports[m.v.twi.port]
	p.override &^= m.v.twi.sda | m.v.twi.scl
	p.direction &^= m.v.twi.sda | m.v.twi.scl
	p.inputs &^= m.v.twi.sda | m.v.twi.scl
	if t.enabled(m) {
		p.override |= m.v.twi.sda | m.v.twi.scl
		p.forced &^= m.v.twi.sda | m.v.twi.scl
		for pin, low := range map[uint8]bool{m.v.twi.sda: t.sda, m.v.twi.scl: t.scl} {
			if low {
				p.direction |= pin
			} else {
				p.inputs |= pin
			}
		}
	}
	m.updatePort(m.v.twi.port, cycle)
}

// level reports whether a line is high. One that nothing pulls up never rises.
func (t *twi) level(m *Machine, pin uint8) bool { return m.ports[m.v.twi.port].high&pin != 0 }

func (t *twi) requests(m *Machine) {
	c := m.io[regTWCR]
	m.raise(m.v.vectors.twi, c&bitTWIE != 0 && c&bitTWINT != 0)
}

// report sets TWINT with a status; the program has to act.
func (t *twi) report(m *Machine, status uint8, state twiState) {
	t.state = state
	m.io[regTWSR] = m.io[regTWSR]&3 | status
	m.io[regTWCR] |= bitTWINT
	m.setDue(m.v.slots.twi, never)
	t.requests(m)
}

func (t *twi) after(m *Machine, cycle, d int64, state twiState) {
	t.state = state
	m.setDue(m.v.slots.twi, cycle+d)
}

// command acts on a write of TWCR that cleared TWINT, or found nothing going on.
func (t *twi) command(m *Machine, cycle int64) {
	c := m.io[regTWCR]
	owner := t.state == twiOwner
	switch {
	case c&bitTWSTO != 0 && owner:
		t.sda = true
		t.lines(m, cycle)
		t.after(m, cycle, t.half(m), twiStopLow)
	case c&bitTWSTO != 0: // out of any trouble: lines released, no STOP sent (22.7.5)
		m.io[regTWCR] &^= bitTWSTO
		t.release(m, cycle)
		if c&bitTWSTA != 0 {
			t.start(m, cycle)
		}
	case c&bitTWSTA != 0 && owner:
		t.sda = false
		t.lines(m, cycle)
		t.after(m, cycle, t.half(m), twiRestart)
	case c&bitTWSTA != 0 && t.state != twiHeld:
		if t.state == twiIdle {
			t.start(m, cycle)
		}
	case owner:
		t.byte(m, cycle)
	case t.state == twiHeld:
		t.slaveGoesOn(m, cycle)
	}
}

func (t *twi) release(m *Machine, cycle int64) {
	t.sda, t.scl, t.addressed, t.state = false, false, false, twiIdle
	m.setDue(m.v.slots.twi, never)
	t.lines(m, cycle)
}

// start sends a START when the bus is free.
func (t *twi) start(m *Machine, cycle int64) {
	if t.busy || !t.level(m, m.v.twi.scl) || !t.level(m, m.v.twi.sda) {
		if !t.busy {
			m.note("twi-lines", "a START waits: SDA and SCL (%s, %s) are not both high (is a pull-up missing?)",
				m.v.name(m.v.twi.port, int(log2(m.v.twi.sda))), m.v.name(m.v.twi.port, int(log2(m.v.twi.scl))))
		}
		t.state = twiWaiting
		return
	}
	t.sda = true
	t.state = twiStarting
	t.lines(m, cycle)
	m.setDue(m.v.slots.twi, cycle+t.half(m))
}

// byte begins to send TWDR, or to receive.
func (t *twi) byte(m *Machine, cycle int64) {
	status := m.io[regTWSR] & 0xf8
	t.address = status == statusStart || status == statusRepeatedStart
	if t.address {
		t.reading = m.io[regTWDR]&1 != 0
	}
	t.bit, t.shift = 0, 0xff
	if t.sending() {
		t.shift = m.io[regTWDR]
	}
	t.put(m, cycle)
}

func (t *twi) sending() bool { return t.address || !t.reading }

// put sets SDA for the next bit while SCL is low.
func (t *twi) put(m *Machine, cycle int64) {
	switch {
	case t.bit < 8:
		t.sda = t.sending() && t.shift&0x80 == 0
	case t.sending():
		t.sda = false
	default: // our acknowledge of a received byte
		t.ack = m.io[regTWCR]&bitTWEA != 0
		t.sda = t.ack
	}
	t.lines(m, cycle)
	t.after(m, cycle, t.half(m), twiLow)
}

// run continues with what is due.
func (t *twi) run(m *Machine, cycle int64) {
	m.setDue(m.v.slots.twi, never)
	half := t.half(m)
	switch t.state {
	case twiStarting, twiRestart2:
		if t.state == twiRestart2 && !t.sda {
			t.sda = true
			t.lines(m, cycle)
			t.after(m, cycle, half, twiRestart2)
			return
		}
		status := uint8(statusStart)
		if t.state == twiRestart2 {
			status = statusRepeatedStart
		}
		t.scl = true
		t.lines(m, cycle)
		t.report(m, status, twiOwner)
	case twiRestart:
		t.rise(m, cycle, twiRestart2)
	case twiLow:
		t.rise(m, cycle, twiHigh)
	case twiHigh:
		t.sampled(m, cycle)
	case twiStopLow:
		t.rise(m, cycle, twiStopHigh)
	case twiStopHigh:
		t.sda, t.state = false, twiIdle
		m.io[regTWCR] &^= bitTWSTO
		m.io[regTWSR] = m.io[regTWSR]&3 | statusNothing
		t.lines(m, cycle)
		if m.io[regTWCR]&bitTWSTA != 0 {
			t.state = twiWaiting
			m.setDue(m.v.slots.twi, cycle+half)
		}
	case twiWaiting:
		t.start(m, cycle)
	}
}

// rise lets SCL go. Where a slave holds it, the clock continues when it lets go (lineEdge).
func (t *twi) rise(m *Machine, cycle int64, next twiState) {
	t.state, t.next, t.scl = twiRising, next, false
	t.lines(m, cycle)
	t.risen(m, cycle)
}

func (t *twi) risen(m *Machine, cycle int64) {
	if t.state == twiRising && t.level(m, m.v.twi.scl) {
		t.after(m, cycle, t.half(m), t.next)
	}
}

// sampled ends the high half of a master's bit.
func (t *twi) sampled(m *Machine, cycle int64) {
	high := t.level(m, m.v.twi.sda)
	switch {
	case t.bit == 8 && t.sending():
		t.ack = !high
	case t.bit == 8:
	case t.sending():
		if t.shift&0x80 != 0 && !high { // somebody else sends a 0
			t.release(m, cycle)
			t.report(m, statusLost, twiIdle)
			return
		}
		t.shift = t.shift<<1 | 1
	default:
		t.shift <<= 1
		if high {
			t.shift |= 1
		}
	}
	t.scl = true
	t.lines(m, cycle)
	if t.bit++; t.bit <= 8 {
		t.put(m, cycle)
		return
	}
	status := uint8(statusGotData)
	switch {
	case t.address && t.reading:
		status = statusSentSLAR
	case t.address:
		status = statusSentSLAW
	case !t.reading:
		status = statusSentData
	default:
		m.io[regTWDR] = t.shift
	}
	if !t.ack {
		status += statusNotAcknowledge
	}
	t.report(m, status, twiOwner)
}

// lineEdge is told of every edge at SDA and SCL, our own as well.
func (t *twi) lineEdge(m *Machine, changed uint8, cycle int64) {
	sda, scl := t.level(m, m.v.twi.sda), t.level(m, m.v.twi.scl)
	mine := t.state >= twiStarting && t.state <= twiStopHigh
	if changed&m.v.twi.sda != 0 && changed&m.v.twi.scl == 0 && scl {
		if !sda {
			t.busy = true
			if !mine {
				t.startSeen(m, cycle)
			}
		} else {
			t.busy = false
			if !mine || t.state == twiStopHigh {
				t.stopSeen(m, cycle)
			}
		}
		return
	}
	if changed&m.v.twi.scl == 0 {
		return
	}
	switch {
	case t.state == twiRising && scl:
		t.risen(m, cycle)
	case mine:
	case scl:
		t.slaveRise(m, sda)
	default:
		t.slaveFall(m, cycle)
	}
}

// startSeen is a START by another master: an address follows.
func (t *twi) startSeen(m *Machine, cycle int64) {
	if t.addressed && t.state == twiSlaveIn {
		t.addressed = false
		t.report(m, statusSlaveStop, twiHeld)
		return
	}
	if m.io[regTWCR]&bitTWINT == 0 && t.state != twiWaiting || t.addressed {
		t.state, t.bit, t.shift = twiAddress, -1, 0
	}
}

func (t *twi) stopSeen(m *Machine, cycle int64) {
	switch {
	case t.addressed && (t.state == twiSlaveIn || t.state == twiSlaveOut):
		t.addressed = false
		if t.state == twiSlaveIn {
			t.report(m, statusSlaveStop, twiHeld)
			return
		}
		t.release(m, cycle)
	case t.state == twiAddress:
		t.state = twiIdle
	}
	if t.state == twiWaiting || t.state == twiIdle && m.io[regTWCR]&bitTWSTA != 0 {
		t.after(m, cycle, t.half(m), twiWaiting)
	}
}

// slaveRise samples a bit that another master clocks.
func (t *twi) slaveRise(m *Machine, sda bool) {
	switch t.state {
	case twiAddress, twiSlaveIn:
		if t.bit >= 0 && t.bit < 8 {
			t.shift <<= 1
			if sda {
				t.shift |= 1
			}
		}
	case twiSlaveOut:
		if t.bit == 8 {
			t.ack = !sda
		}
	}
}

// slaveFall moves on to the next bit of a byte that another master clocks.
func (t *twi) slaveFall(m *Machine, cycle int64) {
	switch t.state {
	case twiAddress, twiSlaveIn, twiSlaveOut:
	default:
		return
	}
	t.bit++
	switch {
	case t.bit == 8 && t.state == twiSlaveOut:
		t.sda = false
		t.lines(m, cycle)
	case t.bit == 8:
		t.ack = m.io[regTWCR]&bitTWEA != 0 && (t.state == twiSlaveIn || t.matches(m))
		if t.state == twiAddress && !t.ack {
			t.state = twiIdle
			return
		}
		t.sda = t.ack
		t.lines(m, cycle)
	case t.bit == 9:
		t.slaveByte(m, cycle)
	case t.state == twiSlaveOut:
		t.sda = t.shift>>(7-t.bit)&1 == 0
		t.lines(m, cycle)
	}
}

// matches compares an address with TWAR under the mask of TWAMR.
func (t *twi) matches(m *Machine) bool {
	t.general = t.shift == 0 && m.io[regTWAR]&1 != 0
	return t.general || (t.shift^m.io[regTWAR])&^m.io[regTWAMR]&0xfe == 0
}

// slaveByte ends a byte with its acknowledge: the clock is held until the program acted.
func (t *twi) slaveByte(m *Machine, cycle int64) {
	t.sda, t.scl = false, true
	t.lines(m, cycle)
	status := uint8(0)
	switch {
	case t.state == twiAddress && t.shift&1 != 0:
		status = statusOwnSLAR
	case t.state == twiAddress && t.general:
		status = statusGeneralCall
	case t.state == twiAddress:
		status = statusOwnSLAW
	case t.state == twiSlaveIn:
		if status = statusSlaveGot; t.general {
			status = statusGeneralGot
		}
		if !t.ack {
			status += statusNotAcknowledge
		}
	case !t.ack:
		status = statusSlaveSent + statusNotAcknowledge
	case m.io[regTWCR]&bitTWEA == 0:
		status = statusSlaveLast
	default:
		status = statusSlaveSent
	}
	if t.state != twiSlaveOut {
		m.io[regTWDR] = t.shift
	}
	if t.state == twiAddress {
		t.addressed = true
	}
	t.report(m, status, twiHeld)
}

// slaveGoesOn lets the clock go after the program has acted.
func (t *twi) slaveGoesOn(m *Machine, cycle int64) {
	t.bit = 0
	switch m.io[regTWSR] & 0xf8 {
	case statusOwnSLAR, statusSlaveSent:
		t.state, t.shift = twiSlaveOut, m.io[regTWDR]
		t.sda = t.shift&0x80 == 0
	case statusOwnSLAW, statusGeneralCall, statusSlaveGot, statusGeneralGot:
		t.state, t.shift = twiSlaveIn, 0
	default: // not addressed any more
		t.state, t.addressed, t.sda = twiIdle, false, false
		if t.busy && !t.level(m, m.v.twi.scl) && m.io[regTWSR]&0xf8 == statusSlaveStop {
			t.state, t.bit, t.shift = twiAddress, 0, 0 // a repeated START came: the address continues
		}
	}
	t.scl = false
	t.lines(m, cycle)
}
