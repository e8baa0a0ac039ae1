package avr

// isLong reports whether a word starts a two-word instruction: LDS, STS, JMP, CALL.
func isLong(w uint16) bool {
	return w&0xfc0f == 0x9000 || w&0xfe0c == 0x940c
}

// decode reads the instruction at word address pc; next is the word behind it. wide chips have instructions for more
// than 128 KB.
func decode(pc int, w, next uint16, pcMask int32, wide bool) instruction {
	d5 := uint8(w >> 4 & 31)
	r5 := uint8(w&15 | w>>5&16)
	d4 := uint8(16 + (w >> 4 & 15))
	imm := int32(w>>4&0xf0 | w&15)
	two := func(o op) instruction { return instruction{op: o, d: d5, r: r5} }
	immediate := func(o op) instruction { return instruction{op: o, d: d4, k: imm} }

	switch w >> 12 {
	case 0x0:
		switch w >> 10 & 3 {
		case 1:
			return two(opCPC)
		case 2:
			return two(opSBC)
		case 3:
			return two(opADD)
		}
		switch w >> 8 & 3 {
		case 0:
			if w == 0 {
				return instruction{op: opNOP}
			}
			return instruction{op: opIllegal}
		case 1:
			return instruction{op: opMOVW, d: uint8(w>>4&15) * 2, r: uint8(w&15) * 2}
		case 2:
			return instruction{op: opMULS, d: uint8(16 + (w >> 4 & 15)), r: uint8(16 + (w & 15))}
		}
		in := instruction{d: uint8(16 + (w >> 4 & 7)), r: uint8(16 + (w & 7))}
		in.op = [...]op{opMULSU, opFMUL, opFMULS, opFMULSU}[w>>6&2|w>>3&1]
		return in
	case 0x1:
		return two([...]op{opCPSE, opCP, opSUB, opADC}[w>>10&3])
	case 0x2:
		return two([...]op{opAND, opEOR, opOR, opMOV}[w>>10&3])
	case 0x3:
		return immediate(opCPI)
	case 0x4:
		return immediate(opSBCI)
	case 0x5:
		return immediate(opSUBI)
	case 0x6:
		return immediate(opORI)
	case 0x7:
		return immediate(opANDI)
	case 0x8, 0xa: // LDD, STD
		q := int32(w&7 | w>>7&0x18 | w>>8&0x20)
		o := [...]op{opLDDZ, opLDDY, opSTDZ, opSTDY}[w>>8&2|w>>3&1]
		return instruction{op: o, d: d5, k: q}
	case 0x9:
		return decode9(w, next, d5, r5, pcMask, wide)
	case 0xb:
		io := uint8(w&15|w>>5&0x30) + 0x20
		if w&0x0800 == 0 {
			return instruction{op: opIN, d: d5, r: io}
		}
		return instruction{op: opOUT, d: io, r: d5}
	case 0xc, 0xd:
		offset := int32(int16(w<<4) >> 4)
		o := opRJMP
		if w>>12 == 0xd {
			o = opRCALL
		}
		return instruction{op: o, k: (int32(pc) + 1 + offset) & pcMask}
	case 0xe:
		return immediate(opLDI)
	}
	// 0xf: branches and single bits
	bit := uint8(1) << (w & 7)
	if w&0x0800 == 0 {
		target := (int32(pc) + 1 + int32(int16(w<<6)>>9)) & pcMask
		o := opBRBS
		if w&0x0400 != 0 {
			o = opBRBC
		}
		return instruction{op: o, r: bit, k: target}
	}
	if w&8 != 0 && w != 0xffff { // reserved; an erased word acts as SBRS r31,7 on the silicon
		return instruction{op: opIllegal}
	}
	return instruction{op: [...]op{opBLD, opBST, opSBRC, opSBRS}[w>>9&3], d: d5, r: bit}
}

// decode9 reads the 1001 group: loads and stores, one-operand arithmetic, word immediates, bits of
// I/O registers, multiplication, absolute jumps.
func decode9(w, next uint16, d5, r5 uint8, pcMask int32, wide bool) instruction {
	one := func(o op) instruction { return instruction{op: o, d: d5} }
	switch w >> 9 & 7 {
	case 0, 1: // 1001 000d dddd xxxx, 1001 001d dddd xxxx
		load := [16]op{opLDS, opLDZInc, opLDZDec, 0, opLPM, opLPMInc, 0, 0, 0, opLDYInc, opLDYDec, 0, opLDX, opLDXInc,
			opLDXDec, opPOP}
		store := [16]op{opSTS, opSTZInc, opSTZDec, 0, 0, 0, 0, 0, 0, opSTYInc, opSTYDec, 0, opSTX, opSTXInc, opSTXDec,
			opPUSH}
		in := one(load[w&15])
		if w&0x0200 != 0 {
			in = one(store[w&15])
		}
		if w&15 == 0 {
			in.k = int32(next)
		}
		if wide && w&0x0200 == 0 && w&14 == 6 {
			in = one([...]op{opELPM, opELPMInc}[w&1])
		}
		return in
	case 2: // 1001 010
		switch w & 15 {
		case 0x8:
			if w&0x0100 == 0 {
				o := opBSET
				if w&0x80 != 0 {
					o = opBCLR
				}
				return instruction{op: o, r: 1 << (w >> 4 & 7)}
			}
			switch w >> 4 & 15 {
			case 0x0:
				return instruction{op: opRET}
			case 0x1:
				return instruction{op: opRETI}
			case 0x8:
				return instruction{op: opSLEEP}
			case 0x9:
				return instruction{op: opBREAK}
			case 0xa:
				return instruction{op: opWDR}
			case 0xc:
				return instruction{op: opLPM0}
			case 0xe:
				return instruction{op: opSPM}
			}
			if wide && w>>4&15 == 0xd {
				return instruction{op: opELPM0}
			}
			return instruction{op: opIllegal} // SPM Z+
		case 0x9:
			switch w {
			case 0x9409:
				return instruction{op: opIJMP}
			case 0x9509:
				return instruction{op: opICALL}
			}
			switch {
			case wide && w == 0x9419:
				return instruction{op: opEIJMP}
			case wide && w == 0x9519:
				return instruction{op: opEICALL}
			}
			return instruction{op: opIllegal}
		case 0xc, 0xd, 0xe, 0xf:
			target := (int32(w&1|w>>3&0x3e)<<16 | int32(next)) & pcMask
			o := opJMP
			if w&2 != 0 {
				o = opCALL
			}
			return instruction{op: o, k: target}
		}
		return one([16]op{opCOM, opNEG, opSWAP, opINC, 0, opASR, opLSR, opROR, 0, 0, opDEC}[w&15]) // 0xb is DES
	case 3: // ADIW, SBIW
		in := instruction{op: opADIW, d: 24 + uint8(w>>3&6), k: int32(w&15 | w>>2&0x30)}
		if w&0x0100 != 0 {
			in.op = opSBIW
		}
		return in
	case 4, 5: // CBI, SBIC, SBI, SBIS
		o := [...]op{opCBI, opSBIC, opSBI, opSBIS}[w>>8&3]
		return instruction{op: o, d: uint8(w>>3&31) + 0x20, r: 1 << (w & 7)}
	}
	return instruction{op: opMUL, d: d5, r: r5}
}
