package fault

import (
	"fmt"
	"maps"
	"slices"
	"strings"

	"hemble/core/clock"
	"hemble/core/display"
	"hemble/core/exercise"
	"hemble/core/finding"
	"hemble/core/judge"
	"hemble/core/part"
	"hemble/core/reel"
)

func init() {
	register(&Fault{Entry: finding.Entry{Code: "step-missing", Price: finding.Single,
		Doc:   "one step of a sequence, or several in a row, are left out",
		Catch: "write the whole sequence with `shows`"}, Once: true, Sizes: either(stepMissing, (*Subject).leavesOut)})
	register(&Fault{Entry: finding.Entry{Code: "extra-step", Price: finding.Single,
		Doc:   "a sequence has one step too many",
		Catch: "write the whole sequence with `shows`, without `extra: ignore`"}, Once: true, Sizes: either(extraStep, (*Subject).passesTwice)})
	register(&Fault{Entry: finding.Entry{Code: "length", Price: finding.Constant,
		Doc:   "some states last too long or too short, every time",
		Catch: "give `shows` its times with `each` or `for`", Vague: true, Subsumes: []finding.Code{"goes-dark"}},
		Once: true, Sizes: either(eachLength, byAsMuch)})
	register(&Fault{Entry: finding.Entry{Code: "lengths-swapped", Price: finding.Single,
		Doc:   "the times of two states are exchanged",
		Catch: "give `shows` its times with `for`"}, Once: true, Sizes: lengthsSwapped})
}

// sequences gives the alignments of all sequences of the display.
func (s *Subject) sequences(see func(trial int, v judge.Verdict)) {
	for trial, verdicts := range s.Verdicts {
		for _, v := range verdicts {
			if v.Display == s.Part.Name && len(v.Alignment) > 1 {
				see(trial, v)
			}
		}
	}
}

// step is a place of a sequence: between two states, by what they are called.
type step struct{ before, after string }

// light reports whether the display has several lights that say nothing together: a figure may be a part of another by
// chance, and one light alone goes and comes back.
func (s *Subject) light() bool {
	_, counts := display.As[display.Counting](s.shown.Geometry)
	return !counts && s.shown.Geometry.Lights() > 1
}

// within reports whether what is lit in a state is lit in another one, too, and lights are all that they have.
func within(s, of display.State) bool {
	for i, l := range s.Lights {
		if l == display.Lit && (i >= len(of.Lights) || of.Lights[i] != display.Lit) {
			return false
		}
	}
	return len(s.Lights) > 0
}

// stepMissing looks for states that are left out, always the same at the same place, where all others are there.
func stepMissing(s *Subject) []Size {
	type left struct {
		states  []display.State
		lengths []clock.Time
		names   []string
		covered clock.Time // how long the state before should last, where it lasts through what is left out
	}
	by, wrong := map[step]left{}, false
	right, places := map[step]bool{}, map[string][]clock.Time{} // where nothing is left out, and where something is
	// since is what is wrong behind the last one that is left out; behind is how much of that stands at the very end,
	// where what comes too early leaves room for more
	first, times, since, behind := step{}, 0, 0, 0
	s.sequences(func(trial int, v judge.Verdict) {
		for i := len(v.Alignment) - 1; i >= 0 && v.Alignment[i].Operation == judge.Extra; i-- {
			behind++
		}
		seen := func(i int) string { // what stands at a place that is not left out
			if i >= 0 && i < len(v.Alignment) && v.Alignment[i].Seen != nil {
				return v.Alignment[i].Seen.Text
			}
			return ""
		}
		came := 0
		for _, l := range v.Alignment {
			if l.Expected != nil && l.Seen != nil {
				came++
			}
		}
		for i := 0; i < len(v.Alignment); i++ {
			l := v.Alignment[i]
			if l.Operation == judge.Wrong || l.Operation == judge.Extra {
				since++
			}
			there := l.Operation == judge.Right || l.Operation == judge.Mistimed
			if i > 0 && there && v.Alignment[i-1].Expected != nil {
				right[step{seen(i - 1), l.Seen.Text}] = true
			}
			if l.Operation != judge.Missing || l.Expected.State == nil {
				continue
			}
			wrong = wrong || since > 0 || s.asked(trial, v, i)
			times++
			at, end := step{before: seen(i - 1)}, i
			gone := left{}
			for ; end < len(v.Alignment) && v.Alignment[end].Operation == judge.Missing &&
				v.Alignment[end].Expected.State != nil; end++ {
				x := v.Alignment[end].Expected
				gone.states = append(gone.states, *x.State)
				gone.lengths = append(gone.lengths, x.To-x.From)
				gone.names = append(gone.names, x.Text)
			}
			if i > 0 && v.Timed && v.Alignment[i-1].Operation == judge.Mistimed {
				gone.covered = v.Alignment[i-1].Expected.To - v.Alignment[i-1].Expected.From
			}
			if i > 0 && v.Alignment[i-1].Seen != nil {
				name := s.Reels[trial].Trial
				places[name] = append(places[name], v.Alignment[i-1].Seen.From)
			}
			i = end - 1
			if at.after = seen(end); end == len(v.Alignment) &&
				s.Reels[trial].Length-v.Alignment[end-1].Expected.From < clock.Second {
				continue // it would have come behind the end
			}
			if was, ok := by[at]; ok && !slices.Equal(was.names, gone.names) || len(gone.names) >= came {
				wrong = true // or more is missing than there is
			}
			if by[at] = gone; first == (step{}) {
				first = at
			}
		}
	})
	// where it is left out again and again, the end of the sequence has other states than were expected there
	if wrong || len(by) != 1 || first.before == "" {
		return nil
	}
	gone := by[first]
	if since > 0 && times < 2 && (since > behind || since > len(gone.states)) {
		return nil
	}
	// it stays, where it should go and come back
	if n := len(gone.names); n > 1 && s.shown != nil && s.shown.Track().Short(gone.states[n-1]) == first.before {
		more := func(x display.State) bool { return !within(x, gone.states[n-1]) }
		if s.light() && !slices.ContainsFunc(gone.states, more) {
			return nil // what is lit does not go off: nothing is left out
		}
		gone.names = gone.names[:n-1]
	}
	where := "after " + first.before
	if first.after != "" {
		where = "between " + first.before + " and " + first.after
	}
	text := fmt.Sprintf("%s leaves out %s %s.", s.Part.Name, listed(gone.names), where)
	total := clock.Time(0)
	for _, length := range gone.lengths {
		total += length
	}
	// what comes behind is later then, up to the next cue, which many programs begin anew with
	put := func(trial string, t *display.Track) (out []display.Frame, all []delay) {
		shift, until := clock.Time(0), clock.Never
		for i, was := range t.Frames {
			if shift != 0 && was.From >= until {
				shift, until = 0, clock.Never
				out = ending(out, was.From)
			}
			f := was
			f.From, f.To = f.From+shift, f.To+shift
			last := i+1 == len(t.Frames)
			after := ""
			if !last {
				after = t.Short(t.Frames[i+1].State)
			}
			if t.Short(f.State) != first.before || after != first.after ||
				right[first] && !slices.Contains(places[trial], was.From) {
				out = append(out, f)
				continue
			}
			more := total
			if gone.covered > 0 && near(f.Length(), gone.covered+total) {
				f.To, more = f.To-total, 0
			}
			if last && t.Geometry.Type().Traits().Lines { // they have no length
				f.To = f.From + f.Length()/2
			}
			out = append(out, f)
			for k, state := range gone.states {
				from := out[len(out)-1].To
				out = append(out, display.Frame{State: state, From: from, To: from + gone.lengths[k]})
			}
			shift += more
			until = s.cueBehind(trial, was.To)
			all = append(all, delay{was.To, until, more})
		}
		return cutAt(out, t), all
	}
	own := frames(s.Part.Name, func(trial string, t *display.Track) []display.Frame {
		out, _ := put(trial, t)
		return out
	})
	return []Size{{Text: text, Reel: own}, {Text: text, Rare: true, Reel: func(r *reel.Reel) *reel.Reel {
		track := r.Track(s.Part.Name)
		_, delays := put(r.Trial, track)
		out := own(r)
		for _, t := range r.Tracks { // the whole program is later; groups follow their displays
			if t.Display != s.Part.Name && !slices.Contains(track.Of, t.Display) && len(t.Of) == 0 {
				out = frames(t.Display, func(_ string, t *display.Track) []display.Frame {
					return delayed(t, delays)
				})(out)
			}
		}
		return out
	}}}
}

// asked reports whether what is left out at a place should have followed an input of its own, as it does elsewhere:
// between the states around it there are several.
func (s *Subject) asked(trial int, v judge.Verdict, i int) bool {
	end := i
	for end < len(v.Alignment) && v.Alignment[end].Seen == nil {
		end++
	}
	if i == 0 || v.Alignment[i-1].Seen == nil || end == len(v.Alignment) || !s.shows(*v.Alignment[i].Expected.State) {
		return false // what is never seen is left out
	}
	inputs := 0
	for _, c := range s.Reels[trial].Cues {
		if c.Start > v.Alignment[i-1].Seen.From && c.Start < v.Alignment[end].Seen.From {
			inputs++
		}
	}
	return inputs > 1
}

// delay is that what is shown from a time on, up to another, comes later.
type delay struct{ from, until, by clock.Time }

// delayed has a display follow delays, which are in order.
func delayed(t *display.Track, delays []delay) (out []display.Frame) {
	for _, f := range t.Frames {
		shift := clock.Time(0)
		for _, d := range delays {
			if f.From >= d.from && f.From < d.until {
				shift += d.by
			} else if f.From >= d.until {
				out = ending(out, f.From)
			}
		}
		f.From, f.To = f.From+shift, f.To+shift
		if n := len(out); n > 0 {
			out[n-1].To = f.From
		}
		out = append(out, f)
	}
	return cutAt(out, t)
}

// ending gives the frames that begin before a time, the last of them up to it.
func ending(list []display.Frame, at clock.Time) (out []display.Frame) {
	for _, f := range list {
		if f.From < at {
			out = append(out, f)
		}
	}
	if n := len(out); n > 0 {
		out[n-1].To = at
	}
	return out
}

// afterCue reports whether what begins at a time follows a cue.
func (s *Subject) afterCue(trial string, at clock.Time) bool {
	const soon = 100 * clock.Millisecond
	for _, t := range s.Exercise.Trials {
		for _, c := range t.Cues {
			if t.Name == trial && c.At <= at && at <= c.At+soon {
				return true
			}
		}
	}
	return false
}

// cueBehind is when the first cue of a trial comes that is behind a time; Never for none.
func (s *Subject) cueBehind(trial string, at clock.Time) clock.Time {
	first := clock.Never
	for _, t := range s.Exercise.Trials {
		for _, c := range t.Cues {
			if t.Name == trial && c.At > at {
				first = min(first, c.At)
			}
		}
	}
	return first
}

// answersBehind reports whether the program is to answer a press just before a time, or behind it: what is shown then
// comes no sooner where something before it is left out.
func (s *Subject) answersBehind(trial int, at clock.Time) bool {
	return slices.ContainsFunc(s.Reels[trial].Cues, func(c reel.Fired) bool {
		return c.Start > at-soonest && (c.Verb == part.Press || c.Verb == part.Type)
	})
}

// extraStep looks for states between two others, where nothing should come.
func extraStep(s *Subject) (out []Size) {
	tried := map[[3]string]bool{}
	s.sequences(func(trial int, v judge.Verdict) {
		for i, l := range v.Alignment {
			if l.Operation == judge.Extra && l.Seen != nil && i > 0 && i+1 < len(v.Alignment) &&
				v.Alignment[i-1].Seen != nil && v.Alignment[i+1].Seen != nil &&
				!(v.Timed && s.answersBehind(trial, l.Seen.From)) {
				tried[[3]string{v.Alignment[i-1].Seen.Text, l.Seen.Text, v.Alignment[i+1].Seen.Text}] = true
			}
		}
	})
	// a state that comes back after another one where it should go on
	for trial := range s.Verdicts {
		t := s.Reels[trial].Track(s.Part.Name)
		for _, v := range s.Verdicts[trial] {
			for _, l := range v.Alignment {
				if v.Display != s.Part.Name || !v.Timed || l.Operation != judge.Mistimed || t == nil {
					continue
				}
				for i := 0; i+2 < len(t.Frames); i++ {
					a, b, c := t.Frames[i], t.Frames[i+1], t.Frames[i+2]
					if (a.From == l.Seen.From || c.From == l.Seen.From) && t.Alike(a.State, c.State) &&
						near(c.To-a.From, l.Expected.To-l.Expected.From) {
						tried[[3]string{t.Short(a.State), t.Short(b.State), t.Short(c.State)}] = true
					}
				}
			}
		}
	}
	if len(tried) > 2 {
		return nil
	}
	for _, x := range slices.SortedFunc(maps.Keys(tried), func(a, b [3]string) int {
		return strings.Compare(strings.Join(a[:], "|"), strings.Join(b[:], "|"))
	}) {
		text := fmt.Sprintf("%s shows %s between %s and %s, where nothing should come between them.", s.Part.Name, x[1],
			x[0], x[2])
		if x[0] == x[2] {
			text = fmt.Sprintf("%s shows %s for a while in the middle of %s.", s.Part.Name, x[1], x[0])
		}
		out = append(out, s.moved(text,
			func(_ string, t *display.Track) (list []display.Frame, shift clock.Time) {
				for i, f := range t.Frames {
					here := i > 0 && i+1 < len(t.Frames) && t.Short(t.Frames[i-1].State) == x[0] &&
						t.Short(f.State) == x[1] && t.Short(t.Frames[i+1].State) == x[2]
					switch n := len(list); {
					case here && x[0] == x[2]: // it is bridged
						list[n-1].To = f.To - shift
					case here:
						shift += f.Length()
					case n > 0 && t.Alike(list[n-1].State, f.State):
						list[n-1].To = f.To - shift
					default:
						f.From, f.To = f.From-shift, f.To-shift
						list = append(list, f)
					}
				}
				return list, -shift
			}))
	}
	return out
}

// mover changes the frames of a track of one trial, and tells by how much its end came later; less than 0 for earlier.
type mover func(trial string, t *display.Track) ([]display.Frame, clock.Time)

// moved is a repair that moves frames. Where they come earlier, what follows behind the end of the trial belongs to it
// as well: the program is run for so much longer.
func (s *Subject) moved(text string, change mover) Size {
	earlier := map[string]clock.Time{} // by trials
	for _, r := range s.Reels {
		if t := r.Track(s.Part.Name); t != nil {
			if _, shift := change(r.Trial, t); shift < 0 {
				earlier[r.Trial] = -shift
			}
		}
	}
	repaired := frames(s.Part.Name, func(trial string, t *display.Track) []display.Frame {
		list, _ := change(trial, t)
		return cutAt(list, t)
	})
	if len(earlier) == 0 {
		return Size{Text: text, Reel: repaired}
	}
	return Size{Text: text,
		Bench: func(x *exercise.Exercise) {
			for i := range x.Trials {
				x.Trials[i].Length += earlier[x.Trials[i].Name]
			}
		},
		After: func(r *reel.Reel) *reel.Reel { return shortened(repaired(r), earlier[r.Trial]) }}
}

// shortened is a reel without its last part.
func shortened(r *reel.Reel, by clock.Time) *reel.Reel {
	out := *r
	out.Length -= by
	out.Tracks = slices.Clone(r.Tracks)
	for i := range out.Tracks {
		var list []display.Frame
		for _, f := range out.Tracks[i].Frames {
			if f.From < out.Length {
				f.To = min(f.To, out.Length)
				list = append(list, f)
			}
		}
		out.Tracks[i].Frames = list
	}
	return &out
}

// cutAt ends frames where the track ends.
func cutAt(list []display.Frame, t *display.Track) (out []display.Frame) {
	if len(t.Frames) == 0 {
		return list
	}
	end := t.Frames[len(t.Frames)-1].To
	for _, f := range list {
		if f.From < end {
			f.To = min(f.To, end)
			out = append(out, f)
		}
	}
	if n := len(out); n > 0 {
		out[n-1].To = end
	}
	return out
}

// listed names things as a sentence does, the first few of many.
func listed(all []string) string {
	switch n := len(all); {
	case n == 1:
		return all[0]
	case n > 4:
		return strings.Join(all[:3], ", ") + fmt.Sprintf(" and %d more", n-3)
	default:
		return strings.Join(all[:n-1], ", ") + " and " + all[n-1]
	}
}
