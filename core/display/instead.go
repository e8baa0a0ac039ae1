package display

import (
	"cmp"
	"maps"
	"slices"
	"strings"
)

// spelt tells states of a display apart.
func (c *Case) spelt(on *Track, s State) string {
	return strings.Join(c.Geometry.Type().Spell(on, s), "\n")
}

// Instead gives the states that are shown as always the same other one wherever they are asked for, each once, and how
// many different states are asked for. None where a state is right at times, where what is shown in its place is what
// another place asks for, or where a state has several in its place.
func (c *Case) Instead() (out []Pair, asked int) {
	right, by := map[string]bool{}, map[string]Pair{}
	shown := map[string]string{} // what is shown, for what
	for _, p := range c.Pairs {
		want := c.spelt(p.On, p.Want)
		if !p.Wrong {
			right[want] = true
			continue
		}
		seen := c.spelt(p.On, p.Seen)
		if was, ok := by[want]; ok && c.spelt(was.On, was.Seen) != seen {
			return nil, 0
		}
		if of, ok := shown[seen]; ok && of != want {
			return nil, 0
		}
		by[want], shown[seen] = p, want
	}
	wanted := func(seen string) bool { return right[seen] || by[seen].On != nil }
	for _, want := range slices.Sorted(maps.Keys(by)) {
		p := by[want]
		if right[want] || wanted(c.spelt(p.On, p.Seen)) {
			return nil, 0
		}
		out = append(out, p)
		right[want] = false
	}
	slices.SortStableFunc(out, inTime)
	return out, len(right)
}

// inTime orders pairs by their trials, and by time.
func inTime(a, b Pair) int { return cmp.Or(cmp.Compare(a.Trial, b.Trial), cmp.Compare(a.At, b.At)) }

// Restored puts what was asked for where something else was always shown.
func (c *Case) Restored(pairs []Pair) func(*Track, State) State {
	meant := map[string]State{}
	for _, p := range pairs {
		meant[c.spelt(p.On, p.Seen)] = p.Want
	}
	return func(t *Track, s State) State {
		if want, ok := meant[c.spelt(t, s)]; ok {
			return want
		}
		return s
	}
}

// step is a place of a sequence: a state between two others.
type step struct{ before, here, after string }

// start stands before the first state.
const start = "\x00"

// like reports whether two places are the same: the first one of a sequence may be like any.
func (a step) like(b step) bool {
	return a.here == b.here && a.after == b.after && (a.before == b.before || a.before == start || b.before == start)
}

// Misstep gives a step of a sequence that is always the same wrong one where all others are right, as a change of
// frames that mends it; nil for none. A state that is right elsewhere may be wrong at one place.
func (c *Case) Misstep() (wrong *Pair, mended func(trial string, t *Track) []Frame) {
	pairs := slices.Clone(c.Pairs)
	slices.SortStableFunc(pairs, inTime)
	var at step
	right := map[step]bool{}
	others := 0
	for i, p := range pairs {
		here := step{before: start, here: c.spelt(p.On, p.Seen)}
		if i > 0 && pairs[i-1].Trial == p.Trial {
			here.before = c.spelt(pairs[i-1].On, pairs[i-1].Seen)
		}
		if i+1 < len(pairs) && pairs[i+1].Trial == p.Trial {
			here.after = c.spelt(pairs[i+1].On, pairs[i+1].Seen)
		}
		switch {
		case !p.Wrong:
			right[here] = true
			others++
		case wrong == nil:
			wrong, at = &pairs[i], here
		case c.spelt(p.On, p.Want) != c.spelt(wrong.On, wrong.Want) || !at.like(here) && here.after != "":
			return nil, nil
		case at.before == start && at.like(here):
			at = here
		}
	}
	if wrong == nil || right[at] || others < 3 {
		return nil, nil
	}
	for s := range right {
		if at.before == start && s.after == at.after && s.here == c.spelt(wrong.On, wrong.Want) {
			return nil, nil // it is right when it comes again: the beginning is wrong, and not the step
		}
	}
	return wrong, func(_ string, t *Track) []Frame {
		out := slices.Clone(t.Frames)
		before := start
		for i := range out {
			was := before
			before = c.spelt(t, t.Frames[i].State)
			if (was == at.before || was == start) && before == at.here &&
				(i+1 == len(out) || c.spelt(t, t.Frames[i+1].State) == at.after) {
				out[i].State = wrong.Want
			}
		}
		return out
	}
}
