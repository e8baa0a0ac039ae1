package avr

// The places of the ATmega328P that tests write out.
const (
	sramStart = 0x100
	ramEnd    = 0x8ff

	vectorINT0, vectorPCINT0   = 1, 3
	regDIDR0, regDIDR1, regPRR = 0x7e, 0x7f, 0x64

	pinSS, pinMOSI, pinMISO, pinSCK = 1 << 2, 1 << 3, 1 << 4, 1 << 5
	pinSDA, pinSCL                  = 1 << 4, 1 << 5
)
