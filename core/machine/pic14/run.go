package pic14

// interpret carries out instructions up to the deadline. What touches more than W, STATUS and memory is left to the
// plain interpreter.
func (m *Machine) interpret() {
	for m.cycle < m.deadline {
		limit := m.deadline
		if !m.config.NoSkip {
			limit = min(limit, m.polls.At)
		}
		m.run(limit)
		if m.cycle >= m.deadline {
			return
		}
		if !m.config.NoSkip && m.cycle >= m.polls.At {
			m.polls.Find(m)
			continue
		}
		if m.code[m.pc].op == opPoll {
			if m.polls.Skip(m); m.cycle >= m.deadline {
				return
			}
		}
		m.step()
	}
}

// run carries out instructions that touch only W, STATUS, memory and the stack, up to the limit or to the first one
// that does more. What it needs lives in locals, so that it can stay in processor registers.
func (m *Machine) run(limit int64) {
	var (
		code, ram         = m.code, &m.ram
		readable, written = &m.v.readable, &m.v.written
		pc, mask          = m.pc, m.mask
		cycle             = m.cycle
		w, status         = m.w, m.status
		count             int64
	)
fast:
	for cycle < limit {
		in := &code[pc&mask]
		a := uint16(in.f) | uint16(status&(statusRP0|statusRP1))<<2
		if in.f == regINDF {
			a = uint16(ram[regFSR]) | uint16(status&statusIRP)<<1
		}
		switch in.op {
		case opNOP:
		case opMOVLW:
			w = uint8(in.k)
		case opMOVWF:
			if a = written[a]; a == 0 {
				break fast
			}
			ram[a] = w
		case opMOVF:
			from := readable[a]
			if in.toF {
				from = written[a]
			}
			if from == 0 {
				break fast
			}
			v := ram[from]
			if !in.toF {
				w = v
			}
			status = status&^statusZ | zeroFlag[v]
		case opCLRF:
			if a = written[a]; a == 0 {
				break fast
			}
			ram[a] = 0
			status |= statusZ
		case opCLRW:
			w = 0
			status |= statusZ
		case opADDWF, opSUBWF:
			from := readable[a]
			if in.toF {
				from = written[a]
			}
			if from == 0 {
				break fast
			}
			v, other := ram[from], w
			var r uint8
			status &^= statusC | statusDC | statusZ
			if in.op == opADDWF {
				r = v + other
				if r < v {
					status |= statusC
				}
				if v&15+other&15 > 15 {
					status |= statusDC
				}
			} else {
				r = v - other
				if v >= other {
					status |= statusC
				}
				if v&15 >= other&15 {
					status |= statusDC
				}
			}
			status |= zeroFlag[r]
			if in.toF {
				ram[from] = r
			} else {
				w = r
			}
		case opDECF, opINCF, opIORWF, opANDWF, opXORWF, opCOMF, opSWAPF:
			from := readable[a]
			if in.toF {
				from = written[a]
			}
			if from == 0 {
				break fast
			}
			v := ram[from]
			switch in.op {
			case opDECF:
				v--
			case opINCF:
				v++
			case opIORWF:
				v |= w
			case opANDWF:
				v &= w
			case opXORWF:
				v ^= w
			case opCOMF:
				v = ^v
			default:
				v = v<<4 | v>>4
			}
			if in.op != opSWAPF {
				status = status&^statusZ | zeroFlag[v]
			}
			if in.toF {
				ram[from] = v
			} else {
				w = v
			}
		case opRRF, opRLF:
			from := readable[a]
			if in.toF {
				from = written[a]
			}
			if from == 0 {
				break fast
			}
			v := ram[from]
			var r, c uint8
			if in.op == opRRF {
				r, c = v>>1|status<<7, v&1
			} else {
				r, c = v<<1|status&statusC, v>>7
			}
			status = status&^statusC | c
			if in.toF {
				ram[from] = r
			} else {
				w = r
			}
		case opDECFSZ, opINCFSZ:
			from := readable[a]
			if in.toF {
				from = written[a]
			}
			if from == 0 {
				break fast
			}
			v := ram[from] + 1
			if in.op == opDECFSZ {
				v -= 2
			}
			if in.toF {
				ram[from] = v
			} else {
				w = v
			}
			if v == 0 {
				pc++
				cycle++
			}
		case opBCF:
			if a = written[a]; a == 0 {
				break fast
			}
			ram[a] &^= in.mask
		case opBSF:
			if a = written[a]; a == 0 {
				break fast
			}
			ram[a] |= in.mask
		case opBTFSC, opBTFSS:
			if a = readable[a]; a == 0 {
				break fast
			}
			if (ram[a]&in.mask != 0) == (in.op == opBTFSS) {
				pc++
				cycle++
			}
		case opClearStatus:
			status &^= in.mask
		case opSetStatus:
			status |= in.mask
		case opStatusClear:
			if status&in.mask == 0 {
				pc++
				cycle++
			}
		case opStatusSet:
			if status&in.mask != 0 {
				pc++
				cycle++
			}
		case opGOTO:
			pc = in.k | uint16(ram[regPCLATH]&0x18)<<8
			cycle += 2
			count++
			continue
		case opCALL:
			if m.depth >= 8 {
				break fast
			}
			m.stack[m.sp&7] = (pc + 1) & mask
			m.sp = (m.sp + 1) & 7
			m.depth++
			pc = in.k | uint16(ram[regPCLATH]&0x18)<<8
			cycle += 2
			count++
			continue
		case opRETURN, opRETLW:
			if m.depth <= 0 {
				break fast
			}
			if in.op == opRETLW {
				w = uint8(in.k)
			}
			m.sp = (m.sp - 1) & 7
			m.depth--
			pc = m.stack[m.sp&7]
			cycle += 2
			count++
			continue
		case opIORLW:
			w |= uint8(in.k)
			status = status&^statusZ | zeroFlag[w]
		case opANDLW:
			w &= uint8(in.k)
			status = status&^statusZ | zeroFlag[w]
		case opXORLW:
			w ^= uint8(in.k)
			status = status&^statusZ | zeroFlag[w]
		case opSUBLW:
			v := uint8(in.k)
			status &^= statusC | statusDC | statusZ
			if v >= w {
				status |= statusC
			}
			if v&15 >= w&15 {
				status |= statusDC
			}
			w = v - w
			status |= zeroFlag[w]
		case opADDLW:
			v := uint8(in.k)
			status &^= statusC | statusDC | statusZ
			if v&15+w&15 > 15 {
				status |= statusDC
			}
			if w += v; w < v {
				status |= statusC
			}
			status |= zeroFlag[w]
		default:
			break fast
		}
		pc++
		cycle++
		count++
	}
	m.pc, m.cycle, m.w, m.status = pc&mask, cycle, w, status
	m.counters.Instructions += count
}

// zeroFlag is Z for each result.
var zeroFlag = [256]uint8{0: statusZ}
