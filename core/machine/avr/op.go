package avr

// op is an instruction of the AVR instruction set (Microchip DS40002198, "AVR Instruction Set
// Manual"), as far as AVRe and AVRe+ cores have it.
type op uint8

const (
	opIllegal op = iota // no instruction of this chip
	opErased            // a flash word that was never programmed
	opNOP
	opADD
	opADC
	opADIW
	opSUB
	opSUBI
	opSBC
	opSBCI
	opSBIW
	opAND
	opANDI
	opOR
	opORI
	opEOR
	opCOM
	opNEG
	opINC
	opDEC
	opMUL
	opMULS
	opMULSU
	opFMUL
	opFMULS
	opFMULSU
	opRJMP
	opIJMP
	opJMP
	opRCALL
	opICALL
	opCALL
	opRET
	opRETI
	opCPSE
	opCP
	opCPC
	opCPI
	opSBRC
	opSBRS
	opSBIC
	opSBIS
	opBRBS
	opBRBC
	opMOV
	opMOVW
	opLDI
	opLDX
	opLDXInc
	opLDXDec
	opLDYInc
	opLDYDec
	opLDDY
	opLDZInc
	opLDZDec
	opLDDZ
	opLDS
	opSTX
	opSTXInc
	opSTXDec
	opSTYInc
	opSTYDec
	opSTDY
	opSTZInc
	opSTZDec
	opSTDZ
	opSTS
	opLPM0
	opLPM
	opLPMInc
	opSPM
	opELPM0
	opELPM
	opELPMInc
	opEIJMP
	opEICALL
	opIN
	opOUT
	opPUSH
	opPOP
	opLSR
	opROR
	opASR
	opSWAP
	opBSET
	opBCLR
	opSBI
	opCBI
	opBST
	opBLD
	opSLEEP
	opWDR
	opBREAK

	opNative // where a translation can be entered (hot.go)

	opStart // the reset vector: counts a start, then does what is there (see start.go)
	opReach // not carried out yet, where that is noted down (see cover.go)
	// What the skipping of counted loops puts at a loop's head (loops.go).
	opLoopDEC
	opLoopSBIW
	opLoopSUBI
	opLoopSelf
	opPoll // what the skipping of polling loops puts there (polls.go)
)

// instruction is one predecoded flash word: 8 bytes, so that a cache line holds eight.
type instruction struct {
	op   op
	d    uint8 // destination register, or I/O address as a data address
	r    uint8 // source register, bit number or bit mask
	skip uint8 // length in words of the instruction behind this one, for the skips
	k    int32 // immediate, data address, or target as a word address
}

// through is the pointer that a load or a store goes by, what is added to it before and after, and what is added for
// this access alone; ok is false for those that have their address in them.
func (in *instruction) through() (pointer uint8, before, after, offset int32, ok bool) {
	switch in.op {
	case opLDX, opSTX:
		return regX, 0, 0, 0, true
	case opLDXInc, opSTXInc:
		return regX, 0, 1, 0, true
	case opLDXDec, opSTXDec:
		return regX, -1, 0, 0, true
	case opLDYInc, opSTYInc:
		return regY, 0, 1, 0, true
	case opLDYDec, opSTYDec:
		return regY, -1, 0, 0, true
	case opLDDY, opSTDY:
		return regY, 0, 0, in.k, true
	case opLDZInc, opSTZInc, opLPMInc:
		return regZ, 0, 1, 0, true
	case opLDZDec, opSTZDec:
		return regZ, -1, 0, 0, true
	case opLDDZ, opSTDZ:
		return regZ, 0, 0, in.k, true
	}
	return 0, 0, 0, 0, false
}
