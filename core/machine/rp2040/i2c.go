package rp2040

// i2c is one of the two (4.3, a DW_apb_i2c), as a master: a program puts commands into it, each a byte to write or the
// wish for one, and it makes them into levels of SDA and SCL.
type i2c struct {
	index            int
	con, tar         uint32
	counts           [4]uint32 // cycles that SCL is high and low: standard mode, fast mode
	mask             uint32
	sticky, aborted  uint32 // interrupts that stay; IC_TX_ABRT_SOURCE
	sendAt, fullAt   uint32 // TX_TL, RX_TL
	dma, sendDMA     uint32 // IC_DMA_CR, IC_DMA_TDLR
	fullDMA          uint32 // IC_DMA_RDLR
	enabled          bool
	queue            []uint32
	received         []byte
	sdaLow, sclLow   bool
	phase            phase
	command          uint32 // under way
	shift            uint32 // the byte, with the acknowledge as its ninth bit, the next one highest
	bit              int
	got              uint32
	address, reading bool // the byte is an address; bytes are read
}

// phase is what a line waits for.
type phase uint8

const (
	free      phase = iota // nothing is under way
	starting               // SDA went low while SCL is high
	low                    // SCL is low; SDA has the next bit
	high                   // SCL is high
	waiting                // SCL is held low until the program gives the next command
	stopLow                // SCL is low, SDA too
	stopHigh               // SCL is high
	againLow               // SCL is low, SDA is let go for another start
	againHigh              // both are high
	resting                // after a stop
)

// Bits of IC_DATA_CMD, IC_CON and IC_RAW_INTR_STAT (4.3.17).
const (
	commandRead  = 1 << 8
	commandStop  = 1 << 9
	commandStart = 1 << 10

	conSpeed      = 3 << 1
	conEmptyLate  = 1 << 8
	i2cFull       = 1 << 2
	i2cEmpty      = 1 << 4
	i2cAbort      = 1 << 6
	i2cActivity   = 1 << 8
	i2cStop       = 1 << 9
	i2cStart      = 1 << 10
	noAddress     = 1 << 0 // IC_TX_ABRT_SOURCE
	noAcknowledge = 1 << 3

	i2cFIFO = 16
	i2cAt   = 0x4004_4000 // where I2C0 is; I2C1 is behind it
)

func (x *i2c) reset(m *Machine) {
	*x = i2c{index: x.index, con: 0x65, tar: 0x55, counts: [4]uint32{0x28, 0x2f, 6, 0xd}, mask: 0x8ff}
	m.setDue(dueI2C+x.index, never)
	m.core.Request(23+x.index, false)
}

// line finds the pin that has SDA (0) or SCL (1), -1 where none has.
func (x *i2c) line(m *Machine, which int) int {
	for g := m.given[functionI2C]; g != 0; g &= g - 1 {
		if i := lowest(g); i&1 == which && i>>1&1 == x.index {
			return i
		}
	}
	return -1
}

func (x *i2c) isHigh(m *Machine, which int) bool {
	i := x.line(m, which)
	return i >= 0 && m.pins[i].high
}

// raw is IC_RAW_INTR_STAT.
func (x *i2c) raw() uint32 {
	v := x.sticky
	if len(x.received) > int(x.fullAt) {
		v |= i2cFull
	}
	if x.enabled && len(x.queue) <= int(x.sendAt) &&
		(x.con&conEmptyLate == 0 || x.phase == free || x.phase == waiting || x.phase >= stopLow) {
		v |= i2cEmpty
	}
	return v
}

func (x *i2c) read(m *Machine, offset uint32) uint32 {
	clears := func(bits uint32) uint32 {
		x.sticky &^= bits
		x.request(m)
		return 0
	}
	switch offset {
	case 0x00:
		return x.con
	case 0x04:
		return x.tar
	case 0x10:
		if len(x.received) == 0 {
			return 0
		}
		v := x.received[0]
		x.received = x.received[1:]
		x.request(m)
		return uint32(v)
	case 0x14, 0x18, 0x1c, 0x20:
		return x.counts[(offset-0x14)/4]
	case 0x2c:
		return x.raw() & x.mask
	case 0x30:
		return x.mask
	case 0x34:
		return x.raw()
	case 0x38:
		return x.fullAt
	case 0x3c:
		return x.sendAt
	case 0x40:
		x.aborted = 0
		return clears(0xfff)
	case 0x54:
		x.aborted = 0
		return clears(i2cAbort)
	case 0x5c:
		return clears(i2cActivity)
	case 0x60:
		return clears(i2cStop)
	case 0x64:
		return clears(i2cStart)
	case 0x6c, 0x9c:
		if x.enabled {
			return 1
		}
	case 0x70: // IC_STATUS
		v := uint32(0)
		if x.phase != free || len(x.queue) > 0 {
			v |= 1<<0 | 1<<5
		}
		if len(x.queue) < i2cFIFO {
			v |= 1 << 1
		}
		if len(x.queue) == 0 {
			v |= 1 << 2
		}
		if len(x.received) > 0 {
			v |= 1 << 3
		}
		return v
	case 0x74:
		return uint32(len(x.queue))
	case 0x78:
		return uint32(len(x.received))
	case 0x80:
		return x.aborted
	case 0x88:
		return x.dma
	case 0x8c:
		return x.sendDMA
	case 0x90:
		return x.fullDMA
	default:
		return m.plain[i2cAt+0x4000*uint32(x.index)+offset]
	}
	return 0
}

func (x *i2c) write(m *Machine, offset, v uint32) {
	switch offset {
	case 0x00:
		x.con = v & 0x3ff
	case 0x04:
		x.tar = v & 0xfff
	case 0x10:
		if x.enabled && x.sticky&i2cAbort == 0 && len(x.queue) < i2cFIFO {
			x.queue = append(x.queue, v&0x7ff)
			switch x.phase {
			case free:
				x.begin(m, m.core.Cycle)
			case waiting:
				x.next(m, m.core.Cycle)
			}
		}
	case 0x14, 0x18, 0x1c, 0x20:
		x.counts[(offset-0x14)/4] = v & 0xffff
	case 0x30:
		x.mask = v & 0x1fff
	case 0x38:
		x.fullAt = min(v&0xff, i2cFIFO)
	case 0x3c:
		x.sendAt = min(v&0xff, i2cFIFO)
	case 0x88:
		x.dma = v & 3
	case 0x8c:
		x.sendDMA = v & 15
	case 0x90:
		x.fullDMA = v & 15
	case 0x08, 0x7c, 0x94, 0x98, 0xa0:
		m.plain[i2cAt+0x4000*uint32(x.index)+offset] = v
	case 0x6c:
		if x.enabled = v&1 == 1; !x.enabled {
			x.queue, x.received = nil, nil
			x.sdaLow, x.sclLow, x.phase = false, false, free
			m.setDue(dueI2C+x.index, never)
			m.updatePins(m.given[functionI2C])
		}
	}
	x.request(m)
}

func (x *i2c) request(m *Machine) { m.core.Request(23+x.index, x.raw()&x.mask != 0) }

// wait goes on after the time that SCL is high (0) or low (1).
func (x *i2c) wait(m *Machine, at int64, p phase, which int) {
	n := x.counts[which]
	if x.con&conSpeed == 2<<1 {
		n = x.counts[2+which]
	}
	x.phase = p
	m.setDue(dueI2C+x.index, at+int64(max(n, 6))+1)
	m.updatePins(m.given[functionI2C])
	x.request(m)
}

// begin makes a start.
func (x *i2c) begin(m *Machine, at int64) {
	if x.line(m, 0) < 0 || x.line(m, 1) < 0 {
		m.note("i2c-lines", "I2C%d is used, but no pins are given to its SDA and SCL", x.index)
	} else if !x.isHigh(m, 0) || !x.isHigh(m, 1) {
		m.note("i2c-lines", "the lines of I2C%d are low before anything is sent: are the pull-ups missing?", x.index)
	}
	x.sticky |= i2cStart | i2cActivity
	x.sdaLow, x.sclLow = true, false
	x.wait(m, at, starting, 0)
}

// holdClock has SCL low before SDA may change.
func (x *i2c) holdClock(m *Machine) {
	x.sclLow = true
	m.updatePins(m.given[functionI2C])
}

// send begins a byte: SCL is low, and SDA takes its first bit.
func (x *i2c) send(m *Machine, at int64, byteAndAck uint32) {
	x.shift, x.bit, x.got = byteAndAck, 0, 0
	x.holdClock(m)
	x.sdaLow = x.shift>>8&1 == 0
	x.wait(m, at, low, 1)
}

// next takes the next command, or holds the bus until there is one.
func (x *i2c) next(m *Machine, at int64) {
	if len(x.queue) == 0 {
		x.phase = waiting
		m.setDue(dueI2C+x.index, never)
		x.request(m)
		return
	}
	wants := x.queue[0]&commandRead != 0
	if !x.address && (x.queue[0]&commandStart != 0 || wants != x.reading) {
		x.sdaLow = false
		x.wait(m, at, againLow, 1)
		return
	}
	x.command, x.queue, x.address = x.queue[0], x.queue[1:], false
	if !wants {
		x.send(m, at, x.command<<1&0x1fe|1)
		return
	}
	ack := uint32(0) // it wants more
	if x.command&commandStop != 0 || len(x.queue) > 0 && x.queue[0]&(commandStart|commandRead) != commandRead {
		ack = 1
	}
	x.send(m, at, 0x1fe|ack)
}

// step goes on where a time has gone by.
func (x *i2c) step(m *Machine, at int64) {
	switch x.phase {
	case starting:
		x.reading = x.queue[0]&commandRead != 0
		x.address = true
		direction := uint32(0)
		if x.reading {
			direction = 1
		}
		x.send(m, at, (x.tar&0x7f<<1|direction)<<1|1)
	case low:
		x.sclLow = false
		x.wait(m, at, high, 0)
	case high:
		if !x.isHigh(m, 1) && x.line(m, 1) >= 0 { // a device holds the clock
			x.wait(m, at, high, 0)
			return
		}
		x.got <<= 1
		if x.isHigh(m, 0) {
			x.got |= 1
		}
		x.holdClock(m)
		if x.bit++; x.bit < 9 {
			x.sdaLow = x.shift>>(8-x.bit)&1 == 0
			x.wait(m, at, low, 1)
			return
		}
		x.done(m, at)
	case stopLow:
		x.sclLow = false
		x.wait(m, at, stopHigh, 0)
	case stopHigh:
		x.sdaLow = false
		x.sticky |= i2cStop
		x.wait(m, at, resting, 1)
	case againLow:
		x.sclLow = false
		x.wait(m, at, againHigh, 0)
	case againHigh:
		x.sdaLow = true
		x.sticky |= i2cStart
		x.wait(m, at, starting, 0)
	case resting:
		x.phase = free
		m.setDue(dueI2C+x.index, never)
		if len(x.queue) > 0 {
			x.begin(m, at)
		}
		x.request(m)
	}
}

// done ends a byte with its acknowledge.
func (x *i2c) done(m *Machine, at int64) {
	refused := x.got&1 == 1
	switch {
	case x.address && refused:
		x.abort(m, at, noAddress)
	case x.address:
		x.next(m, at)
	case !x.reading && refused:
		x.abort(m, at, noAcknowledge)
	default:
		if x.reading && len(x.received) < i2cFIFO {
			x.received = append(x.received, byte(x.got>>1))
		}
		if x.command&commandStop != 0 {
			x.sdaLow = true
			x.wait(m, at, stopLow, 1)
			return
		}
		x.next(m, at)
	}
}

// abort gives up what there is to send, and makes a stop.
func (x *i2c) abort(m *Machine, at int64, why uint32) {
	x.aborted |= why
	x.sticky |= i2cAbort
	x.queue = nil
	x.address = false
	x.sdaLow = true
	x.wait(m, at, stopLow, 1)
}
