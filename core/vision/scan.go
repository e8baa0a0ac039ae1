package vision

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
	strength       int64 // the sum of their brightness in thousandths of their pattern's
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

// begin is told that a light comes on. It reports whether that may be the tail of the pattern of the
// digit before, and for how long that was on; and marks what may have been the head of this one.
func (s *scan) begin(lights []light, i int, t clock.Time) (inherited bool, pattern clock.Time) {
	d := s.of[i]
	if d == alone || s.digits == 1 {
		return false, 0
	}
	if d != s.now {
		if before := s.starts[d][0]; before >= 0 && t-before <= FlickerPeriod {
			s.turns++
			s.turning += int64(t - before)
		}
		s.now, s.starts[d] = d, [2]clock.Time{t, s.starts[d][0]}
	}
	for other := range s.lights {
		if other == d || s.index[i] >= len(s.lights[other]) {
			continue
		}
		p := &lights[s.lights[other][s.index[i]]]
		handed := p.on || p.end > 0 && t-p.end <= handover
		if !handed {
			continue
		}
		inherited = true
		on := p.end - p.start
		if p.on {
			on = t - p.start
		}
		pattern = max(pattern, on)
		if !p.judged {
			p.inherited, p.pattern = true, lights[i].end-lights[i].start
		}
	}
	return inherited && t-s.starts[d][0] <= handover, pattern
}

// ghost reports whether a pulse that began as a tail, or ended as a head, was over before it could count
// as shown. cycle is the time to the light's next pulse, or to the present; where the digit's own period
// is known, that counts. A slot is the period over the number of digits. How strong it is, is told in parts of the
// pattern that it is a piece of: both come once a period with the same current, so that their times tell their
// brightness.
func (s *scan) ghost(i int, on, cycle, pattern clock.Time) bool {
	if at := s.starts[s.of[i]]; at[1] >= 0 && at[0]-at[1] <= FlickerPeriod {
		cycle = min(cycle, at[0]-at[1])
	}
	slot := min(cycle, FlickerPeriod) / clock.Time(s.digits)
	if on*100 >= slot*GhostFraction {
		return false
	}
	if pattern <= on {
		pattern = slot
	}
	s.ghosts++
	s.strength += int64(on * 1000 / max(1, pattern))
	return true
}
