package avr

// Bits of SREG (ATmega328P datasheet DS40002061, 7.3 "Status Register").
const (
	flagC = 1 << iota
	flagZ
	flagN
	flagV
	flagS
	flagH
	flagT
	flagI

	arithmetic = flagC | flagZ | flagN | flagV | flagS | flagH
	logic      = flagZ | flagN | flagV | flagS
)

// The flags that an addition or subtraction of two bytes leaves, by carry, first and second
// operand; those of results of logic operations, INC and DEC by result.
var (
	addFlags   [2 << 16]uint8
	subFlags   [2 << 16]uint8
	logicFlags [256]uint8
	incFlags   [256]uint8
	decFlags   [256]uint8
)

func init() {
	for c := 0; c < 2; c++ {
		for a := 0; a < 256; a++ {
			for b := 0; b < 256; b++ {
				i := c<<16 | a<<8 | b
				sum := a + b + c
				addFlags[i] = flags(sum > 255, uint8(sum), (a^sum)&(b^sum)&0x80 != 0, a&15+b&15+c > 15)
				difference := a - b - c
				subFlags[i] = flags(difference < 0, uint8(difference), (a^b)&(a^difference)&0x80 != 0, a&15 < b&15+c)
			}
		}
	}
	for r := 0; r < 256; r++ {
		logicFlags[r] = flags(false, uint8(r), false, false)
		incFlags[r] = flags(false, uint8(r), r == 0x80, false)
		decFlags[r] = flags(false, uint8(r), r == 0x7f, false)
	}
}

// flags packs C, Z, N, V, S = N xor V and H for a result.
func flags(carry bool, result uint8, overflow, half bool) uint8 {
	f := uint8(0)
	if carry {
		f |= flagC
	}
	if result == 0 {
		f |= flagZ
	}
	if result&0x80 != 0 {
		f |= flagN
	}
	if overflow {
		f |= flagV
	}
	if (result&0x80 != 0) != overflow {
		f |= flagS
	}
	if half {
		f |= flagH
	}
	return f
}

// wordFlags are those of ADIW and SBIW: H is left alone.
func wordFlags(r uint16, carry, overflow bool) uint8 {
	f := uint8(0)
	if carry {
		f |= flagC
	}
	if r == 0 {
		f |= flagZ
	}
	if r&0x8000 != 0 {
		f |= flagN
	}
	if overflow {
		f |= flagV
	}
	if (r&0x8000 != 0) != overflow {
		f |= flagS
	}
	return f
}

// shiftFlags are those of LSR, ROR and ASR: V = N xor C, S = N xor V.
func shiftFlags(r, carry uint8) uint8 {
	f := logicFlags[r]&^flagS | carry
	if r>>7 != carry {
		f |= flagV
	}
	if carry != 0 {
		f |= flagS
	}
	return f
}

func product(data *[0x10000]byte, sreg uint8, p uint16) uint8 {
	setPair(data, 0, p)
	sreg = sreg&^(flagC|flagZ) | uint8(p>>15)
	if p == 0 {
		sreg |= flagZ
	}
	return sreg
}

// fraction stores a product shifted left: the FMUL forms.
func fraction(data *[0x10000]byte, sreg uint8, p uint16) uint8 {
	setPair(data, 0, p<<1)
	sreg = sreg&^(flagC|flagZ) | uint8(p>>15)
	if p<<1 == 0 {
		sreg |= flagZ
	}
	return sreg
}
