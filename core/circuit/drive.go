// Package circuit resolves what the terminals on a net do to it: levels, strengths,
// contentions, and the currents through the lights that hang between nets.
package circuit

// Level is what a net or a terminal is at.
type Level uint8

// The levels. Float is a net that nothing drives.
const (
	Low Level = iota
	High
	Float
)

func (l Level) String() string { return [...]string{"low", "high", "floating"}[l] }

// Strength orders drivers: the stronger one decides the net.
type Strength uint8

// The strengths, weakest first.
const (
	None     Strength = iota // drives nothing
	Pull                     // a pull-up or pull-down resistor of some ten kΩ
	PushPull                 // a logic output
	Rail                     // a supply rail
)

// Drive is what one terminal does to its net.
type Drive struct {
	Level    Level
	Strength Strength
}

// The drives that occur most.
var (
	Released   = Drive{Float, None}
	PulledUp   = Drive{High, Pull}
	DrivenLow  = Drive{Low, PushPull}
	DrivenHigh = Drive{High, PushPull}
	Ground     = Drive{Low, Rail}
	Supply     = Drive{High, Rail}
)

// Output is what a logic output does.
func Output(high bool) Drive {
	if high {
		return DrivenHigh
	}
	return DrivenLow
}

// Ohms is the output resistance that a drive of this strength has at 5 V: a push-pull port pin
// of an AVR about 25 Ω (ATmega328P datasheet, typical characteristics, pin driver strength), its
// pull-up 20-50 kΩ, taken as 35 kΩ (DC characteristics, R_PU).
func (s Strength) Ohms() int64 {
	switch s {
	case Rail:
		return 0
	case PushPull:
		return 25
	case Pull:
		return 35_000
	}
	return 0
}
