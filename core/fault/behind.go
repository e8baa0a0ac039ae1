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
			upTo, ok := all[i].at-soonest, false
			if all[i].inputs, ok = s.inputs(trial, before, upTo, apart); !ok {
				return nil
			}
			before = upTo
		}
		if len(all) > 0 {
			out[x.Name] = all
		}
	}
	return out
}

// inputs are those that were used in a trial behind one moment and up to another; ok is false where a value was set.
func (s *Subject) inputs(trial int, after, upTo clock.Time, apart bool) (out []used, ok bool) {
	for _, c := range s.Reels[trial].Cues {
		if c.Start <= after || c.Start > upTo {
			continue
		}
		in, by := input{part: c.Part, verb: c.Verb, key: c.Key}, 1
		switch c.Verb {
		case part.Set:
			return nil, false
		case part.Type:
			in.key = c.Text
		case part.Press:
			length := c.End - c.Start
			in.long = apart && length >= longPress && length > 2*s.shortest(c.Part, c.Key)
		case part.Hold:
		case part.Turn:
			for _, cue := range s.Exercise.Trials[trial].Cues {
				if cue.Verb == part.Turn && cue.Describe(cue.Part) == c.Text {
					by = int(max(-mostSteps, min(mostSteps, cue.By)))
				}
			}
			in.back = by < 0
		default:
			continue
		}
		out = append(out, used{in, by})
	}
	return out, true
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

// shortest is how long the shortest press of a button, or key, is.
func (s *Subject) shortest(name, key string) clock.Time {
	least := clock.Never
	for _, t := range s.Exercise.Trials {
		for _, c := range t.Cues {
			if c.Part == name && c.Key == key && c.Verb == part.Press {
				least = min(least, c.For)
			}
		}
	}
	return least
}

// cuesOf are the moments at which inputs begin.
func cuesOf(r *reel.Reel) (out []clock.Time) {
	for _, c := range r.Cues {
		out = append(out, c.Start)
	}
	return out
}

// next is the answer that is asked for next, from a moment on; nil where another input comes before it.
func next(all []answer, from clock.Time, cues []clock.Time) *answer {
	k := slices.IndexFunc(all, func(a answer) bool { return a.at >= from })
	if k < 0 || slices.ContainsFunc(cues, func(at clock.Time) bool { return at > from && at <= all[k].at }) {
		return nil
	}
	return &all[k]
}

// answersMended puts the wanted states in the places of those that were seen behind the same inputs.
func (s *Subject) answersMended(trials map[string][]answer) func(*reel.Reel) *reel.Reel {
	return func(r *reel.Reel) *reel.Reel {
		cues := cuesOf(r)
		return frames(s.Part.Name, func(trial string, t *display.Track) []display.Frame {
			out := cutUp(t.Frames, cues)
			for i := range out {
				if a := next(trials[trial], out[i].From, cues); a != nil && a.wrong && t.Alike(out[i].State, a.other) {
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
