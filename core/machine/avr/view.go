package avr

import "fmt"

// view is what an address of a chip shows whose registers are elsewhere than those of the ATmega328P, or are made of
// parts of them: the peripherals have theirs where that chip has them, whatever the chip.
type view struct {
	address uint16
	name    string // as the chip's documents have it
	of      string // the register of a peripheral that it is; "" where it shows parts of some, or something else
	read    func(m *Machine) uint8
	write   func(m *Machine, v uint8)
	flags   bool  // its bits are cleared by writing ones
	timers  uint8 // the timers whose flags it shows
}

// place finds out what is at the chip's addresses.
func (v *Variant) place() {
	flags, timers, ports, inputs := v.isFlags, v.timersOf, v.portOf, v.pinsOf
	if v.moved {
		v.isFlags, v.timersOf = [maxIO]bool{}, [maxIO]uint8{}
		for i := range v.portOf {
			v.portOf[i] = -1
		}
		for i := range v.pinsOf {
			v.pinsOf[i] = -1
		}
	} else {
		for a := range v.sramStart {
			v.put(a, v.own[a])
		}
	}
	for _, w := range v.views {
		if w.of == "" {
			v.isFlags[w.address], v.timersOf[w.address] = w.flags, w.timers
			v.put(w.address, register{name: w.name, read: func(m *Machine, _ uint16) uint8 { return w.read(m) },
				write: func(m *Machine, _ uint16, x uint8) { w.write(m, x) }})
			continue
		}
		at := v.named(w.of)
		r := v.own[at]
		r.name = w.name
		v.put(w.address, r)
		v.isFlags[w.address], v.timersOf[w.address], v.pinsOf[w.address] = flags[at], timers[at], inputs[at]
		v.portOf[w.address] = ports[at]
	}
	for a := range v.isState {
		_, _, port := v.portAt(uint16(a))
		v.isState[a] = port || v.pinsOf[a] >= 0 || a == regSREG || a == regSPL || a == regSPH
	}
}

func (v *Variant) put(a uint16, r register) {
	v.registers[a] = r
	v.isPlain[a] = r.name != "" && r.read == nil
}

// named is where the register of a peripheral is.
func (v *Variant) named(name string) uint16 {
	for a := range v.own {
		if v.own[a].name == name {
			return uint16(a)
		}
	}
	panic(fmt.Sprintf("%s: there is no register %s", v.title, name))
}

// see and tell are a read and a write of a register of a peripheral, as a view does them.
func (m *Machine) see(at uint16) uint8 {
	if r := &m.v.own[at]; r.read != nil {
		return r.read(m, at)
	}
	return m.io[at]
}

func (m *Machine) poke(at uint16, v uint8) {
	if r := &m.v.own[at]; r.write != nil {
		r.write(m, at, v)
		return
	}
	m.io[at] = v
}

// bitsOf says where bits of a view are: from the bit of the view to a register, and the bit there.
type bitsOf []struct {
	bit uint8
	at  uint16
	to  uint8
}

// gathered shows single bits of several registers.
func (b bitsOf) gathered(address uint16, name string) view {
	return view{address: address, name: name, read: func(m *Machine) (v uint8) {
		for _, x := range b {
			v |= m.see(x.at) >> x.to & 1 << x.bit
		}
		return v
	}, write: func(m *Machine, v uint8) {
		for i, x := range b {
			if i > 0 && b[i-1].at == x.at {
				continue // all bits of a register at once
			}
			next := m.see(x.at)
			for _, y := range b {
				if y.at == x.at {
					next = next&^(1<<y.to) | v>>y.bit&1<<y.to
				}
			}
			m.poke(x.at, next)
		}
	}}
}

// cleared shows flags of several registers, which are cleared by writing ones.
func (b bitsOf) cleared(address uint16, name string, timers uint8) view {
	w := b.gathered(address, name)
	w.flags, w.timers = true, timers
	w.write = func(m *Machine, v uint8) {
		for i, x := range b {
			if i > 0 && b[i-1].at == x.at {
				continue
			}
			ones := uint8(0)
			for _, y := range b {
				if y.at == x.at {
					ones |= v >> y.bit & 1 << y.to
				}
			}
			if ones != 0 {
				m.poke(x.at, ones)
			}
		}
	}
	return w
}

// alike are views that are a register of a peripheral each, by their addresses and names.
func alike(places map[uint16][2]string) (out []view) {
	for a, names := range places {
		out = append(out, view{address: a, name: names[0], of: names[1]})
	}
	return out
}
