package bench

import (
	"math/bits"
	"slices"

	"hemble/core/circuit"
	"hemble/core/machine"
)

// Followed pins are those whose level decides the currents of some lights and nothing else: nothing else is connected
// to their nets, and the other ends of the lights are at the supply. Nobody can answer such an edge, so the machine
// hands them over in batches, and what a level does is computed once. Taking this file away changes no reel.

// effect is what a level of a pin does to one light.
type effect struct {
	part  *lightSink
	light int
	nA    int64
}

// follow finds the followed pins of a bench that is wired and not yet running.
func (b *Bench) follow() (followed []machine.Pin) {
	for _, n := range b.order {
		if len(n.pins) == 1 && b.onlyLights(n) {
			pin := n.pins[0]
			for level := range b.effects[pin] {
				b.effects[pin][level] = b.rehearse(n, level == 1)
			}
			followed = append(followed, pin)
		}
	}
	return followed
}

// onlyLights reports whether nothing but lights between the net and the supply is connected to it.
func (b *Bench) onlyLights(n *node) bool {
	if len(n.sniffers) > 0 {
		return false
	}
	for _, a := range n.parts {
		p := b.parts[a.part]
		if !p.of.Kind.Follows {
			return false
		}
		for _, other := range p.terminals {
			if other != n && other != nil && other != b.nodes["VCC"] && other != b.nodes["GND"] {
				return false
			}
		}
	}
	return true
}

// rehearse lets the parts on a net tell what they would do at a level.
func (b *Bench) rehearse(n *node, high bool) (effects []effect) {
	was := n.Drive
	n.Drive = b.own(circuit.Output(high))
	b.rehearsal = &effects
	for _, a := range n.parts {
		b.parts[a.part].part.Changed(1 << a.terminal)
	}
	b.rehearsal, n.Drive = nil, was
	return effects
}

// followed carries out a batch of edges of followed pins.
func (b *Bench) followed(edges []machine.Edge) {
	for i := range edges {
		e := &edges[i]
		for rest := e.Pins; rest != 0; rest &= rest - 1 {
			bit := bits.TrailingZeros32(rest)
			effects := b.effects[int(e.From)+bit][e.Levels>>bit&1]
			for k := range effects {
				x := &effects[k]
				f := x.part
				was := f.currents[x.light]
				if was == x.nA {
					continue
				}
				f.currents[x.light] = x.nA
				f.vision.LightAt(e.At, x.light, x.nA, &e.Place)
				b.load.add(f.taps[x.light], x.nA-was)
			}
		}
		if b.load.alarm {
			b.now, b.place = e.At, e.Place
			b.load.check(b)
		}
	}
	b.place = edges[len(edges)-1].Place
	b.touched = b.touched[:0]
	for i := len(edges) - 1; i >= 0; i-- { // what each pin did last
		e := &edges[i]
		k := slices.IndexFunc(b.touched, func(t machine.Edge) bool { return t.From == e.From })
		if k < 0 {
			k = len(b.touched)
			b.touched = append(b.touched, machine.Edge{From: e.From})
		}
		t := &b.touched[k]
		t.Levels |= e.Levels & (e.Pins &^ t.Pins)
		t.Pins |= e.Pins
	}
	for _, t := range b.touched {
		for ; t.Pins != 0; t.Pins &= t.Pins - 1 {
			bit := bits.TrailingZeros32(t.Pins)
			pin := int(t.From) + bit
			n, d := b.byPin[pin], b.own(circuit.Output(t.Levels>>bit&1 == 1))
			n.SetAlone(b.onChip[pin], d)
			n.told = d
		}
	}
}
