package avr

// shape is how a timer counts.
type shape uint8

const (
	normal shape = iota
	clearOnMatch
	fastPWM
	phasePWM // up and down, compare values taken over at TOP
	bothPWM  // up and down, compare values taken over at BOTTOM: phase and frequency correct
)

// Where the highest count comes from.
const (
	topFixed = iota
	topOCRA
	topICR
)

// mode is one row of the tables "Waveform Generation Mode Bit Description" (datasheet tables 15-8,
// 16-4 and 18-8).
type mode struct {
	shape shape
	top   uint8
	fixed uint16
}

// modes8 is by WGM2:0 of the 8-bit timers; rows 4 and 6 are reserved and count as normal.
var modes8 = [8]mode{
	{normal, topFixed, 0xff},
	{phasePWM, topFixed, 0xff},
	{clearOnMatch, topOCRA, 0},
	{fastPWM, topFixed, 0xff},
	{normal, topFixed, 0xff},
	{phasePWM, topOCRA, 0},
	{normal, topFixed, 0xff},
	{fastPWM, topOCRA, 0},
}

// modes16 is by WGM13:0; row 13 is reserved.
var modes16 = [16]mode{
	{normal, topFixed, 0xffff},
	{phasePWM, topFixed, 0x00ff},
	{phasePWM, topFixed, 0x01ff},
	{phasePWM, topFixed, 0x03ff},
	{clearOnMatch, topOCRA, 0},
	{fastPWM, topFixed, 0x00ff},
	{fastPWM, topFixed, 0x01ff},
	{fastPWM, topFixed, 0x03ff},
	{bothPWM, topICR, 0},
	{bothPWM, topOCRA, 0},
	{phasePWM, topICR, 0},
	{phasePWM, topOCRA, 0},
	{clearOnMatch, topICR, 0},
	{normal, topFixed, 0xffff},
	{fastPWM, topICR, 0},
	{fastPWM, topOCRA, 0},
}

func (m mode) pwm() bool  { return m.shape >= fastPWM }
func (m mode) dual() bool { return m.shape >= phasePWM }

// Clock select: log2 of the divider by CS2:0 (datasheet tables 15-9, 16-5, 18-9).
const (
	stopped    = 0xff
	pinFalling = 0xfe
	pinRising  = 0xfd
)

var (
	dividers01 = [8]uint8{stopped, 0, 3, 6, 8, 10, pinFalling, pinRising}
	dividers2  = [8]uint8{stopped, 0, 3, 5, 6, 7, 8, 10}
)

// layout is where a timer's registers, interrupts and pins are.
type layout struct {
	wide                         bool
	dividers                     *[8]uint8
	tifr, timsk                  uint16
	tccra, tccrb, tccrc          uint16 // tccrc 0: none
	tcnt, ocra, ocrb, icr        uint16
	overflow, compareA, compareB uint // vectors
	capture                      uint
	portA, portB                 int // OCnA and OCnB
	maskA, maskB                 uint8
}

const (
	regTIFR0 = 0x35
	regGTCCR = 0x43

	vectorTimer0Overflow = 16
)

var layouts = [3]layout{
	{dividers: &dividers01, tifr: 0x35, timsk: 0x6e, tccra: 0x44, tccrb: 0x45, tcnt: 0x46, ocra: 0x47, ocrb: 0x48,
		compareA: 14, compareB: 15, overflow: 16, portA: 2, maskA: 1 << 6, portB: 2, maskB: 1 << 5},
	{wide: true, dividers: &dividers01, tifr: 0x36, timsk: 0x6f, tccra: 0x80, tccrb: 0x81, tccrc: 0x82, tcnt: 0x84, icr: 0x86, ocra: 0x88, ocrb: 0x8a,
		capture: 10, compareA: 11, compareB: 12, overflow: 13, portA: 0, maskA: 1 << 1, portB: 0, maskB: 1 << 2},
	{dividers: &dividers2, tifr: 0x37, timsk: 0x70, tccra: 0xb0, tccrb: 0xb1, tcnt: 0xb2, ocra: 0xb3, ocrb: 0xb4,
		compareA: 7, compareB: 8, overflow: 9, portA: 0, maskA: 1 << 3, portB: 2, maskB: 1 << 3},
}
