// Package circuit resolves nets: levels, strengths, contention, and the currents through the lights between nets.
package circuit

import "fmt"

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
	None Strength = iota // drives nothing
	Pull                 // a pull-up or pull-down resistor of some kΩ
	// something strong behind a resistor: a pull-up or pull-down of the bench, or one in series
	Resistive
	Analog   // a divider or sensor that puts a voltage on the net
	Weak     // an output of the 4000 series at 5 V: about a milliampere
	PushPull // a logic output
	Rail     // a supply rail
)

// Drive is what one terminal does to its net.
type Drive struct {
	Level      Level
	Strength   Strength
	Microvolts int32 // of Analog and Resistive
	Resistance int32 // of Resistive, in ohms; of others where it is not the usual one of their strength
}

// The drives that occur most.
var (
	Released   = Drive{Level: Float, Strength: None}
	PulledDown = Drive{Level: Low, Strength: Pull}
	PulledUp   = Drive{Level: High, Strength: Pull}
	DrivenLow  = Drive{Level: Low, Strength: PushPull}
	DrivenHigh = Drive{Level: High, Strength: PushPull}
	Ground     = Drive{Level: Low, Strength: Rail}
	Supply     = Drive{Level: High, Strength: Rail}
)

// Output is what a logic output does.
func Output(high bool) Drive {
	if high {
		return DrivenHigh
	}
	return DrivenLow
}

// Voltage is what a source of µV does at a supply of µV. As a logic level the middle decides
// (ATmega328P datasheet, typical input thresholds: about half the supply).
func Voltage(microvolts, supply int64) Drive {
	microvolts = max(0, min(supply, microvolts))
	return Drive{Level: Level(min(1, microvolts*2/supply)), Strength: Analog, Microvolts: int32(microvolts)}
}

// Behind is what a drive does through a resistor of some ohms. What is itself behind a resistor, or a pull-up, does
// nothing: passed on both ways, two nets would hold each other where they were.
func Behind(d Drive, ohms, supply int64) Drive {
	if d.Strength <= Resistive {
		return Released
	}
	return through(d.Voltage(supply), ohms+d.Ohms(), supply)
}

// through is µV behind a resistance.
func through(microvolts, ohms, supply int64) Drive {
	d := Voltage(microvolts, supply)
	d.Strength, d.Resistance = Resistive, int32(ohms)
	return d
}

// Within is a drive of a chip whose outputs, and pull-ups and pull-downs, have some ohms.
func (d Drive) Within(output, pull int64) Drive {
	switch {
	case d.Strength == PushPull && output != PushPull.Ohms():
		d.Resistance = int32(output)
	case d.Strength == Pull && pull != Pull.Ohms():
		d.Resistance = int32(pull)
	}
	return d
}

// Ohms is the resistance that a drive has.
func (d Drive) Ohms() int64 {
	if d.Strength == Resistive || d.Resistance != 0 {
		return int64(d.Resistance)
	}
	return d.Strength.Ohms()
}

// Voltage is what a drive puts on its net in µV; nothing pulls to ground.
func (d Drive) Voltage(supply int64) int64 {
	switch {
	case d.Strength == Analog, d.Strength == Resistive:
		return int64(d.Microvolts)
	case d.Level == High:
		return supply
	}
	return 0
}

// Output4000 is what an output of the 4000 series does.
func Output4000(high bool) Drive {
	d := Output(high)
	d.Strength = Weak
	return d
}

// Ohms is the output resistance that a drive of this strength has at 5 V: a push-pull port pin
// of an AVR about 25 Ω (ATmega328P datasheet, typical characteristics, pin driver strength), its
// pull-up 20-50 kΩ, taken as 35 kΩ (DC characteristics, R_PU); an output of the 4000 series gives about
// 1 mA at 5 V into a red LED and 270 Ω (CD4026B data sheet, output drive current), a 10 kΩ
// potentiometer half-way 2.5 kΩ.
func (s Strength) Ohms() int64 {
	switch s {
	case Rail:
		return 0
	case PushPull:
		return 25
	case Weak:
		return 2_400
	case Analog:
		return 2_500
	case Pull:
		return 35_000
	}
	return 0
}

// Volts writes a voltage in µV to a tenth of a volt.
func Volts(microvolts int64) string {
	return fmt.Sprintf("%d.%d V", microvolts/1_000_000, microvolts/100_000%10)
}
