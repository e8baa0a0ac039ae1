package avr

import "hemble/core/firmware"

// callers looks through the bytes of a stack for return addresses of two or three bytes: word addresses, high byte
// first (instruction set manual, CALL), behind an instruction that is a call. Registers that were pushed in between are
// passed over; one that looks like a return address is taken for one.
func callers(size int) func(im *firmware.Image, stack []uint8) []uint32 {
	return func(im *firmware.Image, stack []uint8) (out []uint32) {
		for i := 0; i+size <= len(stack); i++ {
			back := uint32(0)
			for _, b := range stack[i : i+size] {
				back = back<<8 | uint32(b)
			}
			switch back *= 2; {
			case back >= 4 && isCall(im.Word(back-4)):
				out = append(out, back-4)
			case back >= 2 && isShortCall(im.Word(back-2)):
				out = append(out, back-2)
			default:
				continue
			}
			i += size - 1
		}
		return out
	}
}

func isCall(word uint16) bool { return word&0xfe0e == 0x940e }

// isShortCall tells RCALL, ICALL and EICALL.
func isShortCall(word uint16) bool {
	return word&0xf000 == 0xd000 || word == 0x9509 || word == 0x9519
}
