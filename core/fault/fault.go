// Package fault is the table of mistakes that programs make. A fault is a transform of a run. Applied, it makes a
// faulty run of a right program, to test whether an exercise notices it; inverted, it repairs the run of a faulty
// program, to test whether it was the cause. Each file has the faults of one kind.
package fault

import (
	"slices"
	"strings"
	"sync"

	"hemble/core/clock"
	"hemble/core/display"
	"hemble/core/exercise"
	"hemble/core/finding"
	"hemble/core/judge"
	"hemble/core/part"
	"hemble/core/reel"
)

// Fault is one kind of mistake.
type Fault struct {
	finding.Entry
	// Sizes gives what is worth trying on a part: the usual sizes of the mistake, and where verdicts are at hand, those
	// that what was seen suggests. The transforms of a fault without Once come in pairs that undo each other.
	Sizes func(*Subject) []Size
	// Once tells that the transform only repairs: what the mistake did to the run cannot be undone in general, and is
	// undone with the help of what was expected.
	Once bool
	// Wiring tells that it is about lines and settings of a display: where the display ever shows what is expected, it
	// is not the cause.
	Wiring bool
	// Value tells that it is about what a program makes of a sensor's value, which all that it shows would share.
	Value bool
	// Partly tells that with one of wiring, too, some of what is expected may be shown.
	Partly bool
}

// Size is a mistake of one size, as a transform. It has one of Reel and Bench.
type Size struct {
	// Text says what is wrong with a program that this transform repairs.
	Text string
	// Effect says what it makes of a right program; Text where it is empty.
	Effect string
	// Likely tells that what was seen speaks for it: of those whose test takes a run, it is tried before the others.
	Likely bool
	// Certain tells that it gives every state that was seen, of many: a vague mistake for once is not.
	Certain bool
	// Throughout tells that with it nothing may be left that is wrong, though it is no vague one.
	Throughout bool
	// Against tells that something that was seen speaks against it: where it is the best explanation, there is none.
	Against bool
	// Rare tells that it hardly occurs: it is not tried in search of what may hide another.
	Rare bool
	// Given is how many texts it takes from what was expected, each wherever it stands; 0 where that is not known.
	Given int
	// Reel gives the transformed reel; the one that is given stays as it is.
	Reel func(*reel.Reel) *reel.Reel
	// Bench changes a clone of the exercise, on which the firmware is run again.
	Bench func(*exercise.Exercise)
	// After transforms the reels of a changed bench; may be nil.
	After func(*reel.Reel) *reel.Reel
}

// Subject is a part on which faults are looked for.
type Subject struct {
	Exercise *exercise.Exercise
	Part     *part.Instance
	Reels    []*reel.Reel      // of each trial
	Verdicts [][]judge.Verdict // of each trial, where they are at hand

	shown *display.Case // of a display
	nth   int           // which of its numbers is looked at
	// the last two figures stand behind a colon: seconds or minutes, of which 60 make one before it
	sixty bool
}

// NewSubject looks at a part.
func NewSubject(x *exercise.Exercise, p *part.Instance, reels []*reel.Reel, verdicts [][]judge.Verdict) *Subject {
	s := &Subject{Exercise: x, Part: p, Reels: reels, Verdicts: verdicts}
	if p.Kind.Geometry == nil {
		return s
	}
	s.shown = &display.Case{Named: p.Display(), Judged: verdicts != nil,
		Wired: func(terminal string) (wired, known bool) {
			i := p.Kind.Terminal(terminal)
			return i >= 0 && p.Wired[i] != "", i >= 0
		}}
	for _, r := range reels {
		s.shown.Tracks = append(s.shown.Tracks, r.Track(p.Name))
	}
	for trial, all := range verdicts {
		s.shown.Pairs = append(s.shown.Pairs, Meant(reels[trial], p.Name, all)...)
	}
	s.nth = Which(s.shown.Track(), s.shown.Pairs)
	s.sixty = s.shown.Parted() && s.shown.Geometry.Colon == s.shown.Geometry.Digits()-2
	return s
}

// Pairs are the expected states of a display beside those that were seen, in the verdicts of one trial.
func Pairs(r *reel.Reel, name string, verdicts []judge.Verdict) []display.Pair {
	return pairs(r, name, verdicts, func(s *judge.Span) *display.State { return s.State })
}

// Meant are the same, with an example of each state that may look in several ways.
func Meant(r *reel.Reel, name string, verdicts []judge.Verdict) []display.Pair {
	return pairs(r, name, verdicts, (*judge.Span).Meant)
}

// pairs are those with the states that are meant.
func pairs(r *reel.Reel, name string, verdicts []judge.Verdict,
	meant func(*judge.Span) *display.State) (out []display.Pair) {
	for _, v := range verdicts {
		if v.Display != name {
			continue
		}
		for _, l := range v.Alignment {
			if l.Expected != nil && l.Seen != nil && meant(l.Expected) != nil && l.Seen.State != nil &&
				l.Operation != judge.Extra {
				out = append(out, display.Pair{Trial: r.Trial, On: r.Track(name), At: l.Seen.From,
					Used: lastUsed(r.Cues, l.Expected.From),
					Want: whole(r.Track(name), *meant(l.Expected), *l.Seen.State, l.Expected.Within),
					Seen: *l.Seen.State, Wrong: l.Operation == judge.Wrong || l.Operation == judge.Near,
					Cleared: cleared(r, name, l.Seen.From)})
			}
		}
	}
	return out
}

// cleared reports whether a display was told to clear itself after a frame began, and before or as the next one did.
func cleared(r *reel.Reel, name string, at clock.Time) bool {
	const asItBegins = 20 * clock.Millisecond // what is written anew is not seen one by one
	before := clock.Time(0)
	for _, f := range r.Track(name).Frames {
		if f.From < at {
			before = f.From + asItBegins
		}
	}
	return slices.ContainsFunc(r.Log, func(e reel.Entry) bool {
		return e.Part == name && strings.HasPrefix(e.What, "clear") && e.At > before && e.At <= at+asItBegins
	})
}

// lastUsed is when the last of some inputs began, up to a time; -1 where none did.
func lastUsed(cues []reel.Fired, by clock.Time) clock.Time {
	at := clock.Time(-1)
	for _, c := range cues {
		if c.Start <= by {
			at = max(at, c.Start)
		}
	}
	return at
}

// whole is the wanted state of a display of which a part is asked for: the rest is as it is seen.
func whole(t *display.Track, want, seen display.State, within *display.Region) display.State {
	lettered, ok := display.As[display.Lettered](t.Geometry)
	if !ok || within == nil {
		return want
	}
	rows, asked := lettered.Rows(t, seen), lettered.Rows(t, want)
	for y := within.Y; y < within.Y+within.High && y < len(rows); y++ {
		row, from := []rune(rows[y]), []rune(asked[y])
		for x := within.X; x < within.X+within.Wide && x < len(row) && x < len(from); x++ {
			row[x] = from[x]
		}
		rows[y] = string(row)
	}
	return lettered.WithRows(t, seen, rows)
}

var table []*Fault

func register(f *Fault) { table = append(table, f) }

// All lists the faults by their codes: those of this table, the mistakes of display types, the settings of parts that
// are misread.
var All = sync.OnceValue(func() []*Fault {
	all := slices.Clone(table)
	of := map[finding.Code]map[display.TypeName]*display.Mistake{}
	for _, t := range display.Types() {
		for _, m := range t.Mistakes() {
			if of[m.Code] == nil {
				of[m.Code] = map[display.TypeName]*display.Mistake{}
				all = append(all,
					&Fault{Entry: m.Entry, Once: m.Once, Wiring: m.Wiring, Sizes: func(s *Subject) []Size {
						if s.shown == nil || of[m.Code][s.shown.Geometry.TypeName] == nil {
							return nil
						}
						return s.sizes(of[m.Code][s.shown.Geometry.TypeName])
					}})
			}
			of[m.Code][t.Name()] = m
		}
	}
	for _, k := range part.Kinds() {
		for _, m := range k.Misread {
			all = append(all,
				&Fault{Entry: m.Entry, Wiring: m.Wiring, Partly: m.Partly, Sizes: func(s *Subject) []Size {
					if s.Part.Kind.Name != k.Name {
						return nil
					}
					return s.misread(m)
				}})
		}
	}
	slices.SortStableFunc(all, func(a, b *Fault) int { return strings.Compare(string(a.Code), string(b.Code)) })
	return all
})

// either looks one way, and where nothing is found, another way.
func either(one, other func(*Subject) []Size) func(*Subject) []Size {
	return func(s *Subject) []Size {
		if out := one(s); out != nil {
			return out
		}
		return other(s)
	}
}

func init() {
	finding.Provide(finding.Fault, func() (out []finding.Entry) {
		for _, f := range All() {
			out = append(out, f.Entry)
		}
		return out
	})
}

// sizes are those of a mistake of the display's type, as transforms of reels.
func (s *Subject) sizes(m *display.Mistake) (out []Size) {
	for _, z := range m.Sizes(s.shown) {
		change := frames(s.Part.Name, z.Frames)
		if z.State != nil {
			change = states(s.Part.Name, z.State)
		}
		out = append(out, Size{Text: z.Text, Effect: z.Effect, Rare: z.Rare, Given: z.Given, Throughout: z.Throughout,
			Reel: change})
	}
	return out
}

// states transforms every state of a display.
func states(name string, f func(*display.Track, display.State) display.State) func(*reel.Reel) *reel.Reel {
	return frames(name, func(_ string, t *display.Track) []display.Frame {
		out := slices.Clone(t.Frames)
		for i := range out {
			out[i].State = f(t, out[i].State)
		}
		return out
	})
}

// frames transforms the frames of a display, given with the name of the trial.
func frames(name string, f func(trial string, t *display.Track) []display.Frame) func(*reel.Reel) *reel.Reel {
	return func(r *reel.Reel) *reel.Reel {
		out := *r
		out.Tracks = slices.Clone(r.Tracks)
		for i := range out.Tracks {
			if t := &out.Tracks[i]; t.Display == name {
				t.Frames = f(r.Trial, &r.Tracks[i])
			}
		}
		out.Regather(name)
		return &out
	}
}
