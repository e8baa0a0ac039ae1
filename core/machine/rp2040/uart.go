package rp2040

import "hemble/core/machine"

// uart is one of the two (4.2, a PL011): its registers, what it sends and what it receives.
type uart struct {
	index         int
	whole, part   uint32 // IBRD, FBRD
	format        uint32 // LCR_H
	control       uint32 // CR
	levels        uint32 // IFLS
	mask, raw     uint32
	dma           uint32 // DMACR
	send, receive []byte
	frame, left   uint32 // the bits under way, the next one lowest, and how many
	began         int64
	getting       int    // the bit of a frame that is sampled next, from 1 on; 0 for none
	got           uint32 // the pin, and above it the bits so far
	gotAt         int64
	sending       uint32 // the byte under way
}

// Bits of UARTRIS (4.2.8).
const (
	intReceive = 1 << 4
	intSend    = 1 << 5
	intTimeout = 1 << 6
)

const fifo = 32

func newUART(index int) uart { return uart{index: index, levels: 0x12, control: 0x300} }

func (u *uart) restart(m *Machine) {
	*u = newUART(u.index)
	m.setDue(dueSend+u.index, never)
	m.setDue(dueReceive+u.index, never)
	m.core.Request(20+u.index, false)
}

// bit is how long a bit takes, in 64ths of a cycle: 0 where the UART has no rate.
func (u *uart) bit(m *Machine) int64 {
	peri := m.rateOf(clkPeri)
	if peri == 0 || u.whole == 0 {
		return 0
	}
	return int64(16*(64*u.whole+u.part)) * int64(m.now.Rate) / int64(peri)
}

func (u *uart) depth() int {
	if u.format>>4&1 == 1 {
		return fifo
	}
	return 1
}

func (u *uart) bits() uint32 { return 5 + u.format>>5&3 }

// line is what the transmitter puts out: high between frames.
func (u *uart) line() bool { return u.left == 0 || u.frame&1 == 1 }

func (u *uart) read(m *Machine, offset uint32) uint32 {
	switch offset {
	case 0x00:
		if len(u.receive) == 0 {
			return 0
		}
		v := u.receive[0]
		u.receive = u.receive[1:]
		u.request(m)
		return uint32(v)
	case 0x18: // FR
		v := uint32(0)
		if u.left > 0 || len(u.send) > 0 {
			v |= 1 << 3
		}
		if len(u.receive) == 0 {
			v |= 1 << 4
		}
		if len(u.send) >= u.depth() {
			v |= 1 << 5
		}
		if len(u.receive) >= u.depth() {
			v |= 1 << 6
		}
		if len(u.send) == 0 {
			v |= 1 << 7
		}
		return v
	case 0x24:
		return u.whole
	case 0x28:
		return u.part
	case 0x2c:
		return u.format
	case 0x30:
		return u.control
	case 0x34:
		return u.levels
	case 0x38:
		return u.mask
	case 0x3c:
		return u.raw
	case 0x40:
		return u.raw & u.mask
	case 0x48:
		return u.dma
	case 0xfe0, 0xfe4, 0xfe8, 0xfec, 0xff0, 0xff4, 0xff8, 0xffc: // UARTPERIPHID, UARTPCELLID
		return []uint32{0x11, 0x10, 0x34, 0x00, 0x0d, 0xf0, 0x05, 0xb1}[offset>>2&7]
	}
	return 0
}

func (u *uart) write(m *Machine, offset, v uint32) {
	switch offset {
	case 0x00:
		if u.control&0x101 == 0x101 && len(u.send) < u.depth() {
			u.send = append(u.send, byte(v))
			if u.left == 0 {
				u.sendNext(m, m.core.Cycle)
			}
		}
	case 0x24:
		u.whole = v & 0xffff
	case 0x28:
		u.part = v & 0x3f
	case 0x2c:
		u.format = v & 0xff
	case 0x30:
		u.control = v & 0xffff
		m.updatePins(m.given[functionUART])
	case 0x34:
		u.levels = v & 0x3f
	case 0x38:
		u.mask = v & 0x7ff
	case 0x44:
		u.raw &^= v
	case 0x48:
		u.dma = v & 7
	}
	u.request(m)
}

// request brings the interrupt request in line with what there is to read and room to write.
func (u *uart) request(m *Machine) {
	u.raw &^= intReceive | intTimeout
	if len(u.receive) > 0 {
		u.raw |= intReceive | intTimeout
	}
	if len(u.send) < max(1, u.depth()/2) {
		u.raw |= intSend
	} else {
		u.raw &^= intSend
	}
	m.core.Request(20+u.index, u.raw&u.mask != 0)
}

// sendNext goes on with the next bit of a frame, or with the next frame. A byte is told at the end of its stop bit.
func (u *uart) sendNext(m *Machine, at int64) {
	bit := u.bit(m)
	if u.left > 0 {
		u.frame >>= 1
		if u.left--; u.left == 0 && m.config.Bytes != nil {
			m.tellWaves()
			m.config.Bytes(machine.Byte{At: m.now.At(at), Port: Chip.Serial[u.index].Name, Value: byte(u.sending)})
		}
	}
	if u.left == 0 && len(u.send) > 0 && bit > 0 {
		v := uint32(u.send[0])
		u.send = u.send[1:]
		u.sending = v
		data := v & (1<<u.bits() - 1)
		u.frame, u.left, u.began = data<<1, 1+u.bits(), at
		if u.format>>1&1 == 1 { // parity, even or odd
			p := uint32(0)
			for x := data; x != 0; x &= x - 1 {
				p ^= 1
			}
			u.frame |= (p ^ ^u.format>>2&1) << u.left
			u.left++
		}
		for range 1 + u.format>>3&1 {
			u.frame |= 1 << u.left
			u.left++
		}
	}
	if u.left == 0 {
		m.setDue(dueSend+u.index, never)
	} else {
		total := 1 + u.bits() + u.format>>1&1 + 1 + u.format>>3&1
		m.setDue(dueSend+u.index, u.began+bit*int64(total-u.left+1)/64)
	}
	u.request(m)
	m.updatePins(m.given[functionUART])
}

// received takes an edge at a pin: a start bit begins a frame.
func (u *uart) received(m *Machine, pin int, high bool) {
	if pin&3 != 1 || (pin+3)>>3&1 != u.index || m.pins[pin].ctrl&31 != functionUART || u.control&0x201 != 0x201 {
		return
	}
	if u.getting > 0 || high {
		return
	}
	if bit := u.bit(m); bit > 0 {
		u.getting, u.got, u.gotAt = 1, uint32(pin), m.core.Cycle
		m.setDue(dueReceive+u.index, u.gotAt+bit/128)
	}
}

// sample looks at the middle of a bit.
func (u *uart) sample(m *Machine, at int64) {
	pin := int(u.got & 0xff)
	n := uint32(u.getting - 1) // 0 is the start bit
	if n > 0 && n <= u.bits() && m.pins[pin].high {
		u.got |= 1 << (7 + n)
	}
	if n > u.bits() {
		if len(u.receive) < u.depth() {
			u.receive = append(u.receive, byte(u.got>>8))
		}
		u.getting = 0
		m.setDue(dueReceive+u.index, never)
		u.request(m)
		return
	}
	u.getting++
	m.setDue(dueReceive+u.index, u.gotAt+u.bit(m)*int64(2*n+3)/128)
}
