package judge

import (
	"fmt"
	"math/big"
	"slices"

	"hemble/core/clock"
	"hemble/core/reel"
	"hemble/core/spec"
)

func init() {
	register(&Kind{
		Name: "sounds",
		Doc:  "The sounder sounds at a pitch, for a time.",
		Fields: slices.Concat([]spec.Field{
			{Name: "pitch", Kind: spec.Rate, Doc: "the pitch (default: any)"},
			{Name: "tolerance", Kind: spec.Percent, Default: "3%",
				Doc: "how far the pitch may be off (a semitone is 6 %)"},
			{Name: "for", Kind: spec.Duration, Default: "100ms", Doc: "how long at least"},
			{Name: "at-most", Kind: spec.Duration, Doc: "how long at most"},
			afterField,
			{Name: "within", Kind: spec.Duration, Default: "250ms", Doc: "how soon after the cue it starts"},
		}, windowFields),
		Example: "{sounds: horn, pitch: 880Hz, for: 500ms, after: {cue: flood}, marks: 2}",
		Build: func(s Setting, v spec.Values, ps *spec.Problems) Expectation {
			p := displayOf(s, "sounds", v, ps)
			if p == nil {
				return nil
			}
			if !p.Kind.Geometry(*p).Type().Traits().Tone {
				ps.Add(v.At("sounds"), "%q is a %s and makes no sound", p.Name, p.Kind.Name)
			}
			x := &sounds{display: p.Name, window: readWindow(s, v, ps), hz: int64(v.Get("pitch").Rate),
				tolerance: thousandths(v, "tolerance"), least: v.Time("for"), most: v.Time("at-most"),
				within: v.Time("within")}
			if v.Has("after") {
				m := readMoment(s, v.Get("after").Map, ps)
				x.after = &m
			}
			return x
		},
	})
}

type sounds struct {
	display       string
	window        window
	hz, tolerance int64
	least, most   clock.Time // most is 0 for any
	after         *moment
	within        clock.Time
}

// Judge looks for one tone that will do; one of the right pitch and the wrong length gives a half.
func (x *sounds) Judge(r *reel.Reel) Verdict {
	t := r.Track(x.display)
	v := Verdict{Display: x.display, Asks: true, Fraction: new(big.Rat), Text: x.display + " sounds"}
	if x.hz > 0 {
		v.Text += fmt.Sprintf(" at %d Hz", x.hz)
	}
	v.Text += " for " + x.least.Short()
	w := x.window
	starts := w.to
	if x.after != nil {
		v.Text += " after " + x.after.cue
		at, ok := x.after.in(r)
		if !ok {
			v.Outcome, v.Evidence = NotJudged, []string{"the cue never came"}
			return v
		}
		w.from, starts = max(w.from, at), at+x.within
	}
	for _, f := range w.of(t, r) {
		if f.State.Pitch == 0 || f.From > starts {
			continue
		}
		off := int64(f.State.Pitch) - x.hz
		pitch := x.hz == 0 || max(off, -off)*1000 <= x.hz*x.tolerance
		length := f.Length() >= x.least && (x.most == 0 || f.Length() <= x.most)
		v.Evidence = append(v.Evidence, fmt.Sprintf("%d Hz for %s at %s", f.State.Pitch, f.Length().Brief(), f.From))
		if pitch && length {
			v.Fraction.SetInt64(1)
			v.First, v.Evidence = nil, v.Evidence[len(v.Evidence)-1:]
			v.Alignment = []Pair{lane(t, Right, nil, f)}
			break
		}
		if pitch {
			v.Fraction.SetFrac64(1, 2)
		}
		if v.First == nil {
			v.First = &Difference{At: f.From, Expected: v.Text, Seen: v.Evidence[0], By: place(t, f.From)}
			v.Alignment = []Pair{lane(t, Wrong, nil, f)}
		}
	}
	if v.Evidence == nil {
		v.Evidence = []string{"silent"}
		v.First = &Difference{At: w.from, Expected: v.Text, Seen: "silent"}
	}
	v.Evidence = v.Evidence[:min(3, len(v.Evidence))]
	v.Outcome = outcome(v.Fraction)
	return v
}
