package fault

import (
	"fmt"
	"slices"

	"hemble/core/clock"
	"hemble/core/display"
	"hemble/core/exercise"
	"hemble/core/finding"
	"hemble/core/judge"
	"hemble/core/part"
	"hemble/core/reel"
	"hemble/core/spec"
)

// ratios are those by which programs are off in time, in lowest terms: double or half, a wrong prescaler, milliseconds
// for microseconds. The first number is that of a program too slow.
var ratios = [][2]int64{{2, 1}, {4, 1}, {8, 1}, {10, 1}, {16, 1}, {32, 1}, {64, 1}, {1000, 1}}

func init() {
	register(&Fault{Entry: finding.Entry{Code: "time", Price: finding.Pace,
		Doc:   "everything takes too long, or is too fast, by the same factor",
		Catch: "give `shows` its times with `each`", Order: 2, Whole: true,
		Subsumes: []finding.Code{"goes-dark", "never-clears"}},
		Sizes: allTime})
	register(&Fault{Entry: finding.Entry{Code: "lag", Price: finding.Constant,
		Doc:   "a display changes some time later than it should, every time",
		Catch: "join it to what it follows with `together`, or read it `within` a time", Vague: true}, Sizes: lag})
	register(&Fault{Entry: finding.Entry{Code: "lag", Price: finding.Constant, Vague: true,
		Doc:   "a number is one use of an input behind",
		Catch: "read the number behind each input"}, Once: true, Sizes: drivenBehind.sizes})
	register(&Fault{Entry: finding.Entry{Code: "limit", Price: finding.Constant,
		Doc: "a count goes too far or not far enough before it begins again, or begins again with another number", Vague: true}, Once: true, Sizes: limit})
}

// delays are those by which a display may be behind, in ms; less than 0 for ahead.
var delays = []clock.Time{100, 150, 200, 250, 300, 400, 500, -150, -200, -300, -400, -500}

// lag moves what a display that changes several times shows to the time when it should.
func lag(s *Subject) (out []Size) {
	changes := 0
	for _, r := range s.Reels {
		if t := r.Track(s.Part.Name); t != nil {
			changes = max(changes, len(t.Frames)-1)
		}
	}
	if s.Part.Kind.Geometry == nil || changes < 2 {
		return nil
	}
	list := delays
	if s.Verdicts == nil {
		list = []clock.Time{300}
	}
	for _, d := range list {
		if d < 0 && !s.joined() {
			break
		}
		if d *= clock.Millisecond; s.Verdicts != nil && s.soonerThan(d) {
			continue
		}
		text, effect := "%s is behind by about %s: it changes later than it should", "it changes %s earlier"
		if d < 0 {
			text, effect = "%s is ahead by about %s: it changes earlier than it should", "it changes %s later"
		}
		if s.missed() > 1 {
			text += ", every time"
		}
		text += "."
		size := max(d, -d).Brief()
		out = append(out,
			Size{Text: fmt.Sprintf(text, s.Part.Name, size), Effect: fmt.Sprintf(effect, size),
				Reel: frames(s.Part.Name, func(_ string, t *display.Track) (list []display.Frame) {
					for i, f := range t.Frames {
						if i > 0 {
							f.From = max(0, f.From-d)
						}
						if i+1 < len(t.Frames) {
							f.To = max(0, f.To-d)
						}
						if f.To > f.From {
							list = append(list, f)
						}
					}
					return list
				})})
	}
	return out
}

// missed is how many expectations of the display were not met.
func (s *Subject) missed() (n int) {
	for _, all := range s.Verdicts {
		for _, v := range all {
			if v.Display == s.Part.Name && v.Outcome != judge.Met {
				n++
			}
		}
	}
	return n
}

// soonerThan reports whether the display changes sooner after most inputs than it could if it were behind by a time.
func (s *Subject) soonerThan(d clock.Time) bool {
	sooner, later := 0, 0
	for _, r := range s.Reels {
		t := r.Track(s.Part.Name)
		if t == nil {
			continue
		}
		for i, c := range r.Cues {
			end := c.Start + 2*max(d, -d)
			if i+1 < len(r.Cues) {
				end = min(end, r.Cues[i+1].Start)
			}
			for _, f := range t.Frames {
				if f.From > c.Start && f.From <= end {
					if f.From < c.Start+d*3/4 {
						sooner++
					} else {
						later++
					}
					break
				}
			}
		}
	}
	return sooner > later
}

// joined reports whether the display is joined to something else, which it may be ahead of.
func (s *Subject) joined() bool {
	for trial, verdicts := range s.Verdicts {
		for k, v := range verdicts {
			if v.Display == s.Part.Name && v.Outcome != judge.Met &&
				s.Exercise.Trials[trial].Expect[k].Kind == "together" {
				return true
			}
		}
	}
	return false
}

func allTime(s *Subject) (out []Size) {
	if s.Exercise.Chip == nil || s.Part.Kind.Geometry == nil {
		return nil
	}
	if s.Verdicts != nil {
		if n, d := s.pace(); n != d {
			return []Size{s.paced(n, d)}
		}
		return s.hurried()
	}
	first := slices.IndexFunc(s.Exercise.Parts, func(p *part.Instance) bool { return p.Kind.Geometry != nil })
	if s.Exercise.Parts[first] != s.Part { // it is about the chip, whatever the display
		return nil
	}
	for _, r := range ratios[:3] {
		out = append(out, clocked(r[0], r[1]), clocked(r[1], r[0]))
	}
	return out
}

func limit(s *Subject) (out []Size) {
	for _, verdicts := range s.Verdicts {
		for _, v := range verdicts {
			for i, l := range v.Alignment {
				if v.Display != s.Part.Name || l.Operation != judge.Extra || l.Seen == nil || l.Seen.State == nil ||
					i == 0 || v.Alignment[i-1].Seen == nil {
					continue
				}
				if before, here := v.Alignment[i-1].Seen, l.Seen; before.State != nil &&
					s.follows(*before.State, *here.State) {
					gone := *here.State
					return []Size{{Text: fmt.Sprintf("%s goes one step too far: after %s it still shows %s.",
						s.Part.Name, before.Text, here.Text),
						Reel: frames(s.Part.Name,
							func(_ string, t *display.Track) []display.Frame { return without(t, gone) })}}
				}
			}
		}
	}
	if out = s.otherRound(); out == nil {
		out = drivenLimit.sizes(s)
	}
	return out
}

// prompt is how soon a program answers an input that ends a state.
const prompt = 300 * clock.Millisecond

// Ended reports whether an input came shortly before a moment: what ended then does not tell the program's pace.
func Ended(r *reel.Reel, at clock.Time) bool {
	return slices.ContainsFunc(r.Cues, func(c reel.Fired) bool { return c.Start <= at && at-c.Start < prompt })
}

// pace is by how much the frames of a display last longer than they should, as a ratio: the median over all frames with
// a length, snapped to a usual one.
func (s *Subject) pace() (n, d int64) {
	type length struct{ want, seen clock.Time }
	var all []length
	states := map[string]bool{} // of which the time is wrong
	for trial, verdicts := range s.Verdicts {
		for k, v := range verdicts {
			if v.Display != s.Part.Name && v.Outcome != judge.Met && s.timed(trial, k) {
				states[v.Display+":"] = true
			}
			if v.Display != s.Part.Name || !v.Timed {
				continue
			}
			for _, l := range v.Alignment {
				if l.Operation == judge.Mistimed && !Ended(s.Reels[trial], l.Seen.To) {
					states[l.Expected.Text] = true
				}
				if l.Expected == nil || l.Seen == nil || l.Seen.To >= s.Reels[trial].Length || l.Seen.From == 0 ||
					l.Operation == judge.Missing || l.Operation == judge.Extra || l.Operation == judge.Ignored {
					continue
				}
				if want := l.Expected.To - l.Expected.From; want > 0 && !Ended(s.Reels[trial], l.Seen.To) {
					all = append(all, length{want, l.Seen.To - l.Seen.From})
				}
			}
		}
	}
	if len(all) == 0 {
		return 1, 1
	}
	slices.SortFunc(all, func(a, b length) int { // by seen/want
		return int(microseconds(a.seen)*microseconds(b.want) - microseconds(b.seen)*microseconds(a.want))
	})
	m := all[len(all)/2]
	off := func(n, d int64) bool { // by more than 4 %
		a, b := int64(m.seen/clock.Microsecond)*d, int64(m.want/clock.Microsecond)*n
		return (a-b)*25 > b || (b-a)*25 > b
	}
	few := len(states) == 1 && m.seen < far*m.want && m.want < far*m.seen // of one state it is told by itself
	if !off(1, 1) || few {
		return 1, 1
	}
	agree := 0
	for _, l := range all {
		a, b := microseconds(l.seen)*microseconds(m.want), microseconds(l.want)*microseconds(m.seen)
		if (a-b)*20 <= b && (b-a)*20 <= b {
			agree++
		}
	}
	if agree*10 < len(all)*7 { // some things take too long, others do not
		return 1, 1
	}
	for _, r := range ratios {
		if !off(r[0], r[1]) {
			return r[0], r[1]
		}
		if !off(r[1], r[0]) {
			return r[1], r[0]
		}
	}
	if len(all) < 2 {
		return 1, 1
	}
	if slight := m.seen*20 > m.want*17 && m.seen*20 < m.want*23; slight {
		var byRatio, byPause clock.Time // how far the lengths are from one pace, and from one time more for each
		for _, l := range all {
			byRatio += apart(l.seen, clock.Time(float64(l.want)*float64(m.seen)/float64(m.want)))
			byPause += apart(l.seen-l.want, m.seen-m.want)
		}
		tells := clock.Time(len(all)) * clock.Millisecond
		if byPause+tells < byRatio || byPause <= byRatio+tells && len(all) < fewLengths {
			return 1, 1
		}
	}
	thousandths := int64(m.seen) * 1000 / int64(m.want)
	return max(1, thousandths), 1000
}

// far is how many times too long or too short one state lasts where a timer or a clock is wrong, and not its own time.
const far = 8

// fewLengths of states that are all meant to be alike do not tell a slightly other pace from some time besides.
const fewLengths = 5

// hurried has the chip run slower where a display changes so much more often than it should that no state stands beside
// an expected one, or where it never changes: so fast that the eye sees it dim and steady. By the length of its states
// it is one of the usual ratios; where there is none, all of them are tried.
func (s *Subject) hurried() (out []Size) {
	var wants, seen []clock.Time
	for trial, verdicts := range s.Verdicts {
		for _, v := range verdicts {
			if v.Display != s.Part.Name || !v.Timed || v.Outcome == judge.Met {
				continue
			}
			for _, l := range v.Alignment {
				if l.Expected != nil && l.Expected.To > l.Expected.From && l.Expected.To < s.Reels[trial].Length {
					wants = append(wants, l.Expected.To-l.Expected.From)
				}
			}
			frames := s.Reels[trial].Track(s.Part.Name).Frames
			for i := 1; i+1 < len(frames); i++ {
				seen = append(seen, frames[i].Length())
			}
		}
	}
	if len(wants) < 2 {
		return nil
	}
	slices.Sort(wants)
	slices.Sort(seen)
	want := wants[len(wants)/2]
	if len(seen) > 0 && seen[len(seen)/2]*3 > want || len(seen) == 0 && !s.blurred() {
		return nil
	}
	for _, r := range ratios {
		if r[0] < 4 || len(seen) > 0 && !near(seen[len(seen)/2], want/clock.Time(r[0])) {
			continue
		}
		slow := clocked(r[0], r[1])
		slow.Text = fmt.Sprintf("Everything goes %d times too fast.", r[0])
		out = append(out, slow)
	}
	return out
}

// blurred reports whether some light is ever seen dim, or some character pale, as what changes too fast for the eye is.
func (s *Subject) blurred() bool {
	return slices.ContainsFunc(s.shown.Tracks, func(t *display.Track) bool {
		return slices.ContainsFunc(t.Frames, func(f display.Frame) bool {
			return slices.Contains(f.State.Lights, display.Dim) ||
				slices.ContainsFunc(f.State.Cells, func(c display.Cell) bool { return c&display.WashedOut != 0 })
		})
	})
}

// longest is how long a run may take to undo a slow program.
const longest = 10 * clock.Minute

// paced runs for n/d of the time, with cues as much later, and then tells times as d/n of what they were.
func (s *Subject) paced(n, d int64) Size {
	factor := fmt.Sprintf("%.3g", float64(n)/float64(d))
	how := "Everything takes %s times as long as it should"
	if n < d {
		factor, how = fmt.Sprintf("%.3g", float64(d)/float64(n)), "Everything goes %s times too fast"
	}
	stretched := func(t clock.Time) clock.Time { return t / clock.Time(d) * clock.Time(n) }
	return Size{Text: fmt.Sprintf(how+".", factor),
		Bench: func(x *exercise.Exercise) {
			for i := range x.Trials {
				t := &x.Trials[i]
				if stretched(t.Length) > longest {
					continue
				}
				t.Length = stretched(t.Length)
				for k := range t.Cues {
					t.Cues[k].At, t.Cues[k].For = stretched(t.Cues[k].At), stretched(t.Cues[k].For)
				}
			}
			for _, p := range x.Parts { // contacts rest as much sooner
				if spec.Find(p.Kind.Settings, "bounce") != nil && n < d {
					rests := stretched(p.Settings.Time("bounce"))
					setting(p.Name, "bounce", spec.Value{Text: rests.Brief()})(x)
				}
			}
		},
		After: func(r *reel.Reel) *reel.Reel { return retimed(r, n, d) }}
}

// clocked makes a program take n/d of its time, by the chip's clock.
func clocked(n, d int64) Size {
	return Size{Effect: fmt.Sprintf("everything takes %.3g times as long", float64(n)/float64(d)),
		Bench: func(x *exercise.Exercise) { x.Clock = clock.Rate(int64(x.Clock) * d / n) }}
}

// retimed tells all times of a reel as d/n of what they were.
func retimed(r *reel.Reel, n, d int64) *reel.Reel {
	at := func(t clock.Time) clock.Time { return t / clock.Time(n) * clock.Time(d) }
	out := *r
	out.Length = at(r.Length)
	out.Tracks, out.Cues = slices.Clone(r.Tracks), slices.Clone(r.Cues)
	for i := range out.Tracks {
		t := &out.Tracks[i]
		t.Frames = slices.Clone(t.Frames)
		for k := range t.Frames {
			t.Frames[k].From, t.Frames[k].To = at(t.Frames[k].From), at(t.Frames[k].To)
		}
		if n := len(t.Frames); n > 0 {
			t.Frames[n-1].To = out.Length
		}
	}
	for i := range out.Cues {
		out.Cues[i].Start, out.Cues[i].End = at(out.Cues[i].Start), at(out.Cues[i].End)
	}
	return &out
}

// microseconds is a time that can be multiplied with another.
func microseconds(t clock.Time) int64 { return int64(t / clock.Microsecond) }

// apart is by how much two lengths differ.
func apart(a, b clock.Time) clock.Time { return max(a-b, b-a) }

// near reports whether two lengths differ by less than a twentieth.
func near(a, b clock.Time) bool { return (a-b)*20 <= b && (b-a)*20 <= b }

// follows reports whether a number is the next one after another; of m:ss and 12-hour times, whether minutes or the
// last two digits are.
func (s *Subject) follows(before, here display.State) bool {
	a, ok := s.number(before)
	b, shown := s.number(here)
	return ok && shown && (b == a+1 || b == a-1)
}

// without takes the frames of one state away; what comes later comes so much earlier.
func without(t *display.Track, gone display.State) (out []display.Frame) {
	shift := clock.Time(0)
	for _, f := range t.Frames {
		if t.Alike(f.State, gone) {
			shift += f.Length()
			continue
		}
		f.From, f.To = f.From-shift, f.To-shift
		out = append(out, f)
	}
	if n := len(out); n > 0 {
		out[n-1].To += shift
	}
	return out
}
