package eye

import "hemble/core/clock"

// scan follows which digit of a display is lit at a time, to tell ghosts by their cause: a program
// that selects the next digit before it changes the segments shows the tail of one digit's pattern in
// the next, and one that changes the segments first shows the head of the next pattern.
type scan struct {
	of     []int // digit of each light; alone for one that is not scanned
	index  []int // its place within the digit: segments of the same place share a wire
	digits int
	lights [][]int         // of each digit, by place
	now    int             // the digit that lit up last
	starts [][2]clock.Time // when each digit lit up latest, and the time before

	turns, turning int64 // scan periods, and what they sum up to in ps
	ghosts         int64 // pulses that were ghosts
	strength       int64 // the sum of their lengths in thousandths of a slot
}

// alone is the digit of a light that belongs to none.
const alone = -1

// handover is how far apart the end of a light in one digit and its beginning in the next may be to
// be one pattern handed on.
const handover = 50 * clock.Microsecond

func newScan(of []int) scan {
	s := scan{of: of, index: make([]int, len(of)), now: -1}
	for i, d := range of {
		for d >= s.digits {
			s.digits++
			s.lights = append(s.lights, nil)
			s.starts = append(s.starts, [2]clock.Time{-1, -1})
		}
		if d != alone {
			s.index[i] = len(s.lights[d])
			s.lights[d] = append(s.lights[d], i)
		}
	}
	return s
}

// begin is told that a light comes on. It tells whether that may be the tail of the pattern of the
// digit before, and marks what may have been the head of this one.
func (s *scan) begin(lights []light, i int, t clock.Time) bool {
	d := s.of[i]
	if d == alone || s.digits == 1 {
		return false
	}
	if d != s.now {
		if before := s.starts[d][0]; before >= 0 && t-before <= FlickerPeriod {
			s.turns++
			s.turning += int64(t - before)
		}
		s.now, s.starts[d] = d, [2]clock.Time{t, s.starts[d][0]}
	}
	inherited := false
	for other := range s.lights {
		if other == d || s.index[i] >= len(s.lights[other]) {
			continue
		}
		p := &lights[s.lights[other][s.index[i]]]
		handed := p.on || p.end > 0 && t-p.end <= handover
		inherited = inherited || handed
		if handed && !p.judged {
			p.inherited = true
		}
	}
	return inherited && t-s.starts[d][0] <= handover
}

// ghost tells whether a pulse that began as a tail, or ended as a head, was over before it could count
// as shown. cycle is the time to the light's next pulse, or to the present; where the digit's own period
// is known, that counts. A slot is the period over the number of digits.
func (s *scan) ghost(i int, on, cycle clock.Time) bool {
	if at := s.starts[s.of[i]]; at[1] >= 0 && at[0]-at[1] <= FlickerPeriod {
		cycle = min(cycle, at[0]-at[1])
	}
	slot := min(cycle, FlickerPeriod) / clock.Time(s.digits)
	if on*100 >= slot*GhostShare {
		return false
	}
	s.ghosts++
	s.strength += int64(on * 1000 / max(1, slot))
	return true
}
