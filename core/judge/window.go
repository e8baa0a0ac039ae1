package judge

import (
	"slices"

	"hemble/core/clock"
	"hemble/core/display"
	"hemble/core/part"
	"hemble/core/reel"
	"hemble/core/spec"
)

// windowFields bound the part of a trial that an expectation looks at.
var windowFields = []spec.Field{
	{Name: "from", Kind: spec.Duration, Default: "0", Doc: "start of the window"},
	{Name: "to", Kind: spec.Duration, Doc: "end of the window (default: the end of the trial)"},
}

// window is a part of a trial.
type window struct{ from, to clock.Time }

func readWindow(s Setting, v spec.Values, ps *spec.Problems) window {
	w := window{v.Time("from"), s.Length}
	if v.Has("to") {
		w.to = v.Time("to")
	}
	switch {
	case s.Length > 0 && w.from >= s.Length:
		ps.Add(v.At("from"), "%s is not before the end of the trial (%s)", w.from.Short(), s.Length.Short())
	case s.Length > 0 && w.to > s.Length:
		ps.Add(v.At("to"), "%s is after the end of the trial (%s)", w.to.Short(), s.Length.Short())
	case v.Has("to") && w.to <= w.from:
		ps.Add(v.At("to"), "the window ends at %s, before it begins at %s", w.to.Short(), w.from.Short())
	}
	return w
}

// of gives the frames within the window, cut to it, those that look alike joined.
func (w window) of(t *display.Track, r *reel.Reel) (out []seen) {
	to := min(w.to, r.Length)
	for _, f := range distinct(t, r) {
		if f.To <= w.from || f.From >= to {
			continue
		}
		f.From, f.To = max(f.From, w.from), min(f.To, to)
		out = append(out, f)
	}
	return out
}

// lane lays seen frames beside one expected span.
func lane(t *display.Track, step Operation, expected *Span, frames ...seen) Pair {
	p := Pair{Operation: step, Expected: expected}
	if len(frames) > 0 {
		p.Seen = shown(t, frames[0])
	}
	return p
}

// afterField names a cue in place of a time.
var afterField = spec.Field{Name: "after", Kind: spec.Mapping, Doc: "a cue in place of a time", Fields: []spec.Field{
	{Name: "cue", Kind: spec.Name, Required: true, Doc: "the cue's name, given with `as`"},
	{Name: "from", Kind: spec.Choice, Choices: []string{"start", "end"}, Default: "start",
		Doc: "the moment of the cue that time is counted from"},
}}

// moment is the start or end of a named cue.
type moment struct {
	cue string
	end bool
}

func readMoment(s Setting, v spec.Values, ps *spec.Problems) moment {
	m := moment{v.Text("cue"), v.Text("from") == "end"}
	if m.cue != "" && !slices.Contains(s.Cues, m.cue) {
		ps.Add(v.At("cue"), "no cue of this trial is called %q%s", m.cue, spec.Nearest(m.cue, s.Cues))
	}
	return m
}

// in gives the moment in a run; where the cue never came, ok is false, and it is the end of the run.
func (m moment) in(r *reel.Reel) (t clock.Time, ok bool) {
	for _, c := range r.Cues {
		if c.Name == m.cue {
			if m.end {
				return c.End, true
			}
			return c.Start, true
		}
	}
	return r.Length, false
}

// wants reads the frames of a list field.
func wants(v spec.Values, field string, p *part.Instance, ps *spec.Problems) (out []display.Matcher) {
	for _, f := range v.Get(field).List {
		w, _ := display.ReadFrame(f, p.Display(), v.Bool("strict"), ps)
		if w == nil {
			return nil
		}
		out = append(out, w)
	}
	display.TellApart(out)
	return out
}

// strictField goes with expectations that compare symbols.
var strictField = spec.Field{Name: "strict", Kind: spec.Bool, Default: "no",
	Doc: "accept only the usual pattern of each symbol"}

// near reports whether two times are no further apart than a slack.
func near(a, b, slack clock.Time) bool { return a-b <= slack && b-a <= slack }

// thousandths of a percentage field.
func thousandths(v spec.Values, name string) int64 {
	n := v.Get(name).Number
	if n == nil {
		return 0
	}
	return n.Num().Int64() * 1000 / n.Denom().Int64()
}

// before is the state that was there before a frame; nil for none.
func before(frames []seen, i int) *display.State {
	if i == 0 {
		return nil
	}
	return &frames[i-1].State
}
