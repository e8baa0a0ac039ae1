package judge

import (
	"fmt"
	"math/big"
	"slices"

	"hemble/core/reel"
	"hemble/core/spec"
)

func init() {
	register(&Kind{
		Name: "steady",
		Doc:  "The display is easy on the eye: nothing flickers, no digit is less than half as bright as another, no character is washed out, and ghosts stay faint.",
		Fields: slices.Concat(windowFields, []spec.Field{
			{Name: "refresh", Kind: spec.Rate, Doc: "how often the digits are scanned at least; where it is not given, 40 Hz and above look steady"},
			{Name: "ghosts", Kind: spec.Percent, Default: "25%", Doc: "how strong ghosts may be, of the pattern that they are the tail of"},
		}),
		Example: "{steady: count, from: 500ms, marks: 1}",
		Build: func(s Setting, v spec.Values, ps *spec.Problems) Expectation {
			if p := display(s, "steady", v, ps); p != nil {
				return &steady{p.Name, readWindow(s, v, ps), float64(v.Get("refresh").Rate), thousandths(v, "ghosts")}
			}
			return nil
		},
	})
}

type steady struct {
	display string
	window  window
	refresh float64 // Hz
	ghosts  int64   // thousandths
}

// Judge looks for frames that no person would call steady; shorter ones than can be read do not count.
func (x *steady) Judge(r *reel.Reel) Verdict {
	t := r.Track(x.display)
	v := Verdict{Display: x.display, Share: big.NewRat(1, 1), Text: x.display + " is steady"}
	complain := func(f seen, what string) {
		if v.First == nil {
			v.First = &Difference{At: f.From, Expected: "a steady display", Seen: what, By: place(t, f.From)}
			v.Lanes = []Pair{lane(t, Wrong, nil, f)}
		}
		v.Share.SetInt64(0)
		v.Evidence = append(v.Evidence, fmt.Sprintf("%s, from %s on", what, f.From))
	}
	frames := x.window.of(t, r)
	for _, f := range frames {
		washed := slices.ContainsFunc(f.Sight.Cells, func(c reel.Cell) bool { return c&reel.WashedOut != 0 })
		if f.Length() < readable || len(v.Evidence) == 3 {
			continue
		}
		switch {
		case f.Sight.Flicker:
			complain(f, "it flickers")
		case f.Sight.Uneven:
			complain(f, "digits differ in brightness by more than a half")
		case washed:
			complain(f, "characters are washed out")
		}
	}
	if q := t.Quality; q != nil && len(frames) > 0 {
		v.Evidence = append(v.Evidence, fmt.Sprintf("scanned at %.1f Hz", q.Refresh))
		if q.Refresh < x.refresh {
			complain(frames[0], fmt.Sprintf("scanned at %.1f Hz, %.0f Hz asked", q.Refresh, x.refresh))
		}
		if int64(q.Ghost)*10 > x.ghosts {
			complain(frames[0], fmt.Sprintf("ghosts of %d %%", q.Ghost))
		}
	}
	v.Outcome = outcome(v.Share)
	return v
}
