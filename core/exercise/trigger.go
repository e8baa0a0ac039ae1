package exercise

import (
	"slices"

	"hemble/core/display"
	"hemble/core/spec"
)

// timed reports whether the cue comes at a time that the file gives.
func (c *Cue) timed() bool { return c.After == nil && c.When == nil }

// readTrigger reads what a cue waits for.
func (x *Exercise) readTrigger(c *Cue, v spec.Values, t Trial, names []string, ps *spec.Problems) {
	given := 0
	for _, key := range []string{"at", "after", "when"} {
		if v.Has(key) {
			given++
		}
	}
	if given != 1 {
		ps.Add(v.Pos,
			"a cue comes at a time, after another cue or when a display shows something: it takes one of at, after and when")
		return
	}
	switch {
	case v.Has("after"):
		a := v.Get("after").Map
		c.After = &After{a.Text("cue"), a.Text("from") == "end", a.Time("by")}
		if c.After.Cue != "" && !slices.Contains(names, c.After.Cue) {
			ps.Add(a.At("cue"), "no cue before this one is called %q%s", c.After.Cue, spec.Nearest(c.After.Cue, names))
		}
	case v.Has("when"):
		w := v.Get("when").Map
		c.When = &When{Display: w.Text("display"), Until: t.Length}
		if w.Has("within") {
			c.When.Until = w.Time("within")
		}
		p := x.Part(c.When.Display)
		if p == nil || p.Kind.Geometry == nil {
			ps.Unknown(w.At("display"), "display of the bench", c.When.Display, x.displayNames())
			return
		}
		if shows := w.Get("shows"); shows.Node != nil {
			c.When.Shows, _ = display.ReadFrame(shows, p.Display(), false, ps)
		}
	}
}
