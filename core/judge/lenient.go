package judge

import "hemble/core/display"

// lenient takes a state in another form for what is wanted.
type lenient struct{ display.Matcher }

func (m lenient) Match(t *display.Track, s display.State) (bool, int) {
	ok, off := m.Matcher.Match(t, s)
	if !ok && display.Near(m.Matcher, t, s) {
		return true, 0
	}
	return ok, off
}

// inForm judges with other forms allowed where that gives more: what is found so earns the share of a near frame. What
// first differs stays what was not as wanted.
func inForm(v Verdict, strict bool, judge func() Verdict) Verdict {
	if strict || v.Outcome == Met || v.Outcome == NotJudged {
		return v
	}
	w := judge()
	w.Fraction.Mul(w.Fraction, nearShare)
	if w.Outcome == NotJudged || w.Fraction.Cmp(v.Fraction) <= 0 {
		return v
	}
	w.First, w.Alignment = v.First, v.Alignment
	for i := range w.Alignment {
		if w.Alignment[i].Operation == Wrong {
			w.Alignment[i].Operation = Near
		}
	}
	w.Evidence = append([]string{"the same in another form"}, w.Evidence...)
	w.Outcome = outcome(w.Fraction)
	return w
}
