package rtl

import (
	"math"
	"math/bits"
	"slices"

	"hemble/core/clock"
)

// skipper leaves out rounds of the oscillator in which nothing happens that anybody sees: counters count, and nothing
// else changes. It does so by proof. From one round to the next each register has moved by some amount; the guess is
// that it goes on like that. A proof follows the design through one round of such moving values, finds how long every
// decision in it stays as it is, and that each register then has just what the guess says it has in the next round: by
// induction the guess holds for all those rounds.
//
// A round is one period of the oscillator where that works. Where some registers do not move evenly from period to
// period, a round is as long as those need to come back to where they were: two periods for a toggled bit, ten for a
// divider by ten.
//
// Taking this away changes no result.
type skipper struct {
	proof   proof
	before  []uint64 // the arena where a round began
	from    int64    // the edge at which that was
	taken   bool
	round   int64   // periods that were a round the last time
	back    []int32 // words that must have come back before the next proof is tried
	short   int     // proofs in a row that held for too few rounds
	wait    int64   // periods to leave it alone after a failure ...
	at      int64   // ... and the edge before which it is
	hoped   int64   // the edge before which a changed input does not end that
	edges   int64   // tellings of changes so far: a guess across one is none
	skipped int64   // periods left out

	orbits    orbits  // of registers that are set aside
	lastBy    []int64 // how registers moved in the last round that was looked at ...
	lastRound int64   // ... and how many periods it had
	asideWait int64   // periods to set none aside after that was in vain ...
	asideAt   int64   // ... and the edge before which none is
}

// Bounds of it.
const (
	leastRounds = 8    // that are worth it
	mostPeriods = 1024 // of a round
	mostDoubled = 64   // of one that is tried because shorter ones held for too few
	mostBack    = 32
	mostJoined  = 8 // times that more registers are set aside for a proof
	mostShort   = 3
	mostWait    = 4096 // periods
	mostEdges   = 1 << 40
)

func newSkipper(m *Machine) skipper {
	if !m.provable() {
		return skipper{at: forEver}
	}
	return skipper{}
}

// skip gives how many edges of the oscillator may be left out now, behind a rising one, having moved the design past
// them.
func (m *Machine) skip(until clock.Time) int64 {
	s := &m.skipper
	if m.config.Reference || m.config.NoSkip || m.half&1 == 1 || m.half < s.at {
		return 0
	}
	round := (m.half - s.from) / 2
	switch {
	case !s.taken || s.edges != m.counters.Edges || round > mostPeriods:
		if s.taken && round > mostPeriods {
			s.giveUp(m.half)
		}
		s.before = append(s.before[:0], m.state.arena...)
		s.from, s.taken, s.edges, s.back = m.half, true, m.counters.Edges, s.back[:0]
		return 0
	case round == 0 || round < s.round || !s.returned(m.state):
		return 0
	}
	left := int64(mostEdges) // edges up to the next event
	if until < m.edgeTime(m.half+left) {
		if left = (2 * m.config.Clock).Cycles(until) - m.half; m.edgeTime(m.half+left) > until {
			left--
		}
	}
	if left/(2*round) < leastRounds {
		return 0
	}
	most := left / (2 * round)
	n, odd := m.provenRounds(round, most)
	m.state.work += s.proof.work
	s.proof.work = 0
	if n < leastRounds {
		s.failed(m, round, n, odd)
		return 0
	}
	s.taken, s.round, s.wait, s.short = false, round, 0, 0
	if n < most { // what happens in the next round is no guide for those behind it
		s.at = m.half + 2*round*(n+1)
	}
	s.skipped += n * round
	for w := range m.state.words {
		if by := s.proof.first0[w]; by != 0 {
			limb := m.state.words[w].limb
			m.state.arena[limb] = (m.state.arena[limb] + uint64(by)*uint64(n)) & ones(m.state.words[w].width)
			m.state.touch(int32(w))
		}
	}
	s.orbits.advance(&s.proof, m.state, n)
	m.state.work += s.proof.work
	s.proof.work = 0
	m.state.settle()
	return n * 2 * round
}

// provenRounds gives how many rounds go as guessed, of those at most, and which registers moved otherwise; registers
// are set aside where that helps.
func (m *Machine) provenRounds(round, most int64) (rounds int64, odd []int32) {
	s := &m.skipper
	p := &s.proof
	try := func() bool {
		rounds, odd = m.prove(round, most)
		return rounds >= leastRounds && s.orbits.prepare(p, m.state)
	}
	if try() {
		return rounds, odd
	}
	if len(p.aside) > 0 { // somebody looks at them now
		p.aside = p.aside[:0]
		s.keepAside(m.half)
		rounds, odd = m.prove(round, most)
		return rounds, odd
	}
	if m.half < s.asideAt {
		return rounds, odd
	}
	plain, others := rounds, odd
	if len(odd) == 0 {
		odd = s.uneven(m.state, round)
	}
	for range mostJoined {
		if len(odd) == 0 || slices.ContainsFunc(odd, func(w int32) bool { return m.state.words[w].width > 64 }) {
			break
		}
		p.aside = append(p.aside, odd...)
		slices.Sort(p.aside)
		if try() {
			s.asideWait = 0
			return rounds, nil
		}
	}
	p.aside = p.aside[:0]
	s.keepAside(m.half)
	return plain, others
}

// uneven gives registers that moved otherwise this time than they did the last time that this was asked.
func (s *skipper) uneven(st *state, round int64) (odd []int32) {
	same := s.lastRound == round && len(s.lastBy) == len(s.proof.first0)
	for i := range st.registers {
		if r := &st.registers[i]; same && !r.write && s.proof.first0[r.q] != s.lastBy[r.q] {
			odd = append(odd, r.q)
		}
	}
	s.lastRound, s.lastBy = round, append(s.lastBy[:0], s.proof.first0...)
	return odd
}

// keepAside has nothing set aside for a while, longer each time.
func (s *skipper) keepAside(half int64) {
	s.asideWait = min(max(2*s.asideWait, 1), mostWait)
	s.asideAt = half + 2*s.asideWait
}

// returned tells whether all that must have come back are where they were.
func (s *skipper) returned(st *state) bool {
	for _, w := range s.back {
		limb := int(st.words[w].limb)
		for k := range (st.words[w].width + 63) / 64 {
			if st.arena[limb+k] != s.before[limb+k] {
				return false
			}
		}
	}
	return true
}

// failed thinks of another round. Registers that were odd, and did not move as guessed, must come back; where a proof
// held for few rounds again and again, the fastest of those that move must.
func (s *skipper) failed(m *Machine, round, held int64, odd []int32) {
	s.round = 0
	if len(odd) == 0 {
		s.short++
		fastest, turn := s.fastest(m.state)
		switch {
		case s.short <= mostShort: // something happens soon
			s.taken, s.round, s.at = false, round, m.half+2*round*(max(held, 0)+1)
			return
		case len(s.back) == 0 && round < mostDoubled && float64(round)*turn > mostDoubled:
			s.taken, s.round = false, 2*round // it may be that only upper bits of a counter are looked at
			return
		case fastest >= 0:
			odd = []int32{fastest}
		}
	}
	before := len(s.back)
	for _, w := range odd {
		if !slices.Contains(s.back, w) {
			s.back = append(s.back, w)
		}
	}
	if len(s.back) == before || len(s.back) > mostBack {
		s.giveUp(m.half)
	}
}

// fastest is the word that goes round first of those that move and need not have come back, and after how many rounds
// it does at the latest; -1 for none.
func (s *skipper) fastest(st *state) (best int32, least float64) {
	best = -1
	for w, by := range s.proof.first0 {
		if by == 0 || slices.Contains(s.back, int32(w)) {
			continue
		}
		if turn := math.Ldexp(1, st.words[w].width) / math.Abs(float64(by)); best < 0 || turn < least {
			best, least = int32(w), turn
		}
	}
	return best, least
}

// giveUp leaves it alone for a while, longer each time.
func (s *skipper) giveUp(half int64) {
	s.taken, s.short = false, 0
	s.wait = min(max(2*s.wait, 16), mostWait)
	s.at = half + 2*s.wait
}

// hopeAgain ends waiting, for an input has changed, and what was in vain may not be now.
func (s *skipper) hopeAgain(half int64) {
	if s.at < forEver && half >= s.hoped {
		s.at, s.wait, s.asideAt, s.asideWait, s.short = 0, 0, 0, 0, 0
		s.hoped = half + 2*mostWait
	}
}

// provable tells whether the design has nothing that a proof does not follow.
func (m *Machine) provable() bool {
	return m.clock.word >= 0 && len(m.state.words[m.clock.word].fan) == 0 && !m.levelOfClock()
}

// levelOfClock tells whether the oscillator's level is looked at otherwise than by edges.
func (m *Machine) levelOfClock() bool {
	p := m.state.program
	for i := range p.registers {
		r := &p.registers[i]
		for _, l := range []line{r.enable, r.reset, r.force, r.open} {
			if l.used && l.at == m.clock {
				return true
			}
		}
		for _, w := range []wide{r.d, r.forceTo, r.set, r.clear, r.address, r.mask} {
			for _, o := range w.limbs {
				for _, x := range o.pieces {
					if x.limb == m.clock.limb {
						return true
					}
				}
			}
		}
	}
	return false
}

// prove gives how many rounds of so many periods from here on, of those at most, go as guessed, and which registers did
// not.
func (m *Machine) prove(round, most int64) (rounds int64, odd []int32) {
	s, st := &m.skipper, m.state
	p := &s.proof
	p.program, p.bound = st.program, most-1
	p.arena = append(p.arena[:0], st.arena...)
	p.work += int64(len(st.words) / 16)
	n := len(st.words)
	if len(p.by) != n {
		p.by, p.first0 = make([]int64, n), make([]int64, n)
		p.dirty, p.unknown = make([]uint64, len(st.dirty)), make([]bool, n)
		p.aside = p.aside[:0]
	}
	clear(p.dirty)
	p.flows = p.flows[:0]
	clear(p.unknown)
	for _, w := range p.aside {
		p.forget(w)
	}
	clear(p.by)
	clear(p.first0)
	p.was = p.was[:0]
	for i := range st.groups {
		p.was = append(p.was, st.groups[i].was)
	}
	for i := range st.registers {
		r := &st.registers[i]
		if r.write || p.unknown[r.q] {
			continue
		}
		w := &st.words[r.q]
		d := int64(0)
		for k := range (w.width + 63) / 64 {
			at := int(w.limb) + k
			if st.arena[at] == s.before[at] {
				continue
			}
			if w.width > 62 { // it moves, and is not followed
				return 0, []int32{r.q}
			}
			d = int64(st.arena[at] - s.before[at])
			if half := int64(1) << (w.width - 1); w.width > 1 && d >= half {
				d -= 1 << w.width
			} else if w.width > 1 && d < -half {
				d += 1 << w.width
			}
		}
		if d != 0 {
			p.first0[r.q], p.by[r.q] = d, d
			p.within(st.arena[w.limb], 0, ones(w.width), d)
			p.touch(r.q)
		}
	}
	for range round {
		p.compute()
		if !m.still() || p.bound < leastRounds {
			return 0, nil
		}
		for _, high := range []bool{false, true} { // the oscillator falls, and rises
			p.arena[m.clock.limb] = p.arena[m.clock.limb]&^(1<<m.clock.shift) | truth(high)<<m.clock.shift
			if !p.settle() || p.bound < leastRounds {
				return 0, nil
			}
			if !high && !m.still() {
				return 0, nil
			}
		}
	}
	for i := range st.registers { // where it came to is where the next round begins
		r := &st.registers[i]
		if r.write || slices.Contains(p.aside, r.q) {
			continue
		}
		w := &st.words[r.q]
		if p.unknown[r.q] || p.by[r.q] != p.first0[r.q] {
			odd = append(odd, r.q)
			continue
		}
		for k := range (w.width + 63) / 64 {
			at := int(w.limb) + k
			if want := st.arena[at] + uint64(p.first0[r.q]); p.arena[at] != want&ones(min(64, w.width-64*k)) {
				odd = append(odd, r.q)
				break
			}
		}
	}
	if len(odd) > 0 || !m.still() {
		return 0, odd
	}
	for i := range p.was {
		if p.was[i] && !m.falling && st.groups[i].clock.at == m.clock {
			p.was[i] = false // as Machine.low has it
		}
		if p.was[i] != st.groups[i].was {
			return 0, nil
		}
	}
	return p.bound + 1, nil
}

// still tells whether what pins show stands as it is.
func (m *Machine) still() bool {
	p := &m.skipper.proof
	for i := range m.outputs {
		o := &m.outputs[i]
		if o.at.limb < 0 || !m.watched[o.pin] {
			continue
		}
		at, by := p.take(piece{limb: o.at.limb, shift: o.at.shift, width: 1})
		if by != 0 || at != m.state.arena[o.at.limb]>>o.at.shift&1 {
			return false
		}
		if o.three != nil {
			if _, driven := o.three.three(p.arena); driven != (m.drives[o.pin] != m.pulls[o.pin]) {
				return false
			}
			for k := range o.three.drivers {
				if _, by := p.get(&o.three.drivers[k].enable); by != 0 {
					return false
				}
			}
		}
	}
	return true
}

func (p *proof) touch(w int32) {
	for _, c := range p.words[w].fan {
		p.dirty[c/64] |= 1 << (c % 64)
	}
}

// compute follows what is dirty, in order.
func (p *proof) compute() {
	for i := 0; i < len(p.dirty) && p.bound >= leastRounds; i++ {
		for p.dirty[i] != 0 {
			n := i*64 + bits.TrailingZeros64(p.dirty[i])
			p.dirty[i] &= p.dirty[i] - 1
			p.work += p.cells[n].cost
			p.cell(&p.cells[n])
		}
	}
}

// cell computes a cell and has what depends on it computed where it changed, or moves otherwise.
func (p *proof) cell(c *cell) {
	w := &p.words[c.y]
	if c.op == opRead {
		for i := range c.a.limbs {
			p.fixed(&c.a.limbs[i])
		}
	}
	if len(p.aside) > 0 && p.vague(c) {
		return
	}
	if c.narrow && c.op != opRead {
		at, by := p.follow(c)
		p.put(c.y, at, by)
		return
	}
	for _, of := range []wide{c.a, c.b, c.s} {
		for i := range of.limbs {
			p.fixed(&of.limbs[i])
		}
	}
	changed := false
	if c.narrow {
		p.put(c.y, c.compute(p.arena), 0)
		return
	}
	digits := c.computeWide(p.arena).Bits()
	for k := range (w.width + 63) / 64 {
		v := uint64(0)
		if k < len(digits) {
			v = uint64(digits[k])
		}
		if at := int(w.limb) + k; p.arena[at] != v {
			p.arena[at], changed = v, true
		}
	}
	if changed {
		p.touch(c.y)
	}
}

// put has a word at a value that moves so.
func (p *proof) put(w int32, at uint64, by int64) {
	limb := p.words[w].limb
	if p.arena[limb] == at && p.by[w] == by && !p.unknown[w] {
		return
	}
	p.arena[limb], p.by[w], p.unknown[w] = at, by, false
	p.touch(w)
}

// settle is state.settle on paper.
func (p *proof) settle() bool {
	for range maxRounds {
		if p.compute(); p.bound < leastRounds {
			return false
		}
		if p.levels() {
			continue
		}
		any, ok := p.edges()
		if !ok || !any {
			return ok
		}
	}
	return false
}

// levels is state.levels on paper.
func (p *proof) levels() (any bool) {
	for _, i := range p.latches {
		if r := &p.registers[i]; !p.active(r.force) && p.active(r.open) {
			any = p.assign(r, &r.d) || any
		}
	}
	for _, i := range p.forced {
		r := &p.registers[i]
		if r.set.width > 0 { // bit by bit: only where none is
			for k := range r.set.limbs {
				set, clear := p.fixed(&r.set.limbs[k]), p.fixed(&r.clear.limbs[k])
				if r.setHigh != (set != 0) && set != ones(r.set.limbs[k].width) || r.clearHigh && clear != 0 {
					p.until(-1)
				}
			}
			continue
		}
		if !p.active(r.force) {
			continue
		}
		any = p.assign(r, &r.forceTo) || any
	}
	return any
}

// assign sets a register to a value.
func (p *proof) assign(r *register, v *wide) bool {
	w := &p.words[r.q]
	if p.unknown[r.q] {
		p.until(-1)
	}
	if w.width <= 64 {
		at, by := uint64(0), int64(0)
		if len(v.limbs) > 0 {
			at, by = p.get(&v.limbs[0])
		}
		if p.arena[w.limb] == at && p.by[r.q] == by {
			return false
		}
		p.put(r.q, at, by)
		return true
	}
	changed := false
	for k := range v.limbs {
		at := p.fixed(&v.limbs[k])
		changed = changed || p.arena[int(w.limb)+k] != at
		p.arena[int(w.limb)+k] = at
	}
	if changed {
		p.touch(r.q)
	}
	return changed
}

// next is a register that is about to change.
type next struct {
	register int32
	at       uint64
	by       int64
	more     []uint64 // of one with more than 64 bits: all of them
	unknown  bool
}

// edges is state.edges on paper. ok is false for what is not followed.
func (p *proof) edges() (any, ok bool) {
	all := p.pending[:0]
	defer func() { p.pending = all }()
	for i := range p.groups {
		g := &p.groups[i]
		now := p.active(g.clock)
		if now == p.was[i] {
			continue
		}
		if p.was[i] = now; !now {
			continue
		}
		any = true
		fired := false
		for _, k := range g.registers {
			r := &p.registers[k]
			switch {
			case len(p.aside) > 0 && slices.Contains(p.aside, r.q) && !r.write:
				fired = true
				continue
			case len(p.aside) > 0 && !r.write && r.memory == nil && !p.samples(r):
				all = append(all, next{register: k, unknown: true})
				continue
			case r.write:
				for i := range r.mask.limbs {
					if p.fixed(&r.mask.limbs[i]) != 0 {
						return any, false
					}
				}
				continue
			case r.enable.used && !p.active(r.enable) && (!r.reset.used || r.resetWaits || !p.active(r.reset)):
				continue
			case r.reset.used && p.active(r.reset):
				v := make([]uint64, (r.width+63)/64)
				for i := range r.width {
					if n := len(r.resetTo) - 1 - i; n >= 0 && r.resetTo[n] == '1' {
						v[i/64] |= 1 << (i % 64)
					}
				}
				all = append(all, next{register: k, at: v[0], more: v})
				continue
			case r.memory != nil:
				row, found := r.memory.row(r.address.at(p.fixed))
				v := make([]uint64, r.memory.limbs)
				if found {
					copy(v, r.memory.data[row:])
				}
				all = append(all, next{register: k, at: v[0], more: v})
				continue
			}
			x := next{register: k}
			if r.width <= 64 {
				x.at, x.by = p.get(&r.d.limbs[0])
			} else {
				for i := range r.d.limbs {
					x.more = append(x.more, p.fixed(&r.d.limbs[i]))
				}
			}
			all = append(all, x)
		}
		if fired {
			p.fired(int32(i))
		}
	}
	for _, x := range all {
		r := &p.registers[x.register]
		w := &p.words[r.q]
		if x.unknown {
			p.forget(r.q)
			continue
		}
		if w.width <= 64 {
			p.put(r.q, x.at, x.by)
			continue
		}
		for k, v := range x.more {
			if p.arena[int(w.limb)+k] != v {
				p.arena[int(w.limb)+k] = v
				p.touch(r.q)
			}
		}
	}
	return any, true
}
