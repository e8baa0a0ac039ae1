// Package author supports the person who writes an exercise: it tests what the expectations notice, records
// expectations from a reference program, and checks a file more deeply than reading it does.
package author

import (
	"context"
	"errors"
	"fmt"
	"math/big"
	"reflect"
	"slices"

	"hemble/core/clock"
	"hemble/core/display"
	"hemble/core/exercise"
	"hemble/core/fault"
	"hemble/core/judge"
	"hemble/core/marking"
	"hemble/core/part"
	"hemble/core/reel"
)

// Trial of strength: one faulty variant of the reference.
type Variant struct {
	Fault  string `json:"fault"`
	Part   string `json:"part"`
	Effect string `json:"effect"` // what the variant does
	Marks  string `json:"marks"`  // of a program that is right but for this, by the prices of mistakes
	Of     string `json:"of"`
	Caught bool   `json:"caught"`        // it lost marks
	Add    string `json:"add,omitempty"` // what would catch it

	// the first state in which it differs from the reference: a track with that frame alone
	Glimpse *display.Track `json:"-"`
}

// ErrReference tells that the reference itself does not get full marks.
var ErrReference = errors.New("the reference does not get full marks itself")

// Strength makes faulty variants of a reference, and returns which of them the expectations catch. Variants that show
// the same as the reference are left out. told is called with the number done and of all; it may be nil.
func Strength(ctx context.Context, x *exercise.Exercise, file []byte, told func(done, of int)) ([]Variant, error) {
	x = x.For(file)
	m, err := marking.NewRepairer(x, file)
	if err != nil {
		return nil, err
	}
	var reels []*reel.Reel
	score, full := new(big.Rat), new(big.Rat)
	for i, t := range x.Trials {
		r, err := m.Run(ctx, x, i, 0)
		if err != nil {
			return nil, err
		}
		reels = append(reels, r)
		score.Add(score, m.Score(i, r))
		for _, e := range t.Expect {
			if e.Judge(r).Outcome != judge.Met {
				return nil, fmt.Errorf("%w: in %q, line %d is not met", ErrReference, t.Name, e.Line)
			}
		}
	}
	full.Set(score)
	type planned struct {
		fault *fault.Fault
		part  string
		size  fault.Size
	}
	var plan []planned
	for _, p := range x.Subjects() {
		s := fault.NewSubject(x, p, reels, nil)
		for _, f := range fault.All() {
			for _, size := range f.Sizes(s) {
				plan = append(plan, planned{f, p.Name, size})
			}
		}
	}
	var out []Variant
	for n, v := range plan {
		if told != nil {
			told(n, len(plan))
		}
		faulty, err := variant(ctx, x, m, v.fault, v.size, reels)
		if err != nil {
			return nil, err
		}
		if alike(reels, faulty) {
			continue
		}
		plain, marks := new(big.Rat), new(big.Rat)
		for i, r := range faulty {
			plain.Add(plain, m.Score(i, r))
			marks.Add(marks, marking.Priced(x, i, v.fault.Code, m.Marks(i, r)))
		}
		if gated(x) { // what is gated is lost as a whole
			marks = plain
		}
		made := Variant{Fault: string(v.fault.Code), Part: v.part, Effect: v.size.Effect, Marks: marks.FloatString(1),
			Of: full.FloatString(1), Caught: plain.Cmp(full) < 0}
		if made.Effect == "" {
			made.Effect = v.fault.Doc
		}
		if !made.Caught {
			made.Add = v.fault.Catch
			if pressed(x) && (v.fault.Code == "time" || v.fault.Code == "length") {
				made.Add = "keys decide when something is shown: its times cannot be judged"
			}
		}
		made.Glimpse = glimpse(reels, faulty)
		out = append(out, made)
	}
	return out, nil
}

// gated reports whether an expectation is a gate.
func gated(x *exercise.Exercise) bool {
	for _, t := range x.Trials {
		if slices.ContainsFunc(t.Expect, func(e exercise.Expectation) bool { return e.Gate }) {
			return true
		}
	}
	return false
}

// glimpse is the first state of a display that a faulty run shows and the reference does not show then; nil where only
// times differ.
func glimpse(right, faulty []*reel.Reel) *display.Track {
	for i := range faulty {
		for k := range faulty[i].Tracks {
			t, was := faulty[i].Tracks[k], &right[i].Tracks[k]
			for _, f := range t.Frames {
				if g := was.At(f.From); g == nil || f.Length() < 50*clock.Millisecond || was.Alike(g.State, f.State) {
					continue
				}
				t.Frames = []display.Frame{f}
				return &t
			}
		}
	}
	return nil
}

// pressed reports whether every trial has keys that decide when something is shown.
func pressed(x *exercise.Exercise) bool {
	for _, t := range x.Trials {
		if !slices.ContainsFunc(t.Cues, func(c exercise.Cue) bool { return c.Verb != part.Set }) {
			return false
		}
	}
	return true
}

// variant gives the reels of a faulty variant.
func variant(ctx context.Context, x *exercise.Exercise, m *marking.Repairer, f *fault.Fault, z fault.Size,
	reels []*reel.Reel) (out []*reel.Reel, err error) {
	changed := x
	if z.Bench != nil {
		changed = x.Clone()
		z.Bench(changed)
	}
	for i, r := range reels {
		if z.Bench != nil {
			held := false
			if f.Wiring { // what the program does stays as it is, most often
				if r, held, err = m.Replay(ctx, changed, i); err != nil {
					return nil, err
				}
			}
			if !held {
				if r, err = m.Run(ctx, changed, i, 0); err != nil {
					return nil, err
				}
			}
			if z.After != nil {
				r = z.After(r)
			}
		} else {
			r = z.Reel(r)
		}
		out = append(out, r)
	}
	return out, nil
}

// alike reports whether two sets of reels show the same.
func alike(a, b []*reel.Reel) bool {
	for i := range a {
		for k := range a[i].Tracks {
			x, y := a[i].Tracks[k].Frames, b[i].Tracks[k].Frames
			if len(x) != len(y) {
				return false
			}
			for n := range x {
				if x[n].From != y[n].From || x[n].To != y[n].To || !reflect.DeepEqual(x[n].State, y[n].State) {
					return false
				}
			}
		}
	}
	return true
}
