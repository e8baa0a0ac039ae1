package rtl

import (
	"math/bits"
	"slices"
)

// orbit finds where registers of one flow have come to after any number of edges, without going there edge by edge.
// Where what they take is made of exclusive ors, the way is a matrix over the two-element field, and its powers are
// found by squaring; else the states are gone through once, up to a number, and looked up from then on.
type orbit struct {
	flow      flow
	registers []int32
	state     state // of its own, with what stands still in it
	width     int   // bits of all words
	powers    []matrix
	states    []uint64         // gone through, one by one
	place     map[uint64]int32 // of each of them
	back      int64            // the place that follows the last one
	hopeless  bool
}

// Bounds of it.
const (
	mostStates = 1 << 17 // that are gone through
	mostOrbits = 8       // that are kept
	mostLinear = 256     // bits of a matrix
)

// matrix takes a state to a later one: a sum of columns, and of what stands for itself.
type matrix struct {
	columns [][]uint64
	plus    []uint64
}

// apply gives the state that follows.
func (x *matrix) apply(v []uint64, constant bool) []uint64 {
	out := make([]uint64, len(v))
	if constant {
		copy(out, x.plus)
	}
	for k, limb := range v {
		for ; limb != 0; limb &= limb - 1 {
			for i, c := range x.columns[64*k+bits.TrailingZeros64(limb)] {
				out[i] ^= c
			}
		}
	}
	return out
}

// square is the way of twice as many edges.
func (x *matrix) square() matrix {
	out := matrix{plus: x.apply(x.plus, true)}
	for _, c := range x.columns {
		out.columns = append(out.columns, x.apply(c, false))
	}
	return out
}

// orbits are those of a design.
type orbits []*orbit

// prepare has them ready for what a proof found. It reports whether all can be had.
func (all *orbits) prepare(p *proof, now *state) bool {
	for i := range p.flows {
		at := slices.IndexFunc(*all, func(o *orbit) bool { return o.flow.like(&p.flows[i]) })
		if at < 0 {
			if len(*all) == mostOrbits {
				*all = (*all)[1:]
			}
			at = len(*all)
			*all = append(*all, newOrbit(p, &p.flows[i]))
		}
		if !(*all)[at].ready(p, now) {
			return false
		}
	}
	return true
}

// advance has the registers that are set aside where they are so many rounds later.
func (all orbits) advance(p *proof, st *state, rounds int64) {
	for i := range p.flows {
		f := &p.flows[i]
		at := slices.IndexFunc(all, func(o *orbit) bool { return o.flow.like(f) })
		all[at].advance(p, st, rounds*f.times)
	}
}

// ready tells whether an orbit can be had from where the registers are.
func (o *orbit) ready(p *proof, now *state) bool {
	if o.powers == nil && !o.hopeless {
		if _, ok := o.place[o.pack(now.arena)[0]]; !ok {
			o.goThrough(p, now)
		}
	}
	return !o.hopeless
}

func newOrbit(p *proof, f *flow) *orbit {
	o := &orbit{flow: *f, state: state{program: p.program, arena: slices.Clone(p.arena)}}
	for _, b := range f.boundary {
		limb := &o.state.arena[b.piece.limb]
		*limb = *limb&^(ones(int(b.piece.width))<<b.piece.shift) | b.value<<b.piece.shift
	}
	for _, k := range p.groups[f.group].registers {
		if r := &p.registers[k]; !r.write && slices.Contains(f.words, r.q) {
			o.registers = append(o.registers, k)
		}
	}
	for _, w := range f.words {
		o.width += p.words[w].width
	}
	switch {
	case o.width <= mostLinear && o.linear(p):
		o.matrix(p)
	case o.width > 64:
		o.hopeless = true
	}
	return o
}

// linear tells whether each bit of what follows is a sum of bits, without carry.
func (o *orbit) linear(p *proof) bool {
	for _, k := range o.registers {
		if r := &p.registers[k]; !p.knowsLine(r.enable) || !p.knowsLine(r.reset) {
			return false
		}
	}
	for _, i := range o.flow.cells {
		c := &p.cells[i]
		switch c.op {
		case opXor, opXnor, opNot, opPos, opReduceXor, opReduceXnor:
		case opAnd, opOr:
			if !p.knowsAll(&c.a) && !p.knowsAll(&c.b) {
				return false
			}
		case opMux, opPmux:
			if !p.knowsAll(&c.s) {
				return false
			}
		default:
			return false
		}
	}
	return true
}

// matrix finds the way by what becomes of each bit alone.
func (o *orbit) matrix(p *proof) {
	n := (o.width + 63) / 64
	after := func(v []uint64) []uint64 {
		o.unpack(o.state.arena, v)
		o.step(p)
		return o.pack(o.state.arena)
	}
	one := matrix{plus: after(make([]uint64, n))}
	for i := range o.width {
		v := make([]uint64, n)
		v[i/64] = 1 << (i % 64)
		v = after(v)
		for k := range v {
			v[k] ^= one.plus[k]
		}
		one.columns = append(one.columns, v)
	}
	o.powers = []matrix{one}
}

// goThrough goes through the states that follow, until one comes again.
func (o *orbit) goThrough(p *proof, now *state) {
	o.states, o.place = o.states[:0], map[uint64]int32{}
	v := o.pack(now.arena)
	o.unpack(o.state.arena, v)
	for len(o.states) < mostStates {
		o.place[v[0]] = int32(len(o.states))
		o.states = append(o.states, v[0])
		o.step(p)
		v = o.pack(o.state.arena)
		if at, ok := o.place[v[0]]; ok {
			o.back = int64(at)
			return
		}
	}
	o.states, o.place, o.hopeless = nil, nil, true
}

// step is one edge.
func (o *orbit) step(p *proof) {
	s := &o.state
	for _, i := range o.flow.cells {
		c := &s.cells[i]
		p.work += c.cost
		s.arena[s.words[c.y].limb] = c.compute(s.arena)
	}
	next := make([]uint64, len(o.registers))
	for i, k := range o.registers {
		r := &s.registers[k]
		if !r.sample(s, next[i:i+1], nil) {
			next[i] = s.arena[s.words[r.q].limb]
		}
	}
	for i, k := range o.registers {
		s.arena[s.words[s.registers[k].q].limb] = next[i]
	}
	p.work += int64(len(o.registers))
}

// advance has the registers of a design where they are so many edges later.
func (o *orbit) advance(p *proof, st *state, edges int64) {
	v := o.pack(st.arena)
	if o.powers == nil {
		at := int64(o.place[v[0]]) + edges
		if n := int64(len(o.states)); at >= n {
			at = o.back + (at-o.back)%(n-o.back)
		}
		v[0] = o.states[at]
	}
	for k := 0; o.powers != nil && edges>>k > 0; k++ {
		if k == len(o.powers) {
			o.powers = append(o.powers, o.powers[k-1].square())
			p.work += int64(o.width * o.width * len(v) / 16)
		}
		if edges>>k&1 == 1 {
			v = o.powers[k].apply(v, true)
			p.work += int64(o.width*len(v)/16 + 1)
		}
	}
	o.unpack(st.arena, v)
	for _, w := range o.flow.words {
		st.touch(w)
	}
}

// pack is the words in a row of bits.
func (o *orbit) pack(arena []uint64) []uint64 {
	out, at := make([]uint64, (o.width+63)/64), 0
	for _, w := range o.flow.words {
		x := &o.state.words[w]
		v := arena[x.limb]
		out[at/64] |= v << (at % 64)
		if at%64+x.width > 64 {
			out[at/64+1] |= v >> (64 - at%64)
		}
		at += x.width
	}
	return out
}

// unpack puts a row of bits where the words are.
func (o *orbit) unpack(arena, v []uint64) {
	at := 0
	for _, w := range o.flow.words {
		x := &o.state.words[w]
		n := v[at/64] >> (at % 64)
		if at%64+x.width > 64 {
			n |= v[at/64+1] << (64 - at%64)
		}
		arena[x.limb] = n & ones(x.width)
		at += x.width
	}
}
