package fault

import (
	"fmt"
	"slices"

	"hemble/core/clock"
	"hemble/core/display"
	"hemble/core/finding"
	"hemble/core/judge"
	"hemble/core/part"
	"hemble/core/reel"
)

// Sequences that should come once, and come again.

func init() {
	register(&Fault{Entry: finding.Entry{Code: "both-edges-again", Price: finding.Behaviour, Order: 7,
		Doc:      "a sequence that one use of an input begins comes again when that is taken back",
		Catch:    "take the input back well before the trial ends, and let `shows` end with what stays then",
		Subsumes: []finding.Code{"goes-on", "lamp-inverted"}}, Once: true,
		Sizes: func(s *Subject) []Size { return s.onceMore(true) }})
	register(&Fault{Entry: finding.Entry{Code: "goes-on-again", Price: finding.Behaviour, Order: 8,
		Doc:      "a sequence that should come once begins again",
		Catch:    "let the trial last longer than the sequence, and `shows` end with what stays then",
		Subsumes: []finding.Code{"goes-on", "lamp-inverted", "extra-step"}}, Once: true,
		Sizes: func(s *Subject) []Size { return s.onceMore(false) }})
}

// onceMore leaves out what displays show again behind the end of a sequence, where it is this one that begins first; of
// those that begin when an input is taken back, or of all others.
func (s *Subject) onceMore(back bool) []Size {
	if s.shown == nil || s.Verdicts == nil {
		return nil
	}
	ends := map[string]map[string]clock.Time{} // of trials, of displays
	first, name, what := clock.Never, "", ""
	for trial, verdicts := range s.Verdicts {
		r := s.Reels[trial]
		for _, v := range verdicts {
			at, ok := beginsAgain(v.Alignment)
			if !ok {
				continue
			}
			if ends[r.Trial] == nil {
				ends[r.Trial] = map[string]clock.Time{}
			}
			ends[r.Trial][v.Display] = at
			if at < first {
				first, name, what = at, v.Display, takenBack(r.Cues, at)
			}
		}
	}
	if name != s.Part.Name || back != (what != "") {
		return nil
	}
	text := fmt.Sprintf("%s begins its sequence again at %s, where it should have come to its end.", name, first)
	if back {
		text = fmt.Sprintf("%s begins its sequence again when %s: both changes of the input begin it.", name, what)
	}
	return []Size{{Text: text, Reel: func(r *reel.Reel) *reel.Reel {
		out := *r
		out.Tracks = slices.Clone(r.Tracks)
		for i := range out.Tracks {
			t := &out.Tracks[i]
			for of, at := range ends[r.Trial] {
				whole := r.Track(of)
				if t.Display == of || whole != nil && slices.Contains(whole.Of, t.Display) {
					t.Frames = endedAt(t.Frames, at)
				}
			}
		}
		return &out
	}}}
}

// beginsAgain is where a sequence that was right to its end begins once more, with what comes behind its first state;
// ok is false where it does not.
func beginsAgain(alignment []judge.Pair) (at clock.Time, ok bool) {
	var asked, more []string
	for _, l := range alignment {
		switch {
		case l.Operation == judge.Extra:
			if more == nil {
				at = l.Seen.From
			}
			more = append(more, l.Seen.Text)
		case (l.Operation == judge.Right || l.Operation == judge.Mistimed) && more == nil:
			asked = append(asked, l.Seen.Text)
		case l.Operation != judge.Ignored:
			return 0, false // something else is wrong
		}
	}
	if len(asked) < 3 || len(more) < len(asked)-1 {
		return 0, false // a step too many is none
	}
	round := asked[1:]
	for i, text := range more {
		if text != round[i%len(round)] {
			return 0, false
		}
	}
	return at, true
}

// takenBack says what input was let go, or set once more, just before a moment; "" for none.
func takenBack(cues []reel.Fired, at clock.Time) string {
	const soon = 150 * clock.Millisecond
	for k, c := range slices.Backward(cues) {
		switch {
		case c.Verb == part.Press && c.End <= at && at <= c.End+soon:
			return fmt.Sprintf("%s is let go at %s", input{part: c.Part, key: c.Key}, c.End)
		case c.Verb == part.Set && c.Start <= at && at <= c.Start+soon &&
			slices.ContainsFunc(cues[:k], func(b reel.Fired) bool { return b.Part == c.Part }):
			return fmt.Sprintf("%s is set to %s at %s", c.Part, c.To, c.Start)
		}
	}
	return ""
}

// endedAt has what is shown at a moment stay to the end.
func endedAt(list []display.Frame, at clock.Time) []display.Frame {
	for i, f := range list {
		if i > 0 && f.From >= at-sameMoment {
			out := slices.Clone(list[:i])
			out[i-1].To = list[len(list)-1].To
			return out
		}
	}
	return list
}

// sameMoment is how far apart the lamps of a group may change that change together.
const sameMoment = 20 * clock.Millisecond
