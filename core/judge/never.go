package judge

import (
	"fmt"
	"math/big"
	"slices"

	"hemble/core/clock"
	"hemble/core/display"
	"hemble/core/reel"
	"hemble/core/spec"
)

func init() {
	fields := slices.Concat([]spec.Field{
		{Name: "frame", Kind: spec.Frame, Required: true, Doc: "the state, written as a frame of `shows`"},
		{Name: "for", Kind: spec.Duration, Default: "100ms", Doc: "anything shorter counts as not seen"},
		strictField,
	}, windowFields)
	for _, always := range []bool{false, true} {
		name, doc, example := "never", "The display shows a state at no time.", `{never: gauge, frame: 9, marks: 1}`
		if always {
			name, doc, example = "always", "The display shows a state all the time.", `{always: green, frame: off, from: 2s, to: 5s, marks: 1}`
		}
		register(&Kind{Name: name, Doc: doc, Fields: fields, Parts: true, Example: example,
			Build: func(s Setting, v spec.Values, ps *spec.Problems) Expectation {
				p := displayOf(s, name, v, ps)
				if p == nil || !v.Has("frame") {
					return nil
				}
				w, _ := display.ReadFrame(v.Get("frame"), p.Display(), v.Bool("strict"), ps)
				if w == nil {
					return nil
				}
				return &never{p.Name, always, v.Bool("strict"), w, v.At("frame"), readWindow(s, v, ps), v.Time("for")}
			}})
	}
}

type never struct {
	display string
	always  bool
	strict  bool // nothing is near
	want    display.Matcher
	place   spec.Pos
	window  window
	least   clock.Time
}

// Judge looks for a frame that must not be there: the state, or for always any other. What is always there in another
// form is near.
func (x *never) Judge(r *reel.Reel) Verdict {
	v := x.judge(r)
	return inForm(v, x.strict || !x.always, func() Verdict {
		other := *x
		other.want = lenient{x.want}
		return other.judge(r)
	})
}

func (x *never) judge(r *reel.Reel) Verdict {
	t := r.Track(x.display)
	v := Verdict{Display: x.display, Fraction: big.NewRat(1, 1),
		Text: fmt.Sprintf("%s never shows %s", x.display, x.want)}
	if x.always {
		v.Text = fmt.Sprintf("%s always shows %s", x.display, x.want)
	}
	for _, f := range x.window.of(t, r) {
		if ok, _ := x.want.Match(t, f.State); ok == x.always || f.Length() < x.least {
			continue
		}
		v.Fraction.SetInt64(0)
		v.First = &Difference{At: f.From, Expected: v.Text,
			Seen: fmt.Sprintf("%s for %s", t.Short(f.State), f.Length().Brief()), By: place(t, f.From)}
		var expected *Span
		if x.always {
			expected = meant(f.From, f.To, x.want, t, x.place)
		}
		v.Alignment = []Pair{lane(t, Wrong, expected, f)}
		break
	}
	v.Outcome = outcome(v.Fraction)
	return v
}
