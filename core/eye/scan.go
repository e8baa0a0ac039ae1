package eye

import "hemble/core/clock"

// scan follows which digit of a display is lit at a time, to tell ghosts by their cause: a program
// that selects the next digit before it changes the segments shows the tail of one digit's pattern in
// the next.
type scan struct {
	of     []int // digit of each light
	index  []int // its place within the digit: segments of the same place share a wire
	digits int
	lights [][]int         // of each digit, by place
	now    int             // the digit that lit up last
	starts [][2]clock.Time // when each digit lit up latest, and the time before
	ghosts int64           // charge of all ghosts, nA·ns
}

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
		s.index[i] = len(s.lights[d])
		s.lights[d] = append(s.lights[d], i)
	}
	return s
}

// begin is told that a light comes on. It tells whether that may be the tail of the pattern of the
// digit before.
func (s *scan) begin(lights []light, i int, t clock.Time) bool {
	d := s.of[i]
	if d != s.now {
		s.now, s.starts[d] = d, [2]clock.Time{t, s.starts[d][0]}
	}
	if s.digits == 1 || t-s.starts[d][0] > handover {
		return false
	}
	for other := range s.lights {
		if other == d || s.index[i] >= len(s.lights[other]) {
			continue
		}
		if p := &lights[s.lights[other][s.index[i]]]; p.on || p.end > 0 && t-p.end <= handover {
			return true
		}
	}
	return false
}

// ghost tells whether a pulse that began as a tail was over before it could count as shown. cycle is the
// time to the light's next pulse, or to the present; where the digit's own period is known, that counts. A
// slot is the period over the number of digits.
func (s *scan) ghost(i int, on, cycle clock.Time) bool {
	if at := s.starts[s.of[i]]; at[1] >= 0 && at[0]-at[1] <= FlickerPeriod {
		cycle = min(cycle, at[0]-at[1])
	}
	return on*100*clock.Time(s.digits) < min(cycle, FlickerPeriod)*GhostShare
}
