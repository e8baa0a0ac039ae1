package judge

import (
	"slices"

	"go.yaml.in/yaml/v3"

	"hemble/core/display"
	"hemble/core/part"
	"hemble/core/reel"
	"hemble/core/spec"
)

// attend makes a kind look at what a display type compares only where a frame names it, such as the cursor.
func attend(k *Kind) {
	build := k.Build
	k.Build = func(s Setting, v spec.Values, ps *spec.Problems) Expectation {
		e := build(s, v, ps)
		if e == nil {
			return nil
		}
		for _, t := range display.Types() {
			if a, ok := t.(display.Attentive); ok && mentions(v.Node, a.Attend().Key) {
				e = &attentive{inner{e}, t.Name(), a.Attend()}
			}
		}
		return e
	}
}

// mentions reports whether a mapping within some YAML has a key.
func mentions(n *yaml.Node, key string) bool {
	if n == nil {
		return false
	}
	for i, c := range n.Content {
		if n.Kind == yaml.MappingNode && i%2 == 0 && c.Value == key || mentions(c, key) {
			return true
		}
	}
	return false
}

// attentive judges an expectation with more of what displays of one type show.
type attentive struct {
	inner
	form display.TypeName
	with display.Attention
}

// Of and Cut are those of what is judged: all of the display where it is about all of it.
func (x *attentive) Of(whole *part.Instance) *part.Instance {
	if p, ok := x.Expectation.(Parted); ok {
		return p.Of(whole)
	}
	return whole
}

// Cut is what that showed.
func (x *attentive) Cut(whole *display.Track) *display.Track {
	if p, ok := x.Expectation.(Parted); ok {
		return p.Cut(whole)
	}
	return whole
}

// Judge makes it count.
func (x *attentive) Judge(r *reel.Reel) Verdict {
	seen := *r
	seen.Tracks = slices.Clone(r.Tracks)
	for i := range seen.Tracks {
		if t := &seen.Tracks[i]; t.Geometry.TypeName == x.form {
			t.Geometry = x.with.With(t.Geometry)
		}
	}
	return x.Expectation.Judge(&seen)
}
