package diagnosis

import (
	"fmt"
	"slices"

	"hemble/core/clock"
	"hemble/core/display"
	"hemble/core/fault"
	"hemble/core/finding"
	"hemble/core/part"
	"hemble/core/reel"
)

// pressing are the signs of what lasts as long as a press does, and of what should come again while it does.
var pressing = []symptom{
	{finding.Entry{Code: "no-repeat", Order: 7, Sure: true,
		Subsumes: []finding.Code{"never-changes", "goes-on", "limit", "ignored-key", "count-offset"},
		Doc:      "a held press counts once, where it should count on",
		Catch:    "hold a press, and read the number once at its beginning and again before its end"}, heldOnce},
	{finding.Entry{Code: "while-held", Order: 7, Sure: true,
		Subsumes: []finding.Code{"sets-other", "goes-dark", "goes-on", "ignored-key", "extra-step", "never-changes"},
		Doc:      "what a press brings about ends with it, where it should stay",
		Catch:    "press shortly, and read the display well after that"}, whileHeld},
}

// longPress is how long a press lasts at least that is meant to be held.
const longPress = clock.Second

// looked is by how much what is seen may end before the press does: vision takes times from its own steps.
const looked = 20 * clock.Millisecond

// heldOnce looks for a number that a held press changes once, and no more for as long as it lasts, where it should go
// on.
func heldOnce(v *view) (string, clock.Time, bool) {
	for _, c := range v.reel.Cues {
		if c.End-c.Start < longPress || begun(v.track, c.Start, c.Start+tardy) != 1 ||
			begun(v.track, c.Start+tardy, c.End) != 0 {
			continue
		}
		was, shown := v.numberAt(c.Start)
		stays, _ := v.numberAt(c.Start + tardy)
		step, right, wrong := stays-was, 0, 0
		for _, x := range v.all {
			for _, l := range x.Alignment {
				if x.Display != v.track.Display || l.Expected == nil || l.Expected.State == nil ||
					l.Expected.From < c.Start || l.Expected.From >= c.End {
					continue
				}
				switch want, ok := v.number(*l.Expected.State); {
				case !ok || want != stays && !amiss(l):
				case want == stays:
					right++
				case step*(want-stays) > 0: // on in the same direction
					wrong++
				}
			}
		}
		if shown && right > 0 && wrong > 0 {
			return fmt.Sprintf("%s stays at %d while %s is held from %s to %s: the press counts once, where it should count on.",
				v.track.Display, stays, named(c), c.Start, c.End), c.Start, true
		}
	}
	return "", 0, false
}

// whileHeld looks for a display that shows what a press should bring about as long as it lasts, and then what it showed
// before, where it should stay. No press may bring about what does.
func whileHeld(v *view) (string, clock.Time, bool) {
	text, first := "", clock.Time(0)
	for _, p := range fault.Pairs(v.reel, v.track.Display, v.all) {
		i := lastBefore(v.reel.Cues, p.At)
		for i >= 0 && v.reel.Cues[i].Verb != part.Press {
			i--
		}
		if i < 0 || p.At < v.reel.Cues[i].End {
			continue
		}
		c := v.reel.Cues[i]
		before := v.track.At(c.Start)
		switch {
		case before == nil:
		case !p.Wrong && p.At > c.End+tardy && !v.track.Alike(p.Want, before.State):
			return "", 0, false
		case p.Wrong && text == "" && v.meanwhile(p.Want, before.State, c):
			if v.outlasts(c) {
				return "", 0, false
			}
			text = fmt.Sprintf("What %s brings about on %s ends when it is released, at %s, where it should stay.",
				named(c), v.track.Display, c.End)
			first = c.End
		}
	}
	return text, first, text != ""
}

// outlasts reports whether what an input brings about stays at another use of it, or goes on to something else.
func (v *view) outlasts(input reel.Fired) bool {
	for k, c := range v.reel.Cues {
		if c.Part != input.Part || c.Key != input.Key || c.Verb != input.Verb || c.Start == input.Start {
			continue
		}
		until := v.reel.Length
		if k+1 < len(v.reel.Cues) {
			until = v.reel.Cues[k+1].Start
		}
		before := v.track.At(c.Start)
		for i, f := range v.track.Frames {
			if before == nil || f.From <= c.Start || f.From > c.End || v.track.Alike(before.State, f.State) {
				continue
			}
			last := i+1 == len(v.track.Frames) || v.track.Frames[i+1].From >= until
			if !last && !v.track.Alike(before.State, v.track.Frames[i+1].State) || last && until > c.End+tardy {
				return true
			}
		}
	}
	return false
}

// meanwhile reports whether a state came within a press and ended with it, or shortly after and before anything else
// was done, and what was shown before came again.
func (v *view) meanwhile(want, before display.State, c reel.Fired) bool {
	i := slices.IndexFunc(v.track.Frames, func(f display.Frame) bool {
		return f.From > c.Start && f.From <= c.End && f.To > c.End-looked && f.To <= c.End+tardy &&
			v.track.Alike(want, f.State) && !slices.ContainsFunc(v.reel.Cues, func(o reel.Fired) bool {
			return o.Start >= c.End && o.Start <= f.To
		})
	})
	return i >= 0 && i+1 < len(v.track.Frames) && v.track.Alike(before, v.track.Frames[i+1].State)
}
