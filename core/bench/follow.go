package bench

import (
	"math/bits"

	"hemble/core/circuit"
	"hemble/core/machine"
)

// Followed pins are those whose level decides the currents of some lights and nothing else: nothing else hangs on
// their nets, and the other ends of the lights are at the supply. Nobody can answer such an edge, so the machine hands
// them over in batches, and what a level does is worked out once. Taking this file away changes no reel.

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

// onlyLights tells whether nothing but lights between the net and the supply hangs on it.
func (b *Bench) onlyLights(n *node) bool {
	if len(n.sniffers) > 0 {
		return false
	}
	for _, a := range n.parts {
		p := b.parts[a.part]
		if !p.built.Kind.Follows {
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
	n.Drive = circuit.Output(high)
	b.rehearsal = &effects
	for _, a := range n.parts {
		b.parts[a.part].part.Changed(1 << a.terminal)
	}
	b.rehearsal, n.Drive = nil, was
	return effects
}

// followed carries out a batch of edges of followed pins.
func (b *Bench) followed(edges []machine.Edge) {
	var touched, levels [4]uint8 // by port: the pins, and what they did last
	for i := range edges {
		e := &edges[i]
		touched[e.Port] |= e.Pins
		levels[e.Port] = levels[e.Port]&^e.Pins | e.Levels&e.Pins
		for rest := e.Pins; rest != 0; rest &= rest - 1 {
			bit := bits.TrailingZeros8(rest)
			effects := b.effects[int(e.Port)<<3|bit][e.Levels>>bit&1]
			for k := range effects {
				x := &effects[k]
				f := x.part
				was := f.currents[x.light]
				if was == x.nA {
					continue
				}
				f.currents[x.light] = x.nA
				f.eye.LightAt(e.At, x.light, x.nA, &e.Place)
				b.load.add(f.taps[x.light], x.nA-was)
			}
		}
		if b.load.alarm {
			b.now, b.place = e.At, e.Place
			b.load.check(b)
		}
	}
	b.place = edges[len(edges)-1].Place
	for port, pins := range touched {
		for ; pins != 0; pins &= pins - 1 {
			bit := bits.TrailingZeros8(pins)
			pin := port<<3 | bit
			n, d := b.byPin[pin], circuit.Output(levels[port]>>bit&1 == 1)
			n.SetAlone(b.onChip[pin], d)
			n.told = d
		}
	}
}
