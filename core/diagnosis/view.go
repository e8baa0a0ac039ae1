package diagnosis

import (
	"slices"

	"hemble/core/clock"
	"hemble/core/display"
	"hemble/core/exercise"
	"hemble/core/fault"
	"hemble/core/judge"
	"hemble/core/part"
	"hemble/core/reel"
)

// view is what a sign may look at.
type view struct {
	x        *exercise.Exercise
	reel     *reel.Reel
	track    *display.Track
	verdicts []judge.Verdict // about the display, those not met
	all      []judge.Verdict // of the trial
	nth      int             // which of the display's numbers is wrong
	others   []judge.Verdict // of the other trials
	reels    []*reel.Reel    // of all trials
}

// number is the one that is wrong, of those that a state shows.
func (v *view) number(s display.State) (int, bool) {
	return fault.ReadNumber(v.track, s, v.nth)
}

// trial is the one that was run.
func (v *view) trial() *exercise.Trial {
	i := slices.IndexFunc(v.x.Trials, func(t exercise.Trial) bool { return t.Name == v.reel.Trial })
	return &v.x.Trials[i]
}

// noted reports whether the display itself reported something.
func (v *view) noted(code string) bool {
	for _, n := range v.reel.Notes {
		if n.Code == v.track.Display+" "+code {
			return true
		}
	}
	return false
}

// sighting is what the sign of a display type may look at.
func (v *view) sighting() *display.Sighting {
	out := &display.Sighting{Track: v.track, Told: true, Noted: v.noted, Follows: v.led(),
		Pairs: fault.Pairs(v.reel, v.track.Display, v.verdicts)}
	for _, x := range v.verdicts {
		if x.First == nil {
			out.Told = false
		} else {
			out.Firsts = append(out.Firsts, display.First{At: x.First.At, Seen: x.First.Seen})
		}
		for _, l := range x.Alignment {
			if l.Expected != nil && l.Expected.State != nil {
				out.Asked = append(out.Asked, *l.Expected.State)
			}
		}
	}
	out.Stays = v.staysLit()
	return out
}

// staysLit reports whether what is asked for last is lit, and nothing dark before it is missing.
func (v *view) staysLit() (lit bool) {
	for _, x := range v.all {
		for _, l := range x.Alignment {
			if x.Display != v.track.Display || l.Expected == nil || l.Expected.State == nil {
				continue
			}
			if lit = !l.Expected.State.Unlit(); !lit && l.Operation == judge.Missing {
				return false
			}
		}
	}
	return lit
}

// shouldChange reports whether unlike states are expected of the display in the trial.
func (v *view) shouldChange() bool {
	var first *display.State
	for _, x := range v.verdicts {
		for _, p := range x.Alignment {
			if p.Expected == nil || p.Expected.State == nil {
				continue
			}
			if first == nil {
				first = p.Expected.State
			} else if !v.track.Alike(*first, *p.Expected.State) {
				return true
			}
		}
	}
	return false
}

// middle is the moment that a reading is about, which looks around it.
func middle(s *judge.Span) clock.Time { return s.From + (s.To-s.From)/2 }

// used reports whether an input is used at a moment.
func (v *view) used(at clock.Time) bool {
	return slices.ContainsFunc(v.reel.Cues, func(c reel.Fired) bool { return c.Start <= at && at < c.End })
}

// until is when what an input should have done must have been missed: soon, or before the next input if that comes
// sooner.
func (v *view) until(c reel.Fired) clock.Time {
	end := c.End + 700*clock.Millisecond
	for _, other := range v.reel.Cues {
		if other.Start > c.Start {
			end = min(end, other.Start)
		}
	}
	return max(end, c.End+400*clock.Millisecond)
}

// readable reports whether the display ever showed what it should, in any trial.
func (v *view) readable() bool {
	for _, x := range slices.Concat(v.all, v.others) {
		if x.Display == v.track.Display &&
			(x.Outcome == judge.Met || slices.ContainsFunc(x.Alignment, func(p judge.Pair) bool {
				return p.Operation == judge.Right || p.Operation == judge.Mistimed
			})) {
			return true
		}
	}
	return false
}

// amiss reports whether what a pair stands for is not as expected.
func amiss(p judge.Pair) bool { return p.Operation != judge.Right && p.Operation != judge.Mistimed }

// expected reports whether the display first went wrong within some time.
func (v *view) expected(from, to clock.Time) bool {
	for _, x := range v.verdicts {
		if x.First != nil && x.First.At >= from && x.First.At <= to {
			return true
		}
	}
	return false
}

// follows reports whether another display went wrong before this one: what it shows may follow from that.
func (v *view) follows() bool {
	return v.firstWrong(func(x judge.Verdict) bool { return !v.mine(x) }) < v.firstWrong(v.mine)
}

// soon is how much later than a lamp a number or a text may be seen to be wrong that the lamp follows.
const soon = 500 * clock.Millisecond

// led reports whether a number, a text or a picture is wrong by the time that this display is: it may follow that.
func (v *view) led() bool {
	return v.firstWrong(func(x judge.Verdict) bool {
		t := v.reel.Track(x.Display)
		return t != nil && !v.mine(x) && !t.Geometry.Type().Traits().Single && !t.Geometry.Type().Traits().Tone
	}) <= v.firstWrong(v.mine)+soon
}

// mine reports whether a verdict is about this display, or about a group that it belongs to.
func (v *view) mine(x judge.Verdict) bool {
	return x.Display == v.track.Display || v.x.Holds(x.Display, v.track.Display)
}

// firstWrong is when the first of some verdicts went wrong; more than the run's length for never.
func (v *view) firstWrong(of func(judge.Verdict) bool) clock.Time {
	at := v.reel.Length + clock.Second
	for _, x := range v.all {
		if x.First != nil && of(x) {
			at = min(at, x.First.At)
		}
	}
	return at
}

// begins reports whether a frame begins within a time after a moment.
func begins(t *display.Track, at, within clock.Time) bool {
	for _, f := range t.Frames {
		if f.From >= at && f.From <= at+within {
			return true
		}
	}
	return false
}

// begun counts the frames that begin between two moments.
func begun(t *display.Track, from, to clock.Time) (n int) {
	for _, f := range t.Frames {
		if f.From > from && f.From <= to {
			n++
		}
	}
	return n
}

// answersRight reports whether all that is asked of the display behind several inputs is right.
func (v *view) answersRight() bool {
	for k, x := range v.all {
		if x.Display == v.track.Display && x.Outcome == judge.Met && len(x.Alignment) > 2 &&
			v.trial().Expect[k].Kind == "answers" {
			return true
		}
	}
	return false
}

// numberAt is the number that a display shows at a moment.
func (v *view) numberAt(at clock.Time) (int, bool) {
	for _, f := range v.track.Frames {
		if f.From <= at && at < f.To {
			return v.number(f.State)
		}
	}
	return 0, false
}

func firstPress(r *reel.Reel) clock.Time {
	for _, c := range r.Cues {
		if c.Verb == part.Press {
			return c.Start
		}
	}
	return 0
}
