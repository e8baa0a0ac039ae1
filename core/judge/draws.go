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
	register(&Kind{
		Name: "draws-from",
		Doc:  "After each cue to a part the display shows one of a set of states at random. Each must be from the set, and enough different ones must appear.",
		Fields: []spec.Field{
			{Name: "set", Kind: spec.List, Of: &spec.Field{Name: "frame", Kind: spec.Frame}, Required: true,
				Doc: "the states, each written as a frame of `shows`"},
			{Name: "each", Kind: spec.Name, Required: true, Doc: "the part whose cues start a draw"},
			{Name: "within", Kind: spec.Duration, Default: "500ms",
				Doc: "how long after a cue's end the drawn state must be there"},
			{Name: "different", Kind: spec.Int, Min: 1, Max: 100, Default: "2",
				Doc: "the least number of different states"},
			strictField,
		},
		Example: "{draws-from: die, set: [1, 2, 3, 4, 5, 6], each: roll, different: 4, marks: 3}",
		Build: func(s Setting, v spec.Values, ps *spec.Problems) Expectation {
			p := displayOf(s, "draws-from", v, ps)
			if p == nil {
				return nil
			}
			x := &draws{display: p.Name, each: v.Text("each"), within: v.Time("within"),
				different: int(v.Int("different")), set: wants(v, "set", p, ps)}
			switch {
			case x.each != "" && s.Part(x.each) == nil:
				ps.Unknown(v.At("each"), "part of the bench", x.each, s.Names)
			case x.different > len(x.set) && len(x.set) > 0:
				ps.Add(v.At("different"), "a set of %d cannot give %d different states", len(x.set), x.different)
			}
			return x
		},
	})
}

type draws struct {
	display, each string
	set           []display.Matcher
	within        clock.Time
	different     int
}

// Judge gives a share for each draw of the set, in proportion to how many of the different states asked for came.
func (x *draws) Judge(r *reel.Reel) Verdict {
	t := r.Track(x.display)
	v := Verdict{Display: x.display, Fraction: new(big.Rat),
		Text: fmt.Sprintf("%s draws one of %d states", x.display, len(x.set))}
	frames := distinct(t, r)
	draws, right := int64(0), int64(0)
	drawn := map[int]bool{}
	for _, c := range r.Cues {
		if c.Part != x.each {
			continue
		}
		at := c.End + x.within
		k := slices.IndexFunc(frames, func(f seen) bool { return f.From <= at && (at < f.To || f.clipped) })
		if at > r.Length || k < 0 {
			continue // the run ended before
		}
		draws++
		f := frames[k]
		which := slices.IndexFunc(x.set, func(w display.Matcher) bool { ok, _ := w.Match(t, f.State); return ok })
		if which >= 0 {
			right++
			drawn[which] = true
			v.Alignment = append(v.Alignment, lane(t, Right, nil, f))
			continue
		}
		v.Alignment = append(v.Alignment, lane(t, Wrong, nil, f))
		if v.First == nil {
			v.First = &Difference{At: at, Expected: "one of the set", Seen: t.Short(f.State), By: place(t, f.From)}
		}
	}
	if draws == 0 {
		v.Outcome, v.Evidence = NotJudged, []string{"nothing was drawn"}
		return v
	}
	v.Fraction = big.NewRat(right*int64(min(len(drawn), x.different)), draws*int64(x.different))
	v.Evidence = []string{fmt.Sprintf("%d of %d draws of the set, %d different", right, draws, len(drawn))}
	if v.First == nil && len(drawn) < x.different {
		v.First = &Difference{Expected: fmt.Sprintf("at least %d different states", x.different),
			Seen: fmt.Sprintf("%d", len(drawn))}
	}
	v.Outcome = outcome(v.Fraction)
	return v
}
