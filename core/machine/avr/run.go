package avr

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

// interpret executes instructions until the deadline. What run leaves to it, because it touches
// more than registers and SRAM, is done by the plain interpreter; so are the heads of counted loops
// after most of the loop was skipped. What was translated is left to the translation.
func (m *Machine) interpret() {
	m.unlike++
	for {
		limit := m.deadline
		if !m.config.NoSkip {
			limit = min(limit, m.polls.At)
		}
		watching := m.heat.left > 0
		if watching {
			m.watch()
			limit = min(limit, m.cycle+1)
		}
		pc, cycle, sreg, count := m.v.run(m, m.pc, m.cycle, m.sreg, limit)
		m.pc, m.cycle, m.sreg = pc&m.pcMask, cycle, sreg
		m.counters.Instructions += count
		if m.cycle >= m.deadline {
			return
		}
		if !m.config.NoSkip && m.cycle >= m.polls.At {
			m.polls.Find(m)
			m.warm()
			continue
		}
		if watching && m.cycle >= limit {
			continue
		}
		if m.code[m.pc].op == opNative && m.quickly(limit) {
			if m.cycle >= m.deadline {
				return
			}
			continue
		}
		if m.code[m.pc].op == opReach {
			m.reach()
			continue
		}
		m.counters.Instructions++
		if in := &m.code[m.pc]; in.op == opPoll {
			if m.polls.Skip(m); m.cycle >= m.deadline {
				return
			}
		} else if in.op >= opLoopDEC {
			m.cycle += skipLoop(m.data, in, m.cycle, m.deadline)
			if m.cycle >= m.deadline {
				return
			}
		} else if in.op == opOUT || in.op == opSBI || in.op == opCBI {
			if m.quickPort(in) {
				if m.counters.Edges >= m.rounds.at {
					m.round()
				}
				if m.cycle >= m.deadline {
					m.pc &= m.pcMask
					return
				}
				continue
			}
		}
		if m.execute(m.reference[m.pc]); m.cycle >= m.deadline {
			m.pc &= m.pcMask
			return
		}
	}
}

// words and memory are the sizes of flash and the bounds of SRAM that variants have, as lengths of arrays that take no
// room: run is compiled once for each variant, with its sizes as constants, which a tenth of its speed is connected to.
type (
	words interface {
		~[0x1000]struct{} | ~[0x2000]struct{} | ~[0x4000]struct{} | ~[0x20000]struct{}
	}
	memory interface {
		~[0x60]struct{} | ~[0x100]struct{} | ~[0x200]struct{} | ~[0x25f]struct{} | ~[0x45f]struct{} | ~[0x4ff]struct{} |
			~[0x8ff]struct{} | ~[0xaff]struct{} | ~[0x21ff]struct{}
	}
)

// run executes instructions that touch only registers and SRAM, up to the limit or to the first one
// that does more. The program counter, the cycle count and SREG live in locals, and nothing in here
// calls anything, so that they can stay in processor registers.
func run[W words, S, E memory](m *Machine, pc int32, cyc int64, sreg uint8, limit int64) (int32, int64, uint8, int64) {
	var (
		w W
		s S
		e E
	)
	data := m.data
	code, pcMask := m.code[:len(w)], int32(len(w)-1) // whose length is known, so that no access is checked
	start, end, wide := uint16(len(s)), uint16(len(e)), len(w) > 0x10000
	size := end - start
	count := int64(-1)
fast:
	for {
		count++
		if cyc >= limit {
			break
		}
		in := &code[pc&pcMask]
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
			if !m.v.isPlain[in.d] {
				break fast
			}
			if (m.io[m.v.registers[in.d].at]&in.r != 0) == (in.op == opSBIS) {
				pc += 1 + int32(in.skip)
				cyc += 1 + int64(in.skip)
			} else {
				pc++
				cyc++
			}

		case opRCALL, opICALL, opCALL:
			sp := m.sp
			if wide || sp-1-m.stackFloor > size || sp > end {
				break fast
			}
			back, target, cycles := pc+1, in.k, int64(3)
			if in.op == opCALL {
				back, cycles = pc+2, 4
			} else if in.op == opICALL {
				target = int32(pair(data, regZ)) & pcMask
			}
			data[sp] = uint8(back)
			data[sp-1] = uint8(back >> 8)
			m.sp = sp - 2
			pc = target
			cyc += cycles
		case opRET:
			sp := m.sp
			if wide || sp > end-2 {
				break fast
			}
			pc = (int32(data[sp+1])<<8 | int32(data[sp+2])) & pcMask
			m.sp = sp + 2
			cyc += 4
		case opRETI:
			sp := m.sp
			if wide || sp > end-2 || m.irq != 0 {
				break fast
			}
			pc = (int32(data[sp+1])<<8 | int32(data[sp+2])) & pcMask
			m.sp = sp + 2
			sreg |= flagI
			m.noIRQBefore = cyc + 5
			cyc += 4
		case opPUSH:
			sp := m.sp
			if sp-m.stackFloor > size || sp > end {
				break fast
			}
			data[sp] = data[in.d]
			m.sp = sp - 1
			cyc += 2
			pc++
		case opPOP:
			sp := m.sp + 1
			if sp > end || sp < start {
				break fast
			}
			data[in.d] = data[sp]
			m.sp = sp
			cyc += 2
			pc++

		case opLDX:
			p := pair(data, regX)
			if p-start > size {
				break fast
			}
			data[in.d] = data[p]
			cyc += 2
			pc++
		case opLDXInc:
			p := pair(data, regX)
			if p-start > size {
				break fast
			}
			data[in.d] = data[p]
			setPair(data, regX, p+1)
			cyc += 2
			pc++
		case opLDXDec:
			p := pair(data, regX) - 1
			if p-start > size {
				break fast
			}
			data[in.d] = data[p]
			setPair(data, regX, p)
			cyc += 2
			pc++
		case opLDYInc:
			p := pair(data, regY)
			if p-start > size {
				break fast
			}
			data[in.d] = data[p]
			setPair(data, regY, p+1)
			cyc += 2
			pc++
		case opLDYDec:
			p := pair(data, regY) - 1
			if p-start > size {
				break fast
			}
			data[in.d] = data[p]
			setPair(data, regY, p)
			cyc += 2
			pc++
		case opLDDY:
			p := pair(data, regY) + uint16(in.k)
			if p-start > size {
				break fast
			}
			data[in.d] = data[p]
			cyc += 2
			pc++
		case opLDZInc:
			p := pair(data, regZ)
			if p-start > size {
				break fast
			}
			data[in.d] = data[p]
			setPair(data, regZ, p+1)
			cyc += 2
			pc++
		case opLDZDec:
			p := pair(data, regZ) - 1
			if p-start > size {
				break fast
			}
			data[in.d] = data[p]
			setPair(data, regZ, p)
			cyc += 2
			pc++
		case opLDDZ:
			p := pair(data, regZ) + uint16(in.k)
			if p-start > size {
				break fast
			}
			data[in.d] = data[p]
			cyc += 2
			pc++
		case opLDS:
			p := uint16(in.k)
			if p-start > size {
				break fast
			}
			data[in.d] = data[p]
			cyc += 2
			pc += 2
		case opSTX:
			p := pair(data, regX)
			if p-start > size {
				break fast
			}
			data[p] = data[in.d]
			cyc += 2
			pc++
		case opSTXInc:
			p, v := pair(data, regX), data[in.d]
			if p-start > size {
				break fast
			}
			setPair(data, regX, p+1)
			data[p] = v
			cyc += 2
			pc++
		case opSTXDec:
			p, v := pair(data, regX)-1, data[in.d]
			if p-start > size {
				break fast
			}
			setPair(data, regX, p)
			data[p] = v
			cyc += 2
			pc++
		case opSTYInc:
			p, v := pair(data, regY), data[in.d]
			if p-start > size {
				break fast
			}
			setPair(data, regY, p+1)
			data[p] = v
			cyc += 2
			pc++
		case opSTYDec:
			p, v := pair(data, regY)-1, data[in.d]
			if p-start > size {
				break fast
			}
			setPair(data, regY, p)
			data[p] = v
			cyc += 2
			pc++
		case opSTDY:
			p := pair(data, regY) + uint16(in.k)
			if p-start > size {
				break fast
			}
			data[p] = data[in.d]
			cyc += 2
			pc++
		case opSTZInc:
			p, v := pair(data, regZ), data[in.d]
			if p-start > size {
				break fast
			}
			setPair(data, regZ, p+1)
			data[p] = v
			cyc += 2
			pc++
		case opSTZDec:
			p, v := pair(data, regZ)-1, data[in.d]
			if p-start > size {
				break fast
			}
			setPair(data, regZ, p)
			data[p] = v
			cyc += 2
			pc++
		case opSTDZ:
			p := pair(data, regZ) + uint16(in.k)
			if p-start > size {
				break fast
			}
			data[p] = data[in.d]
			cyc += 2
			pc++
		case opSTS:
			p := uint16(in.k)
			if p-start > size {
				break fast
			}
			data[p] = data[in.d]
			cyc += 2
			pc += 2

		case opLPM0:
			data[0] = m.flash[int(pair(data, regZ))&(len(m.flash)-1)]
			cyc += 3
			pc++
		case opLPM:
			data[in.d] = m.flash[int(pair(data, regZ))&(len(m.flash)-1)]
			cyc += 3
			pc++
		case opLPMInc:
			z := pair(data, regZ)
			data[in.d] = m.flash[int(z)&(len(m.flash)-1)]
			setPair(data, regZ, z+1)
			cyc += 3
			pc++
		case opIN:
			if in.r == regSREG {
				data[in.d] = sreg
			} else if m.v.isPlain[in.r] {
				data[in.d] = m.io[m.v.registers[in.r].at]
			} else {
				break fast
			}
			cyc++
			pc++
		case opOUT:
			if in.d != regSREG {
				break fast
			}
			v := data[in.r]
			if v&^sreg&flagI != 0 {
				if m.irq != 0 {
					break fast
				}
				m.noIRQBefore = cyc + 2
			}
			sreg = v
			cyc++
			pc++
		case opBSET:
			if in.r&^sreg&flagI != 0 {
				if m.irq != 0 {
					break fast
				}
				m.noIRQBefore = cyc + 2
			}
			sreg |= in.r
			cyc++
			pc++
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

		default: // rare, or a loop head
			break fast
		}
	}
	return pc, cyc, sreg, count
}
