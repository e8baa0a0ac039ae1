package fault

import (
	"cmp"
	"slices"
	"strings"

	"hemble/core/clock"
	"hemble/core/display"
	"hemble/core/judge"
	"hemble/core/part"
	"hemble/core/reel"
)

// behindInputs are the states that are asked for on a display, of each trial by its name, by time; nil where one was
// not seen at all, or where they follow a value and no input. A long press counts as another input than a short one
// where that is asked for.
func (s *Subject) behindInputs(apart bool) map[string][]answer {
	if s.shown == nil || s.Verdicts == nil {
		return nil
	}
	out := map[string][]answer{}
	shortest := s.shortest()
	for trial, verdicts := range s.Verdicts {
		x, t := s.Exercise.Trials[trial], s.Reels[trial].Track(s.Part.Name)
		var all []answer
		for k, v := range verdicts {
			if kind := x.Expect[k].Kind; v.Display != s.Part.Name || kind != "answers" && kind != "reads" {
				continue
			}
			for _, l := range v.Alignment {
				if l.Expected == nil || l.Expected.State == nil || l.Seen == nil || l.Seen.State == nil {
					return nil
				}
				a := answer{at: l.Expected.From, state: *l.Expected.State, other: *l.Seen.State,
					wrong: l.Operation == judge.Wrong || l.Operation == judge.Near}
				a.want, a.number = s.number(a.state)
				a.seen, a.readable = s.number(a.other)
				a.wanted, a.shown = t.Short(a.state), t.Short(a.other)
				a.lost = !a.readable && !(s.figures() && sharesPlace(a.wanted, a.shown))
				if !a.wrong {
					a.shown = a.wanted
				}
				all = append(all, a)
			}
		}
		slices.SortStableFunc(all, func(a, b answer) int { return cmp.Compare(a.at, b.at) })
		before := clock.Time(-1)
		for i := range all {
			for _, c := range s.Reels[trial].Cues {
				if c.Start <= before || c.Start > all[i].at-soonest {
					continue
				}
				by := 1
				if c.Verb == part.Set {
					return nil // it follows a value
				}
				for _, cue := range x.Cues {
					if cue.Verb == part.Turn && cue.Describe(cue.Part) == c.Text {
						by = int(max(-mostSteps, min(mostSteps, cue.By)))
					}
				}
				length := c.End - c.Start
				if c.Verb == part.Type {
					all[i].inputs = append(all[i].inputs, used{input{part: c.Part, verb: c.Verb, key: c.Text}, by})
				}
				if c.Verb == part.Press || c.Verb == part.Hold || c.Verb == part.Turn {
					long := apart && c.Verb == part.Press && length >= longPress &&
						length > 2*shortest[[2]string{c.Part, c.Key}]
					all[i].inputs = append(all[i].inputs, used{input{c.Part, c.Verb, c.Key, by < 0, long}, by})
				}
			}
			before = all[i].at - soonest
		}
		if len(all) > 0 {
			out[x.Name] = all
		}
	}
	return out
}

// soonest is how long an input takes at least to show: the one that comes when an answer's time is up is the next
// one's.
const soonest = 10 * clock.Millisecond

// sharesPlace reports whether two texts have something in common in some place.
func sharesPlace(a, b string) bool {
	x, y := []rune(strings.Trim(a, `"`)), []rune(strings.Trim(b, `"`))
	for i := range min(len(x), len(y)) {
		if x[i] == y[i] && x[i] != ' ' {
			return true
		}
	}
	return false
}

// longPress is how long a press must be to mean something else than a short one.
const longPress = 800 * clock.Millisecond

// shortest is how long the shortest press of each button, or key, is.
func (s *Subject) shortest() map[[2]string]clock.Time {
	out := map[[2]string]clock.Time{}
	for _, t := range s.Exercise.Trials {
		for _, c := range t.Cues {
			k := [2]string{c.Part, c.Key}
			if was, ok := out[k]; c.Verb == part.Press && (!ok || c.For < was) {
				out[k] = c.For
			}
		}
	}
	return out
}

// answersMended puts the wanted states in the places of those that were seen behind the same inputs.
func (s *Subject) answersMended(trials map[string][]answer) func(*reel.Reel) *reel.Reel {
	return func(r *reel.Reel) *reel.Reel {
		cuts := slices.Sorted(func(yield func(clock.Time) bool) {
			for _, c := range r.Cues {
				if !yield(c.Start) {
					return
				}
			}
		})
		return frames(s.Part.Name, func(trial string, t *display.Track) []display.Frame {
			out := cutUp(t.Frames, cuts)
			for i := range out {
				k := slices.IndexFunc(trials[trial], func(a answer) bool { return a.at >= out[i].From })
				if k < 0 {
					continue
				}
				a := trials[trial][k]
				other := slices.ContainsFunc(cuts, func(at clock.Time) bool { return at > out[i].From && at <= a.at })
				if a.wrong && !other && t.Alike(out[i].State, a.other) {
					out[i].State = a.state
				}
			}
			return out
		})(r)
	}
}

// cutUp cuts frames at some moments: between what belongs to one input and to the next.
func cutUp(list []display.Frame, cuts []clock.Time) (out []display.Frame) {
	for _, f := range list {
		for _, at := range cuts {
			if at > f.From && at < f.To {
				head := f
				head.To, f.From = at, at
				out = append(out, head)
			}
		}
		out = append(out, f)
	}
	return out
}
