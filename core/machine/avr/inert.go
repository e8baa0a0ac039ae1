package avr

import "fmt"

// inertRegister is kept and read back without further effect, on purpose, and why. A write that would switch something
// on is told, once.
type inertRegister struct {
	address uint16
	name    string
	acts    uint8 // bits whose setting would have an effect on the real chip
	why     string
}

// referenceRegisters are those that all variants have.
var referenceRegisters = []inertRegister{
	{0x3e, "GPIOR0", 0, "general purpose: it only keeps what is written"},
	{0x4a, "GPIOR1", 0, "general purpose: it only keeps what is written"},
	{0x4b, "GPIOR2", 0, "general purpose: it only keeps what is written"},
	{0x57, "SPMCSR", 0x3f, "a bench runs one program: flash is not rewritten while it runs"},
	{0x66, "OSCCAL", 0, "the clock is the bench's, not the RC oscillator's"},
}

func (v *Variant) defineInert() {
	for _, r := range append(referenceRegisters, v.inert...) {
		v.define(r.address, r.name, nil, func(m *Machine, a uint16, v uint8) {
			if m.io[a] = v; v&r.acts != 0 {
				m.note("inert "+r.name, "%s was written, which has no effect here: %s", r.name, r.why)
			}
		})
	}
}

// unmodelled lists what is left out.
func (v *Variant) unmodelled() (out []string) {
	for _, r := range append(referenceRegisters, v.inert...) {
		if r.acts != 0 {
			out = append(out, fmt.Sprintf("%s (%s)", r.name, r.why))
		}
	}
	if len(v.usarts) > 0 {
		out = append(out, "USART in synchronous and SPI modes")
	}
	if v.watchCrystal() {
		out = append(out, "timer 2 on a watch crystal")
	}
	if !v.short {
		out = append(out, "moved interrupt vectors")
	}
	if len(v.reduced) > 0 {
		out = append(out, "stopping single clocks (PRR: reported by name)")
	}
	return out
}
