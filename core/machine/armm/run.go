package armm

import (
	"math/bits"

	"hemble/core/machine"
)

// Run carries out instructions up to the deadline, or until the core sleeps or stops.
func (c *Core) Run() {
	for c.Cycle < c.Deadline {
		c.Step()
	}
}

// Step carries out one instruction.
func (c *Core) Step() {
	c.Counters.Instructions++
	pc := c.R[15]
	m := &c.Memories[pc>>28]
	i := pc & 0x0fff_ffff
	if uint64(i)+2 > uint64(len(m.Data)) {
		c.fault("execution reached 0x%08X, where the chip has no memory", pc)
		return
	}
	in := uint32(m.Data[i]) | uint32(m.Data[i+1])<<8
	r := &c.R
	switch in >> 11 {
	case 0b00000: // LSL (immediate), MOV
		v, n := r[in>>3&7], in>>6&31
		if n > 0 {
			c.C = v>>(32-n)&1 == 1
			v <<= n
		}
		r[in&7] = c.result(v)
	case 0b00001: // LSR
		v, n := r[in>>3&7], in>>6&31
		if n == 0 {
			n = 32
		}
		c.C = v>>(n-1)&1 == 1
		r[in&7] = c.result(uint32(uint64(v) >> n))
	case 0b00010: // ASR
		v, n := int32(r[in>>3&7]), in>>6&31
		if n == 0 {
			n = 32
		}
		c.C = int64(v)>>(n-1)&1 == 1
		r[in&7] = c.result(uint32(int64(v) >> n))
	case 0b00011:
		a, b := r[in>>3&7], r[in>>6&7]
		if in>>10&1 == 1 {
			b = in >> 6 & 7
		}
		if in>>9&1 == 0 {
			r[in&7] = c.add(a, b, 0)
		} else {
			r[in&7] = c.add(a, ^b, 1)
		}
	case 0b00100: // MOV
		r[in>>8&7] = c.result(in & 0xff)
	case 0b00101: // CMP
		c.add(r[in>>8&7], ^(in & 0xff), 1)
	case 0b00110:
		r[in>>8&7] = c.add(r[in>>8&7], in&0xff, 0)
	case 0b00111:
		r[in>>8&7] = c.add(r[in>>8&7], ^(in & 0xff), 1)
	case 0b01000:
		if in>>10&1 == 0 {
			c.process16(in)
		} else if c.high(in) {
			return
		}
	case 0b01001: // LDR (literal)
		r[in>>8&7] = c.load(pc&^3+4+in&0xff<<2, 4)
		c.Cycle++
	case 0b01010, 0b01011:
		address := r[in>>3&7] + r[in>>6&7]
		c.Cycle += c.extra(address)
		switch t := in & 7; in >> 9 & 7 {
		case 0:
			c.store(address, 4, r[t])
		case 1:
			c.store(address, 2, r[t]&0xffff)
		case 2:
			c.store(address, 1, r[t]&0xff)
		case 3:
			r[t] = uint32(int8(c.load(address, 1)))
		case 4:
			r[t] = c.load(address, 4)
		case 5:
			r[t] = c.load(address, 2)
		case 6:
			r[t] = c.load(address, 1)
		case 7:
			r[t] = uint32(int16(c.load(address, 2)))
		}
	case 0b01100, 0b01101, 0b01110, 0b01111, 0b10000, 0b10001, 0b10010, 0b10011:
		c.transfer(in)
	case 0b10100: // ADR
		r[in>>8&7] = pc&^3 + 4 + in&0xff<<2
	case 0b10101: // ADD (SP plus immediate)
		r[in>>8&7] = r[13] + in&0xff<<2
	case 0b10110, 0b10111:
		if c.various(in) {
			return
		}
	case 0b11000, 0b11001:
		c.multiple(in)
	case 0b11010, 0b11011:
		condition := in >> 8 & 15
		switch {
		case condition == 15: // SVC
			c.R[15] += 2
			c.Cycle++
			c.nvic.pending |= 1 << excSVC
			if c.nvic.level(excSVC) >= c.level(true) {
				c.fault("SVC was called where it cannot be taken")
			}
			c.attend()
			return
		case condition == 14:
			c.fault("the instruction 0x%04X at 0x%08X is not defined", in, pc)
			return
		case c.holds(condition):
			r[15] = pc + 4 + uint32(int32(int8(in)))<<1
			c.Cycle += c.variant.Branch
			return
		}
	case 0b11100: // B
		r[15] = pc + 4 + uint32(int32(in<<21)>>20)
		c.Cycle += c.variant.Branch
		return
	case 0b11110:
		if c.long(in) {
			return
		}
	default:
		c.fault("the instruction 0x%04X at 0x%08X is not defined", in, pc)
		return
	}
	r[15] += 2
	c.Cycle++
}

// extra is what an access takes beyond one cycle: a single-cycle port takes none.
func (c *Core) extra(address uint32) int64 {
	if address>>28 == 0xd && c.variant.Port {
		return 0
	}
	return 1
}

// result sets N and Z.
func (c *Core) result(v uint32) uint32 {
	c.N, c.Z = v>>31 == 1, v == 0
	return v
}

// add is AddWithCarry (A2.2.1), with all flags.
func (c *Core) add(a, b, carry uint32) uint32 {
	sum, out := bits.Add32(a, b, carry)
	c.C, c.V = out == 1, (a^sum)&(b^sum)>>31 == 1
	return c.result(sum)
}

// holds reports whether a condition does (A6.3).
func (c *Core) holds(condition uint32) bool {
	v := false
	switch condition >> 1 {
	case 0:
		v = c.Z
	case 1:
		v = c.C
	case 2:
		v = c.N
	case 3:
		v = c.V
	case 4:
		v = c.C && !c.Z
	case 5:
		v = c.N == c.V
	case 6:
		v = c.N == c.V && !c.Z
	}
	return v != (condition&1 == 1)
}

// process16 is data processing of registers (A5.2.2).
func (c *Core) process16(in uint32) {
	r := &c.R
	d := in & 7
	a, b := r[d], r[in>>3&7]
	carry := uint32(0)
	if c.C {
		carry = 1
	}
	n := b & 0xff
	switch in >> 6 & 15 {
	case 0: // AND
		r[d] = c.result(a & b)
	case 1: // EOR
		r[d] = c.result(a ^ b)
	case 2: // LSL
		if n > 0 {
			c.C = n <= 32 && uint64(a)<<n>>32&1 == 1
		}
		r[d] = c.result(uint32(uint64(a) << n))
	case 3: // LSR
		if n > 0 {
			c.C = n <= 32 && uint64(a)>>(n-1)&1 == 1
		}
		r[d] = c.result(uint32(uint64(a) >> n))
	case 4: // ASR
		n = min(n, 32)
		if n > 0 {
			c.C = int64(int32(a))>>(n-1)&1 == 1
		}
		r[d] = c.result(uint32(int64(int32(a)) >> n))
	case 5: // ADC
		r[d] = c.add(a, b, carry)
	case 6: // SBC
		r[d] = c.add(a, ^b, carry)
	case 7: // ROR
		v := bits.RotateLeft32(a, -int(n&31))
		if n > 0 {
			c.C = v>>31 == 1
		}
		r[d] = c.result(v)
	case 8: // TST
		c.result(a & b)
	case 9: // RSB
		r[d] = c.add(^b, 0, 1)
	case 10: // CMP
		c.add(a, ^b, 1)
	case 11: // CMN
		c.add(a, b, 0)
	case 12: // ORR
		r[d] = c.result(a | b)
	case 13: // MUL, in one cycle
		r[d] = c.result(a * b)
	case 14: // BIC
		r[d] = c.result(a &^ b)
	case 15: // MVN
		r[d] = c.result(^b)
	}
}

// high is data processing of all registers, and branches to a register (A5.2.3). It reports whether it branched.
func (c *Core) high(in uint32) bool {
	r := &c.R
	d, m := in&7|in>>4&8, in>>3&15
	v := r[m]
	if m == 15 {
		v += 4
	}
	switch in >> 8 & 3 {
	case 0: // ADD
		a := r[d]
		if d == 15 {
			a += 4
		}
		v += a
	case 1: // CMP
		c.add(r[d], ^v, 1)
		return false
	case 3: // BX, BLX
		if in>>7&1 == 1 {
			r[14] = r[15] + 2 | 1
		}
		c.Cycle += c.variant.Branch
		c.jump(v)
		return true
	}
	switch d {
	case 15:
		r[15] = v &^ 1
		c.Cycle += c.variant.Branch
		return true
	case 13:
		v &^= 3
	}
	r[d] = v
	return false
}

// jump is BX: to code, or out of an exception.
func (c *Core) jump(to uint32) {
	switch {
	case to>>28 == 15 && c.handling != 0:
		c.leave(to)
	case to&1 == 0:
		c.fault("a branch led to 0x%08X, which is even: that is no Thumb code", to)
	default:
		c.R[15] = to &^ 1
		if c.Memories[to>>28].Data == nil && !c.bus.Call(to&^1) {
			c.fault("a branch led to 0x%08X, where the chip has no memory", to&^1)
		}
	}
}

// operands are those of a load or a store with an offset (A5.2.4): its register, the one with the base of its address,
// the offset and the size in bytes.
func operands(in uint32) (t, base, offset uint32, size int) {
	switch in >> 12 {
	case 0b0110:
		return in & 7, in >> 3 & 7, in >> 6 & 31 << 2, 4
	case 0b0111:
		return in & 7, in >> 3 & 7, in >> 6 & 31, 1
	case 0b1000:
		return in & 7, in >> 3 & 7, in >> 6 & 31 << 1, 2
	}
	return in >> 8 & 7, 13, in & 0xff << 2, 4 // of the stack
}

// branchOffset is that of BL (A6.7.13).
func branchOffset(in, next uint32) uint32 {
	s := in >> 10 & 1
	i1, i2 := ^(next>>13^s)&1, ^(next>>11^s)&1
	return uint32(int32((s<<24|i1<<23|i2<<22|in&0x3ff<<12|next&0x7ff<<1)<<7) >> 7)
}

// transfer is a load or a store with an offset.
func (c *Core) transfer(in uint32) {
	r := &c.R
	t, n, offset, size := operands(in)
	base := r[n]
	c.Cycle += c.extra(base + offset)
	if in>>11&1 == 1 {
		r[t] = c.load(base+offset, size)
	} else {
		c.store(base+offset, size, r[t]&(0xffff_ffff>>(32-8*size)))
	}
}

// various are the instructions of A5.2.5. It reports whether the program goes on elsewhere.
func (c *Core) various(in uint32) bool {
	r := &c.R
	v := r[in>>3&7]
	switch in >> 8 & 15 {
	case 0: // ADD, SUB (SP)
		if in>>7&1 == 0 {
			r[13] += in & 0x7f << 2
		} else {
			r[13] -= in & 0x7f << 2
		}
	case 2:
		switch in >> 6 & 3 {
		case 0:
			v = uint32(int16(v))
		case 1:
			v = uint32(int8(v))
		case 2:
			v &= 0xffff
		case 3:
			v &= 0xff
		}
		r[in&7] = v
	case 4, 5: // PUSH
		list := in&0xff | in>>8&1<<14
		n := uint32(bits.OnesCount32(list))
		at := r[13] - 4*n
		r[13] = at
		for ; list != 0; list &= list - 1 {
			c.store(at, 4, r[bits.TrailingZeros32(list)])
			at += 4
		}
		c.Cycle += int64(n)
	case 6: // CPS
		if in&0xffef != 0xb662 {
			c.undefined(in)
			return true
		}
		c.primask = in>>4&1 == 1
		c.attend()
	case 10:
		switch in >> 6 & 3 {
		case 0:
			v = bits.ReverseBytes32(v)
		case 1:
			v = uint32(bits.ReverseBytes16(uint16(v>>16)))<<16 | uint32(bits.ReverseBytes16(uint16(v)))
		case 3:
			v = uint32(int16(bits.ReverseBytes16(uint16(v))))
		default:
			c.undefined(in)
			return true
		}
		r[in&7] = v
	case 12, 13: // POP
		list := in & 0xff
		at := r[13]
		for rest := list; rest != 0; rest &= rest - 1 {
			r[bits.TrailingZeros32(rest)] = c.load(at, 4)
			at += 4
		}
		c.Cycle += int64(bits.OnesCount32(list))
		if in>>8&1 == 1 {
			pc := c.load(at, 4)
			r[13] = at + 4
			c.Cycle += c.variant.Return + 1
			if c.Stop.Reason == "" {
				c.jump(pc)
			}
			return true
		}
		r[13] = at
	case 14:
		c.End(machine.Breakpoint, "a BKPT instruction at 0x%08X, and no debugger to continue", r[15])
		return true
	case 15:
		c.hint(in)
		return false
	default:
		c.undefined(in)
		return true
	}
	return false
}

func (c *Core) undefined(in uint32) {
	c.fault("the instruction 0x%04X at 0x%08X is not defined", in, c.R[15])
}

// hint is NOP, YIELD, WFE, WFI or SEV (A5.2.5).
func (c *Core) hint(in uint32) {
	switch in >> 4 & 15 {
	case 2: // WFE
		if c.event {
			c.event = false
			return
		}
		c.Asleep = ForEvent
	case 3: // WFI
		c.Asleep = ForIRQ
	case 4: // SEV
		c.event = true
		return
	default:
		return
	}
	c.attend()
}

// multiple is LDM or STM (A6.7.25, A6.7.60).
func (c *Core) multiple(in uint32) {
	r := &c.R
	base := in >> 8 & 7
	at, list := r[base], in&0xff
	load := in>>11&1 == 1
	n := uint32(bits.OnesCount32(list))
	for rest := list; rest != 0; rest &= rest - 1 {
		if t := bits.TrailingZeros32(rest); load {
			r[t] = c.load(at, 4)
		} else {
			c.store(at, 4, r[t])
		}
		at += 4
	}
	if !load || list>>base&1 == 0 {
		r[base] += 4 * n
	}
	c.Cycle += int64(n)
}

// long are the instructions of 32 bits (A5.3). It reports whether the program goes on elsewhere.
func (c *Core) long(in uint32) bool {
	next, ok := c.read(c.R[15]+2, 2)
	if !ok {
		c.fault("execution reached 0x%08X, where the chip has no memory", c.R[15]+2)
		return true
	}
	switch {
	case next>>14 == 3 && next>>12&1 == 1: // BL
		c.R[14] = c.R[15] + 4 | 1
		c.R[15] += 4 + branchOffset(in, next)
		c.Cycle += c.variant.Link
		return true
	case in == 0xf3bf && next&0xffc0 == 0x8f40: // DSB, DMB, ISB
	case in&0xfff0 == 0xf380 && next&0xff00 == 0x8800:
		c.setSpecial(next&0xff, c.R[in&15])
	case in == 0xf3ef && next&0xf000 == 0x8000:
		c.R[next>>8&15] = c.special(next & 0xff)
	default:
		c.fault("the instruction 0x%04X%04X at 0x%08X is not defined", in, next, c.R[15])
		return true
	}
	c.R[15] += 4
	c.Cycle += c.variant.Special
	return true
}

// special reads a special register (B4.2.2).
func (c *Core) special(number uint32) uint32 {
	switch {
	case number < 8:
		v := uint32(0)
		if number&4 == 0 {
			v = c.psr() & 0xf000_0000
		}
		if number&1 == 1 {
			v |= c.handling
		}
		return v
	case number == 8 && !c.process, number == 9 && c.process:
		return c.R[13]
	case number == 8, number == 9:
		return c.psp
	case number == 16 && c.primask:
		return 1
	case number == 20 && c.process:
		return 2
	}
	return 0
}

func (c *Core) setSpecial(number, v uint32) {
	switch {
	case number < 4:
		c.setFlags(v)
	case number == 8 && !c.process, number == 9 && c.process:
		c.R[13] = v &^ 3
	case number == 8, number == 9:
		c.psp = v &^ 3
	case number == 16:
		c.primask = v&1 == 1
		c.attend()
	case number == 20 && c.handling == 0:
		c.useStack(v>>1&1 == 1)
	}
}
