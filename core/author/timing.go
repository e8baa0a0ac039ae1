package author

import (
	"maps"
	"math/big"
	"slices"

	"hemble/core/clock"
	"hemble/core/exercise"
	"hemble/core/judge"
	"hemble/core/spec"
)

// looseTolerance is the share at which a program of twice the speed is still in time.
var looseTolerance = big.NewRat(1, 2)

// checkTiming warns of expectations whose times leave open what they ask for: two states looked for on one display at
// once, an answer that may come when the next input is there already, a tolerance that forgives twice the speed.
func checkTiming(t *exercise.Trial, ps *spec.Problems) {
	times := cueTimes(t, ps)
	type stretch struct {
		judge.Observation
		from, to clock.Time
		line     int
	}
	var all []stretch
	for _, e := range t.Expect {
		at := spec.Pos{Line: e.Line, Col: 1}
		if timing, ok := e.Expectation.(judge.Timing); ok {
			if share, timed := timing.Tolerance(); timed && share.Cmp(looseTolerance) >= 0 {
				ps.Warn(at, "a tolerance of %s %% is met by a program that is twice as fast",
					new(big.Rat).Mul(share, big.NewRat(100, 1)).FloatString(0))
			}
		}
		looking, ok := e.Expectation.(judge.Observing)
		if !ok {
			continue
		}
		for _, l := range looking.Observations() {
			zero := clock.Time(0)
			if l.After != "" {
				cue, known := times[l.After]
				if !known {
					continue // it waits for what a display shows
				}
				if zero = cue.from; l.End {
					zero = cue.to
				}
				for _, name := range slices.Sorted(maps.Keys(times)) {
					other := times[name]
					if name != l.After && other.from > zero && other.from < zero+l.To {
						ps.Warn(at, "%s may show %s until %s, %s after %s, and %s comes before that, at %s: it is ambiguous which of the two it answers",
							l.Display, l.Wants, zero+l.To, l.To.Short(), l.After, name, other.from)
					}
				}
			}
			to := zero + l.To
			for _, c := range t.Cues { // an input ends what is read at a time before it
				timed := l.After == "" && e.Kind == "reads" && c.When == nil && c.After == nil
				if at := (l.From + l.To) / 2; timed && c.At > at {
					to = min(to, c.At)
				}
			}
			all = append(all, stretch{l, zero + l.From, to, e.Line})
		}
	}
	for i, b := range all {
		for _, a := range all[:i] {
			if a.Display == b.Display && a.Wants != b.Wants && !a.Apart(b.Observation) && a.from < b.to &&
				b.from < a.to {
				ps.Warn(spec.Pos{Line: b.line, Col: 1},
					"%s is looked at from %s to %s for %s, and from %s to %s for %s: the two overlap", b.Display,
					a.from, a.to, a.Wants, b.from, b.to, b.Wants)
			}
		}
	}
}

// spell is when a cue begins and ends.
type spell struct{ from, to clock.Time }

// cueTimes gives the times of the named cues that the file tells, and warns of those that come when the trial is over.
func cueTimes(t *exercise.Trial, ps *spec.Problems) map[string]spell {
	out := map[string]spell{}
	for _, c := range t.Cues {
		from := c.At
		switch {
		case c.When != nil:
			continue
		case c.After != nil:
			before, known := out[c.After.Cue]
			if !known {
				continue
			}
			if from = before.from + c.After.By; c.After.End {
				from = before.to + c.After.By
			}
		}
		if from >= t.Length {
			ps.Warn(spec.Pos{Line: c.Line, Col: 1},
				"this cue would come at %s, when the trial is over (%s): it never does", from, t.Length.Short())
		}
		if c.Name != "" {
			out[c.Name] = spell{from, from + c.Moves()}
		}
	}
	return out
}
