// Package fault is one table of what programs get wrong. A fault is a transform of a run: used one way it makes a
// faulty run of a right program, to see whether an exercise would notice; used the other way it mends the run of a
// faulty program, to see whether that was the cause. Each file holds the faults of one kind.
package fault

import (
	"slices"
	"sort"

	"hemble/core/display"
	"hemble/core/exercise"
	"hemble/core/judge"
	"hemble/core/part"
	"hemble/core/reel"
)

// Fault is one kind of mistake.
type Fault struct {
	Code string
	Doc  string // what the program does wrong
	// Sizes gives what is worth trying on a part: the usual sizes of the mistake, and where verdicts are at hand, those
	// that what was seen suggests. The transforms of a fault without Once come in pairs that undo each other.
	Sizes func(*Subject) []Size
	// Once tells that the transform only mends: what the mistake did to the run cannot be undone in general, and is undone
	// with the help of what was expected.
	Once bool
	// Wiring tells that it is about lines and settings of a display: where the display ever shows what is expected, it is not
	// the cause.
	Wiring bool
}

// Size is a mistake of one size, as a transform. It has one of Reel and Bench.
type Size struct {
	// Text says what is wrong with a program that this transform mends.
	Text string
	// Makes says what it makes of a right program; Text where it is empty.
	Makes string
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
	Part     *part.Built
	Reels    []*reel.Reel      // of each trial
	Verdicts [][]judge.Verdict // of each trial, where they are at hand

	look *display.Geometry // of a display
}

// NewSubject looks at a part.
func NewSubject(x *exercise.Exercise, p *part.Built, reels []*reel.Reel, verdicts [][]judge.Verdict) *Subject {
	s := &Subject{Exercise: x, Part: p, Reels: reels, Verdicts: verdicts}
	if p.Kind.Geometry != nil {
		look := p.Kind.Geometry(*p)
		s.look = &look
	}
	return s
}

var table []*Fault

func register(f *Fault) { table = append(table, f) }

// All lists the faults by their codes.
func All() []*Fault {
	all := slices.Clone(table)
	sort.Slice(all, func(i, j int) bool { return all[i].Code < all[j].Code })
	return all
}

// form is what kind of thing the part shows; "" for one that shows nothing.
func (s *Subject) form() display.Form {
	if s.look == nil {
		return ""
	}
	return s.look.Form
}

// digits is how many seven-segment digits the part has, 0 for another kind of part.
func (s *Subject) digits() int {
	if s.form() != display.FormDigits {
		return 0
	}
	return s.look.Digits()
}

// pair is an expected sight beside the one that was seen in its place.
type pair struct{ want, seen display.State }

// pairs lists those of the part's expectations in which contents can be compared.
func (s *Subject) pairs() (out []pair) {
	for _, verdicts := range s.Verdicts {
		for _, v := range verdicts {
			if v.Display != s.Part.Name {
				continue
			}
			for _, l := range v.Lanes {
				if l.Expected != nil && l.Seen != nil && l.Expected.State != nil && l.Seen.State != nil && l.Step != judge.Extra {
					out = append(out, pair{*l.Expected.State, *l.Seen.State})
				}
			}
		}
	}
	return out
}

// sights transforms every sight of a display.
func sights(name string, f func(*display.Track, display.State) display.State) func(*reel.Reel) *reel.Reel {
	return frames(name, func(t *display.Track) []display.Frame {
		out := slices.Clone(t.Frames)
		for i := range out {
			out[i].State = f(t, out[i].State)
		}
		return out
	})
}

// frames transforms the frames of a display.
func frames(name string, f func(*display.Track) []display.Frame) func(*reel.Reel) *reel.Reel {
	return func(r *reel.Reel) *reel.Reel {
		out := *r
		out.Tracks = slices.Clone(r.Tracks)
		for i := range out.Tracks {
			if t := &out.Tracks[i]; t.Display == name {
				t.Frames = f(&r.Tracks[i])
			}
		}
		out.Regather(name)
		return &out
	}
}
