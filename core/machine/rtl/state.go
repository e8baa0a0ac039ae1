package rtl

import "math/bits"

// state is a program under way.
type state struct {
	*program
	arena   []uint64
	dirty   []uint64 // a bit for each cell that must be computed anew
	next    []uint64 // values to be
	pending []pending
	work    int64   // cells computed
	cause   []int32 // for each word: the cell or register that changed it last
}

// pending is a register that is about to change.
type pending struct {
	register int32
	from     int // of next
}

// newState configures a program.
func newState(p *program) *state {
	s := &state{program: p, arena: make([]uint64, p.limbs), dirty: make([]uint64, (len(p.cells)+63)/64),
		cause: make([]int32, len(p.words))}
	copy(s.arena, p.reset)
	for _, m := range p.memories {
		copy(m.data, m.initial)
	}
	for i := range p.cells {
		s.dirty[i/64] |= 1 << (i % 64)
	}
	for i := range p.groups { // a clock that is high from the beginning has no edge
		p.groups[i].was = p.groups[i].clock.active(s.arena)
	}
	return s
}

// touch has everything that depends on a word computed anew.
func (s *state) touch(w int32) {
	for _, c := range s.words[w].fan {
		s.dirty[c/64] |= 1 << (c % 64)
	}
}

// set changes one bit of a word from outside.
func (s *state) set(p place, on bool) {
	v := s.arena[p.limb] &^ (1 << p.shift)
	if on {
		v |= 1 << p.shift
	}
	if v != s.arena[p.limb] {
		s.arena[p.limb] = v
		s.touch(p.word)
	}
}

// compute computes what is dirty, in order.
func (s *state) compute() {
	s.work += int64(len(s.dirty) / 16)
	for i := 0; i < len(s.dirty); i++ {
		for s.dirty[i] != 0 {
			n := i*64 + bits.TrailingZeros64(s.dirty[i])
			s.dirty[i] &= s.dirty[i] - 1
			c := &s.cells[n]
			s.work += c.cost
			w := &s.words[c.y]
			if c.narrow {
				if v := c.compute(s.arena); v != s.arena[w.limb] {
					s.arena[w.limb] = v
					s.cause[c.y] = c.index
					s.touch(c.y)
				}
				continue
			}
			changed := false
			digits := c.computeWide(s.arena).Bits()
			for k := range (w.width + 63) / 64 {
				v := uint64(0)
				if k < len(digits) {
					v = uint64(digits[k])
				}
				if at := int(w.limb) + k; s.arena[at] != v {
					s.arena[at], changed = v, true
				}
			}
			if changed {
				s.cause[c.y] = c.index
				s.touch(c.y)
			}
		}
	}
}

// maxRounds bounds how often registers may set each other off at one moment.
const maxRounds = 200

// settle goes on until nothing changes any more. It reports whether that comes to an end.
func (s *state) settle() bool {
	for range maxRounds {
		s.compute()
		if s.levels() {
			continue
		}
		if !s.edges() {
			return true
		}
	}
	return false
}

// levels changes latches that are open, and registers that a level sets; it reports whether one did.
func (s *state) levels() (any bool) {
	s.work += int64(len(s.latches) + len(s.forced))
	for _, i := range s.latches {
		r := &s.registers[i]
		n := len(r.d.limbs)
		into, now := s.room(n), s.value(r)
		switch {
		case r.level(s.arena, now, into):
		case r.open.active(s.arena):
			for k := range n {
				into[k] = r.d.limbs[k].get(s.arena)
			}
		default:
			continue
		}
		any = s.assign(r, into) || any
	}
	for _, i := range s.forced {
		r := &s.registers[i]
		if r.open.used {
			continue
		}
		into := s.room(len(s.value(r)))
		if r.level(s.arena, s.value(r), into) {
			any = s.assign(r, into) || any
		}
	}
	return any
}

func (s *state) get(o *operand) uint64 { return o.get(s.arena) }

func (s *state) value(r *register) []uint64 {
	w := &s.words[r.q]
	return s.arena[w.limb : int(w.limb)+(w.width+63)/64]
}

// room gives room for a value.
func (s *state) room(n int) []uint64 {
	if cap(s.next) < n {
		s.next = make([]uint64, max(n, 64))
	}
	s.next = s.next[:n]
	clear(s.next)
	return s.next
}

func (s *state) assign(r *register, v []uint64) (changed bool) {
	now := s.value(r)
	for k := range now {
		if now[k] != v[k] {
			now[k], changed = v[k], true
		}
	}
	if changed {
		s.cause[r.q] = r.index
		s.touch(r.q)
	}
	return changed
}

// edges finds clocks that turned, samples what their registers take, and then sets all of them at once. It reports
// whether there was an edge.
func (s *state) edges() (any bool) {
	s.pending, s.next = s.pending[:0], s.next[:0]
	var writes []int32
	s.work += int64(len(s.groups) / 8)
	for i := range s.groups {
		g := &s.groups[i]
		now := g.clock.active(s.arena)
		if now == g.was {
			continue
		}
		if g.was = now; !now {
			continue
		}
		any = true
		s.work += g.cost
		for _, k := range g.registers {
			r := &s.registers[k]
			if r.write {
				writes = append(writes, k)
				continue
			}
			from := len(s.next)
			n := (r.width + 63) / 64
			for range n {
				s.next = append(s.next, 0)
			}
			into := s.next[from:]
			if !r.sample(s, into, g.registers) {
				s.next = s.next[:from]
				continue
			}
			s.pending = append(s.pending, pending{k, from})
		}
	}
	if !any {
		return false
	}
	for _, k := range writes {
		s.write(&s.registers[k])
	}
	for _, p := range s.pending {
		r := &s.registers[p.register]
		s.assign(r, s.next[p.from:p.from+(r.width+63)/64])
	}
	return true
}

// read is a reading port of a memory at its clock: what is there before the writes of this edge, but for ports that it
// sees through.
func (s *state) read(r *register, into []uint64, together []int32) {
	address := r.address.at(s.get)
	at, ok := r.memory.row(address)
	if !ok {
		return
	}
	copy(into, r.memory.data[at:at+r.memory.limbs])
	for _, k := range together {
		w := &s.registers[k]
		if w.write && w.memory == r.memory && w.port < len(r.transparency) && r.transparency[w.port] &&
			w.address.at(s.get) == address {
			for i := range into {
				mask := w.mask.limbs[i].get(s.arena)
				into[i] = into[i]&^mask | w.d.limbs[i].get(s.arena)&mask
			}
		}
	}
}

// write is a writing port at its clock.
func (s *state) write(r *register) {
	at, ok := r.memory.row(r.address.at(s.get))
	if !ok {
		return
	}
	changed := false
	for i := range r.memory.limbs {
		mask := r.mask.limbs[i].get(s.arena)
		v := r.memory.data[at+i]&^mask | r.d.limbs[i].get(s.arena)&mask
		changed = changed || v != r.memory.data[at+i]
		r.memory.data[at+i] = v
	}
	if changed {
		for _, c := range r.memory.readers {
			s.dirty[c/64] |= 1 << (c % 64)
		}
	}
}
