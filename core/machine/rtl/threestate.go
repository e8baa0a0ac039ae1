package rtl

import "hemble/core/netlist"

// driver is one of a wire that may let go.
type driver struct{ enable, value operand }

// threeStates gives each wire that $tribuf cells drive a word of one bit: what one of them gives, and else what is at
// the pin.
func (c *compiler) threeStates() {
	var order []netlist.Bit
	by := map[netlist.Bit][]*netlist.Cell{}
	nth := map[netlist.Bit][]int{}
	for i := range c.design.Cells {
		of := &c.design.Cells[i]
		if of.Type != "$tribuf" {
			continue
		}
		for k, b := range of.Ports["Y"] {
			if b < 0 {
				continue
			}
			if by[b] == nil {
				order = append(order, b)
			}
			by[b], nth[b] = append(by[b], of), append(nth[b], k)
		}
	}
	outside := map[netlist.Bit]place{}
	for _, p := range c.design.Ports {
		if !p.Input || !p.Output {
			continue
		}
		for i, b := range p.Bits {
			if by[b] == nil { // an inout that nothing drives is an input
				c.newWord([]netlist.Bit{b}, nil)
				c.inputs[p.Bit(i)] = c.at[b]
				continue
			}
			w := int32(len(c.words))
			c.words = append(c.words, word{limb: int32(c.limbs), width: 1})
			outside[b] = place{limb: int32(c.limbs), word: w}
			c.inputs[p.Bit(i)] = outside[b]
			c.limbs++
		}
	}
	for _, b := range order {
		c.newWord([]netlist.Bit{b}, nil)
	}
	c.later = func() {
		for _, b := range order {
			reads := map[int32]bool{}
			x := cell{op: opThree, narrow: true, width: 1, index: c.index(by[b][0]), y: c.at[b].word,
				external: place{word: -1}}
			if at, ok := outside[b]; ok {
				x.external = at
				reads[at.word] = true
			}
			for i, of := range by[b] {
				k := nth[b][i]
				if k >= len(of.Ports["A"]) || len(of.Ports["EN"]) != 1 {
					c.fail(of, "a three-state driver has other widths than its result")
					return
				}
				x.cost++
				x.drivers = append(x.drivers, driver{c.operand(of.Ports["EN"], reads),
					c.operand(of.Ports["A"][k:k+1], reads)})
			}
			c.cells = append(c.cells, x)
			c.depends = append(c.depends, reads)
		}
	}
}

// three is what a wire is at, and whether one of its drivers drives it.
func (c *cell) three(arena []uint64) (v uint64, driven bool) {
	for i := range c.drivers {
		if d := &c.drivers[i]; d.enable.get(arena) != 0 {
			return d.value.get(arena), true
		}
	}
	if c.external.word >= 0 {
		return arena[c.external.limb] >> c.external.shift & 1, false
	}
	return 0, false
}
