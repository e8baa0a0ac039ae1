package vision

import (
	"hemble/core/clock"
	"hemble/core/machine"
)

// picture is one state of all cells of a display, from a moment on. A cell is 0 when dark or blank.
type picture struct {
	from  clock.Time
	to    clock.Time // its end, once it is known
	at    machine.Place
	cells []uint16
}

// settler takes changes of single cells in the order of time and gives the pictures that a person
// would have seen.
type settler struct {
	now     picture
	seen    *picture  // the last picture that was accepted
	pending []picture // ended, too short by themselves, and not judged yet
	accept  func(picture)
	settle  clock.Time // how long a picture must last by itself
}

func newSettler(cells int, accept func(picture)) *settler {
	return &settler{now: picture{cells: make([]uint16, cells)}, accept: accept, settle: Settle}
}

// change sets one cell from the moment t on.
func (s *settler) change(t clock.Time, cell int, value uint16, at machine.Place) {
	if s.now.cells[cell] == value {
		return
	}
	if t > s.now.from {
		s.end(t)
		s.now = picture{from: t, cells: append([]uint16(nil), s.now.cells...)}
	}
	s.now.cells[cell], s.now.at = value, at
}

// end closes the present picture at t.
func (s *settler) end(t clock.Time) {
	s.now.to = t
	if t-s.now.from < s.settle {
		s.pending = append(s.pending, s.now)
		if t-s.pending[0].from > 8*s.settle { // always on the move: judge the oldest by its neighbours
			oldest := s.pending[0]
			next := s.now
			if len(s.pending) > 1 {
				next = s.pending[1]
			}
			s.judge(oldest, next)
			s.pending = s.pending[1:]
		}
		return
	}
	s.stable(s.now)
}

// stable accepts a picture that lasted, after judging the short ones before it.
func (s *settler) stable(next picture) {
	for _, p := range s.pending {
		s.judge(p, next)
	}
	s.pending = s.pending[:0]
	s.take(next)
}

// judge accepts a short picture only if it shows something of its own: light or a character that
// neither the picture before nor the one after has.
func (s *settler) judge(p, next picture) {
	for i, c := range p.cells {
		if c != 0 && c != next.cells[i] && (s.seen == nil || c != s.seen.cells[i]) {
			s.take(p)
			return
		}
	}
}

// take accepts a picture; one equal to the last continues with it.
func (s *settler) take(p picture) {
	if s.seen != nil && equal(s.seen.cells, p.cells) {
		return
	}
	s.seen = &p
	s.accept(p)
}

// standing gives the present picture if, by the moment t, it has lasted long enough.
func (s *settler) standing(t clock.Time) (picture, bool) {
	now := s.now
	now.to = t
	return now, t-s.now.from >= s.settle
}

// finish ends the run at t. What came too late to settle is not judged.
func (s *settler) finish(t clock.Time) {
	s.now.to = t
	if t-s.now.from >= s.settle || s.seen == nil {
		s.stable(s.now)
	}
}

func equal(a, b []uint16) bool {
	for i := range a {
		if a[i] != b[i] {
			return false
		}
	}
	return true
}
