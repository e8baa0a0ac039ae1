package pic14

import "hemble/core/machine"

// usartLayout is where the serial port is (DS33023A, 18).
type usartLayout struct {
	receive, transmit pinAt
	wide              uint16 // BAUDCTL, where it has one, with SPBRGH; else 0
}

// Its registers, which all chips have at the same place.
const (
	regRCSTA  = 0x18
	regTXREG  = 0x19
	regRCREG  = 0x1a
	regTXSTA  = 0x98
	regSPBRG  = 0x99
	regSPBRGH = 0x9a

	bitSPEN = 1 << 7
	bitRX9  = 1 << 6
	bitCREN = 1 << 4
	bitFERR = 1 << 2
	bitOERR = 1 << 1

	bitTX9   = 1 << 6
	bitTXEN  = 1 << 5
	bitSYNC  = 1 << 4
	bitBRGH  = 1 << 2
	bitTRMT  = 1 << 1
	bitBRG16 = 1 << 3 // of BAUDCTL
)

// usart is the serial port in its asynchronous modes.
type usart struct {
	sending  bool
	frame    uint16 // bits still to send, the one on the line lowest
	left     int
	value    uint8
	waiting  bool // TXREG holds a byte
	buffer   uint8
	fifo     [2]uint16 // bytes received, with the ninth bit, and the flag for a missing stop bit above
	filled   int
	sampling bool
	taken    int
	incoming uint16
}

func (v *Variant) defineUSART() {
	if v.usart.receive.mask == 0 {
		return
	}
	v.define(regRCSTA, "RCSTA", 0, func(m *Machine) uint8 {
		x := m.ram[regRCSTA] &^ (bitFERR | 1)
		if u := &m.usart; u.filled > 0 {
			x |= uint8(u.fifo[0]>>8&1) | uint8(u.fifo[0]>>9&1)<<2
		}
		return x
	}, func(m *Machine, x uint8) {
		const fixed = bitOERR | bitFERR | 1
		m.ram[regRCSTA] = m.ram[regRCSTA]&fixed | x&^fixed
		if x&bitCREN == 0 { // what clears an overrun (18.4.2)
			m.ram[regRCSTA] &^= bitOERR
			m.usart.sampling = false
			m.setDue(dueReceive, never)
		}
		if x&bitSPEN == 0 {
			m.usart.filled = 0
		}
		m.usart.line(m, m.cycle)
		m.usart.flags(m, m.cycle)
	})
	v.define(regTXSTA, "TXSTA", bitTRMT, nil, func(m *Machine, x uint8) {
		m.ram[regTXSTA] = x&^bitTRMT | m.ram[regTXSTA]&bitTRMT
		if x&bitSYNC != 0 {
			m.note("unmodelled TXSTA", "the synchronous modes of the USART (TXSTA.SYNC) are not modelled")
		}
		u := &m.usart
		switch {
		case x&bitTXEN == 0:
			u.sending, u.waiting = false, false
			m.ram[regTXSTA] |= bitTRMT
			m.setDue(dueSend, never)
		case u.waiting && !u.sending:
			u.start(m, m.cycle)
		}
		u.line(m, m.cycle)
		u.flags(m, m.cycle+1)
	})
	v.define(regSPBRG, "SPBRG", 0, nil, nil)
	v.define(regTXREG, "TXREG", 0, nil, func(m *Machine, x uint8) {
		u := &m.usart
		m.ram[regTXREG] = x
		u.buffer, u.waiting = x, true
		if !u.sending && m.ram[regTXSTA]&bitTXEN != 0 && m.ram[regRCSTA]&bitSPEN != 0 {
			u.start(m, m.cycle+1)
		}
		u.flags(m, m.cycle+1)
	})
	v.define(regRCREG, "RCREG", 0, func(m *Machine) uint8 {
		u := &m.usart
		x := uint8(u.fifo[0])
		if u.filled > 0 {
			u.filled--
			u.fifo[0] = u.fifo[1]
			u.flags(m, m.cycle)
		}
		return x
	}, func(*Machine, uint8) {})
	if a := v.usart.wide; a != 0 {
		v.define(regSPBRGH, "SPBRGH", 0, nil, nil)
		v.define(a, "BAUDCTL", 0x40, nil, func(m *Machine, x uint8) {
			m.ram[a] = x&0x1b | 0x40
			if x&0x13 != 0 {
				m.note("unmodelled BAUDCTL", "measuring the speed, waking up and inverted polarity (BAUDCTL) are not modelled")
			}
		})
	}
}

// receiving tells whether the receiver is on.
func (u *usart) receiving(m *Machine) bool {
	return m.ram[regRCSTA]&(bitSPEN|bitCREN) == bitSPEN|bitCREN
}

// quarters is a bit's time in quarters of a cycle: clocks of the oscillator (18.2).
func (u *usart) clocks(m *Machine) int64 {
	n, by := int64(m.ram[regSPBRG]), int64(64)
	high := m.ram[regTXSTA]&bitBRGH != 0
	if high {
		by = 16
	}
	if a := m.v.usart.wide; a != 0 && m.ram[a]&bitBRG16 != 0 {
		n |= int64(m.ram[regSPBRGH]) << 8
		if by = 16; high {
			by = 4
		}
	}
	return by * (n + 1)
}

// line puts the transmitter's bit on its pin.
func (u *usart) line(m *Machine, cycle int64) {
	l := &m.v.usart
	out, in := &m.ports[l.transmit.port], &m.ports[l.receive.port]
	m.release(l.transmit)
	out.direction &^= l.transmit.mask
	in.inputs &^= l.receive.mask
	if m.ram[regRCSTA]&bitSPEN != 0 {
		in.inputs |= l.receive.mask
		if m.ram[regTXSTA]&bitTXEN != 0 {
			out.direction |= l.transmit.mask
			m.force(l.transmit, !u.sending || u.frame&1 == 1)
		}
	}
	m.updatePort(l.transmit.port, cycle)
	if l.receive.port != l.transmit.port {
		m.updatePort(l.receive.port, cycle)
	}
}

// start moves the buffer into the shift register and sends the start bit.
func (u *usart) start(m *Machine, cycle int64) {
	v := uint16(u.buffer)
	n := 8
	if m.ram[regTXSTA]&bitTX9 != 0 {
		v |= uint16(m.ram[regTXSTA]&1) << 8
		n = 9
	}
	u.value, u.frame, u.left = u.buffer, v<<1|1<<(n+1), n+2
	u.sending, u.waiting = true, false
	m.ram[regTXSTA] &^= bitTRMT
	u.line(m, cycle)
	u.scheduleSend(m, cycle)
	u.flags(m, cycle+1)
}

// scheduleSend announces the next edge, or only the end of the frame when nobody watches the pin.
func (u *usart) scheduleSend(m *Machine, cycle int64) {
	n := int64(1)
	if !u.watched(m) {
		n = int64(u.left)
	}
	m.setDue(dueSend, cycle+n*u.clocks(m)/4)
}

func (u *usart) watched(m *Machine) bool {
	p := m.v.usart.transmit
	return m.ports[p.port].watched&p.mask != 0
}

// sendNext ends a bit, and with the last one the frame.
func (u *usart) sendNext(m *Machine, cycle int64) {
	u.frame >>= 1
	if u.left--; u.left > 0 && u.watched(m) {
		u.line(m, cycle)
		u.scheduleSend(m, cycle)
		return
	}
	u.sending = false
	m.setDue(dueSend, never)
	if m.config.Bytes != nil {
		m.config.Bytes(machine.Byte{At: m.now.At(cycle), Port: "USART", Value: u.value})
	}
	if u.waiting {
		u.start(m, cycle)
	} else {
		m.ram[regTXSTA] |= bitTRMT
		u.line(m, cycle)
	}
	u.flags(m, cycle)
}

// lineEdge is an edge at RX; a falling one on an idle line is a start bit.
func (u *usart) lineEdge(m *Machine, high bool, cycle int64) {
	if high || u.sampling || !u.receiving(m) {
		return
	}
	u.sampling, u.taken, u.incoming = true, 0, 0
	m.setDue(dueReceive, cycle+max(1, u.clocks(m)/8))
}

// sample takes the level in the middle of a bit. With the stop bit the frame is in.
func (u *usart) sample(m *Machine, cycle int64) {
	l := m.v.usart.receive
	p := &m.ports[l.port]
	high := (p.high|p.float)&l.mask != 0
	n := 8
	if m.ram[regRCSTA]&bitRX9 != 0 {
		n = 9
	}
	if u.taken == 0 && high { // no start bit after all
		u.sampling = false
		m.setDue(dueReceive, never)
		return
	}
	if high && u.taken <= n {
		u.incoming |= 1 << u.taken
	}
	if u.taken++; u.taken < n+2 {
		m.setDue(dueReceive, cycle+max(1, u.clocks(m)/4))
		return
	}
	u.sampling = false
	m.setDue(dueReceive, never)
	entry := u.incoming >> 1
	if !high {
		entry |= 1 << 9
	}
	switch {
	case m.ram[regRCSTA]&bitOERR != 0:
	case u.filled == len(u.fifo):
		m.ram[regRCSTA] |= bitOERR
		m.note("overrun", "a third byte came before the program read the first one: the receiver stands still until "+
			"RCSTA.CREN is cleared")
	default:
		u.fifo[u.filled] = entry
		u.filled++
	}
	u.flags(m, cycle)
}

// flags sets RCIF and TXIF, which follow the buffers.
func (u *usart) flags(m *Machine, cycle int64) {
	f := &m.v.flags
	m.ram[f.receive.register] &^= f.receive.mask
	if u.filled > 0 {
		m.ram[f.receive.register] |= f.receive.mask
	}
	m.ram[f.transmit.register] &^= f.transmit.mask
	if m.ram[regTXSTA]&bitTXEN != 0 && !u.waiting {
		m.ram[f.transmit.register] |= f.transmit.mask
	}
	m.requests(cycle)
}
