// Package loops leaves out rounds of loops in which a program waits, exactly, for any instruction set.
//
// A program that waits goes round a short loop, looks at a flag, a pin or a count that goes on by itself, and nothing
// that it looks at changes before the next event but the count, which grows evenly. A Walk goes once round such a loop
// on paper: the core tells the effect of each instruction on values, which are formulas over what registers, flags and
// memory held at the loop's head. What comes of it is a Summary: under which conditions a round takes this path, what
// it leaves changed, and when a decision on the path would first fall otherwise. A summary is kept, and is only
// evaluated anew, with what the places hold by then, whenever the program comes to wait there again.
//
// Wide numbers that are computed in parts, byte by byte on a small chip, are followed at full width: a carry between
// the parts is a test of the number so far, which nobody has to decide. Only a branch decides.
//
// It is sound as long as every change from outside comes as an event that the core knows the cycle of. The last
// rounds before a decision may fall otherwise, or before the event, always run as usual, so that every place comes out
// bit for bit as without it.
package loops

import "math"

// Place is something that a program keeps from round to round: a register, a flag, a byte of memory. The numbers are
// the core's own.
type Place uint32

// Count is a count that goes on by itself: Value at the cycle that was asked for, one more at each cycle that is Base
// and a multiple of Period, until something else may happen to it at the cycle Until. A Period of 0 stands still.
type Count struct {
	Value               uint64
	Base, Period, Until int64
}

// Core is what the walks of an instruction set need.
type Core interface {
	// Follow carries out the instruction at w.PC on values, and moves w.PC and w.Cycle on. It reports whether it could.
	Follow(w *Walk) bool
	// Look gives what a place holds at the head of a loop, and the cycle before which nothing but the program changes
	// those bits of it that are in the mask; ok is false where looking acts, or this cannot be told.
	Look(p Place, mask uint64) (v uint64, until int64, ok bool)
	// Count gives a count as it is at a cycle.
	Count(id uint8, cycle int64) (c Count, ok bool)
	// Put changes a place.
	Put(p Place, v uint64)
}

// Never is no cycle that ever comes.
const Never = int64(math.MaxInt64)

// Loops keeps the loops of a program that were found.
type Loops struct {
	Followed int64 // instructions walked
	Walks    int64
	heads    [64]head
	walk     Walk
}

// head is where the rounds of a loop begin. Loops whose heads fall together share one.
type head struct {
	pc          uint32
	kept        []*Summary // the one of last use first
	learn, wait int64      // not walked before the cycle learn
}

// Bounds of what is kept and tried.
const (
	maxKept   = 4 // paths of a loop
	firstWait = 64
	lastWait  = 4_000_037 // no multiple of a timer's period
)

// Reset forgets all loops: another program was loaded.
func (l *Loops) Reset() { *l = Loops{} }

// Rewind begins time anew: it forgets when to look again, and the effort.
func (l *Loops) Rewind() {
	l.Followed, l.Walks = 0, 0
	for i := range l.heads {
		l.heads[i].learn, l.heads[i].wait = 0, 0
	}
}

// Skip leaves out rounds of the loop at whose head a core stands at a cycle, none of which reaches the limit: it puts
// the places that count rounds where they belong, and gives the cycles that were left out and the one before which it
// is of no use to ask again here. It reports whether this is a loop that it knows.
func (l *Loops) Skip(core Core, pc uint32, cycle, limit int64) (cycles, again int64, found bool) {
	h := &l.heads[pc%uint32(len(l.heads))]
	if h.pc != pc {
		*h = head{pc: pc, kept: h.kept[:0]}
	}
	for i, s := range h.kept {
		if n, again, ok := s.rounds(core, cycle, limit); ok {
			copy(h.kept[1:i+1], h.kept[:i])
			h.kept[0] = s
			return n * s.round, again, true
		}
	}
	if again = h.learn; len(h.kept) > 0 { // another of its paths may be taken soon
		again = cycle
	}
	if cycle < h.learn {
		return 0, again, false
	}
	l.Walks++
	s := l.walk.round(core, pc, cycle)
	l.Followed += l.walk.steps
	h.wait = min(max(2*h.wait, firstWait), lastWait)
	h.learn = cycle + h.wait
	if s == nil {
		if len(h.kept) == 0 {
			again = h.learn
		}
		return 0, again, false
	}
	n, again, ok := s.rounds(core, cycle, limit)
	if !ok {
		return 0, h.learn, false
	}
	if len(h.kept) < maxKept {
		h.kept = append(h.kept, nil)
	}
	copy(h.kept[1:], h.kept)
	h.kept[0] = s
	return n * s.round, again, true
}
