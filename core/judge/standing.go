package judge

import (
	"math/big"

	"hemble/core/clock"
	"hemble/core/display"
	"hemble/core/part"
	"hemble/core/reel"
)

// Conditional is an expectation of what a display shows while something else is at a value.
type Conditional interface {
	Standings(*reel.Reel) []Standing
}

// Standing is a stretch in which what a condition looks at stays at one value, long enough to follow it.
type Standing struct {
	From, To clock.Time
	Value    string   // what it is at, in words
	Number   *big.Rat // nil where that is no number
	Holds    bool     // the condition holds at that value
	Shown    *big.Rat // for which share of the stretch the display shows the state
}

// Standings cut a run where what the condition looks at changes; none where it is no value. A change is given as long
// as it may take.
func (x *together) Standings(r *reel.Reel) (out []Standing) {
	var values []Standing
	switch c := x.when.(type) {
	case *isAt:
		at, value := clock.Time(0), c.initial
		add := func(to clock.Time) {
			n, _ := Quantity(value)
			values = append(values, Standing{From: at, To: to, Value: value, Number: n, Holds: c.holds(value)})
		}
		for _, f := range r.Cues {
			if f.Part == c.part && f.Verb == part.Set {
				add(f.Start)
				at, value = f.Start, f.To
			}
		}
		add(r.Length)
	case *displayIs:
		t := r.Track(c.display)
		for _, f := range t.Frames {
			holds, _ := c.want.Match(t, f.State)
			value := t.Short(f.State)
			n, _ := Quantity(value)
			if c, ok := display.As[display.Counting](t.Geometry); ok {
				if shown, ok := c.ReadNumber(t, f.State, 0); ok {
					n = big.NewRat(int64(shown), 1)
				}
			}
			values = append(values, Standing{From: f.From, To: f.To, Value: value, Number: n, Holds: holds})
		}
	}
	t := r.Track(x.display)
	shown := x.matched(t, x.window.of(t, r))
	for _, s := range values {
		s.From, s.To = max(s.From, x.window.from)+x.within, min(s.To, x.window.to, r.Length)
		if s.To-s.From < x.within {
			continue
		}
		on := clock.Time(0)
		for _, m := range shown {
			if m.holds {
				on += max(0, min(m.to, s.To)-max(m.from, s.From))
			}
		}
		s.Shown = big.NewRat(int64(on), int64(s.To-s.From))
		out = append(out, s)
	}
	return out
}

// Standings are those of what is judged.
func (x inner) Standings(r *reel.Reel) []Standing {
	if c, ok := x.Expectation.(Conditional); ok {
		return c.Standings(r)
	}
	return nil
}
