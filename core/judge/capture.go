package judge

import (
	"fmt"
	"strings"

	"hemble/core/display"
	"hemble/core/reel"
	"hemble/core/spec"
)

// Captures are the texts that expectations of a trial keep for later ones, by name. The zero one is ready.
type Captures struct{ by map[string]*reads }

// keep lets later expectations refer to what this one reads.
func (c *Captures) keep(name string, x *reads, at spec.Pos, ps *spec.Problems) {
	if c == nil || name == "" {
		return
	}
	if c.by[name] != nil {
		ps.Add(at, "two expectations of this trial capture %q", name)
		return
	}
	if c.by == nil {
		c.by = map[string]*reads{}
	}
	c.by[name] = x
}

// find gives the one that captures a name, or reports that none does.
func (c *Captures) find(name string, at spec.Pos, ps *spec.Problems) *reads {
	var names []string
	if c != nil {
		for n := range c.by {
			names = append(names, n)
		}
		if x := c.by[name]; x != nil {
			return x
		}
	}
	ps.Add(at, "no expectation before this one captures %q%s", name, spec.Nearest(name, names))
	return nil
}

// captured gives what an expectation captured in a run; ok is false where it was not met.
func (x *reads) captured(r *reel.Reel) (text string, ok bool) {
	v := x.Judge(r)
	if len(v.Alignment) == 0 || v.Alignment[0].Operation != Right {
		return "", false
	}
	w := x.want
	if x.sameAs != nil {
		return x.sameAs.captured(r)
	}
	t, s := r.Track(x.display), *v.Alignment[0].Seen.State
	if g, inside := w.(*display.InRegion); inside {
		t, s, w = &display.Track{Geometry: g.Region.Of(t.Geometry), Custom: t.Custom}, g.Region.Cut(t, s), g.Inner
	}
	p, pattern := w.(*display.Pattern)
	if !pattern {
		return strings.Trim(w.String(), `"`), true
	}
	for _, line := range p.Texts(t, s) {
		if m := p.Expression.FindStringSubmatch(line); m != nil {
			return m[min(1, len(m)-1)], true
		}
	}
	return "", false
}

// sameWant is a pattern whose first group, or the whole where it has none, is a text that was captured.
type sameWant struct {
	*display.Pattern
	text string
}

func (w *sameWant) Match(t *display.Track, s display.State) (bool, int) {
	for _, line := range w.Texts(t, s) {
		if m := w.Expression.FindStringSubmatch(line); m != nil && m[min(1, len(m)-1)] == w.text {
			return true, 0
		}
	}
	return false, 500
}

func (w *sameWant) String() string {
	if w.Pattern.Text == display.Anything {
		return fmt.Sprintf("%q", w.text)
	}
	return fmt.Sprintf("%s with %q", w.Pattern, w.text)
}

// wanting is a pattern, perhaps of a region, that is to hold a text.
func wanting(w display.Matcher, text string) display.Matcher {
	if g, inside := w.(*display.InRegion); inside {
		return g.Region.In(wanting(g.Inner, text))
	}
	return &sameWant{w.(*display.Pattern), text}
}
