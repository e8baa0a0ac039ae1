package diagnosis

import (
	"fmt"
	"slices"

	"hemble/core/clock"
	"hemble/core/fault"
	"hemble/core/judge"
)

// Signs of sequences whose states come in order, but last too long or too short, or come too often.

// oddLength looks for one state that lasts much too long or too short wherever it comes, where others are in time, and
// all that is shown is right.
func oddLength(v *view) (string, clock.Time, bool) {
	for _, x := range v.verdicts {
		if !x.Timed {
			continue
		}
		odd, at, inTime := "", clock.Time(0), 0
		var want, seen clock.Time
		for i, l := range x.Alignment {
			switch l.Operation {
			case judge.Right:
				if i > 0 && i+1 < len(x.Alignment) {
					inTime++
				}
			case judge.Missing:
				if odd == "" {
					return "", 0, false
				}
			case judge.Mistimed:
				if odd != "" && odd != l.Expected.Text {
					return "", 0, false
				}
				length, meant := l.Seen.To-l.Seen.From, l.Expected.To-l.Expected.From
				if l.Seen.To >= v.reel.Length { // it has not ended
					continue
				}
				if odd != "" && max(length-seen, seen-length)*10 > seen || 2*length > meant && length < 2*meant {
					return "", 0, false
				}
				if odd == "" {
					at, want, seen = l.Seen.From, meant, length
				}
				odd = l.Expected.Text
			default:
				return "", 0, false
			}
		}
		if odd != "" && inTime >= 1 {
			return fmt.Sprintf("%s shows %s for %s; expected: %s.", v.track.Display, odd, seen.Brief(), want.Brief()), at,
				true
		}
	}
	return "", 0, false
}

// fewStates do not tell that all of a sequence last too long.
const fewStates = 3

// eachTooLong looks for a sequence all of whose states, but for the first and the last, should last as long as each
// other, and do, but another time.
func eachTooLong(v *view) (string, clock.Time, bool) {
	for _, x := range v.verdicts {
		var all []judge.Pair
		right := true
		for i, l := range x.Alignment {
			last := !slices.ContainsFunc(x.Alignment[i+1:], asks)
			switch {
			case i == 0 || last || l.Operation == judge.Ignored:
			case l.Operation == judge.Mistimed:
				all = append(all, l)
			default:
				right = false
			}
		}
		if !x.Timed || !right || len(all) < fewStates {
			continue
		}
		length := func(s *judge.Span) clock.Time { return s.To - s.From }
		want, seen := length(all[0].Expected), length(all[0].Seen)
		if slices.ContainsFunc(all, func(l judge.Pair) bool {
			return length(l.Expected) != want || 10*max(length(l.Seen)-seen, seen-length(l.Seen)) > seen ||
				fault.Ended(v.reel, l.Seen.To)
		}) {
			continue
		}
		return fmt.Sprintf("%s shows each of %d states for %s; expected: %s.", v.track.Display, len(all), seen.Brief(),
			want.Brief()), all[0].Seen.From, true
	}
	return "", 0, false
}

func tooOften(v *view) (string, clock.Time, bool)  { return v.times(1) }
func tooSeldom(v *view) (string, clock.Time, bool) { return v.times(-1) }

// times looks for something that is lit, or sounds, and is not, by turns, all of it right, but more often than it
// should be, or less often: way tells which.
func (v *view) times(way int) (string, clock.Time, bool) {
	for k, x := range v.all {
		if x.Display != v.track.Display || x.Outcome == judge.Met || !judge.IsSequence(v.trial().Expect[k].Kind) {
			continue
		}
		lit, wanted, seen, others := "", 0, 0, false
		at := clock.Time(-1)
		count := func(s *judge.Span, n *int) {
			switch {
			case s == nil || s.State == nil || s.State.Unlit():
			case lit == "" || lit == v.track.Short(*s.State):
				lit = v.track.Short(*s.State)
				*n++
			default:
				others = true
			}
		}
		for _, l := range x.Alignment {
			if l.Operation == judge.Ignored {
				continue
			}
			count(l.Expected, &wanted)
			count(l.Seen, &seen)
			switch l.Operation {
			case judge.Right:
			case judge.Extra, judge.Missing:
				if at < 0 && l.Seen != nil {
					at = l.Seen.From
				}
			default:
				others = true
			}
		}
		if !others && wanted > 1 && seen > 1 && (seen-wanted)*way > 0 {
			return fmt.Sprintf("%s comes on %d times, where %d times are expected; each of them is right.",
				v.track.Display, seen, wanted), max(at, 0), true
		}
	}
	return "", 0, false
}

// takesOver looks for a state that lasts as long as it and the next one should together, which never comes.
func takesOver(v *view) (string, clock.Time, bool) {
	for _, x := range v.verdicts {
		for i := 0; x.Timed && i+1 < len(x.Alignment); i++ {
			l, next := x.Alignment[i], x.Alignment[i+1]
			if l.Operation != judge.Mistimed || next.Operation != judge.Missing || i+2 == len(x.Alignment) ||
				x.Alignment[i+2].Seen == nil {
				continue
			}
			took, meant, both := l.Seen.To-l.Seen.From, l.Expected.To-l.Expected.From, next.Expected.To-l.Expected.From
			if max(took-both, both-took)*10 <= both && took*10 > meant*11 {
				return fmt.Sprintf("%s shows %s for %s, up to %s: %s, which should come between them, does not.",
					v.track.Display, l.Seen.Text, took.Brief(), x.Alignment[i+2].Seen.Text,
					next.Expected.Text), l.Seen.From, true
			}
		}
	}
	return "", 0, false
}
