package avr

import (
	"math/bits"

	"hemble/core/machine"
)

// USART0 in its asynchronous modes (datasheet 20).
const (
	regUCSRA = 0xc0
	regUCSRB = 0xc1
	regUCSRC = 0xc2
	regUBRRL = 0xc4
	regUBRRH = 0xc5
	regUDR   = 0xc6

	bitRXC  = 1 << 7
	bitTXC  = 1 << 6
	bitUDRE = 1 << 5
	bitFE   = 1 << 4
	bitDOR  = 1 << 3
	bitUPE  = 1 << 2
	bitU2X  = 1 << 1

	bitRXEN  = 1 << 4
	bitTXEN  = 1 << 3
	bitUCSZ2 = 1 << 2

	vectorUSARTReceived = 18
	vectorUSARTEmpty    = 19
	vectorUSARTSent     = 20

	pinTXD = 1 << 1 // PD1
)

// received is one entry of the receive buffer, with the flags that belong to it.
type received struct {
	data  uint16
	flags uint8
}

// usart is the state of transmitter and receiver.
type usart struct {
	sending  bool
	frame    uint16 // bits still to send, the one on the line lowest
	left     int    // how many bits those are
	value    uint8  // the byte being sent
	waiting  bool   // the transmit buffer holds a byte
	buffer   uint16
	fifo     [2]received
	filled   int
	sampling bool
	taken    int // bits sampled of the frame coming in, start bit first
	incoming uint16
	enabled  uint8 // RXEN and TXEN as last seen
}

func init() {
	define(regUCSRA, "UCSR0A", func(m *Machine, address uint16) uint8 {
		v := m.data[address]
		if u := &m.usart; u.filled > 0 {
			v |= bitRXC | u.fifo[0].flags
		}
		return v
	}, func(m *Machine, address uint16, v uint8) {
		m.data[address] = m.data[address]&^(bitTXC&v|bitU2X|1) | v&(bitU2X|1)
		m.usart.requests(m)
	})
	define(regUCSRB, "UCSR0B", func(m *Machine, address uint16) uint8 {
		v := m.data[address] &^ 2
		if u := &m.usart; u.filled > 0 {
			v |= uint8(u.fifo[0].data >> 8 << 1)
		}
		return v
	}, func(m *Machine, address uint16, v uint8) {
		m.data[address] = v
		m.usart.enable(m, v&(bitRXEN|bitTXEN))
		m.usart.requests(m)
	})
	define(regUCSRC, "UCSR0C", nil, func(m *Machine, address uint16, v uint8) {
		m.data[address] = v
		if v&0xc0 != 0 {
			m.note("unmodelled UCSR0C", "the synchronous and SPI modes of the USART (UCSR0C.UMSEL) are not modelled; it goes on asynchronously")
		}
	})
	define(regUBRRL, "UBRR0L", nil, nil)
	define(regUBRRH, "UBRR0H", nil, func(m *Machine, address uint16, v uint8) { m.data[address] = v & 15 })
	define(regUDR, "UDR0", func(m *Machine, _ uint16) uint8 {
		u := &m.usart
		v := u.fifo[0].data
		if u.filled > 0 {
			u.filled--
			u.fifo[0] = u.fifo[1]
			u.requests(m)
		}
		return uint8(v)
	}, func(m *Machine, _ uint16, v uint8) { m.usart.put(m, v) })
}

// reset leaves the initial values that are not zero.
func (u *usart) reset(m *Machine) {
	*u = usart{}
	m.data[regUCSRA], m.data[regUCSRC] = bitUDRE, 0x06
}

func (u *usart) receiving() bool       { return u.enabled&bitRXEN != 0 }
func (u *usart) wakes(m *Machine) bool { return u.receiving() && m.data[regUCSRB]&0x80 != 0 }
func (u *usart) bit(m *Machine) int64 {
	divisor := int64(m.data[regUBRRL]) | int64(m.data[regUBRRH])<<8
	if m.data[regUCSRA]&bitU2X != 0 {
		return 8 * (divisor + 1)
	}
	return 16 * (divisor + 1)
}

// dataBits is the number of data bits of a frame, 5 to 9 (table 20-11).
func (u *usart) dataBits(m *Machine) int {
	n := int(m.data[regUCSRC] >> 1 & 3)
	if m.data[regUCSRB]&bitUCSZ2 != 0 {
		return 9
	}
	return 5 + n
}

// parity is the parity bit of a value, and whether frames have one.
func (u *usart) parity(m *Machine, v uint16) (uint16, bool) {
	mode := m.data[regUCSRC] >> 4 & 3
	odd := uint16(bits.OnesCount16(v) & 1)
	return odd ^ uint16(mode&1), mode >= 2
}

// enable takes over RXEN and TXEN: the transmitter owns PD1, the receiver PD0.
func (u *usart) enable(m *Machine, enabled uint8) {
	if enabled == u.enabled {
		return
	}
	u.enabled = enabled
	if enabled&bitRXEN == 0 {
		u.filled, u.sampling = 0, false
		m.setDue(dueUSARTReceive, never)
	}
	m.sense()
	u.line(m, m.cycle)
}

// line puts the transmitter's bit on PD1.
func (u *usart) line(m *Machine, cycle int64) {
	p := &m.ports[2]
	p.override &^= pinTXD
	p.direction &^= pinTXD
	p.inputs &^= pinRXD
	if u.enabled&bitRXEN != 0 {
		p.inputs |= pinRXD
	}
	if u.enabled&bitTXEN != 0 || u.sending {
		p.override |= pinTXD
		p.direction |= pinTXD
		p.forced |= pinTXD
		if u.sending && u.frame&1 == 0 {
			p.forced &^= pinTXD
		}
	}
	m.updatePort(2, cycle)
}

// put is a write of UDR0.
func (u *usart) put(m *Machine, v uint8) {
	if u.enabled&bitTXEN == 0 || m.data[regUCSRA]&bitUDRE == 0 {
		return // a full buffer ignores it (20.6.3)
	}
	u.buffer, u.waiting = uint16(v)|uint16(m.data[regUCSRB]&1)<<8, true
	m.data[regUCSRA] &^= bitUDRE
	if !u.sending {
		u.start(m, m.cycle)
	}
	u.requests(m)
}

// start moves the buffer into the shift register and sends the start bit.
func (u *usart) start(m *Machine, cycle int64) {
	n := u.dataBits(m)
	v := u.buffer & (1<<n - 1)
	u.value = uint8(v)
	u.frame, u.left = v<<1, n+1
	if bit, has := u.parity(m, v); has {
		u.frame |= bit << u.left
		u.left++
	}
	stops := 1 + int(m.data[regUCSRC]>>3&1)
	u.frame |= (1<<stops - 1) << u.left
	u.left += stops
	u.sending, u.waiting = true, false
	m.data[regUCSRA] |= bitUDRE
	u.line(m, cycle)
	u.scheduleSend(m, cycle)
}

// scheduleSend announces the next edge, or only the end of the frame when nobody watches the pin.
func (u *usart) scheduleSend(m *Machine, cycle int64) {
	n := 1
	if m.ports[2].watched&pinTXD == 0 {
		n = u.left
	}
	m.setDue(dueUSARTSend, cycle+int64(n)*u.bit(m))
}

// sendNext ends a bit, and with the last one the frame.
func (u *usart) sendNext(m *Machine, cycle int64) {
	u.frame >>= 1
	if u.left--; u.left > 0 && m.ports[2].watched&pinTXD != 0 {
		u.line(m, cycle)
		u.scheduleSend(m, cycle)
		return
	}
	u.sending = false
	m.setDue(dueUSARTSend, never)
	if m.config.Bytes != nil {
		m.config.Bytes(machine.Byte{At: m.now.at(cycle), Port: machine.Terminal, Value: u.value})
	}
	if u.waiting {
		u.start(m, cycle)
	} else {
		m.data[regUCSRA] |= bitTXC
		u.line(m, cycle)
	}
	u.requests(m)
}

// lineEdge is an edge at PD0; a falling one on an idle line is a start bit.
func (u *usart) lineEdge(m *Machine, high bool, cycle int64) {
	if high || u.sampling || u.enabled&bitRXEN == 0 {
		return
	}
	u.sampling, u.taken, u.incoming = true, 0, 0
	m.setDue(dueUSARTReceive, cycle+u.bit(m)/2)
}

// sample takes the level in the middle of a bit. With the first stop bit the frame is in.
func (u *usart) sample(m *Machine, cycle int64) {
	p := &m.ports[2]
	high := (p.high|p.float)&pinRXD != 0
	if u.taken == 0 && high { // no start bit after all
		u.sampling = false
		m.setDue(dueUSARTReceive, never)
		return
	}
	if high {
		u.incoming |= 1 << u.taken
	}
	u.taken++
	n := u.dataBits(m)
	parity, has := u.parity(m, u.incoming>>1&(1<<n-1))
	total := n + 2
	if has {
		total++
	}
	if u.taken < total {
		m.setDue(dueUSARTReceive, cycle+u.bit(m))
		return
	}
	u.sampling = false
	m.setDue(dueUSARTReceive, never)
	entry := received{data: u.incoming >> 1 & (1<<n - 1)}
	if has && u.incoming>>(n+1)&1 != parity {
		entry.flags |= bitUPE
	}
	if !high {
		entry.flags |= bitFE
	}
	if u.filled == len(u.fifo) {
		u.fifo[1].flags |= bitDOR
	} else {
		u.fifo[u.filled] = entry
		u.filled++
	}
	u.requests(m)
}

func (u *usart) requests(m *Machine) {
	a, b := m.data[regUCSRA], m.data[regUCSRB]
	m.raise(vectorUSARTReceived, b&0x80 != 0 && u.filled > 0)
	m.raise(vectorUSARTEmpty, b&0x20 != 0 && a&bitUDRE != 0 && b&bitTXEN != 0)
	m.raise(vectorUSARTSent, b&0x40 != 0 && a&bitTXC != 0)
}

func (u *usart) acknowledgeSent(m *Machine) {
	m.data[regUCSRA] &^= bitTXC
	u.requests(m)
}
