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
		Name: "glows",
		Doc:  "The display's brightest light has a brightness, in percent of full brightness (10 mA), averaged over the window: for lamps dimmed by pulse width or a resistor.",
		Fields: slices.Concat([]spec.Field{
			{Name: "level", Kind: spec.Percent, Required: true, Doc: "how bright"},
			{Name: "tolerance", Kind: spec.Percent, Default: "10%",
				Doc: "how far it may be off, in percent of full brightness"},
		}, windowFields),
		Example: "{glows: red, level: 50%, from: 1s, to: 2s, marks: 2}",
		Build: func(s Setting, v spec.Values, ps *spec.Problems) Expectation {
			p := displayOf(s, "glows", v, ps)
			if p == nil {
				return nil
			}
			if p.Kind.Geometry(*p).Lights() == 0 {
				ps.Add(v.At("glows"), "%q has no lights of its own whose brightness could be judged", p.Name)
			}
			return &glows{p.Name, readWindow(s, v, ps), thousandths(v, "level"), thousandths(v, "tolerance")}
		},
	})
}

type glows struct {
	display          string
	window           window
	level, tolerance int64 // thousandths
}

// Glowing is an expectation of how bright a display is.
type Glowing interface {
	// Brightness is how bright it should be, and how bright it is, in percent of full brightness.
	Brightness(*reel.Reel) (want, seen int)
}

// Brightness is averaged over the window.
func (x *glows) Brightness(r *reel.Reel) (want, seen int) {
	return int(x.level / 10), int((x.mean(r) + 5) / 10)
}

// mean averages the level over the window, in thousandths.
func (x *glows) mean(r *reel.Reel) int64 {
	sum, all := int64(0), clock.Time(0)
	for _, f := range r.Track(x.display).Frames { // frames that differ in brightness alone are not joined here
		from, to := max(f.From, x.window.from), min(f.To, x.window.to, r.Length)
		if to > from {
			sum += int64(slices.Max(f.State.Levels)) * int64((to-from)/clock.Microsecond)
			all += to - from
		}
	}
	if us := int64(all / clock.Microsecond); us > 0 {
		return sum * 1000 / us / 255
	}
	return 0
}

// Judge averages the level over the window.
func (x *glows) Judge(r *reel.Reel) Verdict {
	v := Verdict{Display: x.display, Asks: true, Fraction: new(big.Rat),
		Text: fmt.Sprintf("%s glows at %d %%", x.display, x.level/10)}
	mean := x.mean(r)
	v.Evidence = []string{fmt.Sprintf("%d %% on average", (mean+5)/10)}
	if off := mean - x.level; off <= x.tolerance && -off <= x.tolerance {
		v.Fraction.SetInt64(1)
	} else {
		v.First = &Difference{At: x.window.from, Expected: v.Text, Seen: v.Evidence[0]}
	}
	v.Outcome = outcome(v.Fraction)
	return v
}
