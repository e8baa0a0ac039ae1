package avr

import "hemble/core/machine"

// The plain interpreter: one instruction at a time, all state in the machine, flags by the Boolean
// formulas of the instruction set manual. It is the reference that the fast one is held to, and it
// carries out the instructions that are too rare to matter there.

// step runs plain instructions up to the deadline.
func (m *Machine) step() {
	for m.cycle < m.deadline {
		if m.pc &= m.pcMask; m.code[m.pc].op == opReach {
			m.reach()
		}
		m.counters.Instructions++
		m.execute(m.reference[m.pc])
	}
	m.pc &= m.pcMask
}

func (m *Machine) flag(mask uint8, on bool) {
	m.sreg &^= mask
	if on {
		m.sreg |= mask
	}
}

// setNZ sets N and Z by a result and S = N xor V.
func (m *Machine) setNZ(r uint8) {
	m.flag(flagN, r>>7 == 1)
	m.flag(flagZ, r == 0)
	m.flag(flagS, (m.sreg&flagN != 0) != (m.sreg&flagV != 0))
}

func (m *Machine) add(d uint8, b, carry uint8) {
	a := m.data[d]
	r := a + b + carry
	m.data[d] = r
	c := a&b | b&^r | ^r&a
	m.flag(flagH, c>>3&1 == 1)
	m.flag(flagC, c>>7 == 1)
	m.flag(flagV, (a&b&^r|^a&^b&r)>>7 == 1)
	m.setNZ(r)
}

// subtract sets the flags of a - b - carry and gives it. With keepZ (SBC, SBCI, CPC) Z is only
// ever cleared.
func (m *Machine) subtract(a, b, carry uint8, keepZ bool) uint8 {
	r := a - b - carry
	z := m.sreg & flagZ
	c := ^a&b | b&r | r&^a
	m.flag(flagH, c>>3&1 == 1)
	m.flag(flagC, c>>7 == 1)
	m.flag(flagV, (a&^b&^r|^a&b&r)>>7 == 1)
	m.setNZ(r)
	if keepZ && z == 0 {
		m.flag(flagZ, false)
	}
	return r
}

func (m *Machine) logic(d, r uint8) {
	m.data[d] = r
	m.flag(flagV, false)
	m.setNZ(r)
}

func (m *Machine) shift(d, r, carry uint8) {
	m.data[d] = r
	m.flag(flagC, carry == 1)
	m.flag(flagV, (r>>7 == 1) != (carry == 1))
	m.setNZ(r)
}

func (m *Machine) wordArithmetic(d uint8, a, r uint16, carry, overflow bool) {
	m.data[d], m.data[d+1] = uint8(r), uint8(r>>8)
	m.flag(flagC, carry)
	m.flag(flagV, overflow)
	m.flag(flagN, r>>15 == 1)
	m.flag(flagZ, r == 0)
	m.flag(flagS, (r>>15 == 1) != overflow)
}

func (m *Machine) multiply(a, b int32, fractional bool) {
	p := uint16(a * b)
	m.flag(flagC, p>>15 == 1)
	if fractional {
		p <<= 1
	}
	m.data[0], m.data[1] = uint8(p), uint8(p>>8)
	m.flag(flagZ, p == 0)
}

func (m *Machine) skipIf(condition bool, in instruction) {
	m.pc++
	m.cycle++
	if condition {
		m.pc += int32(in.skip)
		m.cycle += int64(in.skip)
	}
}

func (m *Machine) branchIf(condition bool, target int32) {
	m.pc++
	m.cycle++
	if condition {
		m.pc = target
		m.cycle++
	}
}

// read and write access the data space in the last cycle of an instruction.
func (m *Machine) read(cycles int64, address uint16) uint8 {
	m.cycle += cycles - 1
	v := m.load(address)
	m.cycle++
	return v
}

func (m *Machine) write(cycles int64, address uint16, v uint8) {
	m.cycle += cycles
	m.store(address, v)
}

// pointer gives the address of an indirect access and moves the pointer register.
func (m *Machine) pointer(r uint8, before, after int32) uint16 {
	p := pair(m.data, r) + uint16(before)
	if before != 0 || after != 0 {
		setPair(m.data, r, p+uint16(after))
	}
	return p
}

func (m *Machine) loadVia(in instruction, r uint8, before, after int32) {
	p := pair(m.data, r) + uint16(before)
	m.data[in.d] = m.read(2, p)
	if before != 0 || after != 0 {
		setPair(m.data, r, p+uint16(after))
	}
	m.pc++
}

func (m *Machine) storeVia(in instruction, r uint8, before, after int32) {
	v := m.data[in.d]
	m.write(2, m.pointer(r, before, after), v)
	m.pc++
}

func (m *Machine) call(target, back int32, cycles int64) {
	if m.cycle += cycles; m.v.wide {
		m.cycle++
	}
	m.pushPC(back)
	m.pc = target
}

// farZ is the byte address in flash that RAMPZ and Z make.
func (m *Machine) farZ() int {
	return (int(m.io[regRAMPZ])<<16 | int(pair(m.data, regZ))) & (len(m.flash) - 1)
}

// farCall is the word address that EIND and Z make.
func (m *Machine) farCall() int32 {
	return (int32(m.io[regEIND])<<16 | int32(pair(m.data, regZ))) & m.pcMask
}

// execute carries out one instruction.
func (m *Machine) execute(in instruction) {
	data := m.data
	d, r := data[in.d], data[in.r]
	carry := m.sreg & flagC
	cycles := int64(1) // of the simple instructions, which fall out of the switch
	switch in.op {
	case opNOP:
	case opADD:
		m.add(in.d, r, 0)
	case opADC:
		m.add(in.d, r, carry)
	case opSUB:
		data[in.d] = m.subtract(d, r, 0, false)
	case opSUBI:
		data[in.d] = m.subtract(d, uint8(in.k), 0, false)
	case opSBC:
		data[in.d] = m.subtract(d, r, carry, true)
	case opSBCI:
		data[in.d] = m.subtract(d, uint8(in.k), carry, true)
	case opCP:
		m.subtract(d, r, 0, false)
	case opCPI:
		m.subtract(d, uint8(in.k), 0, false)
	case opCPC:
		m.subtract(d, r, carry, true)
	case opADIW:
		a := pair(data, in.d)
		r := a + uint16(in.k)
		m.wordArithmetic(in.d, a, r, ^r&a&0x8000 != 0, ^a&r&0x8000 != 0)
		cycles = 2
	case opSBIW:
		a := pair(data, in.d)
		r := a - uint16(in.k)
		m.wordArithmetic(in.d, a, r, r&^a&0x8000 != 0, a&^r&0x8000 != 0)
		cycles = 2
	case opINC:
		m.flag(flagV, d == 0x7f)
		data[in.d] = d + 1
		m.setNZ(d + 1)
	case opDEC:
		m.flag(flagV, d == 0x80)
		data[in.d] = d - 1
		m.setNZ(d - 1)
	case opAND:
		m.logic(in.d, d&r)
	case opANDI:
		m.logic(in.d, d&uint8(in.k))
	case opOR:
		m.logic(in.d, d|r)
	case opORI:
		m.logic(in.d, d|uint8(in.k))
	case opEOR:
		m.logic(in.d, d^r)
	case opCOM:
		m.logic(in.d, 0xff-d)
		m.flag(flagC, true)
	case opNEG:
		data[in.d] = m.subtract(0, d, 0, false)
	case opLSR:
		m.shift(in.d, d>>1, d&1)
	case opROR:
		m.shift(in.d, carry<<7|d>>1, d&1)
	case opASR:
		m.shift(in.d, uint8(int8(d)>>1), d&1)
	case opSWAP:
		data[in.d] = d>>4 | d<<4
	case opMUL:
		m.multiply(int32(d), int32(r), false)
		cycles = 2
	case opMULS:
		m.multiply(int32(int8(d)), int32(int8(r)), false)
		cycles = 2
	case opMULSU:
		m.multiply(int32(int8(d)), int32(r), false)
		cycles = 2
	case opFMUL:
		m.multiply(int32(d), int32(r), true)
		cycles = 2
	case opFMULS:
		m.multiply(int32(int8(d)), int32(int8(r)), true)
		cycles = 2
	case opFMULSU:
		m.multiply(int32(int8(d)), int32(r), true)
		cycles = 2
	case opMOV:
		data[in.d] = r
	case opMOVW:
		data[in.d], data[in.d+1] = data[in.r], data[in.r+1]
	case opLDI:
		data[in.d] = uint8(in.k)
	case opBSET:
		rising := in.r&^m.sreg&flagI != 0
		m.sreg |= in.r
		m.pc++
		m.cycle++
		if rising {
			m.interruptsOn()
		}
		return
	case opBCLR:
		m.sreg &^= in.r
	case opBST:
		m.flag(flagT, d&in.r != 0)
	case opBLD:
		if data[in.d] = d &^ in.r; m.sreg&flagT != 0 {
			data[in.d] = d | in.r
		}
	case opLPM0:
		data[0] = m.flash[int(pair(data, regZ))&(len(m.flash)-1)]
		cycles = 3
	case opLPM:
		data[in.d] = m.flash[int(pair(data, regZ))&(len(m.flash)-1)]
		cycles = 3
	case opLPMInc:
		z := pair(data, regZ)
		data[in.d] = m.flash[int(z)&(len(m.flash)-1)]
		setPair(data, regZ, z+1)
		cycles = 3
	case opELPM0:
		data[0] = m.flash[m.farZ()]
		cycles = 3
	case opELPM:
		data[in.d] = m.flash[m.farZ()]
		cycles = 3
	case opELPMInc: // RAMPZ:Z moves on as one
		z := m.farZ()
		data[in.d] = m.flash[z]
		setPair(data, regZ, uint16(z+1))
		m.io[regRAMPZ] = uint8((z + 1) >> 16)
		cycles = 3
	case opWDR:
		m.dog.feed(m)

	case opRJMP:
		m.branchIf(true, in.k)
		return
	case opJMP:
		m.pc = in.k
		m.cycle += 3
		return
	case opIJMP:
		m.branchIf(true, int32(pair(data, regZ))&m.pcMask)
		return
	case opEIJMP:
		m.branchIf(true, m.farCall())
		return
	case opEICALL:
		m.call(m.farCall(), m.pc+1, 3)
		return
	case opBRBS:
		m.branchIf(m.sreg&in.r != 0, in.k)
		return
	case opBRBC:
		m.branchIf(m.sreg&in.r == 0, in.k)
		return
	case opCPSE:
		m.skipIf(d == r, in)
		return
	case opSBRC:
		m.skipIf(d&in.r == 0, in)
		return
	case opSBRS:
		m.skipIf(d&in.r != 0, in)
		return
	case opSBIC:
		m.skipIf(m.load(uint16(in.d))&in.r == 0, in)
		return
	case opSBIS:
		m.skipIf(m.load(uint16(in.d))&in.r != 0, in)
		return
	case opRCALL:
		m.call(in.k, m.pc+1, 3)
		return
	case opICALL:
		m.call(int32(pair(data, regZ))&m.pcMask, m.pc+1, 3)
		return
	case opCALL:
		m.call(in.k, m.pc+2, 4)
		return
	case opRET, opRETI:
		pc, ok := m.popPC()
		if !ok {
			return
		}
		m.pc = pc
		if m.cycle += 4; m.v.wide {
			m.cycle++
		}
		if in.op == opRETI {
			m.sreg |= flagI
			m.interruptsOn()
		}
		return
	case opPUSH:
		m.cycle += 2
		m.push(d)
		m.pc++
		return
	case opPOP:
		if m.sp+1 > m.ramEnd || m.sp+1 < m.sramStart {
			m.emptyStop()
			return
		}
		m.sp++
		data[in.d] = data[m.sp]
		cycles = 2

	case opLDX:
		m.loadVia(in, regX, 0, 0)
		return
	case opLDXInc:
		m.loadVia(in, regX, 0, 1)
		return
	case opLDXDec:
		m.loadVia(in, regX, -1, 0)
		return
	case opLDYInc:
		m.loadVia(in, regY, 0, 1)
		return
	case opLDYDec:
		m.loadVia(in, regY, -1, 0)
		return
	case opLDDY:
		data[in.d] = m.read(2, pair(data, regY)+uint16(in.k))
		m.pc++
		return
	case opLDZInc:
		m.loadVia(in, regZ, 0, 1)
		return
	case opLDZDec:
		m.loadVia(in, regZ, -1, 0)
		return
	case opLDDZ:
		data[in.d] = m.read(2, pair(data, regZ)+uint16(in.k))
		m.pc++
		return
	case opLDS:
		data[in.d] = m.read(2, uint16(in.k))
		m.pc += 2
		return
	case opSTX:
		m.storeVia(in, regX, 0, 0)
		return
	case opSTXInc:
		m.storeVia(in, regX, 0, 1)
		return
	case opSTXDec:
		m.storeVia(in, regX, -1, 0)
		return
	case opSTYInc:
		m.storeVia(in, regY, 0, 1)
		return
	case opSTYDec:
		m.storeVia(in, regY, -1, 0)
		return
	case opSTDY:
		m.write(2, pair(data, regY)+uint16(in.k), d)
		m.pc++
		return
	case opSTZInc:
		m.storeVia(in, regZ, 0, 1)
		return
	case opSTZDec:
		m.storeVia(in, regZ, -1, 0)
		return
	case opSTDZ:
		m.write(2, pair(data, regZ)+uint16(in.k), d)
		m.pc++
		return
	case opSTS:
		m.write(2, uint16(in.k), d)
		m.pc += 2
		return
	case opIN:
		data[in.d] = m.read(1, uint16(in.r))
		m.pc++
		return
	case opOUT:
		m.write(1, uint16(in.d), r)
		m.pc++
		return
	case opSBI, opCBI:
		m.cycle += 2
		m.storeBit(uint16(in.d), in.r, in.op == opSBI)
		m.pc++
		return

	case opStart:
		if in = m.started(); m.stop.Reason == "" {
			m.execute(in)
		}
		return
	case opSLEEP:
		m.cycle++
		m.pc++
		m.fallAsleep()
		return
	case opSPM:
		m.note("unmodelled SPM", "SPM (writing flash) is not modelled; it did nothing")
	case opBREAK:
		m.end(machine.Breakpoint, "a BREAK instruction at 0x%04X, and no debugger to continue", m.pc*2)
		return
	case opErased:
		m.end(machine.OffFlash, "execution reached 0x%04X, where nothing was programmed", m.pc*2)
		return
	default:
		m.end(machine.IllegalOpcode, "0x%04X at 0x%04X is no instruction of this chip",
			uint16(m.flash[2*(m.pc&m.pcMask)])|uint16(m.flash[2*(m.pc&m.pcMask)+1])<<8, m.pc&m.pcMask*2)
		return
	}
	m.cycle += cycles
	m.pc++
}
