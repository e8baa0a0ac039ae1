package pic14

// instruction is a word of flash taken apart.
type instruction struct {
	op   op
	mask uint8  // of the bit, for operations on bits
	f    uint8  // the file register within its bank
	toF  bool   // the result goes to the file register; else to W
	k    uint16 // of literals, and where GOTO and CALL lead within 2 K words
}

type op uint8

// The 35 instructions and the two that the family keeps for older programs (DS33023A, section 29).
const (
	opIllegal op = iota
	opNOP
	opMOVWF
	opCLRW
	opCLRF
	opSUBWF
	opDECF
	opIORWF
	opANDWF
	opXORWF
	opADDWF
	opMOVF
	opCOMF
	opINCF
	opDECFSZ
	opRRF
	opRLF
	opSWAPF
	opINCFSZ
	opBCF
	opBSF
	opBTFSC
	opBTFSS
	opCALL
	opGOTO
	opMOVLW
	opRETLW
	opIORLW
	opANDLW
	opXORLW
	opSUBLW
	opADDLW
	opRETURN
	opRETFIE
	opSLEEP
	opCLRWDT
	opOPTION
	opTRIS

	// Forms that the fast interpreter has for what programs do most. decode makes none of them.
	opClearStatus
	opSetStatus
	opStatusClear // skip if clear
	opStatusSet
	opErased // a word that was never programmed: ADDLW 0xFF
	opPoll   // the head of a loop that waits
	opReach  // not carried out yet, where that is noted down (see cover.go)
)

// bytes are the operations on a register and W, by bits 8 to 11 of the word.
var bytes = [16]op{2: opSUBWF, 3: opDECF, 4: opIORWF, 5: opANDWF, 6: opXORWF, 7: opADDWF, 8: opMOVF, 9: opCOMF,
	10: opINCF, 11: opDECFSZ, 12: opRRF, 13: opRLF, 14: opSWAPF, 15: opINCFSZ}

// literals are the operations on a literal, by bits 8 to 11.
var literals = [16]op{opMOVLW, opMOVLW, opMOVLW, opMOVLW, opRETLW, opRETLW, opRETLW, opRETLW, opIORLW, opANDLW, opXORLW,
	opIllegal, opSUBLW, opSUBLW, opADDLW, opADDLW}

// decode takes a word apart (DS33023A, table 29-2).
func decode(w uint16) instruction {
	w &= 0x3fff
	f, toF := uint8(w&0x7f), w&0x80 != 0
	switch w >> 12 {
	case 1:
		return instruction{op: opBCF + op(w>>10&3), mask: 1 << (w >> 7 & 7), f: f}
	case 2:
		return instruction{op: opCALL + op(w>>11&1), k: w & 0x7ff}
	case 3:
		return instruction{op: literals[w>>8&15], k: w & 0xff}
	}
	switch w >> 8 {
	case 0:
		if toF {
			return instruction{op: opMOVWF, f: f}
		}
		return control(w)
	case 1:
		if toF {
			return instruction{op: opCLRF, f: f}
		}
		return instruction{op: opCLRW}
	}
	return instruction{op: bytes[w>>8], f: f, toF: toF}
}

// control is a word of which the highest seven bits are 0.
func control(w uint16) instruction {
	switch w {
	case 0x00, 0x20, 0x40, 0x60:
		return instruction{op: opNOP}
	case 0x08:
		return instruction{op: opRETURN}
	case 0x09:
		return instruction{op: opRETFIE}
	case 0x62:
		return instruction{op: opOPTION}
	case 0x63:
		return instruction{op: opSLEEP}
	case 0x64:
		return instruction{op: opCLRWDT}
	case 0x65, 0x66, 0x67:
		return instruction{op: opTRIS, f: uint8(w & 7)}
	}
	return instruction{}
}

// fast gives an instruction the form that the fast interpreter has for it.
func fast(in instruction) instruction {
	if in.f == regSTATUS {
		switch in.op {
		case opBCF:
			in.op, in.mask = opClearStatus, in.mask&^(statusTO|statusPD)
		case opBSF:
			in.op, in.mask = opSetStatus, in.mask&^(statusTO|statusPD)
		case opBTFSC:
			in.op = opStatusClear
		case opBTFSS:
			in.op = opStatusSet
		}
	}
	return in
}
