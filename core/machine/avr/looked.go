package avr

// looked returns the bits of the byte that the instruction at hand reads which the program goes on to use: a program
// that reads a port to see one of its pins does not care what the others are at. All bits where that cannot be told
// from the next few instructions.
func (m *Machine) looked() uint8 {
	in := m.reference[m.pc&m.pcMask]
	pc := m.pc + 1
	switch in.op {
	case opSBIC, opSBIS:
		return in.r
	case opLDS:
		pc++
	case opIN, opLDX, opLDXInc, opLDXDec, opLDYInc, opLDYDec, opLDDY, opLDZInc, opLDZDec, opLDDZ:
	default:
		return 0xff
	}
	byteIn, others := in.d, [32]uint8(m.data[:32]) // what the registers will hold, as far as that is followed
	for range 4 {
		switch n := m.reference[pc&m.pcMask]; {
		case n.op == opAND && n.d == byteIn:
			return others[n.r]
		case n.op == opAND && n.r == byteIn:
			return others[n.d]
		case n.op == opANDI && n.d == byteIn:
			return uint8(n.k)
		case (n.op == opSBRC || n.op == opSBRS || n.op == opBST) && n.d == byteIn:
			return n.r
		case n.op == opCOM && n.d == byteIn || n.op == opNOP:
		case n.op == opMOV && n.r == byteIn:
			byteIn = n.d
		case n.op == opMOV && n.d != byteIn:
			others[n.d] = others[n.r]
		case n.op == opLDI && n.d != byteIn:
			others[n.d] = uint8(n.k)
		default:
			return 0xff
		}
		pc++
	}
	return 0xff
}
