package armm

// Registers of the system control space (B3.2).
const (
	regCSR   = 0xe000e010
	regRVR   = 0xe000e014
	regCVR   = 0xe000e018
	regCALIB = 0xe000e01c
	regISER  = 0xe000e100
	regICER  = 0xe000e180
	regISPR  = 0xe000e200
	regICPR  = 0xe000e280
	regIPR   = 0xe000e400
	regCPUID = 0xe000ed00
	regICSR  = 0xe000ed04
	regVTOR  = 0xe000ed08
	regAIRCR = 0xe000ed0c
	regSCR   = 0xe000ed10
	regCCR   = 0xe000ed14
	regSHPR2 = 0xe000ed1c
	regSHPR3 = 0xe000ed20
	regSHCSR = 0xe000ed24
	cpuID    = 0x410cc601 // Cortex-M0+ r0p1
)

// loadSystem reads a register of the core's own. Bytes and halves of them are not defined (B3.2.1).
func (c *Core) loadSystem(address uint32, size int) (uint32, bool) {
	n := &c.nvic
	if size != 4 {
		return 0, false
	}
	switch address {
	case regCSR:
		v := c.tick.control
		if c.tick.flag(c.Cycle) {
			v |= 1 << 16
			c.tick.flagged = c.tick.zeros(c.Cycle)
		}
		return v, true
	case regRVR:
		return c.tick.reload, true
	case regCVR:
		return c.tick.value(c.Cycle), true
	case regISER, regICER:
		return uint32(n.enabled >> excIRQ), true
	case regISPR, regICPR:
		return uint32(n.pending >> excIRQ), true
	case regCPUID:
		return cpuID, true
	case regICSR:
		v := c.handling | uint32(c.urgent(false))<<12
		if n.pending>>excIRQ != 0 {
			v |= 1 << 22
		}
		return v | uint32(n.pending>>excSysTick&1)<<26 | uint32(n.pending>>excPendSV&1)<<28, true
	case regVTOR:
		return c.vectors, true
	case regAIRCR:
		return 0xfa05_0000, true
	case regSCR:
		return c.sleeping, true
	case regCCR:
		return 1<<9 | 1<<3, true // stack alignment, and unaligned accesses fault
	case regSHPR2:
		return uint32(n.priority[excSVC]) << 24, true
	case regSHPR3:
		return uint32(n.priority[excPendSV])<<16 | uint32(n.priority[excSysTick])<<24, true
	case regCALIB, regSHCSR:
		return 0, true
	}
	if i := address - regIPR; address >= regIPR && i < 32 {
		v := uint32(0)
		for k := range uint32(4) {
			v |= uint32(n.priority[excIRQ+i+k]) << (8 * k)
		}
		return v, true
	}
	return 0, address >= regCSR
}

func (c *Core) storeSystem(address uint32, size int, v uint32) bool {
	n := &c.nvic
	if size != 4 {
		return false
	}
	irqs := uint64(v) << excIRQ
	switch address {
	case regCSR:
		c.tick.set(c.Cycle)
		c.tick.control = v & 7
		c.tick.schedule(c)
	case regRVR:
		c.tick.set(c.Cycle)
		c.tick.reload = v & 0xff_ffff
		c.tick.schedule(c)
	case regCVR:
		c.tick.set(c.Cycle)
		c.tick.current = 0
		c.tick.schedule(c)
	case regISER:
		n.enabled |= irqs
	case regICER:
		n.enabled &^= irqs
	case regISPR:
		n.pending |= irqs
	case regICPR:
		n.pending &^= irqs &^ (n.lines &^ n.active)
	case regICSR:
		n.pending |= uint64(v>>28&1)<<excPendSV | uint64(v>>26&1)<<excSysTick | uint64(v>>31)<<excNMI
		n.pending &^= uint64(v>>27&1)<<excPendSV | uint64(v>>25&1)<<excSysTick
	case regVTOR:
		if c.variant.Vectors {
			c.vectors = v &^ 0xff
		}
	case regAIRCR:
		c.Restart = c.Restart || v>>16 == 0x05fa && v&4 != 0
	case regSCR:
		c.sleeping = v & 0x16
	case regSHPR2:
		n.priority[excSVC] = uint8(v>>24) & 0xc0
	case regSHPR3:
		n.priority[excPendSV], n.priority[excSysTick] = uint8(v>>16)&0xc0, uint8(v>>24)&0xc0
	default:
		if i := address - regIPR; address >= regIPR && i < 32 {
			for k := range uint32(4) {
				n.priority[excIRQ+i+k] = uint8(v>>(8*k)) & 0xc0
			}
		}
	}
	c.attend()
	return address >= regCSR
}

// sysTick is the SysTick timer (B3.3). It counts down with the core's clock: current is what it had at the cycle
// since.
type sysTick struct {
	control, reload, current uint32
	since                    int64
	flagged                  int64 // how often it had come to zero when that was last told ...
	pended                   int64 // ... and when it last requested the exception
	Due                      int64
}

func (t *sysTick) reset(cycle int64) { *t = sysTick{since: cycle, Due: Never} }

func (t *sysTick) runs() bool { return t.control&1 == 1 && t.reload > 0 }

func (t *sysTick) value(cycle int64) uint32 {
	e := cycle - t.since
	switch {
	case !t.runs():
		return t.current
	case e <= int64(t.current):
		return t.current - uint32(e)
	}
	return t.reload - uint32((e-int64(t.current)-1)%(int64(t.reload)+1))
}

// zeros is how often it has counted down to zero since it was set.
func (t *sysTick) zeros(cycle int64) int64 {
	e := cycle - t.since - int64(t.current)
	if !t.runs() || e < 0 {
		return 0
	}
	n := e / (int64(t.reload) + 1)
	if t.current > 0 {
		n++
	}
	return n
}

func (t *sysTick) flag(cycle int64) bool { return t.zeros(cycle) > t.flagged }

// nextZero is the cycle at which it comes to zero next.
func (t *sysTick) nextZero(cycle int64) int64 {
	if !t.runs() {
		return Never
	}
	n := t.zeros(cycle)
	if t.current == 0 {
		n++
	}
	return t.since + int64(t.current) + n*(int64(t.reload)+1)
}

// set begins anew at a cycle.
func (t *sysTick) set(cycle int64) {
	t.current = t.value(cycle)
	t.since, t.flagged, t.pended = cycle, 0, 0
}

func (t *sysTick) schedule(c *Core) {
	t.Due = Never
	if t.runs() && t.control&2 != 0 {
		t.Due = t.nextZero(c.Cycle)
	}
}

// expire requests the exception where it has come to zero.
func (t *sysTick) expire(c *Core) {
	if t.Due > c.Cycle {
		return
	}
	c.nvic.pending |= 1 << excSysTick
	t.schedule(c)
}

// NextTick is the cycle at which SysTick requests its exception.
func (c *Core) NextTick() int64 { return c.tick.Due }
