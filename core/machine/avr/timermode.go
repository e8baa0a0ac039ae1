package avr

// shape is how a timer counts.
type shape uint8

const (
	normal shape = iota
	clearOnMatch
	fastPWM
	phasePWM // up and down, compare values applied at TOP
	bothPWM  // up and down, compare values applied at BOTTOM: phase and frequency correct
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
	dividers01 = []uint8{stopped, 0, 3, 6, 8, 10, pinFalling, pinRising}
	dividers2  = []uint8{stopped, 0, 3, 5, 6, 7, 8, 10}
)

// timerLayout is where a timer's registers, interrupts and pins are.
type timerLayout struct {
	wide                bool    // 16 bits, with input capture
	async               bool    // it has a prescaler of its own
	number              string  // in names; "" for its place in the list
	dividers            []uint8 // by CS
	modes               []mode  // by WGM; nil for the usual ones
	most                uint16  // the highest count of one of neither 8 nor 16 bits; else 0
	top                 uint16  // what the register for TOP holds after a reset
	topOverflows        bool    // the overflow flag comes at TOP in every mode
	tifr, timsk         uint16
	tccra, tccrb, tccrc uint16 // tccrc 0: none
	tcnt, icr           uint16
	ocr                 []uint16 // of its compare channels, A first
	overflow, capture   uint     // vectors
	compare             []uint
	outputs             []pinAt // OCnA and so on
	clockPin            pinAt   // Tn; without a mask where there is none
	capturePin          pinAt   // ICPn
	captureSlot         int     // which of the variant's capture events is its own
}

const (
	regTIFR0 = 0x35
	regGTCCR = 0x43
)
