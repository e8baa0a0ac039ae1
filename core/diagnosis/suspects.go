package diagnosis

import (
	"slices"

	"hemble/core/clock"
	"hemble/core/exercise"
	"hemble/core/judge"
	"hemble/core/part"
	"hemble/core/reel"
)

// Which inputs may be behind what went wrong.

// suspect is an input of a trial behind which the display of a verdict may have gone wrong.
type suspect struct {
	trial, cue int
	verdict    *judge.Verdict
}

// suspects are the inputs behind the last right state and before the first difference of the display that differs first
// in each trial. What never changes answers nothing, whatever is done; and where time went wrong before, what differs
// may have come by itself.
func suspects(reels []*reel.Reel, verdicts [][]judge.Verdict) (out []suspect) {
	for i, all := range verdicts {
		cues := reels[i].Cues
		var v *judge.Verdict
		for k := range all {
			if o := &all[k]; o.Outcome != judge.Met && o.First != nil && slices.ContainsFunc(o.Alignment, asks) &&
				(v == nil || comes(o, cues) < comes(v, cues)) {
				v = o
			}
		}
		if v == nil || !moves(reels, v.Display) {
			continue
		}
		from, left, ok := upToWrong(v)
		last := lastBefore(cues, comes(v, cues))
		if !ok || last < 0 || cues[last].Start < from { // what it brought about was right
			continue
		}
		n := last
		for from > 0 && n > 0 && isInput(cues[n-1]) && cues[n-1].Start > from {
			n--
		}
		if left < len(cues)-n { // some of them are to change nothing
			n = last
		}
		for ; n <= last; n++ {
			out = append(out, suspect{i, n, v})
		}
	}
	return out
}

// asks reports whether something is expected of a state.
func asks(p judge.Pair) bool { return p.Expected != nil }

// comes is when what is wrong came about: a state that lasts too long or too short, with itself, unless an input was
// used just when it should have ended.
func comes(v *judge.Verdict, cues []reel.Fired) clock.Time {
	for _, p := range v.Alignment {
		if p.Operation == judge.Mistimed {
			if n, end := endedBy(p, cues); n >= 0 && p.Seen.To > end {
				return end
			}
			return v.First.At
		} else if p.Operation != judge.Right && p.Operation != judge.Ignored {
			break
		}
	}
	return shows(*v)
}

// endedBy is the input that was used just when a state should have ended, which began before it, and when the state
// should have gone then; -1 where there is none.
func endedBy(p judge.Pair, cues []reel.Fired) (n int, end clock.Time) {
	end = p.Seen.From + p.Expected.To - p.Expected.From + sameTime
	for n = len(cues) - 1; n >= 0 && (cues[n].Start > end || !isInput(cues[n]) && cues[n].Verb != part.Set); n-- {
	}
	if n < 0 || cues[n].Start <= p.Seen.From || end > cues[n].End+tardy {
		return -1, end
	}
	return n, end
}

// upToWrong tells from when on the last right state before the first difference was shown, and how many states were
// expected behind it; ok is false where time went wrong before.
func upToWrong(v *judge.Verdict) (from clock.Time, left int, ok bool) {
	for i, p := range v.Alignment {
		switch p.Operation {
		case judge.Right:
			from = p.Seen.From
		case judge.Mistimed:
			if p.Seen.To < v.First.At {
				return 0, 0, false
			}
			from = p.Seen.From
		case judge.Ignored:
		default:
			for _, p := range v.Alignment[i:] {
				if p.Expected != nil {
					left++
				}
			}
			return from, left, true
		}
	}
	return 0, 0, true
}

func isInput(c reel.Fired) bool { return c.Verb == part.Press || c.Verb == part.Type }

// lastBefore is the last input that began by a time; -1 where there is none.
func lastBefore(cues []reel.Fired, at clock.Time) int {
	for n := len(cues) - 1; n >= 0; n-- {
		if cues[n].Start <= at && isInput(cues[n]) {
			return n
		}
	}
	return -1
}

// moves reports whether a display changes in any trial, once the program runs.
func moves(reels []*reel.Reel, name string) bool {
	return slices.ContainsFunc(reels, func(r *reel.Reel) bool {
		t := r.Track(name)
		return t != nil && begun(t, soon, r.Length) > 0
	})
}

// cueOf gives the place of an input that was used among what the trial is told to do; -1 where it is not found.
func cueOf(cues []exercise.Cue, fired []reel.Fired, n int) int {
	like := func(f reel.Fired) bool { return f.Text == fired[n].Text && f.Name == fired[n].Name }
	nth := 0
	for _, f := range fired[:n] {
		if like(f) {
			nth++
		}
	}
	return slices.IndexFunc(cues, func(c exercise.Cue) bool {
		if like(reel.Fired{Text: c.Describe(c.Part), Name: c.Name}) {
			nth--
		}
		return nth < 0
	})
}
