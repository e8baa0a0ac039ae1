package loops

// Polls decides where and when to look for a loop that waits, for interpreters that carry out many instructions at a
// time. A head that could be skipped is marked, so that the interpreter stops there.
type Polls struct {
	At     int64 // nothing is looked for before this cycle
	wait   int64 // how long to leave it after a failure
	headAt int64 // not before this cycle, at a head that is known
	done   int64 // instructions interpreted when it was last looked for
	loops  Loops
	failed [64]uint8 // how often in a row heads, by their address, were of no use
}

// Machine is what finding loops needs of an interpreter.
type Machine interface {
	Core
	// State is where it stands: the instruction at hand, its cycle, the one of the next event, whether an interrupt is
	// about to come, and the instructions carried out so far.
	State() (pc uint32, cycle, deadline int64, busy bool, instructions int64)
	// Pass lets cycles pass.
	Pass(cycles int64)
	// Advance carries out one instruction as usual. It reports whether that was a jump backwards.
	Advance() (back bool)
	// Marked tells whether the instruction at hand needs no look: a head that is known.
	Marked(pc uint32) bool
	// Mark has the interpreter stop at an instruction, or no longer.
	Mark(pc uint32, on bool)
}

// How long to leave it: at first, and at most. To walk round a few loops costs about as much as it takes to interpret
// 20,000 cycles.
const (
	firstLeave = 64
	lastFound  = 30_011  // where a loop was found
	lastLeave  = 500_009 // no multiple of a timer's period
	enough     = 500     // cycles
)

// Bounds of the search.
const (
	minSkip     = 100 // cycles up to the next event that are worth a look
	maxHeads    = 4   // loops, from the inner ones out, that are tried
	maxToHead   = 300 // instructions until a jump backwards
	maxFailures = 20
)

// Reset forgets all: another program was loaded.
func (p *Polls) Reset() { *p = Polls{} }

// Rewind begins time anew.
func (p *Polls) Rewind() {
	p.At, p.wait, p.headAt = 0, 0, 0
	p.loops.Rewind()
}

// Effort is how many instructions were walked, in how many goes.
func (p *Polls) Effort() (followed, walks int64) { return p.loops.Followed, p.loops.Walks }

// Find looks for a loop where the machine happens to be.
func (p *Polls) Find(m Machine) {
	_, cycle, deadline, busy, done := m.State()
	if busy || deadline-cycle < minSkip { // something is about to happen
		p.At = max(cycle, deadline) + firstLeave
		return
	}
	if done-p.done < p.wait/2 { // most cycles were skipped
		p.At = cycle + max(p.wait, firstLeave)
		return
	}
	p.done = done
	for range maxHeads {
		if !toHead(m) {
			break
		}
		head, _, _, _, _ := m.State()
		if p.rounds(m) {
			m.Mark(head, true)
			_, cycle, _, _, _ = m.State()
			p.At, p.wait = cycle+lastFound, firstLeave
			return
		}
	}
	_, cycle, _, _, _ = m.State()
	p.wait = min(max(2*p.wait, firstLeave), lastLeave)
	p.At = cycle + p.wait
}

// Skip leaves out rounds of a loop at whose marked head the machine stands. A head that is of no use any more is
// unmarked.
func (p *Polls) Skip(m Machine) {
	pc, cycle, deadline, busy, _ := m.State()
	if cycle < p.headAt || busy || deadline-cycle < minSkip {
		return
	}
	failed := &p.failed[pc%uint32(len(p.failed))]
	if p.rounds(m) {
		*failed = 0
		_, cycle, _, _, _ = m.State()
		p.At = cycle + lastFound
		return
	}
	if *failed++; *failed > maxFailures {
		*failed = 0
		m.Mark(pc, false)
		p.At, p.wait = cycle+firstLeave, firstLeave
	}
}

// rounds leaves out as many rounds as can be; it reports whether this is a loop that is known, and it was worth it.
func (p *Polls) rounds(m Machine) bool {
	pc, cycle, deadline, _, _ := m.State()
	cycles, again, found := p.loops.Skip(m, pc, cycle, deadline)
	m.Pass(cycles)
	p.headAt = again
	return found && (cycles >= enough || deadline-cycle-cycles < 2*enough)
}

// toHead continues, as usual, up to where a jump backwards leads: there least is under way. It reports whether one
// came soon, and in time.
func toHead(m Machine) bool {
	for range maxToHead {
		pc, _, _, _, _ := m.State()
		if m.Marked(pc) {
			return false
		}
		back := m.Advance()
		if _, cycle, deadline, busy, _ := m.State(); deadline-cycle < minSkip || busy {
			return false
		}
		if back {
			return true
		}
	}
	return false
}
