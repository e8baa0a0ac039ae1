package rp2040

import "math/bits"

// dma are the twelve channels (2.5). One that nothing paces moves a burst at a time; another moves one datum whenever
// what it waits for is ready.
type dma struct {
	channels   [channels]channel
	busy       uint32 // by channel
	raw        uint32 // INTR
	mask, now  [2]uint32
	rates      [4]uint32 // TIMER0 to 3: X, Y
	since      [4]int64  // when each was set
	ticks      [4]int64  // how many of it were taken
	wraps      [8]uint32 // of PWM slices, that wait to be taken
	last       int       // the channel that moved last
	sniff, sum uint32
}

const (
	channels = 12
	burst    = 16 // data of a channel that nothing paces, in as many cycles
)

// channel is one of them.
type channel struct {
	read, write  uint32
	count, again uint32 // what is left, and what it begins with
	ctrl         uint32
}

// Bits of CTRL_TRIG (2.5.7).
const (
	dmaEnable    = 1 << 0
	dmaPriority  = 1 << 1
	dmaReads     = 1 << 4 // INCR_READ
	dmaWrites    = 1 << 5 // INCR_WRITE
	dmaRingWrite = 1 << 10
	dmaQuiet     = 1 << 21
	dmaSwap      = 1 << 22
	dmaSniff     = 1 << 23
	dmaBusy      = 1 << 24
	dmaWriteFail = 1 << 29
	dmaReadFail  = 1 << 30
	dmaFail      = 1 << 31
	dmaWritable  = 1<<24 - 1
)

// Requests (2.5.3.1).
const (
	requestSPI   = 16
	requestUART  = 20
	requestPWM   = 24
	requestI2C   = 32
	requestADC   = 36
	requestTimer = 59
	requestNone  = 63
)

func (c *channel) request() uint32 { return c.ctrl >> 15 & 63 }

// newDMA has each channel chained to itself, which is to none.
func newDMA() (d dma) {
	for i := range d.channels {
		d.channels[i].ctrl = uint32(i) << 11
	}
	return d
}

// waitsFor reports whether some channel under way is paced by a request.
func (d *dma) waitsFor(request uint32) bool {
	for left := d.busy; left != 0; left &= left - 1 {
		if d.channels[bits.TrailingZeros32(left)].request() == request {
			return true
		}
	}
	return false
}

// ready reports whether a channel may move a datum.
func (m *Machine) ready(c *channel) bool {
	r := c.request()
	switch n := int(r & 3); {
	case r >= requestSPI && r < requestUART:
		s := &m.spis[n>>1]
		if n&1 == 0 {
			return s.dma>>1&1 == 1 && len(s.send) < spiDepth
		}
		return s.dma&1 == 1 && len(s.receive) > 0
	case r >= requestUART && r < requestPWM:
		u := &m.uarts[n>>1]
		if n&1 == 0 {
			return u.dma>>1&1 == 1 && len(u.send) < u.depth()
		}
		return u.dma&1 == 1 && len(u.receive) > 0
	case r >= requestPWM && r < requestI2C:
		return m.dma.wraps[r-requestPWM] > 0
	case r >= requestI2C && r < requestADC:
		x := &m.i2cs[n>>1]
		if n&1 == 0 {
			return x.dma>>1&1 == 1 && x.enabled && len(x.queue) <= int(x.sendDMA)
		}
		return x.dma&1 == 1 && len(x.received) > int(x.fullDMA)
	case r == requestADC:
		return m.adc.fcs>>3&1 == 1 && len(m.adc.fifo) > 0
	case r >= requestTimer && r < requestNone:
		return m.dma.tick(m.core.Cycle, int(r-requestTimer)) > 0
	}
	return r == requestNone
}

// tick is how many of a timer have come that nothing took: X of them in Y cycles.
func (d *dma) tick(cycle int64, n int) int64 {
	x, y := int64(d.rates[n]>>16), int64(d.rates[n]&0xffff)
	if x == 0 || y == 0 {
		return 0
	}
	return (cycle-d.since[n])*min(x, y)/y - d.ticks[n]
}

// pace announces when a channel can move something next, as far as that is known; for the rest what it waits for tells.
func (m *Machine) pace() {
	d := &m.dma
	due := never
	for left := d.busy; left != 0; left &= left - 1 {
		c := &d.channels[bits.TrailingZeros32(left)]
		if m.ready(c) {
			due = m.core.Cycle + 1
			break
		}
		if n := int(c.request()) - requestTimer; n >= 0 && n < 4 {
			if x, y := int64(d.rates[n]>>16), int64(d.rates[n]&0xffff); x > 0 && y > 0 {
				x = min(x, y)
				due = min(due, d.since[n]+((d.ticks[n]+1)*y+x-1)/x)
			}
		}
	}
	if due != m.due[dueDMA] {
		m.setDue(dueDMA, due)
	}
}

// move has the next channel that is ready, one of high priority before the others, move what it may.
func (m *Machine) move() {
	d := &m.dma
	next := -1
	for k := 1; k <= channels; k++ {
		i := (d.last + k) % channels
		c := &d.channels[i]
		if d.busy>>i&1 == 1 && m.ready(c) && (next < 0 || c.ctrl&dmaPriority != 0) {
			if next = i; c.ctrl&dmaPriority != 0 {
				break
			}
		}
	}
	m.setDue(dueDMA, never)
	if next >= 0 {
		d.last = next
		n := 1
		if d.channels[next].request() == requestNone {
			n = burst
		}
		for ; n > 0 && d.busy>>next&1 == 1; n-- {
			m.transfer(next)
		}
	}
}

// transfer moves a datum of a channel.
func (m *Machine) transfer(i int) {
	d := &m.dma
	c := &d.channels[i]
	size := 1 << min(2, c.ctrl>>2&3)
	v, ok := m.fetch(c.read&^uint32(size-1), size)
	if !ok {
		m.fail(i, dmaReadFail, "reads 0x%08X", c.read)
		return
	}
	if c.ctrl&dmaSwap != 0 {
		v = bits.ReverseBytes32(v) >> (32 - 8*size)
	}
	if c.ctrl&dmaSniff != 0 && d.sniff&1 == 1 && int(d.sniff>>1&15) == i {
		if d.sniff>>5&15 != 15 {
			m.note("unmodelled sums of DMA", "DMA computes a checksum other than a plain sum, which is not modelled")
		}
		d.sum += v
	}
	if !m.deliver(c.write&^uint32(size-1), size, v) {
		m.fail(i, dmaWriteFail, "writes 0x%08X", c.write)
		return
	}
	switch r := c.request(); {
	case r >= requestPWM && r < requestI2C:
		d.wraps[r-requestPWM]--
	case r >= requestTimer && r < requestNone:
		d.ticks[r-requestTimer]++
	}
	if c.ctrl&dmaReads != 0 {
		c.read = c.step(c.read, size, false)
	}
	if c.ctrl&dmaWrites != 0 {
		c.write = c.step(c.write, size, true)
	}
	if c.count--; c.count == 0 {
		m.complete(i)
	}
}

// step is the next address; in a ring, only its lower bits change.
func (c *channel) step(address uint32, size int, writes bool) uint32 {
	next := address + uint32(size)
	if ring := c.ctrl >> 6 & 15; ring > 0 && writes == (c.ctrl&dmaRingWrite != 0) {
		mask := uint32(1)<<ring - 1
		return address&^mask | next&mask
	}
	return next
}

// complete ends a channel's block, and begins another's where they are chained.
func (m *Machine) complete(i int) {
	d := &m.dma
	c := &d.channels[i]
	d.busy &^= 1 << i
	if c.ctrl&dmaQuiet == 0 {
		d.raw |= 1 << i
	}
	if to := int(c.ctrl >> 11 & 15); to != i && to < channels {
		m.trigger(to)
	}
	m.requestDMA()
}

func (m *Machine) fail(i int, bit uint32, format string, address uint32) {
	m.dma.busy &^= 1 << i
	m.dma.channels[i].ctrl |= bit | dmaFail
	m.note("dma-address", "a DMA channel "+format+", where it finds nothing: it stopped", address)
}

// trigger begins a channel's block. One of no data is over at once, and begins no other: two that are chained to each
// other would never end.
func (m *Machine) trigger(i int) {
	c := &m.dma.channels[i]
	if c.ctrl&dmaEnable == 0 || m.dma.busy>>i&1 == 1 {
		return
	}
	if c.count = c.again; c.count == 0 {
		if c.ctrl&dmaQuiet == 0 {
			m.dma.raw |= 1 << i
		}
		m.requestDMA()
		return
	}
	m.dma.busy |= 1 << i
	m.pwm.schedule(m) // a wrap may be waited for
}

// fetch and deliver are what DMA reaches: all but the single-cycle I/O and what is the core's own.
func (m *Machine) fetch(address uint32, size int) (uint32, bool) {
	switch i := address & 0x0fff_ffff; {
	case address>>28 == flashAt>>28 && uint64(i)+uint64(size) <= uint64(len(m.flash)):
		return little(m.flash[i:], size), true
	case address>>28 == ramAt>>28 && uint64(i)+uint64(size) <= uint64(len(m.ram)):
		return little(m.ram[i:], size), true
	case address>>28 >= 0xd:
		return 0, false
	}
	return m.Read(address, size)
}

func (m *Machine) deliver(address uint32, size int, v uint32) bool {
	i := address & 0x0fff_ffff
	switch {
	case address>>28 == ramAt>>28 && uint64(i)+uint64(size) <= uint64(len(m.ram)):
		for k := range size {
			m.ram[int(i)+k] = byte(v >> (8 * k))
		}
		return true
	case address>>28 >= 0xd, address>>28 < 4:
		return false
	}
	return m.Write(address, size, v)
}

func little(b []byte, size int) (v uint32) {
	for k := range size {
		v |= uint32(b[k]) << (8 * k)
	}
	return v
}

func (m *Machine) requestDMA() {
	d := &m.dma
	for k := range 2 {
		m.core.Request(11+k, d.raw&d.mask[k]|d.now[k] != 0)
	}
}

// The registers of a channel stand four times, in other orders; writing the last one of each row begins a block
// (2.5.2.1).
const (
	dmaRead = iota
	dmaWrite
	dmaCount
	dmaCtrl
)

var dmaRows = [4][4]int{{dmaRead, dmaWrite, dmaCount, dmaCtrl}, {dmaCtrl, dmaRead, dmaWrite, dmaCount},
	{dmaCtrl, dmaCount, dmaRead, dmaWrite}, {dmaCtrl, dmaWrite, dmaCount, dmaRead}}

func (m *Machine) readDMA(offset uint32) uint32 {
	d := &m.dma
	if i := offset >> 6; i < channels {
		c := &d.channels[i]
		switch dmaRows[offset>>4&3][offset>>2&3] {
		case dmaRead:
			return c.read
		case dmaWrite:
			return c.write
		case dmaCount:
			if d.busy>>i&1 == 1 {
				return c.count
			}
			return 0
		default:
			return c.ctrl&^dmaBusy | d.busy>>i&1*dmaBusy
		}
	}
	switch offset {
	case 0x400:
		return d.raw
	case 0x404, 0x414:
		return d.mask[offset>>4&1]
	case 0x408, 0x418:
		return d.now[offset>>4&1]
	case 0x40c, 0x41c:
		return d.raw&d.mask[offset>>4&1] | d.now[offset>>4&1]
	case 0x420, 0x424, 0x428, 0x42c:
		return d.rates[offset>>2&3]
	case 0x434:
		return d.sniff
	case 0x438:
		return d.sum
	case 0x448:
		return channels
	}
	return 0
}

func (m *Machine) writeDMA(offset, v uint32) {
	d := &m.dma
	if i := offset >> 6; i < channels {
		m.writeChannel(int(i), offset, v)
		m.requestDMA()
		return
	}
	switch offset {
	case 0x400:
		d.raw &^= v
	case 0x404, 0x414:
		d.mask[offset>>4&1] = v & (1<<channels - 1)
	case 0x408, 0x418:
		d.now[offset>>4&1] = v & (1<<channels - 1)
	case 0x40c, 0x41c:
		d.raw &^= v & d.mask[offset>>4&1]
	case 0x420, 0x424, 0x428, 0x42c:
		n := offset >> 2 & 3
		d.rates[n], d.since[n], d.ticks[n] = v, m.core.Cycle, 0
	case 0x430: // MULTI_CHAN_TRIGGER
		for left := v & (1<<channels - 1); left != 0; left &= left - 1 {
			m.trigger(bits.TrailingZeros32(left))
		}
	case 0x434:
		d.sniff = v
	case 0x438:
		d.sum = v
	case 0x444: // CHAN_ABORT
		d.busy &^= v
	}
	m.requestDMA()
}

func (m *Machine) writeChannel(i int, offset, v uint32) {
	c := &m.dma.channels[i]
	switch dmaRows[offset>>4&3][offset>>2&3] {
	case dmaRead:
		c.read = v
	case dmaWrite:
		c.write = v
	case dmaCount:
		c.again = v
	default:
		c.ctrl = c.ctrl&(dmaReadFail|dmaWriteFail)&^v | v&dmaWritable
		if c.ctrl&(dmaReadFail|dmaWriteFail) != 0 {
			c.ctrl |= dmaFail
		}
	}
	if offset>>2&3 != 3 {
		return
	}
	if v == 0 { // a null trigger, the end of a list of blocks (2.5.2.3)
		if c.ctrl&dmaQuiet != 0 {
			m.dma.raw |= 1 << i
		}
		return
	}
	m.trigger(i)
}
