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
		Name:  "blinks",
		Parts: true,
		Doc:   "The display as a whole goes on and off with a period.",
		Fields: slices.Concat([]spec.Field{
			{Name: "period", Kind: spec.Duration, Required: true, Doc: "from one start to the next"},
			{Name: "lit", Kind: spec.Percent,
				Doc: "the fraction of a period for which it is lit (default: any)"},
			{Name: "tolerance", Kind: spec.Percent, Default: "10%",
				Doc: "how far period and lit time may be off, of the period"},
			{Name: "times", Kind: spec.Int, Min: 1, Max: 1000, Default: "2",
				Doc: "the least number of whole periods"},
		}, windowFields),
		Example: "{blinks: red, period: 1s, lit: 50%, from: 2s, marks: 2}",
		Build: func(s Setting, v spec.Values, ps *spec.Problems) Expectation {
			p := displayOf(s, "blinks", v, ps)
			if p == nil {
				return nil
			}
			x := &blinks{display: p.Name, window: readWindow(s, v, ps), period: v.Time("period"), lit: -1,
				tolerance: thousandths(v, "tolerance"), times: v.Int("times")}
			if v.Has("lit") {
				x.lit = thousandths(v, "lit")
			}
			if v.Has("period") && x.period < 50*clock.Millisecond {
				ps.Add(v.At("period"), "what blinks every %s looks steady; `glows` judges its brightness",
					x.period.Short())
			}
			if room := x.window.to - x.window.from; s.Length > 0 && clock.Time(x.times)*x.period > room {
				ps.Add(v.At("times"), "%d periods of %s take longer than the %s that are looked at", x.times,
					x.period.Short(), room.Short())
			}
			return x
		},
	})
}

type blinks struct {
	display        string
	window         window
	period         clock.Time
	lit, tolerance int64 // thousandths; lit is -1 for any
	times          int64
}

// Judge measures each whole period: half of its share goes to its length, half to how long it is lit.
func (x *blinks) Judge(r *reel.Reel) Verdict {
	t := r.Track(x.display)
	v := Verdict{Display: x.display, Asks: true, Fraction: new(big.Rat),
		Text: fmt.Sprintf("%s blinks every %s", x.display, x.period.Short())}
	if x.lit >= 0 {
		v.Text += fmt.Sprintf(", lit %d %%", x.lit/10)
	}
	var lit []seen // stretches
	for _, f := range x.window.of(t, r) {
		if f.State.Blank() {
			continue
		}
		if n := len(lit); n > 0 && lit[n-1].To == f.From {
			lit[n-1].To = f.To
		} else {
			lit = append(lit, f)
		}
	}
	if len(lit) > 0 && lit[0].From == x.window.from && x.window.from > 0 { // it began before
		lit = lit[1:]
	}
	right, whole := int64(0), int64(len(lit)-1)
	for i := 0; i+1 < len(lit); i++ {
		period, on := lit[i+1].From-lit[i].From, lit[i].Length()
		slack := x.period * clock.Time(x.tolerance) / 1000
		okPeriod := near(period, x.period, slack)
		okLit := okPeriod
		if x.lit >= 0 {
			okLit = near(on, x.period*clock.Time(x.lit)/1000, slack)
		}
		step := Right
		switch {
		case okPeriod && okLit:
			right += 2
		case okPeriod || okLit:
			right++
			step = Mistimed
		default:
			step = Wrong
		}
		if step != Right && v.First == nil {
			v.First = &Difference{At: lit[i].From, Expected: v.Text,
				Seen: fmt.Sprintf("lit for %s, again after %s", on.Brief(), period.Brief()), By: place(t, lit[i].From)}
		}
		v.Alignment = append(v.Alignment,
			lane(t, step, &Span{From: lit[i].From, To: lit[i].From + x.period, Text: "lit"},
				lit[i]))
	}
	if whole > 0 {
		v.Fraction = big.NewRat(right, 2*max(whole, x.times))
		v.Evidence = []string{fmt.Sprintf("%d whole periods, %s on average", whole,
			((lit[whole].From - lit[0].From) / clock.Time(whole)).Brief())}
	} else {
		v.Evidence = []string{"it did not blink"}
		v.First = &Difference{At: x.window.from, Expected: v.Text, Seen: "it did not blink"}
	}
	v.Outcome = outcome(v.Fraction)
	return v
}
