package armm

import "math/bits"

// Numbers of exceptions (table B1-2). Interrupts of the chip come behind.
const (
	excNMI     = 2
	excFault   = 3
	excSVC     = 11
	excPendSV  = 14
	excSysTick = 15
	excIRQ     = 16
)

// nvic is the interrupt controller with the system's own exceptions: a bit for each by its number.
type nvic struct {
	pending, enabled, active uint64
	lines                    uint64 // what peripherals request now
	priority                 [48]uint8
}

func (n *nvic) reset() { *n = nvic{enabled: 1<<excNMI | 1<<excSVC | 1<<excPendSV | 1<<excSysTick} }

// level is the priority of an exception: less is more urgent.
func (n *nvic) level(exception int) int {
	switch exception {
	case excNMI:
		return -2
	case excFault:
		return -1
	}
	return int(n.priority[exception])
}

// Request is the line of an interrupt, from the chip's peripherals.
func (c *Core) Request(irq int, on bool) {
	bit := uint64(1) << (excIRQ + irq)
	n := &c.nvic
	if !on {
		n.lines &^= bit
		return
	}
	if n.lines&bit == 0 && n.active&bit == 0 {
		n.pending |= bit
	}
	n.lines |= bit
	c.attend()
}

// Signal sets the event register, as SEV does on a core.
func (c *Core) Signal() {
	c.event = true
	c.attend()
}

// attend has the core look up before the next instruction.
func (c *Core) attend() { c.Deadline = min(c.Deadline, c.Cycle) }

// urgent is the exception that would be taken now, 0 for none; ignoring PRIMASK on request.
func (c *Core) urgent(masked bool) int {
	n := &c.nvic
	ready := n.pending & n.enabled
	if ready == 0 {
		return 0
	}
	now, best := c.level(masked), 0
	for rest := ready; rest != 0; rest &= rest - 1 {
		if e := bits.TrailingZeros64(rest); n.level(e) < now {
			best, now = e, n.level(e)
		}
	}
	return best
}

// level is the priority of what is under way; less is more urgent.
func (c *Core) level(masked bool) int {
	now := 256
	for rest := c.nvic.active; rest != 0; rest &= rest - 1 {
		now = min(now, c.nvic.level(bits.TrailingZeros64(rest)))
	}
	if masked && c.primask {
		now = min(now, 0)
	}
	return now
}

// Attend takes the most urgent exception, wakes a core that sleeps, and reports whether it goes on.
func (c *Core) Attend() bool {
	c.tick.expire(c)
	wakes := c.urgent(false) != 0 || c.Asleep == ForEvent && c.event ||
		c.Asleep == ForEvent && c.sleeping>>4&1 == 1 && c.nvic.pending != 0
	if c.Asleep != Awake && !wakes {
		return false
	}
	if c.Asleep == ForEvent {
		c.event = false
	}
	c.Asleep = Awake
	if e := c.urgent(true); e != 0 {
		c.enter(e)
	}
	return c.Stop.Reason == ""
}

// enter is exception entry (B1.5.6): eight words on the stack, aligned to eight bytes, and the vector's address.
func (c *Core) enter(exception int) {
	c.nvic.pending &^= 1 << exception
	aligned := c.R[13] & 4
	sp := (c.R[13] - 32) &^ 4
	psr := c.psr()&^(1<<9) | aligned<<7
	for i, v := range []uint32{c.R[0], c.R[1], c.R[2], c.R[3], c.R[12], c.R[14], c.R[15], psr} {
		c.store(sp+uint32(4*i), 4, v)
	}
	c.R[13] = sp
	switch {
	case c.handling != 0:
		c.R[14] = 0xffff_fff1
	case c.process:
		c.R[14] = 0xffff_fffd
	default:
		c.R[14] = 0xffff_fff9
	}
	c.useStack(false)
	c.handle(exception)
	c.Cycle += c.variant.Enter
}

// handle begins an exception's handler.
func (c *Core) handle(exception int) {
	c.handling = uint32(exception)
	c.nvic.active |= 1 << exception
	pc, ok := c.read(c.vectors+4*uint32(exception), 4)
	if !ok || pc&1 == 0 {
		c.fault("the vector of exception %d, at 0x%08X, is no address of Thumb code", exception,
			c.vectors+4*uint32(exception))
		return
	}
	c.R[15] = pc &^ 1
	c.event = true // an exception is an event (B1.5.18)
	c.Counters.Instructions++
}

// leave is exception return (B1.5.8).
func (c *Core) leave(how uint32) {
	e := c.handling
	if how != 0xffff_fff1 && how != 0xffff_fff9 && how != 0xffff_fffd {
		c.fault("an exception returned by 0x%08X, which is no way to return", how)
		return
	}
	c.nvic.active &^= 1 << e
	if c.nvic.lines>>e&1 == 1 { // still requested
		c.nvic.pending |= 1 << e
	}
	if next := c.urgent(true); next != 0 { // it follows at once: nothing is unstacked in between
		c.nvic.pending &^= 1 << next
		c.R[14] = how
		c.handle(next)
		c.Cycle += c.variant.Chain
		return
	}
	c.useStack(how == 0xffff_fffd)
	sp := c.R[13]
	var frame [8]uint32
	for i := range frame {
		frame[i] = c.load(sp+uint32(4*i), 4)
	}
	if c.Stop.Reason != "" {
		return
	}
	c.R[0], c.R[1], c.R[2], c.R[3], c.R[12], c.R[14] = frame[0], frame[1], frame[2], frame[3], frame[4], frame[5]
	c.R[15] = frame[6] &^ 1
	c.R[13] = sp + 32 | frame[7]>>9&1<<2
	c.setFlags(frame[7])
	c.handling = frame[7] & 0x3f
	if (how == 0xffff_fff1) != (c.handling != 0) {
		c.fault("an exception returned to where it did not come from")
	}
	c.Cycle += c.variant.Leave
	c.event = true // an exception return is an event
	c.attend()
}
