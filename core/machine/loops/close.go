package loops

import "slices"

// closing finds out, at the end of a round, what is the same in every round, what counts rounds, and what is made
// anew. A place that the round leaves changed is one that varies, unless what it is left with is what it holds now:
// then that is one more condition.
type closing struct {
	*Walk
	varies   map[int32]bool // by entry atoms; what is held to what it is does not
	counters []counter      // places that grow evenly
	of       map[int32]int  // which counter an entry atom belongs to, and 1
	inside   map[int32]bool // residues that are checked to stay within their bits
	moved    []moving       // the checks so far, with how they move
}

// moving is a check with how its side that moves does.
type moving struct {
	check
	movesY bool
	motion
}

// counter is places that together are a number, the lowest part first, that a round adds the same to. The number may
// have fewer bits than its one place, which has zeros above it.
type counter struct {
	atoms []int32
	bits  uint8 // of a part
	step  uint64
	form  form // the number
}

// motion is how the number that a form is moves: with one of the readings of counts, or from round to round.
type motion struct {
	count int8 // -1 for none
	step  uint64
}

func (w *Walk) close() *Summary {
	c := closing{Walk: w, varies: map[int32]bool{}, of: map[int32]int{}, inside: map[int32]bool{}}
	for _, p := range w.places {
		if e := w.nodes[p.now]; e.kind != part || e.lo != 0 || !w.forms[e.more].equal(w.single(p.atom, p.bits)) {
			c.varies[p.atom] = true
		}
	}
	c.findCounters()
	if !c.testAll() {
		return nil
	}
	for done := 0; done < len(w.bits); { // what places must hold that vary adds more
		for _, b := range w.bits[done:] {
			done++
			a := w.atomOf(b.place)
			if c.of[a] > 0 || c.varies[a] && !c.settle(a) {
				return nil
			}
		}
		if !c.testAll() {
			return nil
		}
	}
	// What was held to while checks were looked at may have added bits of places that count or vary.
	for _, b := range w.bits {
		if a := w.atomOf(b.place); c.of[a] > 0 || c.varies[a] {
			return nil
		}
	}
	depth := c.depth()
	if depth == 0 {
		return nil
	}
	return c.lay(depth)
}

// testAll finds out how the checks move that were not looked at yet; what they need adds more.
func (c *closing) testAll() bool {
	for i := len(c.moved); i < len(c.checks); i++ {
		t, ok := c.moves(c.checks[i])
		if !ok {
			return false
		}
		c.moved = append(c.moved, t)
	}
	return true
}

// findCounters finds places that a round adds a constant to, in one or more parts.
func (c *closing) findCounters() {
	added := func(p kept, f form, bits uint8) (step uint64, ok bool) { // the form is f and a constant
		e := c.nodes[p.now]
		if e.kind != part || e.bits != p.bits || e.lo != bits || c.forms[e.more].n != bits+p.bits {
			return 0, false
		}
		whole := c.single(p.atom, p.bits)
		if bits > 0 {
			whole = c.plus(f, c.scaled(whole, 1<<bits, f.n))
		}
		rest := c.minus(c.forms[e.more], whole)
		return rest.c, len(rest.terms) == 0
	}
	for _, low := range c.places {
		if !c.varies[low.atom] || c.of[low.atom] > 0 {
			continue
		}
		if n, ok := c.narrow(low); ok {
			c.count(n)
			continue
		}
		step, ok := added(low, form{n: low.bits}, 0)
		if !ok {
			continue
		}
		n := counter{[]int32{low.atom}, low.bits, step, c.single(low.atom, low.bits)}
		for grown := true; grown && n.form.n+low.bits <= 64; {
			grown = false
			for _, p := range c.places {
				if p.bits != low.bits || !c.varies[p.atom] || slices.Contains(n.atoms, p.atom) {
					continue
				}
				f := n.form
				f.n += p.bits
				step, ok := added(p, f, n.form.n)
				if !ok || step&ones(n.form.n) != n.step {
					continue
				}
				n.atoms, n.step = append(n.atoms, p.atom), step
				n.form = c.plus(f, c.scaled(c.single(p.atom, p.bits), 1<<(f.n-p.bits), f.n))
				grown = true
				break
			}
		}
		c.count(n)
	}
}

func (c *closing) count(n counter) {
	c.counters = append(c.counters, n)
	for _, a := range n.atoms {
		c.of[a] = len(c.counters)
		delete(c.varies, a)
	}
}

// narrow finds a counter of fewer bits than its place: a byte in a register of four.
func (c *closing) narrow(p kept) (counter, bool) {
	e := c.nodes[p.now]
	if e.kind != part || e.lo != 0 || e.bits != p.bits {
		return counter{}, false
	}
	f := c.forms[e.more]
	if f.c != 0 || len(f.terms) != 1 || f.terms[0].k != 1 || c.atoms[f.terms[0].atom].kind != residue {
		return counter{}, false
	}
	inner := c.atoms[f.terms[0].atom].form
	if len(inner.terms) != 1 || inner.terms[0] != (term{p.atom, 1}) {
		return counter{}, false
	}
	return counter{[]int32{p.atom}, p.bits, inner.c, form{n: inner.n, terms: inner.terms}}, true
}

// settle makes a place that varies one that is held to what the round leaves in it.
func (c *closing) settle(a int32) bool {
	for _, p := range c.places {
		if p.atom != a {
			continue
		}
		if c.nodes[p.now].v != c.atoms[a].v {
			return false
		}
		delete(c.varies, a)
		rest := c.minus(c.formOf(p.now, p.bits), c.single(a, p.bits))
		c.checks = append(c.checks, check{test: test{op: zero, x: rest}, want: true})
		return true
	}
	return false
}

// motion gives how a form moves. What it needs to stay as it is, is held. ok is false where it moves otherwise.
func (c *closing) motion(f form) (m motion, ok bool) {
	m.count = -1
	parts := map[int][]term{}
	for _, t := range f.terms {
		a := c.atoms[t.atom]
		inner := motion{count: -1}
		switch a.kind {
		case entry:
			if n := c.of[t.atom]; n > 0 {
				parts[n-1] = append(parts[n-1], t)
				continue
			}
			if c.varies[t.atom] && !c.settle(t.atom) {
				return m, false
			}
			continue
		case counted:
			inner = motion{int8(a.count), 1}
		case residue:
			if inner, ok = c.motion(a.form); !ok {
				return m, false
			}
			if inner.step != 0 && !c.inside[t.atom] {
				c.inside[t.atom] = true
				c.checks = append(c.checks, check{test: test{op: inside, x: a.form}, want: true})
			}
			if half := ones(a.form.n)>>1 + 1; inner.step > half { // falling, as a number of more bits
				inner.step |= ^ones(a.form.n)
			}
		case made:
			c.hold(a.node, ^uint64(0))
			continue
		}
		if !m.with(inner.count, t.k*inner.step, f.n) {
			return m, false
		}
	}
	for n, terms := range parts {
		k, ok := c.counters[n].factor(terms, f.n)
		if !ok || !m.with(-1, k*c.counters[n].step, f.n) {
			return m, false
		}
		if whole := c.counters[n].form; whole.n < f.n && k<<whole.n&ones(f.n) != 0 {
			// as a number of more bits it goes on evenly for as long as it does not come to its modulus
			c.checks = append(c.checks, check{test: test{op: inside, x: whole}, want: true})
			if half := ones(whole.n)>>1 + 1; c.counters[n].step > half {
				if !m.with(-1, k*^ones(whole.n), f.n) {
					return m, false
				}
			}
		}
	}
	return m, true
}

// with adds a motion of something in the form.
func (m *motion) with(count int8, step uint64, n uint8) bool {
	if step &= ones(n); step == 0 {
		return true
	}
	if m.step != 0 && m.count != count {
		return false
	}
	m.count = count
	m.step = (m.step + step) & ones(n)
	return true
}

// factor gives k where the terms are k times the number, modulo 2^n.
func (n *counter) factor(terms []term, bits uint8) (k uint64, ok bool) {
	coefficient := func(atom int32) uint64 {
		for _, t := range terms {
			if t.atom == atom {
				return t.k
			}
		}
		return 0
	}
	k = coefficient(n.atoms[0])
	for i, a := range n.atoms {
		if coefficient(a) != k<<(uint8(i)*n.bits)&ones(bits) {
			return 0, false
		}
	}
	return k, true
}

// moves finds out how a check moves; ok is false where it moves in a way that is not followed.
func (c *closing) moves(k check) (out moving, ok bool) {
	if k.test.op == carries && k.test.x.equal(k.test.y) { // a doubling: its highest bit
		x := k.test.x
		k = check{test{op: stays, x: x, lo: x.n - 1}, true, c.value(x)}
	}
	out.check = k
	if out.motion, ok = c.motion(k.test.x); !ok || k.test.op != less && k.test.op != carries {
		return out, ok
	}
	y, ok := c.motion(k.test.y)
	if !ok || out.step != 0 && y.step != 0 {
		return out, false
	}
	if y.step != 0 {
		out.movesY, out.motion = true, y
	}
	return out, true
}

// maxDepth is after how many rounds at most nothing may depend any more on the rounds that were left out.
const maxDepth = 3

// depth is how many rounds it takes until all that varies was made anew out of what does not; 0 for none that will do.
func (c *closing) depth() int64 {
	of := map[int32][]int32{}
	for _, p := range c.places {
		if c.varies[p.atom] {
			c.stamp++
			of[p.atom] = c.sources(nil, p.now)
		}
	}
	depth := int64(1)
	for ; len(of) > 0; depth++ {
		var made []int32
		for a, from := range of {
			if !slices.ContainsFunc(from, func(f int32) bool { _, open := of[f]; return open }) {
				made = append(made, a)
			}
		}
		if len(made) == 0 || depth > maxDepth {
			return 0
		}
		for _, a := range made {
			delete(of, a)
		}
	}
	return max(1, depth-1)
}

// sources adds the entries that vary which a value comes from.
func (c *closing) sources(all []int32, v Value) []int32 {
	x := &c.nodes[v]
	if x.stamp == c.stamp {
		return all
	}
	x.stamp = c.stamp
	switch x.kind {
	case part:
		all = c.formSources(all, c.forms[x.more])
	case verdict:
		all = c.formSources(c.formSources(all, c.tests[x.more].x), c.tests[x.more].y)
	case row:
		for i := range int32(x.bits) {
			all = c.sources(all, c.rows[x.more+i])
		}
	}
	for _, o := range x.of[:x.from] {
		all = c.sources(all, o)
	}
	return all
}

func (c *closing) formSources(all []int32, f form) []int32 {
	for _, t := range f.terms {
		switch a := c.atoms[t.atom]; {
		case a.kind == entry && c.varies[t.atom]:
			all = append(all, t.atom)
		case a.kind == residue:
			all = c.formSources(all, a.form)
		case a.kind == made:
			all = c.sources(all, a.node)
		}
	}
	return all
}
