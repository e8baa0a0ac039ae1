package avr

import (
	"math/bits"
	"strings"

	"hemble/core/machine"
)

// The USARTs in their asynchronous modes (datasheet 20).
const (
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
)

// usartLayout is where a USART's registers, interrupts and pins are.
type usartLayout struct {
	name                  string // USART0
	base                  uint16 // UCSRnA; UCSRnB, UCSRnC, UBRRnL, UBRRnH and UDRn come behind it
	received, empty, sent uint   // vectors
	receive, transmit     pinAt
}

// number is that in the names of registers.
func (l *usartLayout) number() string {
	if n := strings.TrimPrefix(l.name, "USART"); n != "" {
		return n
	}
	return "0"
}

func (l *usartLayout) ucsra() uint16 { return l.base }
func (l *usartLayout) ucsrb() uint16 { return l.base + 1 }
func (l *usartLayout) ucsrc() uint16 { return l.base + 2 }
func (l *usartLayout) ubrrl() uint16 { return l.base + 4 }
func (l *usartLayout) ubrrh() uint16 { return l.base + 5 }
func (l *usartLayout) udr() uint16   { return l.base + 6 }

// received is one entry of the receive buffer, with the flags that belong to it.
type received struct {
	data  uint16
	flags uint8
}

// usart is the state of transmitter and receiver.
type usart struct {
	l        *usartLayout
	index    int
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
	highRead int64 // the cycle at which UBRRH was read last, where UCSRC is at the same address
}

func (v *Variant) defineUSARTs() {
	for i := range v.usarts {
		l, n := &v.usarts[i], v.usarts[i].number()
		v.acknowledged[l.sent] = func(m *Machine) { m.usarts[i].acknowledgeSent(m) }
		v.define(l.ucsra(), "UCSR"+n+"A", func(m *Machine, address uint16) uint8 {
			v := m.io[address]
			if u := &m.usarts[i]; u.filled > 0 {
				v |= bitRXC | u.fifo[0].flags
			}
			return v
		}, func(m *Machine, address uint16, v uint8) {
			m.io[address] = m.io[address]&^(bitTXC&v|bitU2X|1) | v&(bitU2X|1)
			m.usarts[i].requests(m)
		})
		v.define(l.ucsrb(), "UCSR"+n+"B", func(m *Machine, address uint16) uint8 {
			v := m.io[address] &^ 2
			if u := &m.usarts[i]; u.filled > 0 {
				v |= uint8(u.fifo[0].data >> 8 << 1)
			}
			return v
		}, func(m *Machine, address uint16, v uint8) {
			m.io[address] = v
			m.usarts[i].enable(m, v&(bitRXEN|bitTXEN))
			m.usarts[i].requests(m)
		})
		v.define(l.ucsrc(), "UCSR"+n+"C", nil, func(m *Machine, address uint16, v uint8) {
			m.io[address] = v
			if v&0xc0 != 0 {
				m.note("unmodelled UCSR"+n+"C",
					"the synchronous and SPI modes of the USART (UCSR%sC.UMSEL) are not modelled; it works asynchronously", n)
			}
		})
		v.define(l.ubrrl(), "UBRR"+n+"L", nil, nil)
		v.define(l.ubrrh(), "UBRR"+n+"H", nil, func(m *Machine, address uint16, v uint8) { m.io[address] = v & 15 })
		v.define(l.udr(), "UDR"+n, func(m *Machine, _ uint16) uint8 {
			u := &m.usarts[i]
			v := u.fifo[0].data
			if u.filled > 0 {
				u.filled--
				u.fifo[0] = u.fifo[1]
				u.requests(m)
			}
			return uint8(v)
		}, func(m *Machine, _ uint16, v uint8) { m.usarts[i].put(m, v) })
	}
}

// reset leaves the initial values that are not zero.
func (u *usart) reset(m *Machine, i int) {
	*u = usart{l: &m.v.usarts[i], index: i}
	m.io[u.l.ucsra()], m.io[u.l.ucsrc()] = bitUDRE, 0x06
}

func (u *usart) receiving() bool       { return u.enabled&bitRXEN != 0 }
func (u *usart) wakes(m *Machine) bool { return u.receiving() && m.io[u.l.ucsrb()]&0x80 != 0 }
func (u *usart) bit(m *Machine) int64 {
	divisor := int64(m.io[u.l.ubrrl()]) | int64(m.io[u.l.ubrrh()])<<8
	if m.io[u.l.ucsra()]&bitU2X != 0 {
		return 8 * (divisor + 1)
	}
	return 16 * (divisor + 1)
}

// dataBits is the number of data bits of a frame, 5 to 9 (table 20-11).
func (u *usart) dataBits(m *Machine) int {
	n := int(m.io[u.l.ucsrc()] >> 1 & 3)
	if m.io[u.l.ucsrb()]&bitUCSZ2 != 0 {
		return 9
	}
	return 5 + n
}

// parity is the parity bit of a value, and whether frames have one.
func (u *usart) parity(m *Machine, v uint16) (uint16, bool) {
	mode := m.io[u.l.ucsrc()] >> 4 & 3
	odd := uint16(bits.OnesCount16(v) & 1)
	return odd ^ uint16(mode&1), mode >= 2
}

// enable applies RXEN and TXEN: the transmitter owns TXDn, the receiver RXDn.
func (u *usart) enable(m *Machine, enabled uint8) {
	if enabled == u.enabled {
		return
	}
	u.enabled = enabled
	if enabled&bitRXEN == 0 {
		u.filled, u.sampling = 0, false
		m.setDue(m.v.slots.receive+u.index, never)
	}
	m.sense()
	u.line(m, m.cycle)
}

// line puts the transmitter's bit on its pin.
func (u *usart) line(m *Machine, cycle int64) {
	p, pin := &m.ports[u.l.transmit.port], u.l.transmit.mask
	in := &m.ports[u.l.receive.port]
	p.override &^= pin
	p.direction &^= pin
	in.inputs &^= u.l.receive.mask
	if u.enabled&bitRXEN != 0 {
		in.inputs |= u.l.receive.mask
	}
	if u.enabled&bitTXEN != 0 || u.sending {
		p.override |= pin
		p.direction |= pin
		p.forced |= pin
		if u.sending && u.frame&1 == 0 {
			p.forced &^= pin
		}
	}
	m.updatePort(u.l.transmit.port, cycle)
	if u.l.receive.port != u.l.transmit.port {
		m.updatePort(u.l.receive.port, cycle)
	}
}

// put is a write of UDRn.
func (u *usart) put(m *Machine, v uint8) {
	switch {
	case u.enabled&bitTXEN == 0:
		m.note("serial-lost", "UDR%s was written while the transmitter is off: TXEN is 0, and nothing is sent", u.l.number())
		return
	case m.io[u.l.ucsra()]&bitUDRE == 0: // a full buffer ignores it (20.6.3)
		m.note("serial-lost", "UDR%s was written before its buffer was free, and what was written is lost: UDRE says when it is",
			u.l.number())
		return
	}
	u.buffer, u.waiting = uint16(v)|uint16(m.io[u.l.ucsrb()]&1)<<8, true
	m.io[u.l.ucsra()] &^= bitUDRE
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
	stops := 1 + int(m.io[u.l.ucsrc()]>>3&1)
	u.frame |= (1<<stops - 1) << u.left
	u.left += stops
	u.sending, u.waiting = true, false
	m.io[u.l.ucsra()] |= bitUDRE
	u.line(m, cycle)
	u.scheduleSend(m, cycle)
}

// scheduleSend announces the next edge, or only the end of the frame when nobody watches the pin.
func (u *usart) scheduleSend(m *Machine, cycle int64) {
	n := 1
	if m.ports[u.l.transmit.port].watched&u.l.transmit.mask == 0 {
		n = u.left
	}
	m.setDue(m.v.slots.send+u.index, cycle+int64(n)*u.bit(m))
}

// sendNext ends a bit, and with the last one the frame.
func (u *usart) sendNext(m *Machine, cycle int64) {
	u.frame >>= 1
	if u.left--; u.left > 0 && m.ports[u.l.transmit.port].watched&u.l.transmit.mask != 0 {
		u.line(m, cycle)
		u.scheduleSend(m, cycle)
		return
	}
	u.sending = false
	m.setDue(m.v.slots.send+u.index, never)
	if m.config.Bytes != nil {
		m.config.Bytes(machine.Byte{At: m.now.at(cycle), Port: u.l.name, Value: u.value})
	}
	if u.waiting {
		u.start(m, cycle)
	} else {
		m.io[u.l.ucsra()] |= bitTXC
		u.line(m, cycle)
	}
	u.requests(m)
}

// lineEdge is an edge at RXDn; a falling one on an idle line is a start bit.
func (u *usart) lineEdge(m *Machine, high bool, cycle int64) {
	if high || u.sampling || u.enabled&bitRXEN == 0 {
		return
	}
	u.sampling, u.taken, u.incoming = true, 0, 0
	m.setDue(m.v.slots.receive+u.index, cycle+u.bit(m)/2)
}

// sample takes the level in the middle of a bit. With the first stop bit the frame is in.
func (u *usart) sample(m *Machine, cycle int64) {
	p := &m.ports[u.l.receive.port]
	high := (p.high|p.float)&u.l.receive.mask != 0
	if u.taken == 0 && high { // no start bit after all
		u.sampling = false
		m.setDue(m.v.slots.receive+u.index, never)
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
		m.setDue(m.v.slots.receive+u.index, cycle+u.bit(m))
		return
	}
	u.sampling = false
	m.setDue(m.v.slots.receive+u.index, never)
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
	a, b := m.io[u.l.ucsra()], m.io[u.l.ucsrb()]
	m.raise(u.l.received, b&0x80 != 0 && u.filled > 0)
	m.raise(u.l.empty, b&0x20 != 0 && a&bitUDRE != 0 && b&bitTXEN != 0)
	m.raise(u.l.sent, b&0x40 != 0 && a&bitTXC != 0)
}

func (u *usart) acknowledgeSent(m *Machine) {
	m.io[u.l.ucsra()] &^= bitTXC
	u.requests(m)
}
