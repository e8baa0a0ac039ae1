package diagnosis

import (
	"cmp"
	"fmt"
	"slices"

	"hemble/core/clock"
	"hemble/core/display"
	"hemble/core/fault"
	"hemble/core/part"
	"hemble/core/reel"
)

// Signs of numbers that are entered, counted and carried.

// counted are the numbers of the aligned states: wanted, seen, and whether that is wrong.
type counted struct {
	at         clock.Time
	want, seen int
	wrong      bool
}

// numbers are those of all that was expected of the display in the trial, by time; ok is false where a wrong state is
// no number.
func (v *view) numbers() (out []counted, ok bool) {
	for _, p := range fault.Pairs(v.reel, v.track.Display, v.all) {
		want, a := v.number(p.Want)
		seen, b := v.number(p.Seen)
		if p.Wrong && !(a && b) {
			return nil, false
		}
		if a && b {
			out = append(out, counted{p.At, want, seen, p.Wrong})
		}
	}
	slices.SortStableFunc(out, func(a, b counted) int { return cmp.Compare(a.at, b.at) })
	return out, true
}

// lastPlace reports whether no number above 9 is ever shown, where all above it are wrong and no other.
func (v *view) lastPlace() (all []counted, first counted, ok bool) {
	all, ok = v.numbers()
	for _, n := range all {
		ok = ok && n.seen <= 9 && n.wrong == (n.want > 9)
		if n.wrong && first == (counted{}) {
			first = n
		}
	}
	return all, first, ok && first.wrong && !v.beyond(v.track, 9)
}

// entered reports whether wanted numbers grow at their end, as keys are typed in.
func entered(all []counted) bool {
	grown := 0
	for i := 1; i < len(all); i++ {
		if a, b := all[i-1].want, all[i].want; a > 0 && b/10 == a {
			grown++
		}
	}
	return grown >= 2
}

func noCarry(v *view) (string, clock.Time, bool) {
	all, first, ok := v.lastPlace()
	return fmt.Sprintf("The number on %s never goes beyond 9 (%d where %d is expected): nothing is carried to the next place.",
			v.track.Display, first.seen, first.want), first.at, ok && !entered(all) &&
			!slices.ContainsFunc(v.reels, func(r *reel.Reel) bool { return v.beyond(r.Track(v.track.Display), 9) })
}

// beyond reports whether the number is larger than another one at some time of a trial.
func (v *view) beyond(t *display.Track, most int) bool {
	return t != nil && slices.ContainsFunc(t.Frames, func(f display.Frame) bool {
		n, ok := v.number(f.State)
		return ok && n > most
	})
}

func replaced(v *view) (string, clock.Time, bool) {
	all, first, ok := v.lastPlace()
	return fmt.Sprintf("%s shows one figure at a time (%d where %d is expected): each one replaces those before it.",
		v.track.Display, first.seen, first.want), first.at, ok && entered(all)
}

// set reports whether an input is set to values.
func (v *view) set() bool {
	return slices.ContainsFunc(v.reel.Cues, func(c reel.Fired) bool { return c.Verb == part.Set })
}

// turns reports whether wanted numbers go up and down: one that only counts may be late for other reasons.
func turns(all []counted) bool {
	up, down := false, false
	for i := 1; i < len(all); i++ {
		up = up || all[i].want > all[i-1].want
		down = down || all[i].want < all[i-1].want
	}
	return up && down
}

// follows looks for a number that is on its way from the one before to the one that is expected, whenever it is wrong.
func follows(v *view) (string, clock.Time, bool) {
	all, ok := v.numbers()
	wrong, first, between := 0, 0, false
	if !v.set() || !turns(all) {
		return "", 0, false
	}
	for i, n := range all {
		if !n.wrong {
			continue
		}
		if i == 0 || n.seen == n.want { // something else is wrong
			return "", 0, false
		}
		ahead := (n.seen - all[i-1].seen) * (n.want - n.seen)
		if ahead < 0 {
			return "", 0, false // not on its way
		}
		between = between || ahead > 0
		if wrong++; wrong == 1 {
			first = i
		}
	}
	if !ok || wrong < 2 || !between || len(v.track.Frames) < len(all)+wrong { // it moves in several steps each time
		return "", 0, false
	}
	n := all[first]
	return fmt.Sprintf("%s follows too slowly: it is still at %d, on the way from %d to %d.", v.track.Display, n.seen,
		all[first-1].seen, n.want), n.at, true
}
