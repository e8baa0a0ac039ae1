package pic14

// setTaken finds out which pins are no ports: those of the oscillator, of reset and of low-voltage programming, as the
// configuration words have them.
func (m *Machine) setTaken() {
	for i := range m.ports {
		m.ports[i].taken = 0
	}
	take := func(p pinAt) {
		if p.mask != 0 {
			m.ports[p.port].taken |= p.mask
		}
	}
	for i, p := range m.v.oscillator.pins {
		if m.kind().pins>>i&1 == 1 {
			take(p)
		}
	}
	if r := m.v.reset; m.hasReset() && int(r>>3) < len(m.ports) {
		take(pinAt{int(r >> 3), 1 << (r & 7)})
	}
	if f := &m.v.fuses; f.lowVoltage != 0 && m.fuse(f.lowVoltage) {
		take(f.programming)
	}
	for i := range m.ports {
		m.updatePort(i, m.cycle)
	}
}
