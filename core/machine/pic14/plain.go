package pic14

import "hemble/core/machine"

// The plain interpreter: one instruction after the other, each by its description in the reference manual (DS33023A,
// section 29). The fast interpreter leaves to it what touches more than memory.

// step carries out the instruction at the program counter.
func (m *Machine) step() {
	if m.cover != nil && m.code[m.pc].op == opReach {
		m.reach()
	}
	m.counters.Instructions++
	m.execute(m.plain[m.pc])
}

// execute carries out an instruction. What it does happens at m.cycle; then that is moved on.
func (m *Machine) execute(in instruction) {
	next, cycles := m.pc+1, int64(1)
	m.skipped = next + 1
	switch in.op {
	case opErased:
		if !m.runsErased {
			m.runsErased = true
			m.note("erased", "the program ran into flash that was never programmed, at 0x%04X: the chip does nothing "+
				"there and comes back to address 0 at the end of flash", m.pc)
		}
		m.w = m.add(m.w, 0xff)
	case opNOP:
	case opMOVWF:
		m.write(m.address(in.f), m.w)
	case opCLRW:
		m.w = 0
		m.zero(0)
	case opCLRF:
		m.put(in, m.zero(0))
	case opSUBWF:
		m.result(in, m.subtract(m.read(m.address(in.f)), m.w))
	case opADDWF:
		m.result(in, m.add(m.read(m.address(in.f)), m.w))
	case opDECF:
		m.result(in, m.zero(m.read(m.address(in.f))-1))
	case opINCF:
		m.result(in, m.zero(m.read(m.address(in.f))+1))
	case opIORWF:
		m.result(in, m.zero(m.read(m.address(in.f))|m.w))
	case opANDWF:
		m.result(in, m.zero(m.read(m.address(in.f))&m.w))
	case opXORWF:
		m.result(in, m.zero(m.read(m.address(in.f))^m.w))
	case opMOVF:
		m.result(in, m.zero(m.read(m.address(in.f))))
	case opCOMF:
		m.result(in, m.zero(^m.read(m.address(in.f))))
	case opSWAPF:
		v := m.read(m.address(in.f))
		m.result(in, v<<4|v>>4)
	case opRRF:
		v := m.read(m.address(in.f))
		r := v>>1 | m.status<<7
		m.carry(v&1 != 0)
		m.result(in, r)
	case opRLF:
		v := m.read(m.address(in.f))
		r := v<<1 | m.status&statusC
		m.carry(v&0x80 != 0)
		m.result(in, r)
	case opDECFSZ, opINCFSZ:
		v := m.read(m.address(in.f))
		if in.op == opDECFSZ {
			v--
		} else {
			v++
		}
		m.result(in, v)
		if v == 0 {
			next, cycles = m.skipped, 2
		}
	case opBCF, opBSF:
		a := m.address(in.f)
		v := m.read(a) &^ in.mask
		if in.op == opBSF {
			v |= in.mask
		}
		m.write(a, v)
	case opBTFSC, opBTFSS:
		if (m.read(m.address(in.f))&in.mask != 0) == (in.op == opBTFSS) {
			next, cycles = m.skipped, 2
		}
	case opCALL:
		m.push(next)
		next, cycles = m.target(in.k), 2
	case opGOTO:
		next, cycles = m.target(in.k), 2
	case opRETURN:
		next, cycles = m.pop(), 2
	case opRETLW:
		m.w = uint8(in.k)
		next, cycles = m.pop(), 2
	case opRETFIE:
		next, cycles = m.pop(), 2
		m.ram[regINTCON] |= bitGIE
		m.requests(m.cycle + 1)
	case opMOVLW:
		m.w = uint8(in.k)
	case opIORLW:
		m.w = m.zero(m.w | uint8(in.k))
	case opANDLW:
		m.w = m.zero(m.w & uint8(in.k))
	case opXORLW:
		m.w = m.zero(m.w ^ uint8(in.k))
	case opSUBLW:
		m.w = m.subtract(uint8(in.k), m.w)
	case opADDLW:
		m.w = m.add(m.w, uint8(in.k))
	case opCLRWDT:
		m.dog.clear(m)
		m.status |= statusTO | statusPD
	case opSLEEP:
		m.dog.clear(m)
		m.status = m.status&^statusPD | statusTO
		m.fallAsleep()
	case opOPTION:
		m.write(regOPTION, m.w)
	case opTRIS:
		m.write(0x80+uint16(in.f), m.w)
	default:
		m.end(machine.IllegalOpcode, "the word 0x%04X at 0x%04X is no instruction", m.flash[m.pc], m.pc)
		return
	}
	m.cycle += cycles
	if m.jumped { // the result went to the program counter
		m.jumped = false
		m.cycle += 2 - cycles
		return
	}
	m.pc = next & m.mask
}

// address is that of a file register: its bank is in STATUS, and register 0 is the one that FSR points to
// (DS33023A, 6.4).
func (m *Machine) address(f uint8) uint16 {
	if f == regINDF {
		return uint16(m.ram[regFSR]) | uint16(m.status&statusIRP)<<1
	}
	return uint16(f) | uint16(m.status&(statusRP0|statusRP1))<<2
}

// target is where GOTO and CALL lead: 11 bits of the word, the others of PCLATH (6.3.1).
func (m *Machine) target(k uint16) uint16 { return (k | uint16(m.ram[regPCLATH]&0x18)<<8) & m.mask }

// result puts a result into W or back where it came from.
func (m *Machine) result(in instruction, v uint8) {
	if !in.toF {
		m.w = v
		return
	}
	m.put(in, v)
}

// put writes a result. Where it goes to STATUS, flags that the operation sets are not written (DS33023A, 5.3).
func (m *Machine) put(in instruction, v uint8) {
	a, flags := m.address(in.f), m.status
	if m.write(a, v); m.v.at[a] == regSTATUS {
		m.status = m.status&^affected[in.op] | flags&affected[in.op]
	}
}

// affected are the flags that operations with a destination set.
var affected = [opTRIS + 1]uint8{opCLRF: statusZ, opSUBWF: statusC | statusDC | statusZ,
	opADDWF: statusC | statusDC | statusZ,
	opDECF:  statusZ, opINCF: statusZ, opIORWF: statusZ, opANDWF: statusZ, opXORWF: statusZ, opMOVF: statusZ,
	opCOMF: statusZ, opRRF: statusC, opRLF: statusC}

func (m *Machine) zero(v uint8) uint8 {
	m.status &^= statusZ
	if v == 0 {
		m.status |= statusZ
	}
	return v
}

func (m *Machine) carry(on bool) {
	m.status &^= statusC
	if on {
		m.status |= statusC
	}
}

func (m *Machine) add(a, b uint8) uint8 {
	m.carry(int(a)+int(b) > 0xff)
	m.status &^= statusDC
	if a&15+b&15 > 15 {
		m.status |= statusDC
	}
	return m.zero(a + b)
}

// subtract is a - b; C and DC are set where nothing is borrowed.
func (m *Machine) subtract(a, b uint8) uint8 {
	m.carry(a >= b)
	m.status &^= statusDC
	if a&15 >= b&15 {
		m.status |= statusDC
	}
	return m.zero(a - b)
}

// push and pop are the stack of eight return addresses, which runs round (6.3.2).
func (m *Machine) push(pc uint16) {
	m.stack[m.sp&7] = pc & m.mask
	m.sp = (m.sp + 1) & 7
	if m.depth++; m.depth > 8 {
		m.depth = 8
		m.note("stack-wraps", "the ninth return address was put on the stack of eight at 0x%04X: the first one is lost",
			m.pc)
	}
}

func (m *Machine) pop() uint16 {
	m.sp = (m.sp - 1) & 7
	if m.depth--; m.depth < 0 {
		m.depth = 0
		m.note("stack-underflow", "a return at 0x%04X took an address from a stack that has none: the chip goes where the "+
			"last one of eight leads", m.pc)
	}
	return m.stack[m.sp&7] & m.mask
}
