package rtl

import (
	"cmp"
	"slices"
)

// Registers that move in a way that no guess fits, such as a shift register with feedback, may be set aside: a proof
// then takes them for unknown, and holds where nothing that anybody sees depends on them. What they have come to in the
// end is found by their orbit.

// flow is registers that are set aside and go into each other, and the one way in which they change during a round.
type flow struct {
	words    []int32
	group    int32 // whose edge it is
	times    int64
	cells    []int32 // that compute what those registers take, in order
	boundary []bound // what stands still and goes into that
}

// bound is some bits that stand, and what they are.
type bound struct {
	piece piece
	value uint64
}

// knows tells whether all bits of an operand are known.
func (p *proof) knows(o *operand) bool {
	for _, x := range o.pieces {
		if w := p.wordOf[x.limb]; w >= 0 && p.unknown[w] {
			return false
		}
	}
	return true
}

func (p *proof) knowsAll(w *wide) bool {
	for i := range w.limbs {
		if !p.knows(&w.limbs[i]) {
			return false
		}
	}
	return true
}

func (p *proof) knowsLine(l line) bool {
	if !l.used || l.at.limb < 0 {
		return true
	}
	w := p.wordOf[l.at.limb]
	return w < 0 || !p.unknown[w]
}

// forget has a word unknown.
func (p *proof) forget(w int32) {
	if p.unknown[w] {
		return
	}
	if p.words[w].width > 64 {
		p.until(-1)
		return
	}
	p.unknown[w], p.by[w] = true, 0
	p.touch(w)
}

// vague follows a cell that has operands which are not known; done is false where all of them are that matter.
func (p *proof) vague(c *cell) (done bool) {
	if c.op == opThree || c.op == opRead {
		return false // what is looked at there must be known
	}
	a, b, s := p.knowsAll(&c.a), p.knowsAll(&c.b), p.knowsAll(&c.s)
	if a && b && s {
		return false
	}
	zero := func(w *wide) bool { // for good, in a round that is followed
		at, by := p.first(w, false)
		return at == 0 && by == 0
	}
	one := func(w *wide) bool {
		at, by := p.first(w, false)
		return at != 0 && by == 0
	}
	known := &c.a
	if !a {
		known = &c.b
	}
	switch {
	case !c.narrow:
	case (c.op == opMux || c.op == opPmux) && s:
		if o := p.chosen(c); p.knows(o) {
			at, by := p.get(o)
			p.put(c.y, at, by)
			return true
		}
	case a == b:
	case c.op == opAnd && zero(known), c.op == opLogicAnd && zero(known):
		p.put(c.y, 0, 0)
		return true
	case c.op == opLogicOr && one(known):
		p.put(c.y, 1, 0)
		return true
	}
	p.forget(c.y)
	return true
}

// chosen is what a choice takes.
func (p *proof) chosen(c *cell) *operand {
	s := p.fixed(&c.s.limbs[0])
	if c.op == opMux {
		if s != 0 {
			return &c.b.limbs[0]
		}
		return &c.a.limbs[0]
	}
	for i := range c.s.width {
		if s>>i&1 == 1 {
			return &c.b.limbs[i]
		}
	}
	return &c.a.limbs[0]
}

// samples tells whether what a register takes at its edge is known.
func (p *proof) samples(r *register) bool {
	return p.knowsLine(r.enable) && p.knowsLine(r.reset) && p.knowsAll(&r.d)
}

// fired notes an edge of registers that are set aside. All such edges of a round must be alike.
func (p *proof) fired(group int32) {
	var flows []flow
	for _, k := range p.groups[group].registers {
		if r := &p.registers[k]; !r.write && slices.Contains(p.aside, r.q) {
			f := p.into(r)
			f.group, f.times = group, 1
			for i := 0; i < len(flows); { // those that it has something in common with are one with it
				if slices.ContainsFunc(flows[i].words, func(w int32) bool { return slices.Contains(f.words, w) }) {
					f.add(&flows[i])
					flows = slices.Delete(flows, i, i+1)
				} else {
					i++
				}
			}
			flows = append(flows, f)
		}
	}
	for i := range flows {
		f := &flows[i]
		f.tidy()
		at := slices.IndexFunc(p.flows, func(o flow) bool {
			return slices.ContainsFunc(o.words, func(w int32) bool { return slices.Contains(f.words, w) })
		})
		switch {
		case slices.ContainsFunc(f.words, func(w int32) bool { return !p.clockedBy(w, group) }):
			p.until(-1)
		case at < 0:
			p.flows = append(p.flows, *f)
		case p.flows[at].like(f):
			p.flows[at].times++
		default:
			p.until(-1)
		}
	}
}

// clockedBy tells whether a word is that of a register of a group.
func (p *proof) clockedBy(w, group int32) bool {
	return slices.ContainsFunc(p.groups[group].registers, func(k int32) bool { return p.registers[k].q == w })
}

func (f *flow) add(o *flow) {
	f.words, f.cells, f.boundary = append(f.words, o.words...), append(f.cells, o.cells...), append(f.boundary,
		o.boundary...)
}

// tidy sorts, and has each thing once.
func (f *flow) tidy() {
	slices.Sort(f.words)
	f.words = slices.Compact(f.words)
	slices.Sort(f.cells)
	f.cells = slices.Compact(f.cells)
	slices.SortFunc(f.boundary, func(a, b bound) int {
		return cmp.Or(cmp.Compare(a.piece.limb, b.piece.limb), cmp.Compare(a.piece.shift, b.piece.shift),
			cmp.Compare(a.piece.width, b.piece.width), cmp.Compare(a.piece.to, b.piece.to))
	})
	f.boundary = slices.Compact(f.boundary)
}

// like tells whether two flows go alike.
func (f *flow) like(o *flow) bool {
	return f.group == o.group && slices.Equal(f.words, o.words) && slices.Equal(f.cells, o.cells) &&
		slices.Equal(f.boundary, o.boundary)
}

// into finds what goes into a register at its edge.
func (p *proof) into(r *register) (f flow) {
	f.words = []int32{r.q}
	seen := map[int32]bool{}
	var walk func(w *wide)
	unknown := func(w int32) {
		if slices.Contains(p.aside, w) {
			f.words = append(f.words, w)
			return
		}
		i := p.driver[w]
		if i < 0 || !p.cells[i].narrow {
			p.until(-1)
			return
		}
		if seen[i] {
			return
		}
		seen[i] = true
		f.cells = append(f.cells, i)
		c := &p.cells[i]
		p.work += c.cost
		if (c.op == opMux || c.op == opPmux) && p.knowsAll(&c.s) {
			walk(&c.s)
			walk(&wide{limbs: []operand{*p.chosen(c)}})
			return
		}
		walk(&c.a)
		walk(&c.b)
		walk(&c.s)
	}
	walk = func(w *wide) {
		for i := range w.limbs {
			for _, x := range w.limbs[i].pieces {
				switch of := p.wordOf[x.limb]; {
				case of < 0:
					p.until(-1)
				case p.unknown[of]:
					unknown(of)
				default:
					at, by := p.take(x)
					if by != 0 {
						p.until(-1)
					}
					f.boundary = append(f.boundary, bound{x, at})
				}
			}
		}
	}
	for _, l := range []line{r.enable, r.reset} {
		if l.used && l.at.limb >= 0 {
			walk(&wide{limbs: []operand{{pieces: []piece{{limb: l.at.limb, shift: l.at.shift, width: 1}}}}})
		}
	}
	walk(&r.d)
	return f
}
