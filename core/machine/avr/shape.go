package avr

import "hemble/core/firmware"

// instructionShape masks the addresses in an instruction (AVR Instruction Set Manual, the encodings of each): the
// targets of jumps, calls and branches, and the data addresses of LDS and STS.
func instructionShape(im *firmware.Image, address uint32) (uint32, uint32) {
	w := im.Word(address)
	switch {
	case w&0xfe0e == 0x940c, w&0xfe0e == 0x940e: // JMP, CALL
		return uint32(w & 0xfe0e), 4
	case w&0xfc0f == 0x9000: // LDS, STS
		return uint32(w), 4
	case w&0xe000 == 0xc000: // RJMP, RCALL
		return uint32(w & 0xf000), 2
	case w&0xf800 == 0xf000: // BRBS, BRBC
		return uint32(w & 0xfc07), 2
	}
	return uint32(w), 2
}
