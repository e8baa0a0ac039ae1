package avr

import "math/bits"

// Skipping of polling loops, exactly. A program that waits mostly goes round a short loop that looks at a flag, a
// pin or a timer's count, and nothing it looks at changes before the next event but the count, which grows evenly.
// walk.go goes once round the loop on paper and finds out whether every further round takes the same path and the
// same cycles, and until when; here those rounds are left out. The last of them always run as usual, so that
// every register, flag and byte comes out bit for bit as without it. Taking this file, walk.go, forms.go and the
// two places in interpret away changes no result.
//
// It is sound since every change from outside comes as an event: pins, serial ports, conversions, and the
// timers' interrupts have a due time, and a run looks up before it.

// polls decides when to look for a loop.
type polls struct {
	at      int64 // not before this cycle, at any place
	wait    int64 // how long to leave it after a failure
	headAt  int64 // not before this cycle, at a head that is known
	done    int64 // instructions interpreted when it was last looked for
	summary *summary
}

// How long to leave it: at first, and at most. A walk costs about as much as it takes to interpret 1000 cycles.
const (
	firstWait = 64
	lastShort = 1 << 10 // where a loop was found, but hardly a round could be left out
	lastWait  = 30_011  // no multiple of a timer's period
	enough    = 500     // cycles
)

// findPoll looks for a loop where the machine happens to be. The head of one that could be skipped is marked, so
// that the interpreter stops there.
func (m *Machine) findPoll() {
	p := &m.polls
	if m.irq != 0 || m.deadline-m.cycle < minSkip { // something is about to happen
		p.at = max(m.cycle, m.deadline) + firstWait
		return
	}
	if m.counters.Instructions-p.done < p.wait/2 { // most cycles were skipped as counted waits
		p.at = m.cycle + max(p.wait, firstWait)
		return
	}
	p.done = m.counters.Instructions
	if p.summary == nil {
		p.summary = newWalk(m)
	}
	for range maxHeads {
		if !m.toLoopHead() {
			break
		}
		head := m.pc
		if m.skipRounds() {
			if m.code[head].op < opStart {
				m.code[head].op = opPoll
			}
			p.at, p.wait, p.headAt = m.cycle+lastWait, firstWait, m.cycle
			return
		}
	}
	p.wait = min(max(2*p.wait, firstWait), lastWait)
	p.at = m.cycle + p.wait
}

// skipPoll leaves out rounds of a loop at whose marked head the machine stands. A head that is of no use any more is
// unmarked.
func (m *Machine) skipPoll() {
	p := &m.polls
	if m.cycle < p.headAt || m.irq != 0 || m.deadline-m.cycle < minSkip {
		return
	}
	known := p.summary.loop(m.pc)
	if m.skipRounds() {
		known.failures = 0
		p.at = m.cycle + lastWait
		return
	}
	p.headAt = m.cycle + firstWait
	if known.failures++; known.failures > maxFailures {
		known.failures = 0
		m.code[m.pc].op = m.reference[m.pc].op
		p.at, p.wait = m.cycle+firstWait, firstWait
	}
}

// skipRounds leaves out as many rounds as can be; it reports whether they were enough to be worth it.
func (m *Machine) skipRounds() bool {
	round, rounds := m.polls.summary.rounds(m)
	m.cycle += round * rounds
	return round*rounds >= enough || round > 0 && m.deadline-m.cycle < 2*round
}

// toLoopHead continues, as usual, up to where a jump backwards leads: there least is under way. It reports whether one
// came soon, and in time.
func (m *Machine) toLoopHead() bool {
	for range maxSteps {
		if m.code[m.pc].op >= opLoopDEC { // a counted wait, which loops.go skips, or a known head
			return false
		}
		from, in := m.pc, m.reference[m.pc]
		m.counters.Instructions++
		m.execute(in)
		m.pc &= m.pcMask
		if m.deadline-m.cycle < minSkip || m.irq != 0 {
			return false
		}
		switch in.op {
		case opRJMP, opJMP, opBRBS, opBRBC:
			if m.pc <= from {
				return true
			}
		}
	}
	return false
}

// rounds goes round the loop at whose present instruction the machine stands. It gives the cycles of a round, 0 if
// this is no loop that can be skipped, and how many rounds to leave out.
func (w *summary) rounds(m *Machine) (round, rounds int64) {
	before := w.loop(m.pc)
	if before.head == m.pc { // what it was last time saves most of the work
		w.varying = append(w.varying[:0], before.varying...)
		for i := range w.varying {
			w.varying[i].stale = true
		}
	}
	if before.head != m.pc || !w.fixed(m) {
		w.varying = w.varying[:0]
		if !w.fixed(m) {
			return 0, 0
		}
		before.head, before.varying = m.pc, append(before.varying[:0], w.varying...)
	}
	// How many rounds it takes until nothing depends on those left out.
	depth := int64(1)
	for w.settle(m) {
		if depth++; depth > maxDepth || !w.round(m) {
			return 0, 0
		}
	}
	round = w.cycle - m.cycle
	last := (w.limit-1-m.cycle)/round - 1 // the last round that ends before the limit
	for i := range w.counts {
		c := &w.counts[i]
		if c.until == noFlip {
			continue
		}
		end := c.base + (c.first+int64(min(c.until, 1<<40)))<<c.shift // the first cycle at which the count is that far
		last = min(last, (end-1-c.read)/round)
	}
	return round, max(0, last-depth+1)
}

// fixed goes round until all places that vary from round to round are known: what a round changes is anything at
// the beginning of the next.
func (w *summary) fixed(m *Machine) bool {
	for range maxTries {
		if !w.round(m) {
			return false
		}
		if !w.widen(m) {
			return true
		}
	}
	return false
}

// loop is a loop that was walked before: what varied in it, and how often in a row it could not be skipped.
type loop struct {
	head     int32
	varying  []vary
	failures int
}

// loop gives the memory of a loop by its head; another may have had it.
func (w *summary) loop(head int32) *loop { return &w.known[uint(head)%uint(len(w.known))] }

// Bounds of a walk.
const (
	minSkip     = 100 // cycles up to the next event that are worth a look
	maxHeads    = 4   // loops, from the inner ones out, that are tried
	maxFailures = 20
	maxTries    = 5
	maxDepth    = 3
	maxSteps    = 300
)

// place is a register, a flag or a byte of SRAM: SRAM by its address, registers by their number, flags behind them.
type place uint16

const flagPlaces = place(0x20)

// vary is a place whose content differs from round to round.
type vary struct {
	at    place
	stale bool // it is not yet known to be made anew by the rounds that run
}

// widen adds places that the round has changed to those that vary; it reports whether there are new ones.
func (w *summary) widen(m *Machine) bool {
	n := len(w.varying)
	check := func(at place, same bool) {
		if same {
			return
		}
		for _, v := range w.varying[:n] {
			if v.at == at {
				return
			}
		}
		w.varying = append(w.varying, vary{at, true})
	}
	for r := range w.regs {
		check(place(r), w.regs[r].kind == known && w.regs[r].v == m.data[r])
	}
	for rest := w.open | w.sreg ^ m.sreg; rest != 0; rest &= rest - 1 {
		check(flagPlaces+place(log2(rest)), false)
	}
	for _, at := range w.touched {
		v := w.memory[at]
		check(place(at), v.kind == known && v.v == m.data[at])
	}
	return len(w.varying) > n
}

// settle takes the places that the round has made anew, out of nothing stale, off the stale ones. It reports whether
// some are left.
func (w *summary) settle(m *Machine) (left bool) {
	for i := range w.varying {
		v := &w.varying[i]
		var kind kind
		switch {
		case v.at < flagPlaces:
			kind = w.regs[v.at].kind
		case v.at < place(m.sramStart):
			kind = w.kindOf(uint8(v.at - flagPlaces))
		default:
			kind = w.memory[v.at].kind
		}
		v.stale = kind == stale
		if kind == saved {
			v.stale = v.at < flagPlaces && w.holdsStale(w.regs[v.at]) ||
				v.at >= place(m.sramStart) && w.holdsStale(w.memory[v.at])
		}
		left = left || v.stale
	}
	return left
}

// log2 of the lowest bit of a mask.
func log2(mask uint8) uint8 { return uint8(bits.TrailingZeros8(mask)) }
