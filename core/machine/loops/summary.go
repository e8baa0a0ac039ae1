package loops

import "slices"

// Summary is what is known of the rounds of a loop that take one path: a way to find out, from what the places hold at
// its head, how many of them there will be.
type Summary struct {
	round, depth int64 // cycles of a round; rounds that must run as usual
	guards       []Place
	bits         []bitCheck
	slots        []slot
	values       []uint64 // of the slots, this time
	moments      []moment
	tests        []compiled
	counters     []laidCounter
}

// slot is a number that tests are about.
type slot struct {
	kind  atomKind
	place Place
	mask  uint64
	count reading
	which uint8 // of a count: which reading
	form  laid  // of a residue
}

// laid is a form over slots.
type laid struct {
	mask  uint64
	c     uint64
	terms []term
}

// moment is a reading of a count in the round to come: its cycle, and what it read.
type moment struct {
	at int64
	Count
}

// compiled is a check as it is made.
type compiled struct {
	op     testOp
	not    bool
	movesY bool
	n, lo  uint8
	want   bool
	was    uint64
	count  int8   // the reading with which the moving side moves; -1 for round by round
	step   uint64 // by how much
	x, y   laid
}

// laidCounter is a number that rounds add to.
type laidCounter struct {
	places []Place
	bits   uint8 // of each place
	step   uint64
	narrow uint64 // what the place may be at most where the number has fewer bits than it; 0 where it has not
}

// lay lays out what a summary needs.
func (c *closing) lay(depth int64) *Summary {
	s := &Summary{round: c.Cycle, depth: depth, guards: slices.Clone(c.guards), bits: slices.Clone(c.bits)}
	at := map[int32]int32{}
	for _, t := range c.moved {
		out := compiled{op: t.test.op, not: t.test.not, movesY: t.movesY, n: t.test.x.n, lo: t.test.lo, want: t.want,
			was: t.v, count: t.count, step: t.step, x: c.layForm(s, at, t.test.x)}
		if t.test.op == less || t.test.op == carries {
			out.y = c.layForm(s, at, t.test.y)
		}
		s.tests = append(s.tests, out)
	}
	for _, n := range c.counters {
		out := laidCounter{bits: n.bits, step: n.step}
		if n.form.n < n.bits {
			out.narrow = ones(n.form.n)
		}
		for _, a := range n.atoms {
			out.places = append(out.places, c.atoms[a].place)
		}
		s.counters = append(s.counters, out)
	}
	s.values, s.moments = make([]uint64, len(s.slots)), make([]moment, len(c.counts))
	return s
}

func (c *closing) layForm(s *Summary, at map[int32]int32, f form) laid {
	out := laid{mask: ones(f.n), c: f.c}
	for _, t := range f.terms {
		a := c.atoms[t.atom]
		if a.kind == made { // held to what it was
			out.c += t.k * a.v
			continue
		}
		i, ok := at[t.atom]
		if !ok {
			n := slot{kind: a.kind, place: a.place, mask: ones(a.bits)}
			switch a.kind {
			case counted:
				n.count, n.which = c.counts[a.count], a.count
			case residue:
				n.form = c.layForm(s, at, a.form)
			}
			i = int32(len(s.slots))
			s.slots = append(s.slots, n)
			at[t.atom] = i
		}
		out.terms = append(out.terms, term{i, t.k})
	}
	out.c &= out.mask
	return out
}

func (s *Summary) value(f laid) uint64 {
	v := f.c
	for _, t := range f.terms {
		v += t.k * s.values[t.atom]
	}
	return v & f.mask
}

// rounds gives how many rounds to leave out, and the cycle up to which the loop is known to go on like that. ok is
// false where the next round does not take this path.
func (s *Summary) rounds(core Core, cycle, limit int64) (n, again int64, ok bool) {
	for _, p := range s.guards {
		if _, _, ok := core.Look(p, 0); !ok {
			return 0, 0, false
		}
	}
	for i := range s.bits {
		b := &s.bits[i]
		v, until, ok := core.Look(b.place, b.mask)
		if !ok || v&b.mask != b.want {
			return 0, 0, false
		}
		limit = min(limit, until)
	}
	for i := range s.counters {
		if c := &s.counters[i]; c.narrow > 0 {
			if v, _, ok := core.Look(c.places[0], 0); !ok || v > c.narrow {
				return 0, 0, false
			}
		}
	}
	for i := range s.slots {
		switch x := &s.slots[i]; x.kind {
		case entry:
			v, until, ok := core.Look(x.place, x.mask)
			if !ok {
				return 0, 0, false
			}
			s.values[i] = v & x.mask
			limit = min(limit, until)
		case counted:
			c, ok := core.Count(x.count.id, cycle+x.count.at)
			if !ok {
				return 0, 0, false
			}
			s.values[i] = c.Value & x.mask
			s.moments[x.which] = moment{cycle + x.count.at, c}
			limit = min(limit, c.Until)
		case residue:
			s.values[i] = s.value(x.form)
		}
	}
	last := (limit-1-cycle)/s.round - 1 // the last round that ends before the limit; rounds are numbered from 0
	if limit <= cycle {
		last = -1
	}
	for i := range s.tests {
		t := &s.tests[i]
		x, y := s.value(t.x), s.value(t.y)
		if t.op == stays {
			if x>>t.lo != t.was>>t.lo {
				return 0, 0, false
			}
		} else if (t.op.answer(x, y, t.n) != t.not) != t.want {
			return 0, 0, false
		}
		if t.step == 0 {
			continue
		}
		from, to := t.op.span(x, y, t.n, t.lo, t.movesY)
		moving := x
		if t.movesY {
			moving = y
		}
		d := steps(moving, from, to, t.step, t.n)
		if t.count < 0 {
			last = min(last, d-1)
			continue
		}
		if m := &s.moments[t.count]; m.Period > 0 {
			end := m.Base + ((m.at-m.Base)/m.Period+d)*m.Period // the first cycle at which the count is that far
			last = min(last, (end-1-m.at)/s.round)
		}
	}
	last = max(last, -1)
	if n = max(0, last+1-s.depth); n > 0 {
		for i := range s.counters {
			s.counters[i].add(core, n)
		}
	}
	return n, cycle + max(1, last+1)*s.round, true
}

// add adds what n rounds add.
func (c *laidCounter) add(core Core, n int64) {
	v := uint64(0)
	for i, p := range c.places {
		x, _, _ := core.Look(p, 0)
		v |= x & ones(c.bits) << (uint8(i) * c.bits)
	}
	if v += c.step * uint64(n); c.narrow > 0 {
		v &= c.narrow
	}
	for i, p := range c.places {
		core.Put(p, v>>(uint8(i)*c.bits)&ones(c.bits))
	}
}
