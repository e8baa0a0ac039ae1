package avr

import "hemble/core/clock"

// What the fast timers have in common, Timer/Counter 1 of the ATtiny85 (DS2586, 12) and Timer/Counter 4 of the
// ATmega32U4 (DS7766, 15): a divider of 14 steps, a register of its own for TOP, and a clock from a PLL. They are
// timers like the others behind registers of their own; where those are kept, no chip has anything.
const (
	regFastTIFR  = 0x180
	regFastTIMSK = 0x181
	regFastA     = 0x182 // outputs A, B and D from bit 7 on, and which mode
	regFastB     = 0x183 // the divider
	regFastTCNT  = 0x184
	regFastOCRA  = 0x186
	regFastOCRB  = 0x188
	regFastOCRD  = 0x18a
)

// dividersFast are those of CS3:0.
var dividersFast = []uint8{stopped, 0, 1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11, 12, 13, 14}

// fastA gathers what decides outputs and mode: COM of three channels, and the mode's number.
func fastA(a, b, d, mode uint8) uint8 { return a<<6 | b<<4 | d<<2 | mode }

// whileComplementary is COM of a channel in a PWM mode: 01 has the pin and its complement, of which only the pin is
// modelled.
func (m *Machine) whileComplementary(com uint8, pwm bool) uint8 {
	if com&3 == 1 && pwm {
		m.note("unmodelled complementary", "the complementary outputs of the fast timer are not modelled: only the pin "+
			"itself is driven")
		return 2
	}
	return com & 3
}

// pll is the PLL of some chips. It locks after 100 µs (DS2586, table 21-4).
type pll struct{ since clock.Time }

const (
	regPLLCSR = 0x49
	bitPLLE   = 1 << 1
	bitPCKE   = 1 << 2
	lockTime  = 100 * clock.Microsecond
)

func (v *Variant) definePLL() {
	if !v.pll {
		return
	}
	v.define(regPLLCSR, "PLLCSR", func(m *Machine, a uint16) uint8 {
		x := m.io[a] &^ 1
		if x&bitPLLE != 0 && m.Now()-m.pll.since >= lockTime {
			x |= 1
		}
		return x
	}, func(m *Machine, a uint16, x uint8) {
		if x&^m.io[a]&bitPLLE != 0 {
			m.pll.since = m.Now()
		}
		m.io[a] = x &^ 1
	})
}
