package avr

import "hemble/core/machine"

// Pointer register pairs.
const (
	regX = 26
	regY = 28
	regZ = 30
)

func pair(data *[0x10000]byte, r uint8) uint16 {
	return uint16(data[r]) | uint16(data[r+1])<<8
}

func setPair(data *[0x10000]byte, r uint8, v uint16) {
	data[r], data[r+1] = uint8(v), uint8(v>>8)
}

// interpret executes instructions until the deadline. The program counter, the cycle count and
// SREG live in locals; they are written back before anything outside may look at them, and SREG
// and the deadline are taken up again afterwards. An access to an I/O register happens at the end
// of the instruction's last cycle when it writes, at the start of that cycle when it reads.
func (m *Machine) interpret() {
	data, code := &m.data, &m.code
	pc, cyc, sreg, limit := m.pc, m.cycle, m.sreg, m.deadline
	count := int64(0)

	for cyc < limit {
		in := &code[pc&pcMask]
		count++
		switch in.op {
		case opNOP:
			cyc++
			pc++

		case opADD:
			a, b := data[in.d], data[in.r]
			data[in.d] = a + b
			sreg = sreg&^arithmetic | addFlags[uint(a)<<8|uint(b)]
			cyc++
			pc++
		case opADC:
			a, b, c := data[in.d], data[in.r], sreg&flagC
			data[in.d] = a + b + c
			sreg = sreg&^arithmetic | addFlags[uint(c)<<16|uint(a)<<8|uint(b)]
			cyc++
			pc++
		case opSUB:
			a, b := data[in.d], data[in.r]
			data[in.d] = a - b
			sreg = sreg&^arithmetic | subFlags[uint(a)<<8|uint(b)]
			cyc++
			pc++
		case opSUBI:
			a, b := data[in.d], uint8(in.k)
			data[in.d] = a - b
			sreg = sreg&^arithmetic | subFlags[uint(a)<<8|uint(b)]
			cyc++
			pc++
		case opSBC:
			a, b, c := data[in.d], data[in.r], sreg&flagC
			data[in.d] = a - b - c
			f := subFlags[uint(c)<<16|uint(a)<<8|uint(b)]
			sreg = sreg&^arithmetic | f&(sreg|^uint8(flagZ))
			cyc++
			pc++
		case opSBCI:
			a, b, c := data[in.d], uint8(in.k), sreg&flagC
			data[in.d] = a - b - c
			f := subFlags[uint(c)<<16|uint(a)<<8|uint(b)]
			sreg = sreg&^arithmetic | f&(sreg|^uint8(flagZ))
			cyc++
			pc++
		case opCP:
			sreg = sreg&^arithmetic | subFlags[uint(data[in.d])<<8|uint(data[in.r])]
			cyc++
			pc++
		case opCPI:
			sreg = sreg&^arithmetic | subFlags[uint(data[in.d])<<8|uint(uint8(in.k))]
			cyc++
			pc++
		case opCPC:
			f := subFlags[uint(sreg&flagC)<<16|uint(data[in.d])<<8|uint(data[in.r])]
			sreg = sreg&^arithmetic | f&(sreg|^uint8(flagZ))
			cyc++
			pc++
		case opADIW:
			a := pair(data, in.d)
			r := a + uint16(in.k)
			setPair(data, in.d, r)
			sreg = sreg&^(arithmetic&^flagH) | wordFlags(r, ^r&a&0x8000 != 0, r&^a&0x8000 != 0)
			cyc += 2
			pc++
		case opSBIW:
			a := pair(data, in.d)
			r := a - uint16(in.k)
			setPair(data, in.d, r)
			sreg = sreg&^(arithmetic&^flagH) | wordFlags(r, r&^a&0x8000 != 0, ^r&a&0x8000 != 0)
			cyc += 2
			pc++
		case opINC:
			r := data[in.d] + 1
			data[in.d] = r
			sreg = sreg&^logic | incFlags[r]
			cyc++
			pc++
		case opDEC:
			r := data[in.d] - 1
			data[in.d] = r
			sreg = sreg&^logic | decFlags[r]
			cyc++
			pc++
		case opAND:
			r := data[in.d] & data[in.r]
			data[in.d] = r
			sreg = sreg&^logic | logicFlags[r]
			cyc++
			pc++
		case opANDI:
			r := data[in.d] & uint8(in.k)
			data[in.d] = r
			sreg = sreg&^logic | logicFlags[r]
			cyc++
			pc++
		case opOR:
			r := data[in.d] | data[in.r]
			data[in.d] = r
			sreg = sreg&^logic | logicFlags[r]
			cyc++
			pc++
		case opORI:
			r := data[in.d] | uint8(in.k)
			data[in.d] = r
			sreg = sreg&^logic | logicFlags[r]
			cyc++
			pc++
		case opEOR:
			r := data[in.d] ^ data[in.r]
			data[in.d] = r
			sreg = sreg&^logic | logicFlags[r]
			cyc++
			pc++
		case opCOM:
			r := ^data[in.d]
			data[in.d] = r
			sreg = sreg&^(logic|flagC) | logicFlags[r] | flagC
			cyc++
			pc++
		case opNEG:
			a := data[in.d]
			data[in.d] = -a
			sreg = sreg&^arithmetic | subFlags[uint(a)]
			cyc++
			pc++
		case opLSR:
			a := data[in.d]
			data[in.d] = a >> 1
			sreg = sreg&^(logic|flagC) | shiftFlags(a>>1, a&1)
			cyc++
			pc++
		case opROR:
			a := data[in.d]
			r := a>>1 | sreg<<7
			data[in.d] = r
			sreg = sreg&^(logic|flagC) | shiftFlags(r, a&1)
			cyc++
			pc++
		case opASR:
			a := data[in.d]
			r := a>>1 | a&0x80
			data[in.d] = r
			sreg = sreg&^(logic|flagC) | shiftFlags(r, a&1)
			cyc++
			pc++
		case opSWAP:
			a := data[in.d]
			data[in.d] = a<<4 | a>>4
			cyc++
			pc++

		case opMUL:
			sreg = product(data, sreg, uint16(data[in.d])*uint16(data[in.r]))
			cyc += 2
			pc++
		case opMULS:
			sreg = product(data, sreg, uint16(int16(int8(data[in.d]))*int16(int8(data[in.r]))))
			cyc += 2
			pc++
		case opMULSU:
			sreg = product(data, sreg, uint16(int16(int8(data[in.d]))*int16(data[in.r])))
			cyc += 2
			pc++
		case opFMUL:
			sreg = fraction(data, sreg, uint16(data[in.d])*uint16(data[in.r]))
			cyc += 2
			pc++
		case opFMULS:
			sreg = fraction(data, sreg, uint16(int16(int8(data[in.d]))*int16(int8(data[in.r]))))
			cyc += 2
			pc++
		case opFMULSU:
			sreg = fraction(data, sreg, uint16(int16(int8(data[in.d]))*int16(data[in.r])))
			cyc += 2
			pc++

		case opMOV:
			data[in.d] = data[in.r]
			cyc++
			pc++
		case opMOVW:
			setPair(data, in.d, pair(data, in.r))
			cyc++
			pc++
		case opLDI:
			data[in.d] = uint8(in.k)
			cyc++
			pc++

		case opRJMP:
			pc = in.k
			cyc += 2
		case opJMP:
			pc = in.k
			cyc += 3
		case opIJMP:
			pc = int32(pair(data, regZ)) & pcMask
			cyc += 2
		case opBRBS:
			if sreg&in.r != 0 {
				pc = in.k
				cyc += 2
			} else {
				pc++
				cyc++
			}
		case opBRBC:
			if sreg&in.r == 0 {
				pc = in.k
				cyc += 2
			} else {
				pc++
				cyc++
			}
		case opCPSE:
			if data[in.d] == data[in.r] {
				pc += 1 + int32(in.skip)
				cyc += 1 + int64(in.skip)
			} else {
				pc++
				cyc++
			}
		case opSBRC:
			if data[in.d]&in.r == 0 {
				pc += 1 + int32(in.skip)
				cyc += 1 + int64(in.skip)
			} else {
				pc++
				cyc++
			}
		case opSBRS:
			if data[in.d]&in.r != 0 {
				pc += 1 + int32(in.skip)
				cyc += 1 + int64(in.skip)
			} else {
				pc++
				cyc++
			}
		case opSBIC, opSBIS:
			v := data[in.d]
			if reads[in.d] != nil || registers[in.d].name == "" {
				m.pc, m.cycle, m.sreg = pc, cyc, sreg
				v = m.load(uint16(in.d))
				limit = m.deadline
			}
			if (v&in.r != 0) == (in.op == opSBIS) {
				pc += 1 + int32(in.skip)
				cyc += 1 + int64(in.skip)
			} else {
				pc++
				cyc++
			}

		case opRCALL, opICALL, opCALL:
			back := pc + 1
			target, cycles := in.k, int64(3)
			if in.op == opCALL {
				back, cycles = pc+2, 4
			} else if in.op == opICALL {
				target = int32(pair(data, regZ)) & pcMask
			}
			sp := m.sp
			if sp-1-m.stackFloor <= ramEnd-sramStart && sp <= ramEnd {
				data[sp] = uint8(back)
				data[sp-1] = uint8(back >> 8)
				m.sp = sp - 2
			} else {
				m.pc, m.cycle, m.sreg = pc, cyc+cycles, sreg
				m.push(uint8(back))
				m.push(uint8(back >> 8))
				sreg, limit = m.sreg, m.deadline
			}
			pc = target
			cyc += cycles
		case opRET, opRETI:
			sp := m.sp
			if sp > ramEnd-2 {
				m.pc, m.cycle, m.sreg = pc, cyc, sreg
				m.emptyStop()
				m.counters.Instructions += count
				return
			}
			pc = (int32(data[sp+1])<<8 | int32(data[sp+2])) & pcMask
			m.sp = sp + 2
			cyc += 4
			if in.op == opRETI {
				sreg |= flagI
				m.pc, m.cycle, m.sreg = pc, cyc, sreg
				m.interruptsOn()
				limit = m.deadline
			}
		case opPUSH:
			sp := m.sp
			if sp-m.stackFloor <= ramEnd-sramStart && sp <= ramEnd {
				data[sp] = data[in.d]
				m.sp = sp - 1
			} else {
				m.pc, m.cycle, m.sreg = pc, cyc+2, sreg
				m.push(data[in.d])
				sreg, limit = m.sreg, m.deadline
			}
			cyc += 2
			pc++
		case opPOP:
			sp := m.sp + 1
			if sp > ramEnd || sp < sramStart {
				m.pc, m.cycle, m.sreg = pc, cyc, sreg
				m.emptyStop()
				m.counters.Instructions += count
				return
			}
			data[in.d] = data[sp]
			m.sp = sp
			cyc += 2
			pc++

		case opLDX:
			p := pair(data, regX)
			if p-sramStart <= ramEnd-sramStart {
				data[in.d] = data[p]
			} else {
				m.pc, m.cycle, m.sreg = pc, cyc+1, sreg
				data[in.d] = m.load(p)
				limit = m.deadline
			}
			cyc += 2
			pc++
		case opLDXInc:
			p := pair(data, regX)
			if p-sramStart <= ramEnd-sramStart {
				data[in.d] = data[p]
			} else {
				m.pc, m.cycle, m.sreg = pc, cyc+1, sreg
				data[in.d] = m.load(p)
				limit = m.deadline
			}
			setPair(data, regX, p+1)
			cyc += 2
			pc++
		case opLDXDec:
			p := pair(data, regX) - 1
			if p-sramStart <= ramEnd-sramStart {
				data[in.d] = data[p]
			} else {
				m.pc, m.cycle, m.sreg = pc, cyc+1, sreg
				data[in.d] = m.load(p)
				limit = m.deadline
			}
			setPair(data, regX, p)
			cyc += 2
			pc++
		case opLDYInc:
			p := pair(data, regY)
			if p-sramStart <= ramEnd-sramStart {
				data[in.d] = data[p]
			} else {
				m.pc, m.cycle, m.sreg = pc, cyc+1, sreg
				data[in.d] = m.load(p)
				limit = m.deadline
			}
			setPair(data, regY, p+1)
			cyc += 2
			pc++
		case opLDYDec:
			p := pair(data, regY) - 1
			if p-sramStart <= ramEnd-sramStart {
				data[in.d] = data[p]
			} else {
				m.pc, m.cycle, m.sreg = pc, cyc+1, sreg
				data[in.d] = m.load(p)
				limit = m.deadline
			}
			setPair(data, regY, p)
			cyc += 2
			pc++
		case opLDDY:
			p := pair(data, regY) + uint16(in.k)
			if p-sramStart <= ramEnd-sramStart {
				data[in.d] = data[p]
			} else {
				m.pc, m.cycle, m.sreg = pc, cyc+1, sreg
				data[in.d] = m.load(p)
				limit = m.deadline
			}
			cyc += 2
			pc++
		case opLDZInc:
			p := pair(data, regZ)
			if p-sramStart <= ramEnd-sramStart {
				data[in.d] = data[p]
			} else {
				m.pc, m.cycle, m.sreg = pc, cyc+1, sreg
				data[in.d] = m.load(p)
				limit = m.deadline
			}
			setPair(data, regZ, p+1)
			cyc += 2
			pc++
		case opLDZDec:
			p := pair(data, regZ) - 1
			if p-sramStart <= ramEnd-sramStart {
				data[in.d] = data[p]
			} else {
				m.pc, m.cycle, m.sreg = pc, cyc+1, sreg
				data[in.d] = m.load(p)
				limit = m.deadline
			}
			setPair(data, regZ, p)
			cyc += 2
			pc++
		case opLDDZ:
			p := pair(data, regZ) + uint16(in.k)
			if p-sramStart <= ramEnd-sramStart {
				data[in.d] = data[p]
			} else {
				m.pc, m.cycle, m.sreg = pc, cyc+1, sreg
				data[in.d] = m.load(p)
				limit = m.deadline
			}
			cyc += 2
			pc++
		case opLDS:
			p := uint16(in.k)
			if p-sramStart <= ramEnd-sramStart {
				data[in.d] = data[p]
			} else {
				m.pc, m.cycle, m.sreg = pc, cyc+1, sreg
				data[in.d] = m.load(p)
				limit = m.deadline
			}
			cyc += 2
			pc += 2
		case opSTX:
			p := pair(data, regX)
			if p-sramStart <= ramEnd-sramStart {
				data[p] = data[in.d]
			} else {
				m.pc, m.cycle, m.sreg = pc, cyc+2, sreg
				m.store(p, data[in.d])
				sreg, limit = m.sreg, m.deadline
			}
			cyc += 2
			pc++
		case opSTXInc:
			p, v := pair(data, regX), data[in.d]
			setPair(data, regX, p+1)
			if p-sramStart <= ramEnd-sramStart {
				data[p] = v
			} else {
				m.pc, m.cycle, m.sreg = pc, cyc+2, sreg
				m.store(p, v)
				sreg, limit = m.sreg, m.deadline
			}
			cyc += 2
			pc++
		case opSTXDec:
			p, v := pair(data, regX)-1, data[in.d]
			setPair(data, regX, p)
			if p-sramStart <= ramEnd-sramStart {
				data[p] = v
			} else {
				m.pc, m.cycle, m.sreg = pc, cyc+2, sreg
				m.store(p, v)
				sreg, limit = m.sreg, m.deadline
			}
			cyc += 2
			pc++
		case opSTYInc:
			p, v := pair(data, regY), data[in.d]
			setPair(data, regY, p+1)
			if p-sramStart <= ramEnd-sramStart {
				data[p] = v
			} else {
				m.pc, m.cycle, m.sreg = pc, cyc+2, sreg
				m.store(p, v)
				sreg, limit = m.sreg, m.deadline
			}
			cyc += 2
			pc++
		case opSTYDec:
			p, v := pair(data, regY)-1, data[in.d]
			setPair(data, regY, p)
			if p-sramStart <= ramEnd-sramStart {
				data[p] = v
			} else {
				m.pc, m.cycle, m.sreg = pc, cyc+2, sreg
				m.store(p, v)
				sreg, limit = m.sreg, m.deadline
			}
			cyc += 2
			pc++
		case opSTDY:
			p := pair(data, regY) + uint16(in.k)
			if p-sramStart <= ramEnd-sramStart {
				data[p] = data[in.d]
			} else {
				m.pc, m.cycle, m.sreg = pc, cyc+2, sreg
				m.store(p, data[in.d])
				sreg, limit = m.sreg, m.deadline
			}
			cyc += 2
			pc++
		case opSTZInc:
			p, v := pair(data, regZ), data[in.d]
			setPair(data, regZ, p+1)
			if p-sramStart <= ramEnd-sramStart {
				data[p] = v
			} else {
				m.pc, m.cycle, m.sreg = pc, cyc+2, sreg
				m.store(p, v)
				sreg, limit = m.sreg, m.deadline
			}
			cyc += 2
			pc++
		case opSTZDec:
			p, v := pair(data, regZ)-1, data[in.d]
			setPair(data, regZ, p)
			if p-sramStart <= ramEnd-sramStart {
				data[p] = v
			} else {
				m.pc, m.cycle, m.sreg = pc, cyc+2, sreg
				m.store(p, v)
				sreg, limit = m.sreg, m.deadline
			}
			cyc += 2
			pc++
		case opSTDZ:
			p := pair(data, regZ) + uint16(in.k)
			if p-sramStart <= ramEnd-sramStart {
				data[p] = data[in.d]
			} else {
				m.pc, m.cycle, m.sreg = pc, cyc+2, sreg
				m.store(p, data[in.d])
				sreg, limit = m.sreg, m.deadline
			}
			cyc += 2
			pc++
		case opSTS:
			p := uint16(in.k)
			if p-sramStart <= ramEnd-sramStart {
				data[p] = data[in.d]
			} else {
				m.pc, m.cycle, m.sreg = pc, cyc+2, sreg
				m.store(p, data[in.d])
				sreg, limit = m.sreg, m.deadline
			}
			cyc += 2
			pc += 2

		case opLPM0:
			data[0] = m.flash[pair(data, regZ)&(2*flashWords-1)]
			cyc += 3
			pc++
		case opLPM:
			data[in.d] = m.flash[pair(data, regZ)&(2*flashWords-1)]
			cyc += 3
			pc++
		case opLPMInc:
			z := pair(data, regZ)
			data[in.d] = m.flash[z&(2*flashWords-1)]
			setPair(data, regZ, z+1)
			cyc += 3
			pc++
		case opIN:
			if in.r == regSREG {
				data[in.d] = sreg
			} else if reads[in.r] == nil && registers[in.r].name != "" {
				data[in.d] = data[in.r]
			} else {
				m.pc, m.cycle, m.sreg = pc, cyc, sreg
				data[in.d] = m.load(uint16(in.r))
				limit = m.deadline
			}
			cyc++
			pc++
		case opOUT:
			if in.d == regSREG && (data[in.r]&^sreg)&flagI == 0 {
				sreg = data[in.r]
				cyc++
				pc++
				continue
			}
			m.pc, m.cycle, m.sreg = pc, cyc+1, sreg
			m.store(uint16(in.d), data[in.r])
			sreg, limit = m.sreg, m.deadline
			cyc++
			pc++
		case opSBI, opCBI:
			m.pc, m.cycle, m.sreg = pc, cyc+2, sreg
			m.storeBit(uint16(in.d), in.r, in.op == opSBI)
			sreg, limit = m.sreg, m.deadline
			cyc += 2
			pc++
		case opBSET:
			rising := in.r &^ sreg & flagI
			sreg |= in.r
			cyc++
			pc++
			if rising != 0 {
				m.pc, m.cycle, m.sreg = pc, cyc, sreg
				m.interruptsOn()
				limit = m.deadline
			}
		case opBCLR:
			sreg &^= in.r
			cyc++
			pc++
		case opBST:
			sreg &^= flagT
			if data[in.d]&in.r != 0 {
				sreg |= flagT
			}
			cyc++
			pc++
		case opBLD:
			data[in.d] &^= in.r
			if sreg&flagT != 0 {
				data[in.d] |= in.r
			}
			cyc++
			pc++

		case opLoopDEC:
			cyc += loopDEC(data, in, cyc, limit)
			r := data[in.d] - 1
			data[in.d] = r
			sreg = sreg&^logic | decFlags[r]
			cyc++
			pc++
		case opLoopSBIW:
			cyc += loopSBIW(data, in, cyc, limit)
			a := pair(data, in.d)
			r := a - uint16(in.k)
			setPair(data, in.d, r)
			sreg = sreg&^(arithmetic&^flagH) | wordFlags(r, r&^a&0x8000 != 0, ^r&a&0x8000 != 0)
			cyc += 2
			pc++
		case opLoopSUBI:
			cyc += loopSUBI(data, in, cyc, limit)
			a := data[in.d]
			data[in.d] = a - 1
			sreg = sreg&^arithmetic | subFlags[uint(a)<<8|1]
			cyc++
			pc++
		case opLoopSelf:
			cyc += (limit - cyc + 1) / 2 * 2

		default: // rare: done by the plain interpreter
			m.pc, m.cycle, m.sreg = pc, cyc, sreg
			m.execute(*in)
			pc, cyc, sreg, limit = m.pc, m.cycle, m.sreg, m.deadline
		}
	}
	m.pc, m.cycle, m.sreg = pc&pcMask, cyc, sreg
	m.counters.Instructions += count
}

// wordFlags are those of ADIW and SBIW: H is left alone.
func wordFlags(r uint16, carry, overflow bool) uint8 {
	f := uint8(0)
	if carry {
		f |= flagC
	}
	if r == 0 {
		f |= flagZ
	}
	if r&0x8000 != 0 {
		f |= flagN
	}
	if overflow {
		f |= flagV
	}
	if (r&0x8000 != 0) != overflow {
		f |= flagS
	}
	return f
}

// shiftFlags are those of LSR, ROR and ASR: V = N xor C, S = N xor V.
func shiftFlags(r, carry uint8) uint8 {
	f := logicFlags[r]&^flagS | carry
	if r>>7 != carry {
		f |= flagV
	}
	if carry != 0 {
		f |= flagS
	}
	return f
}

func product(data *[0x10000]byte, sreg uint8, p uint16) uint8 {
	setPair(data, 0, p)
	sreg = sreg&^(flagC|flagZ) | uint8(p>>15)
	if p == 0 {
		sreg |= flagZ
	}
	return sreg
}

// fraction stores a product shifted left: the FMUL forms.
func fraction(data *[0x10000]byte, sreg uint8, p uint16) uint8 {
	setPair(data, 0, p<<1)
	sreg = sreg&^(flagC|flagZ) | uint8(p>>15)
	if p<<1 == 0 {
		sreg |= flagZ
	}
	return sreg
}

// interruptsOn is called when I went from 0 to 1 and by RETI: one more instruction runs before a
// pending interrupt (instruction set manual, SEI; datasheet 7.7).
func (m *Machine) interruptsOn() {
	m.noIRQBefore = m.cycle + 1
	if m.irq != 0 {
		m.deadline = min(m.deadline, m.noIRQBefore)
	}
}

// storeBit is SBI and CBI. Only the one bit is written: flags cleared by writing a one keep the
// others, and a one in PINx toggles one pin (datasheet 14.2.2).
func (m *Machine) storeBit(address uint16, mask uint8, on bool) {
	switch {
	case isFlags(address), isPIN(address):
		if on {
			m.store(address, mask)
		}
	case on:
		m.store(address, m.load(address)|mask)
	default:
		m.store(address, m.load(address)&^mask)
	}
}

var _ machine.Machine = (*Machine)(nil)
