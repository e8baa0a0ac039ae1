// Package armm is the ARMv6-M processor core: its instructions, exceptions, interrupt controller and SysTick timer, by
// the ARMv6-M Architecture Reference Manual (ARM DDI 0419E), with the cycles of a Cortex-M0+ or a Cortex-M0. Memories
// and peripherals are the chip's, which has a folder of its own.
package armm

import (
	"fmt"
	"math"

	"hemble/core/machine"
)

// Never is a cycle that does not come.
const Never = int64(math.MaxInt64)

// Bus is what lies behind addresses that are no plain memory. A size is 1, 2 or 4 bytes; the address is a multiple of
// it. ok is false where nothing answers.
type Bus interface {
	Read(address uint32, size int) (v uint32, ok bool)
	Write(address uint32, size int, v uint32) (ok bool)
	// Call carries out what a chip does by itself where the program comes to an address of its own memory. It reports
	// whether there is anything: the program goes on at the link register.
	Call(address uint32) bool
}

// Memory is plain memory of a chip, at a multiple of 2^28.
type Memory struct {
	Data     []byte
	Writable bool
	Wait     int64 // cycles that each access takes longer
}

// Core is the processor. R[15] is the address of the instruction at hand.
type Core struct {
	R          [16]uint32
	N, Z, C, V bool
	Cycle      int64 // of the instruction under way
	Deadline   int64 // the core looks up before the instruction that begins at it, or later
	Memories   [16]Memory
	Counters   machine.Counters
	Stop       machine.Stop
	Asleep     Sleep

	variant  Variant
	bus      Bus
	primask  bool
	psp      uint32 // the stack pointer that is not in use
	process  bool   // CONTROL.SPSEL: the process stack is in use
	handling uint32 // IPSR: the number of the exception that is handled, 0 for none
	event    bool
	nvic     nvic
	tick     sysTick
	vectors  uint32 // VTOR
	sleeping uint32 // SCR
	Restart  bool   // AIRCR.SYSRESETREQ
}

// Sleep says what a core waits for.
type Sleep uint8

// The kinds of sleep.
const (
	Awake    Sleep = iota
	ForIRQ         // WFI: an interrupt that would be taken but for PRIMASK
	ForEvent       // WFE: such an interrupt, or the event register
)

// New makes a core on a bus.
func New(v Variant, b Bus) *Core { return &Core{variant: v, bus: b} }

// Reset starts with the stack pointer and the address that a vector table has (B1.5.5).
func (c *Core) Reset(table uint32) {
	*c = Core{variant: c.variant, Memories: c.Memories, bus: c.bus, Cycle: c.Cycle, Counters: c.Counters,
		Deadline: c.Deadline}
	c.vectors = table
	c.nvic.reset()
	c.tick.reset(c.Cycle)
	c.R[14] = 0xffff_ffff
	sp, ok := c.read(table, 4)
	pc, also := c.read(table+4, 4)
	switch {
	case !ok || !also:
		c.fault("the vector table at 0x%08X cannot be read", table)
	case pc&1 == 0:
		c.fault("the reset vector, 0x%08X, is even: that is no Thumb code", pc)
	}
	c.R[13], c.R[15] = sp&^3, pc&^1
}

// fault ends the run: a HardFault (B1.5.6 and following).
func (c *Core) fault(format string, args ...any) {
	if c.Stop.Reason != "" {
		return
	}
	c.Stop = machine.Stop{Reason: machine.Fault, Text: "a HardFault: " + fmt.Sprintf(format, args...), PC: c.R[15]}
	c.Deadline = 0
}

// End stops the core for another reason.
func (c *Core) End(reason machine.Reason, format string, args ...any) {
	if c.Stop.Reason == "" {
		c.Stop = machine.Stop{Reason: reason, Text: fmt.Sprintf(format, args...), PC: c.R[15]}
		c.Deadline = 0
	}
}

// read takes what an address has; it does not end the run where nothing answers.
func (c *Core) read(address uint32, size int) (uint32, bool) {
	m := &c.Memories[address>>28]
	i := address & 0x0fff_ffff
	if uint64(i)+uint64(size) <= uint64(len(m.Data)) {
		c.Cycle += m.Wait
		switch size {
		case 1:
			return uint32(m.Data[i]), true
		case 2:
			return uint32(m.Data[i]) | uint32(m.Data[i+1])<<8, true
		}
		return uint32(m.Data[i]) | uint32(m.Data[i+1])<<8 | uint32(m.Data[i+2])<<16 | uint32(m.Data[i+3])<<24, true
	}
	if address>>12 == 0xe000e {
		return c.loadSystem(address, size)
	}
	return c.bus.Read(address, size)
}

// load is a load by the program.
func (c *Core) load(address uint32, size int) uint32 {
	if address&uint32(size-1) != 0 {
		c.fault("%d bytes were read at 0x%08X, which is no multiple of %d", size, address, size)
		return 0
	}
	v, ok := c.read(address, size)
	if !ok {
		c.fault("0x%08X was read, where the chip has nothing", address)
	}
	return v
}

// store is a store by the program.
func (c *Core) store(address uint32, size int, v uint32) {
	if address&uint32(size-1) != 0 {
		c.fault("%d bytes were written at 0x%08X, which is no multiple of %d", size, address, size)
		return
	}
	m := &c.Memories[address>>28]
	i := address & 0x0fff_ffff
	if uint64(i)+uint64(size) <= uint64(len(m.Data)) {
		if !m.Writable {
			c.fault("0x%08X was written, which is memory that can only be read", address)
			return
		}
		c.Cycle += m.Wait
		m.Data[i] = byte(v)
		if size > 1 {
			m.Data[i+1] = byte(v >> 8)
		}
		if size > 2 {
			m.Data[i+2], m.Data[i+3] = byte(v>>16), byte(v>>24)
		}
		return
	}
	ok := false
	if address>>12 == 0xe000e {
		ok = c.storeSystem(address, size, v)
	} else {
		ok = c.bus.Write(address, size, v)
	}
	if !ok {
		c.fault("0x%08X was written, where the chip has nothing", address)
	}
}

// psr gives XPSR.
func (c *Core) psr() uint32 {
	v := c.handling | 1<<24
	for i, f := range []bool{c.V, c.C, c.Z, c.N} {
		if f {
			v |= 1 << (28 + i)
		}
	}
	return v
}

func (c *Core) setFlags(v uint32) {
	c.N, c.Z, c.C, c.V = v>>31&1 == 1, v>>30&1 == 1, v>>29&1 == 1, v>>28&1 == 1
}

// useStack switches between the main and the process stack.
func (c *Core) useStack(process bool) {
	if process != c.process {
		c.R[13], c.psp, c.process = c.psp, c.R[13], process
	}
}

// Hash adds all of the core's own state.
func (c *Core) Hash() []byte {
	return fmt.Append(nil, c.R, c.N, c.Z, c.C, c.V, c.Cycle, c.primask, c.psp, c.process, c.handling, c.event, c.nvic,
		c.tick, c.vectors, c.sleeping, c.Asleep, c.Stop)
}

// Compare sets the flags as a comparison does that finds less, equal or more: -1, 0, 1.
func (c *Core) Compare(how int32) { c.N, c.Z, c.C, c.V = how < 0, how == 0, how >= 0, false }
