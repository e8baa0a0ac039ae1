package avr

// inert lists the registers that are kept and read back without further effect, on purpose, and why.
// A write that would switch something on is told, once.
var inert = []struct {
	address uint16
	name    string
	acts    uint8 // bits whose setting would have an effect on the real chip
	why     string
}{
	{0x3e, "GPIOR0", 0, "general purpose: it only keeps what is written"},
	{0x4a, "GPIOR1", 0, "general purpose: it only keeps what is written"},
	{0x4b, "GPIOR2", 0, "general purpose: it only keeps what is written"},
	{0x57, "SPMCSR", 0x3f, "a bench runs one program: flash is not rewritten while it runs"},
	{0x66, "OSCCAL", 0, "the clock is the bench's, not the RC oscillator's"},
}

func init() {
	for _, r := range inert {
		define(r.address, r.name, nil, func(m *Machine, a uint16, v uint8) {
			if m.data[a] = v; v&r.acts != 0 {
				m.note("inert "+r.name, "%s was written, which has no effect here: %s", r.name, r.why)
			}
		})
	}
}
