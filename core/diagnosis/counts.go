package diagnosis

import (
	"cmp"
	"fmt"
	"slices"

	"hemble/core/clock"
	"hemble/core/display"
	"hemble/core/fault"
	"hemble/core/judge"
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

// oneByOne reports whether wanted numbers are counted: they go one by one, or no sensor gives them, and several are to
// go on to the next place.
func (v *view) oneByOne(all []counted) bool {
	beyond := map[int]bool{}
	for i, n := range all {
		if i > 0 && (all[i-1].want == 9 && n.want == 10 || all[i-1].want == 10 && n.want == 9) {
			return true
		}
		if n.want > 9 {
			beyond[n.want] = true
		}
	}
	return len(beyond) > 1 && !v.x.Senses()
}

// otherForm reports whether the display shows a right number in another form in some trial, as without its zeros: a
// place of it may be dark, whatever is in it.
func (v *view) otherForm() bool {
	return slices.ContainsFunc(slices.Concat(v.all, v.others), func(x judge.Verdict) bool {
		return x.Display == v.track.Display && slices.ContainsFunc(x.Alignment, func(p judge.Pair) bool {
			return p.Operation == judge.Near
		})
	})
}

func noCarry(v *view) (string, clock.Time, bool) {
	for _, look := range []func() (string, clock.Time){v.tensForgotten, v.tensStay} {
		if text, at := look(); text != "" {
			return text, at, true
		}
	}
	all, first, ok := v.lastPlace()
	changes := slices.ContainsFunc(v.track.Frames, func(f display.Frame) bool {
		n, is := v.number(f.State)
		return is && n != first.seen
	})
	lastOne := first.seen == first.want%10 || first.seen == 9 // it goes round, or stays at its end
	beyond := func(r *reel.Reel) bool { return v.beyond(r.Track(v.track.Display), 9) }
	text := "The number on %s never goes beyond 9 (%d where %d is expected): nothing is carried to the next place."
	return fmt.Sprintf(text, v.track.Display, first.seen, first.want), first.at,
		ok && changes && lastOne && !entered(all) && v.oneByOne(all) && !slices.ContainsFunc(v.reels, beyond) &&
			!v.otherForm()
}

// tensStay looks for a number that is counted, of which all places but the last one stay as they are: right as long as
// they should.
func (v *view) tensStay() (string, clock.Time) {
	all, ok := v.numbers()
	if !ok || len(all) == 0 || !v.oneByOne(all) {
		return "", 0
	}
	stays, right, ones := all[0].seen/10, false, map[int]bool{}
	var first counted
	for _, n := range all {
		if n.seen%10 != n.want%10 || n.seen/10 != stays || stays == 0 {
			return "", 0
		}
		ones[n.seen%10] = true
		if right = right || !n.wrong; n.wrong && first == (counted{}) {
			first = n
		}
	}
	if !right || !first.wrong || len(ones) < 3 {
		return "", 0
	}
	return fmt.Sprintf("All but the last place of the number on %s stays as it is (%d where %d is expected): nothing is carried to the next place.",
		v.track.Display, first.seen, first.want), first.at
}

// tensForgotten looks for a number above 9 that is right until it is to go on to the next place, or back from there:
// then its last figure does so, and no other.
func (v *view) tensForgotten() (string, clock.Time) {
	all, ok := v.numbers()
	i := slices.IndexFunc(all, func(n counted) bool { return n.wrong })
	if !ok || i < 1 || !slices.ContainsFunc(all[:i], func(n counted) bool { return n.want > 9 }) {
		return "", 0
	}
	was, n := all[i-1].want, all[i]
	carried := "nothing is carried to the next place"
	switch n.want - was {
	case 1:
	case -1:
		carried = "nothing is taken from the next place"
	default:
		return "", 0
	}
	if n.seen/10 != was/10 || n.want/10 == was/10 || n.seen%10 != n.want%10 {
		return "", 0
	}
	return fmt.Sprintf("After %d the number on %s is %d, where %d is expected: %s.", was, v.track.Display, n.seen,
		n.want, carried), n.at
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

// otherStep looks for an input that changes a number by several times what it should, or by a part of that, each time,
// where others change it as they should.
func otherStep(v *view) (string, clock.Time, bool) {
	type step struct{ want, did int }
	for _, all := range v.answered() {
		var odd reel.Fired
		var one step
		var right []reel.Fired // what changes it as it should
		for i, r := range all {
			used := lastBefore(v.reel.Cues, r.want.From)
			if i == 0 || used < 0 {
				continue
			}
			cue := v.reel.Cues[used]
			before, a := v.numberAt(cue.Start)
			was, b := v.number(*all[i-1].want.State)
			want, c := v.number(*r.want.State)
			seen, d := v.number(*r.seen.State)
			if !a || !b || !c || !d || before != was { // something else went wrong before
				continue
			}
			now := step{want - before, seen - before}
			switch {
			case now.want == now.did:
				if now.want != 0 {
					right = append(right, cue)
				}
			case now.want*now.did <= 0 || now.want%now.did != 0 && now.did%now.want != 0:
				return "", 0, false
			case odd.Part == "":
				odd, one = cue, now
			case !sameControl(cue, odd) || now != one:
				return "", 0, false
			}
		}
		each := !slices.ContainsFunc(right, func(c reel.Fired) bool { return sameControl(c, odd) })
		if odd.Part != "" && each && len(right) > 0 {
			return fmt.Sprintf("Each use of %s changes the number on %s by %d, where it should change it by %d.",
				named(odd), v.track.Display, max(one.did, -one.did), max(one.want, -one.want)), odd.Start, true
		}
	}
	return "", 0, false
}

// mixed is how long a state is at most that shows some digits of one number and some of the next.
const mixed = 60 * clock.Millisecond

// catchesUp looks for a number that goes on by several steps at once when a press lets it go on: by as many as it would
// have made since the press that halted it.
func catchesUp(v *view) (string, clock.Time, bool) {
	frames := slices.DeleteFunc(slices.Clone(v.track.Frames), func(f display.Frame) bool {
		return f.Length() < mixed // digits are changed one by one
	})
	period, ok := v.stepLength(frames)
	for i := 0; ok && i+1 < len(frames); i++ {
		end, cues := frames[i].To, v.reel.Cues
		goes := lastBefore(cues, end)
		if goes < 0 || end-cues[goes].Start > tardy || cues[goes].Start < frames[i].From {
			continue
		}
		halts := goes - 1
		for halts >= 0 && !(isInput(cues[halts]) && cues[halts].Text == cues[goes].Text) {
			halts--
		}
		n, a := v.number(frames[i].State)
		m, b := v.number(frames[i+1].State)
		jump := max(n-m, m-n)
		if halts < 0 || !a || !b || jump < 2 {
			continue
		}
		from, to := cues[halts].Start, cues[goes].Start
		off := to - from - clock.Time(jump)*period
		moves := func(f display.Frame) bool { // by itself
			return f.From > from+tardy && f.From < to && f.From-cues[lastBefore(cues, f.From)].Start > tardy
		}
		if max(off, -off) <= period && !slices.ContainsFunc(frames, moves) {
			return fmt.Sprintf("When %s is used at %s, %s goes on by %d at once, as much as it would have in the %s for which it was halted.",
				named(cues[goes]), to, v.track.Display, jump, (to - from).Brief()), end, true
		}
	}
	return "", 0, false
}

// stepLength is how long a number stays that goes on by one, where no input is used meanwhile: the median.
func (v *view) stepLength(frames []display.Frame) (length clock.Time, ok bool) {
	var all []clock.Time
	for i := 1; i+1 < len(frames); i++ {
		n, a := v.number(frames[i].State)
		m, b := v.number(frames[i+1].State)
		used := lastBefore(v.reel.Cues, frames[i].To)
		if a && b && max(n-m, m-n) == 1 && (used < 0 || v.reel.Cues[used].Start < frames[i].From) {
			all = append(all, frames[i].Length())
		}
	}
	if len(all) == 0 {
		return 0, false
	}
	slices.Sort(all)
	return all[len(all)/2], true
}

// set reports whether an input is set to values.
func (v *view) set() bool {
	return slices.ContainsFunc(v.reel.Cues, func(c reel.Fired) bool { return c.Verb == part.Set })
}

// inTime are the numbers of sequences with given times, each beside the one that stands in the middle of its time:
// where many are wrong, alignment may find some of them elsewhere. ok is false where one is none.
func (v *view) inTime() (out []counted, ok bool) {
	for _, x := range v.verdicts {
		if !x.Timed {
			continue
		}
		from := clock.Time(0)
		for _, p := range x.Alignment {
			if p.Expected == nil || p.Expected.State == nil {
				continue
			}
			length := p.Expected.To - p.Expected.From
			f := v.track.At(min(from+length/2, v.reel.Length-1))
			if f == nil {
				return nil, false
			}
			want, a := v.number(*p.Expected.State)
			seen, b := v.number(f.State)
			if !a || !b {
				return nil, false
			}
			out = append(out, counted{from, want, seen, want != seen})
			from += length
		}
	}
	return out, len(out) > 0
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

// mostTimes is by how many times numbers are too large at most, for one cause.
const mostTimes = 60

// timesOver looks for numbers that are all as many times as large as they should be.
func timesOver(v *view) (string, clock.Time, bool) {
	if v.set() { // a sensor's: see inProportion
		return "", 0, false
	}
	for _, numbers := range []func() ([]counted, bool){v.numbers, v.inTime} {
		all, ok := numbers()
		if largest, times := multiple(all); ok && times > 1 {
			return fmt.Sprintf("The numbers on %s are %d times as large as they should be (%d for %d): each step is counted so many times.",
				v.track.Display, times, largest.seen, largest.want), largest.at, true
		}
	}
	return "", 0, false
}

// multiple is by how many times numbers are too large, all by as many, and the largest of them; 0 where they are not.
// Two tell it; of three or more one may be off by one: a step is lost, or comes twice, as counting begins.
func multiple(all []counted) (largest counted, times int) {
	for _, n := range all {
		if n.want > largest.want {
			largest = n
		}
	}
	if largest.want == 0 {
		return largest, 0
	}
	times = largest.seen / largest.want
	wanted, off := map[int]bool{}, 0
	for _, n := range all {
		if n.want == 0 && n.seen == 0 {
			continue
		}
		switch n.seen - times*n.want {
		case 0:
		case 1, -1:
			off++
		default:
			return largest, 0
		}
		if wanted[n.want] = true; !n.wrong {
			return largest, 0
		}
	}
	if len(wanted) < 2+off || off > 1 || times > mostTimes {
		return largest, 0
	}
	return largest, times
}

// addsUp looks for numbers that each have the one before them added: what counts anew each time is not set back.
func addsUp(v *view) (string, clock.Time, bool) {
	all, ok := v.numbers()
	wrong := map[int]bool{}
	var first counted
	for i, n := range all {
		if !n.wrong && len(wrong) > 0 || i > 0 && n.seen-all[i-1].seen != n.want || i == 0 && n.seen != n.want {
			return "", 0, false
		}
		if n.wrong {
			if len(wrong) == 0 {
				first = n
			}
			wrong[n.want] = true
		}
	}
	return fmt.Sprintf("The numbers on %s add up (%d where %d is expected): each one should be counted anew, and goes on from the one before it.",
		v.track.Display, first.seen, first.want), first.at, ok && len(wrong) >= 2
}
