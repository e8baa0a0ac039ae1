package marking

import (
	"context"
	"fmt"
	"math/big"
	"slices"
	"strings"

	"hemble/core/bench"
	"hemble/core/capture"
	"hemble/core/clock"
	"hemble/core/exercise"
	"hemble/core/judge"
	"hemble/core/machine"
	"hemble/core/part"
	"hemble/core/reel"
	"hemble/core/sheet"
)

// MarkCapture judges a capture against one trial of an exercise. Cues are those that the capture shows at its inputs;
// an expectation about what it does not show is not judged.
func MarkCapture(ctx context.Context, x *exercise.Exercise, trial int, name string, tape *capture.Replay) (*Result,
	error) {
	t := &x.Trials[trial]
	b, err := bench.New(x, t, nil, bench.Options{Capture: tape})
	if err != nil {
		return nil, err
	}
	if err := b.Advance(ctx, t.Length); err != nil {
		return nil, err
	}
	s := empty(x, name)
	s.ByHand = nil
	if err := tape.Err(); err != nil {
		fail(s, Capture, "The capture could not be read: "+err.Error(), err.Error())
		return &Result{Sheet: s}, nil
	}
	o := &outcome{reel: b.Finish()}
	// beyond its last change nothing is known, but stays
	if ended, over := tape.Ended(); over && ended < o.reel.Length {
		o.reel.Notes = append(o.reel.Notes,
			machine.Note{Code: "capture-end",
				Text: fmt.Sprintf("The last change in the capture is at %s; the trial lasts until %s.", ended,
					t.Length),
				At: ended})
	}
	o.reel.Cues = cuesOf(x, t, tape)
	o.judge(t)
	for i := range o.trial.Verdicts {
		v := &o.trial.Verdicts[i]
		if v.First != nil {
			v.First.By = nil // no program was seen
		}
		if pin := unseen(x, v.Display, tape); pin != "" {
			v.Verdict = judge.Verdict{Outcome: judge.NotJudged, Display: v.Display, Fraction: new(big.Rat),
				Text:     v.Text,
				Evidence: []string{"the capture has no signal for " + pin}}
			v.Marks = sheet.NewMarks(nil)
		}
	}
	o.trial.Marks = trialMarks(t, o.trial.Verdicts)
	o.tell(nil)
	s.Of, s.Trials, s.Findings = o.trial.Of, []sheet.Trial{o.trial}, append(s.Findings, o.findings...)
	credit(x, s)
	return &Result{Sheet: s, Reels: []*reel.Reel{o.reel}}, nil
}

// unseen names a pin that a display depends on, directly or by parts between, and that the capture does not have.
func unseen(x *exercise.Exercise, display string, tape *capture.Replay) string {
	p := x.Part(strings.TrimSuffix(display, part.BacklightSuffix))
	if p == nil {
		return ""
	}
	reached := []*part.Instance{p}
	for i := 0; i < len(reached); i++ {
		for _, w := range reached[i].Wired {
			if pin, ok := x.Chip.Pin(w); ok && w != "" {
				if !tape.Has(pin) {
					return w
				}
				continue
			}
			if w == "" || w == "VCC" || w == "GND" {
				continue
			}
			for _, other := range x.Parts {
				if slices.Contains(other.Wired, w) && !slices.Contains(reached, other) {
					reached = append(reached, other)
				}
			}
		}
	}
	return ""
}

// rest is how long a contact that a finger moves must be still to have come to rest.
const rest = 25 * clock.Millisecond

// cuesOf finds the presses, settings and turns of a trial's cues in the captured inputs: the first press of a button is
// its first cue, and so on. What is not there did not come.
func cuesOf(x *exercise.Exercise, t *exercise.Trial, tape *capture.Replay) (out []reel.Fired) {
	taken := map[string]int{} // of each part and what is done to it
	for _, c := range t.Cues {
		p := x.Part(c.Part)
		k := taken[c.Part+c.Verb]
		f := reel.Fired{Name: c.Name, Verb: c.Verb, Part: c.Part, Text: c.Describe(c.Part), To: c.To}
		if c.Verb != part.Turn {
			taken[c.Part+c.Verb]++
		}
		switch spans := closed(x, tape, p, rest, "push1", "push2", "1", "2", "common", "on"); {
		case c.Verb == part.Turn:
			turns := detents(x, p, tape)
			n := int(max(c.By, -c.By))
			taken[c.Part+c.Verb] += n
			if k+n > len(turns) ||
				slices.ContainsFunc(turns[k:k+n], func(d detent) bool { return d.clockwise != (c.By > 0) }) {
				continue
			}
			f.Start, f.End = turns[k].from, turns[k+n-1].to
		case c.Verb == part.Press && k < len(spans):
			f.Start, f.End = spans[k].from, spans[k].to
		case c.Verb == part.Set && (c.To == "on" || c.To == "off") && k/2 < len(spans):
			on := k%2 == 0 // a switch goes on and off in turn
			if (c.To == "on") != on {
				continue
			}
			if f.Start = spans[k/2].from; !on {
				f.Start = spans[k/2].to
			}
			f.End = f.Start
		default:
			continue
		}
		out = append(out, f)
	}
	return out
}

// contact is a time for which a contact was closed.
type contact struct{ from, to clock.Time }

// closed are the times for which the contact of a part between a pin and the supply was closed, bounce left aside. The
// ends of the contact are the first two of the names that the part's kind has.
func closed(x *exercise.Exercise, tape *capture.Replay, p *part.Instance, rest clock.Time,
	names ...string) (out []contact) {
	var ends []string
	for _, name := range names {
		if k := p.Kind.Terminal(name); k >= 0 && len(ends) < 2 {
			ends = append(ends, p.Wired[k])
		}
	}
	if len(ends) < 2 {
		return nil
	}
	if ends[0] == "VCC" || ends[0] == "GND" {
		ends[0], ends[1] = ends[1], ends[0]
	}
	pin, ok := x.Chip.Pin(ends[0])
	if active := ends[1] == "VCC"; ok && ends[0] != "" && tape.Has(pin) && (active || ends[1] == "GND") {
		for _, c := range tape.Changes(pin) {
			n := len(out)
			switch {
			case c.High == active && n > 0 && c.At-out[n-1].to < rest:
				out[n-1].to = clock.Never // it bounced
			case c.High == active:
				out = append(out, contact{c.At, clock.Never})
			case n > 0 && out[n-1].to == clock.Never:
				out[n-1].to = c.At
			}
		}
	}
	return out
}

// detent is one step of an encoder.
type detent struct {
	contact
	clockwise bool
}

// detents are the steps that an encoder was turned, of those with one period to a detent: both contacts close and open
// again, that first which leads.
func detents(x *exercise.Exercise, p *part.Instance, tape *capture.Replay) (out []detent) {
	still := max(2*clock.Millisecond, 2*p.Settings.Time("bounce"))
	a, b := closed(x, tape, p, still, "a", "common"), closed(x, tape, p, still, "b", "common")
	for _, one := range a {
		for _, other := range b {
			if other.from < one.to && one.from < other.to {
				out = append(out, detent{contact{min(one.from, other.from), max(one.to, other.to)},
					one.from < other.from})
				break
			}
		}
	}
	return out
}
