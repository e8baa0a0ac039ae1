package fault

import (
	"fmt"
	"slices"

	"hemble/core/display"
	"hemble/core/reel"
)

// round is a count by ones that may begin again: from first on, up to high and then from low, or down to low and then
// from high.
type round struct {
	first, low, high int
	down, again      bool
}

// roundOf finds the round that numbers go, one after the other; at least three that differ.
func roundOf(numbers []int) (r round, ok bool) {
	if len(numbers) < 3 {
		return r, false
	}
	ups, downs := 0, 0
	for i := range numbers[1:] {
		switch numbers[i+1] - numbers[i] {
		case 1:
			ups++
		case -1:
			downs++
		}
	}
	r = round{first: numbers[0], down: downs > ups}
	for i, n := range numbers[1:] {
		if before := numbers[i]; n != r.next(before) {
			if r.again {
				return r, false
			}
			r.again, r.low, r.high = true, n, before
			if r.down {
				r.low, r.high = before, n
			}
			if r.low >= r.high {
				return r, false
			}
		}
	}
	return r, max(ups, downs) > 0
}

// next is what comes after a number.
func (r round) next(n int) int {
	switch {
	case r.down && r.again && n == r.low:
		return r.high
	case r.down:
		return n - 1
	case r.again && n == r.high:
		return r.low
	}
	return n + 1
}

// goes reports whether numbers go this round.
func (r round) goes(numbers []int) bool {
	n := r.first
	for _, m := range numbers {
		if m != n {
			return false
		}
		n = r.next(n)
	}
	return true
}

// rounds are the round that is expected of a display and the one that is seen, the same in all trials.
func (s *Subject) rounds() (want, seen round, ok bool) {
	if _, counts := s.counting(); !counts || s.Verdicts == nil {
		return want, seen, false
	}
	var longest []int
	for _, all := range s.Verdicts {
		for _, v := range all {
			var numbers []int
			for _, l := range v.Alignment {
				if v.Display != s.Part.Name || l.Expected == nil || l.Expected.State == nil {
					continue
				}
				if n, known := s.number(*l.Expected.State); known {
					numbers = append(numbers, n)
				}
			}
			if len(numbers) > len(longest) {
				longest = numbers
			}
		}
	}
	if want, ok = roundOf(longest); !ok {
		return want, seen, false
	}
	most := 2*len(longest) + 4 // or it shows digits one by one, or other things in between
	longest = nil
	for _, t := range s.shown.Tracks {
		if len(t.Frames) > most {
			return want, seen, false
		}
		if numbers := s.numbers(t); len(numbers) > len(longest) {
			longest = numbers
		}
	}
	if seen, ok = roundOf(longest); !ok {
		return want, seen, false
	}
	for _, t := range s.shown.Tracks {
		ok = ok && seen.goes(s.numbers(t))
	}
	return want, seen, ok && want.down == seen.down
}

// numbers are those that a display shows, one after the other.
func (s *Subject) numbers(t *display.Track) (out []int) {
	for _, f := range t.Frames {
		if n, ok := s.number(f.State); ok && (len(out) == 0 || out[len(out)-1] != n) {
			out = append(out, n)
		}
	}
	return out
}

// along has a display count along another round.
func (s *Subject) along(want round) func(*reel.Reel) *reel.Reel {
	return frames(s.Part.Name, func(_ string, t *display.Track) []display.Frame {
		out := slices.Clone(t.Frames)
		n, before, begun := want.first, 0, false
		for i, f := range out {
			shown, ok := s.read(t, f.State)
			if !ok {
				continue
			}
			if begun && shown != before {
				n = want.next(n)
			}
			before, begun = shown, true
			out[i].State = s.write(t, f.State, n)
		}
		return out
	})
}

// startsElsewhere is a count that begins with another number, and goes the same round.
func (s *Subject) startsElsewhere() []Size {
	want, seen, ok := s.rounds()
	if !ok || want.first == seen.first || want.again && seen.again && (want.low != seen.low || want.high != seen.high) {
		return nil
	}
	return []Size{{Text: fmt.Sprintf("The number on %s begins with %d where %d is expected.", s.Part.Name, seen.first,
		want.first), Reel: s.along(want)}}
}

// otherRound is a count that begins right, and begins again too early, too late or with another number.
func (s *Subject) otherRound() []Size {
	want, seen, ok := s.rounds()
	if !ok || want.first != seen.first || !want.again || seen.again && want.low == seen.low && want.high == seen.high {
		return nil
	}
	last, begin := want.high, want.low
	ends, starts := seen.high, seen.low
	if want.down {
		last, begin, ends, starts = begin, last, starts, ends
	}
	text := fmt.Sprintf("%s does not begin again after %d.", s.Part.Name, last)
	switch {
	case seen.again && ends != last:
		text = fmt.Sprintf("%s begins again after %d; %d is expected to be the last.", s.Part.Name, ends, last)
	case seen.again:
		text = fmt.Sprintf("After %d, %s begins again with %d where %d is expected.", last, s.Part.Name, starts, begin)
	}
	return []Size{{Text: text, Reel: s.along(want)}}
}
