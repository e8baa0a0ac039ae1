package judge

import (
	"fmt"
	"slices"

	"hemble/core/display"
	"hemble/core/part"
	"hemble/core/reel"
	"hemble/core/spec"
)

// partFields let an expectation look at a part of its display: one file for all the kinds that can.
var partFields = []spec.Field{
	{Name: "row", Kind: spec.Int, Min: 1, Max: 4, Doc: "only this row of a character display, counted from 1"},
	display.RegionField,
}

// parted is an expectation about a part of a display: it is judged as if that were a display of its own.
type parted struct {
	inner
	display string
	part    display.Region
	where   string // the part, in words
}

// inPart makes a kind one that can look at a part of its display.
func inPart(k *Kind) {
	build := k.Build
	k.Fields = slices.Concat(k.Fields, partFields)
	k.Build = func(s Setting, v spec.Values, ps *spec.Problems) Expectation {
		if !v.Has("row") && !v.Has("region") {
			return build(s, v, ps)
		}
		p := displayOf(s, k.Name, v, ps)
		if p == nil {
			return nil
		}
		g, ok := readPart(v, p, ps)
		if !ok {
			return nil
		}
		all := s.Part
		s.Part = func(name string) *part.Instance {
			if name == p.Name {
				return partOf(p, g)
			}
			return all(name)
		}
		if e := build(s, v, ps); e != nil {
			where := g.String()
			if v.Has("row") {
				where = fmt.Sprintf("row %d", v.Int("row"))
			}
			return &parted{inner{e}, p.Name, g, where}
		}
		return nil
	}
}

// readPart reads which part of a display is looked at.
func readPart(v spec.Values, p *part.Instance, ps *spec.Problems) (display.Region, bool) {
	if !v.Has("row") {
		return display.ReadRegion(v.Get("region").Map, p.Display(), ps)
	}
	if v.Has("region") {
		ps.Add(v.At("row"), "row and region both say which part is looked at; give one")
		return display.Region{}, false
	}
	grid, row := p.Kind.Geometry(*p).Grid, int(v.Int("row"))
	if grid == nil || row > grid.Rows {
		ps.Add(v.At("row"), "%q has no row %d", p.Name, row)
		return display.Region{}, false
	}
	return display.Region{Y: row - 1, Wide: grid.Columns, High: 1}, true
}

// Parted is an expectation that may be about a part of its display.
type Parted interface {
	// Of gives the part as a display of its own, Cut what that showed.
	Of(whole *part.Instance) *part.Instance
	Cut(whole *display.Track) *display.Track
}

// Of is the part as a display of its own.
func (x *parted) Of(whole *part.Instance) *part.Instance { return partOf(whole, x.part) }

// Cut is what the part showed.
func (x *parted) Cut(t *display.Track) *display.Track {
	out := *t
	out.Geometry, out.Frames = x.part.Of(t.Geometry), slices.Clone(t.Frames)
	for k := range out.Frames {
		out.Frames[k].State = x.part.Cut(t, t.Frames[k].State)
	}
	return &out
}

// Judge judges the part, and gives what it found as states of the whole display.
func (x *parted) Judge(r *reel.Reel) Verdict {
	whole, cut := r.Track(x.display), *r
	cut.Tracks = slices.Clone(r.Tracks)
	for i := range cut.Tracks {
		if cut.Tracks[i].Display == x.display {
			cut.Tracks[i] = *x.Cut(whole)
		}
	}
	v := x.Expectation.Judge(&cut)
	for i := range v.Alignment {
		if span := v.Alignment[i].Expected; span != nil {
			span.State = x.part.Widen(whole.Geometry, span.State)
		}
		if span := v.Alignment[i].Seen; span != nil {
			span.State = &whole.At(span.From).State // all of what was seen there
		}
	}
	v.Text += ", in " + x.where
	return v
}

// partOf is a part of a display as a display of its own, for reading what is wanted there.
func partOf(p *part.Instance, r display.Region) *part.Instance {
	kind, out, g := *p.Kind, *p, r.Of(p.Kind.Geometry(*p))
	kind.Geometry = func(part.Instance) display.Geometry { return g }
	out.Kind = &kind
	return &out
}
