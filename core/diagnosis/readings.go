package diagnosis

import (
	"fmt"
	"slices"
	"strings"

	"hemble/core/clock"
	"hemble/core/display"
	"hemble/core/fault"
	"hemble/core/finding"
	"hemble/core/judge"
	"hemble/core/part"
	"hemble/core/reel"
)

// readings are the signs of single states that are looked for at one time, and stand at another: they are looked for
// where nothing else is found, since most mistakes bring some of them about. What there is to say of most codes stands
// where the same is found by other means.
var readings = []symptom{
	{finding.Entry{Code: "goes-on"}, outlasts},
	{finding.Entry{Code: "lamp-inverted"}, otherWayRound},
	{finding.Entry{Code: "length"}, goesTooSoon},
	{finding.Entry{Code: "length"}, onlyMistimed},
	{finding.Entry{Code: "lag"}, comesLate},
	{finding.Entry{Code: "goes-on"}, outstays},
	{finding.Entry{Code: "goes-on"}, notEnded},
	{finding.Entry{Code: "step-missing"}, neverBetween},
	{finding.Entry{Code: "rows"}, otherRow},
	{finding.Entry{Code: "left-blank",
		Doc:   "a display is empty at times when a text is expected, and shows texts at others",
		Catch: "read the display in each of its states"}, leftBlank},
	{finding.Entry{Code: "limit", Subsumes: []finding.Code{"goes-on"}}, endsShort},
}

// mostMistimed is how many of the times that are wrong are told.
const mostMistimed = 2

// onlyMistimed looks for displays that show what they should, one after the other, some of it for another time.
func onlyMistimed(v *view) (text string, at clock.Time, ok bool) {
	var wrong []string
	for _, x := range v.verdicts {
		for _, p := range x.Alignment {
			switch {
			case p.Operation == judge.Right || p.Operation == judge.Ignored && !comesBefore(x, p):
			case p.Operation != judge.Mistimed || p.Seen == nil || p.Expected == nil:
				return "", 0, false
			default:
				told := fmt.Sprintf("%s for %s where %s is expected", p.Seen.Text, (p.Seen.To - p.Seen.From).Brief(),
					(p.Expected.To - p.Expected.From).Brief())
				if len(wrong) == 0 {
					at = p.Seen.From
				}
				if len(wrong) < mostMistimed && !slices.Contains(wrong, told) {
					wrong = append(wrong, told)
				}
			}
		}
	}
	if len(wrong) == 0 {
		return "", 0, false
	}
	return fmt.Sprintf("%s shows the right states, but not for the right time: %s.", v.track.Display,
		strings.Join(wrong, ", ")), at, true
}

// comesBefore reports whether a state that is no part of what was found of a sequence is one of its own, for more than
// a moment: it began there.
func comesBefore(x judge.Verdict, p judge.Pair) bool {
	if p.Seen == nil || p.Seen.To-p.Seen.From <= settles {
		return false
	}
	return slices.ContainsFunc(x.Alignment, func(o judge.Pair) bool {
		return asks(o) && o.Expected.Text == p.Seen.Text
	})
}

// settles is how long a display may take to follow another one.
const settles = 150 * clock.Millisecond

// outlasts looks for a state that should end when another display changes, which that does as it should, and lasts on.
func outlasts(v *view) (text string, at clock.Time, ok bool) {
	for _, x := range v.verdicts {
		i := slices.IndexFunc(x.Alignment, func(p judge.Pair) bool {
			return p.Operation != judge.Right && p.Operation != judge.Ignored
		})
		if i < 0 || x.Alignment[i].Operation != judge.Mistimed {
			continue
		}
		p := x.Alignment[i]
		ends := p.Seen.From + p.Expected.To - p.Expected.From
		if p.Seen.To < ends+settles {
			continue
		}
		if other, state, at := v.changesAt(ends); other != "" {
			return fmt.Sprintf("%s still shows %s when %s comes to %s at %s, where it should end.", v.track.Display,
				p.Seen.Text, other, state, at), at, true
		}
	}
	return "", 0, false
}

// changesAt gives another display that is right throughout and changes about a time, with what it comes to, and when;
// "" where none does.
func (v *view) changesAt(about clock.Time) (name, state string, at clock.Time) {
	for k := range v.reel.Tracks {
		t := &v.reel.Tracks[k]
		if t.Display == v.track.Display || !v.rightThroughout(t.Display) {
			continue
		}
		if f := t.At(about + settles); f != nil && f.From > 0 && f.From >= about-settles {
			return t.Display, t.Short(f.State), f.From
		}
	}
	return "", "", 0
}

// reading is what was looked for at one time, and was not there.
type reading struct {
	want, seen display.State
	text       string
	at         clock.Time
	from, to   clock.Time // from the last input before it to the next one behind it
}

// single are the verdicts about the display of expectations that name one state, and that are not right.
func (v *view) single() (out []judge.Verdict) {
	for k, x := range v.all {
		if x.Display == v.track.Display && v.trial().Expect[k].Kind == "reads" && len(x.Alignment) == 1 &&
			(x.Alignment[0].Operation == judge.Wrong || x.Alignment[0].Operation == judge.Near) {
			out = append(out, x)
		}
	}
	return out
}

// misread are those in which another state stands, in any form.
func (v *view) misread() (out []reading) {
	for _, x := range v.single() {
		l, pairs := x.Alignment[0], fault.Pairs(v.reel, x.Display, []judge.Verdict{x})
		if l.Operation != judge.Wrong || len(pairs) != 1 ||
			v.track.Nothing(pairs[0].Seen) && v.track.Nothing(pairs[0].Want) {
			continue
		}
		r := reading{want: pairs[0].Want, seen: pairs[0].Seen, text: l.Expected.Text, at: l.Expected.To,
			to: v.reel.Length}
		for _, c := range v.reel.Cues {
			if c.Start < r.at {
				r.from = c.Start
			} else {
				r.to = min(r.to, c.Start)
			}
		}
		out = append(out, r)
	}
	return out
}

// whole are the pairs of those that ask for all of the display.
func (v *view) whole() (out []judge.Pair) {
	for _, x := range v.single() {
		if l := x.Alignment[0]; l.Expected.State != nil && l.Seen.State != nil && l.Expected.Within == nil {
			out = append(out, l)
		}
	}
	return out
}

// counts reports whether what is seen differs from what is wanted in a number alone: what counts passes by what is
// looked for.
func (v *view) counts(r reading) bool {
	_, number := v.number(r.want)
	return number && v.words(r.want) == v.words(r.seen)
}

// goesTooSoon looks for a state that was there before it was looked for, and has gone for another one.
func goesTooSoon(v *view) (string, clock.Time, bool) {
	for _, r := range v.misread() {
		if v.counts(r) {
			return "", 0, false
		}
		for _, f := range v.track.Frames {
			if f.From > r.from && f.To < r.at && v.track.Alike(f.State, r.want) && !v.turning(f.To) {
				return fmt.Sprintf("%s shows %s from %s to %s, and no more at %s: it goes too soon.", v.track.Display, r.text,
					f.From, f.To, r.at), f.To, true
			}
		}
	}
	return "", 0, false
}

// turning reports whether a knob is being turned at a moment: what it passes by is not meant to stay.
func (v *view) turning(at clock.Time) bool {
	return slices.ContainsFunc(v.reel.Cues, func(c reel.Fired) bool {
		return c.Verb == part.Turn && c.Start < at && at <= c.End+tardy
	})
}

// otherWayRound looks for a lamp that is on when it was looked for to be off, and off when it should be on: nothing of
// it comes merely late, or too soon.
func otherWayRound(v *view) (string, clock.Time, bool) {
	all := v.misread()
	if len(all) < 2 || !v.track.Geometry.Type().Traits().Single {
		return "", 0, false
	}
	for _, x := range v.all {
		if x.Display == v.track.Display && x.Outcome == judge.Met {
			return "", 0, false
		}
	}
	a := all[0]
	for _, b := range all[1:] {
		if v.track.Alike(a.want, b.seen) && v.track.Alike(a.seen, b.want) {
			text := "%[1]s is %[2]s at %[3]s, where it should be %[4]s, and %[4]s at %[5]s, where it should be %[2]s."
			seen, want := v.track.Short(a.seen), v.track.Short(a.want)
			return fmt.Sprintf(text, v.track.Display, seen, a.at, want, b.at), a.at, true
		}
	}
	return "", 0, false
}

// comesLate looks for a state that comes next after it was looked for, with no other input before it.
func comesLate(v *view) (string, clock.Time, bool) {
	for _, r := range v.misread() {
		if v.counts(r) {
			return "", 0, false
		}
		for i, f := range v.track.Frames {
			next := i > 0 && v.track.Frames[i-1].From <= r.at
			if next && f.From > r.at+sameTime && f.From < r.to && v.track.Alike(f.State, r.want) && !v.intrudes(i-1) {
				return fmt.Sprintf("%s shows %s from %s on, where it is expected at %s: it comes too late.", v.track.Display,
					r.text, f.From, r.at), f.From, true
			}
		}
	}
	return "", 0, false
}

// intrudes reports whether a frame stands between two that are alike, and nothing like it is expected in the trial: it
// is too much, and what follows does not come late.
func (v *view) intrudes(i int) bool {
	if i < 1 || i+1 >= len(v.track.Frames) {
		return false
	}
	is := v.track.Frames[i].State
	wanted := slices.ContainsFunc(v.all, func(x judge.Verdict) bool {
		return x.Display == v.track.Display && slices.ContainsFunc(x.Alignment, func(p judge.Pair) bool {
			return p.Expected != nil && p.Expected.State != nil && v.track.Alike(*p.Expected.State, is)
		})
	})
	return !wanted && v.track.Alike(v.track.Frames[i-1].State, v.track.Frames[i+1].State)
}

// outstays looks for a state that was right, and is still there when another one should have come by itself.
func outstays(v *view) (string, clock.Time, bool) {
	for _, r := range v.misread() {
		f := v.track.At(r.at)
		if f == nil || v.counts(r) || r.from > f.From {
			continue
		}
		for _, x := range v.all {
			for _, l := range x.Alignment {
				if x.Display == v.track.Display && l.Operation == judge.Right && l.Seen.From == f.From {
					return fmt.Sprintf("%s shows %s from %s on, and still at %s, where %s is expected.", v.track.Display,
						v.track.Short(f.State), f.From, r.at, r.text), f.From, true
				}
			}
		}
	}
	return "", 0, false
}

// notEnded looks for a state that should end just when an input is used, and goes on beyond that.
func notEnded(v *view) (string, clock.Time, bool) {
	for _, x := range v.verdicts {
		for _, p := range x.Alignment {
			if p.Operation == judge.Right || p.Operation == judge.Ignored {
				continue
			}
			if p.Operation != judge.Mistimed || !x.Timed {
				break
			}
			meant, took := p.Expected.To-p.Expected.From, p.Seen.To-p.Seen.From
			n, _ := endedBy(p, v.reel.Cues)
			if n < 0 || took*2 < meant*3 {
				break
			}
			cue := v.reel.Cues[n]
			return fmt.Sprintf("%s shows %s on and on after %s at %s, which should end it: for %s in place of %s.",
				v.track.Display, p.Seen.Text, done(cue), cue.Start, took.Brief(), meant.Brief()), cue.Start, true
		}
	}
	return "", 0, false
}

// neverBetween looks for a state that should come between others again and again, and never does there, while those
// come.
func neverBetween(v *view) (string, clock.Time, bool) {
	for _, x := range v.verdicts {
		var missing []int // of the pairs, all of one state
		others := true
		for i, p := range x.Alignment {
			switch {
			case p.Operation != judge.Missing:
				others = others && p.Operation != judge.Wrong && p.Operation != judge.Extra
			case len(missing) == 0 || p.Expected.Text == x.Alignment[missing[0]].Expected.Text:
				missing = append(missing, i)
			default:
				others = false
			}
		}
		if len(missing) < 2 || !others {
			continue
		}
		state := x.Alignment[missing[0]].Expected
		shown := func(p judge.Pair) bool {
			return p.Operation != judge.Missing && p.Seen != nil && p.Seen.Text == state.Text
		}
		if slices.ContainsFunc(x.Alignment[missing[0]:missing[len(missing)-1]], shown) {
			continue
		}
		never := "never shows"
		if slices.ContainsFunc(x.Alignment, shown) {
			never = "leaves out"
		}
		return fmt.Sprintf("%s %s %s, which should come %d times between the others; they all come.", v.track.Display,
			never, state.Text, len(missing)), state.From, true
	}
	return "", 0, false
}

// otherRow looks for a text whose rows are all there, in other places.
func otherRow(v *view) (string, clock.Time, bool) {
	lettered, ok := display.As[display.Lettered](v.track.Geometry)
	if !ok {
		return "", 0, false
	}
	for _, l := range v.whole() {
		want, seen := rowsOf(lettered, v.track, *l.Expected.State), rowsOf(lettered, v.track, *l.Seen.State)
		if slices.Equal(want, seen) {
			continue
		}
		a, b := slices.Sorted(slices.Values(want)), slices.Sorted(slices.Values(seen))
		if slices.Equal(a, b) && a[len(a)-1] != "" {
			return fmt.Sprintf("%s shows %s where %s is expected: the text is in the wrong row.", v.track.Display,
				l.Seen.Text, l.Expected.Text), l.Seen.From, true
		}
	}
	return "", 0, false
}

// rowsOf are the rows of a text, without spaces around them.
func rowsOf(lettered display.Lettered, t *display.Track, s display.State) (out []string) {
	for _, row := range lettered.Rows(t, s) {
		out = append(out, strings.TrimSpace(row))
	}
	return out
}

// leftBlank looks for a display that is right at times, and empty where a text is expected.
func leftBlank(v *view) (string, clock.Time, bool) {
	if _, lettered := display.As[display.Lettered](v.track.Geometry); !lettered || !v.readable() ||
		v.noted("lcd-busy") || v.track.Geometry.Type().Traits().Lines {
		return "", 0, false
	}
	for _, l := range v.whole() {
		if v.track.Nothing(*l.Seen.State) && !v.track.Nothing(*l.Expected.State) {
			return fmt.Sprintf("%s is empty at %s, where %s is expected.", v.track.Display, l.Expected.To, l.Expected.Text),
				l.Seen.From, true
		}
	}
	return "", 0, false
}

// words is the text of a state without its numbers.
func (v *view) words(s display.State) string {
	lettered, ok := display.As[display.Lettered](v.track.Geometry)
	if !ok {
		return ""
	}
	return display.Unnumbered(lettered.Rows(v.track, s))
}

// endsShort looks for a number that counts by ones in even time and comes to rest some steps before the last one, or a
// step behind it.
func endsShort(v *view) (string, clock.Time, bool) {
	n := len(v.track.Frames)
	if n < 5 {
		return "", 0, false
	}
	last, before, early := v.track.Frames[n-1], v.track.Frames[n-2], v.track.Frames[n-3]
	a, first := v.number(early.State)
	b, second := v.number(before.State)
	c, third := v.number(last.State)
	step := c - b
	if !first || !second || !third || b-a != step || step != 1 && step != -1 || last.Length() < 2*before.Length() ||
		max(before.Length()-early.Length(), early.Length()-before.Length())*10 > before.Length() {
		return "", 0, false
	}
	for _, r := range v.misread() {
		want, ok := v.number(r.want)
		if !ok || r.at < last.From+before.Length() || v.words(r.want) != v.words(r.seen) ||
			(want-c)*step <= 0 && want != b {
			continue
		}
		how := "too soon"
		if want == b {
			how = "too late"
		}
		return fmt.Sprintf("%s counts to %s and stays there, where %s is expected: it ends a step or more %s.",
			v.track.Display, v.track.Short(last.State), r.text, how), last.From, true
	}
	return "", 0, false
}
