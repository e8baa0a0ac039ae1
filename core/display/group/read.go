package group

import (
	"fmt"
	"slices"
	"strings"

	"hemble/core/clock"
	"hemble/core/display"
	"hemble/core/spec"
)

// ReadMapping reads what each member shows, or the names of those that are lit, as text.
func (g group) ReadMapping(w display.Written, ps *spec.Problems) (display.Matcher, clock.Time) {
	fields := slices.Clone(display.CommonFields)
	for _, m := range w.Geometry.Members {
		fields = append(fields, spec.Field{Name: m.Name, Kind: spec.Frame})
	}
	named := spec.Find(fields, display.FieldText.Name) != nil // a member that is called so goes before
	if !named {
		fields = append(fields, display.FieldText)
	}
	v := spec.Decode(w.Node, fields, ps)
	length := display.ReadLength(v.Get("for"), ps)
	if text := display.FieldText.Name; v.Has(text) && !named {
		for _, m := range w.Geometry.Members {
			if v.Has(m.Name) {
				ps.Add(w.Pos, "a frame of %q has text, or says what each member shows: not both", w.Name)
				return nil, length
			}
		}
		lit := display.Written{Named: w.Named, Value: v.Get(text), Text: v.Text(text), Strict: w.Strict}
		return g.Read(lit, ps), length
	}
	if v.Has("one-of") {
		return display.ReadAny(v.Get("one-of"), w.Named, w.Strict, ps), length
	}
	out := &matcher{members: w.Geometry.Members}
	all := true // may show anything
	for _, m := range w.Geometry.Members {
		f := v.Get(m.Name)
		switch {
		case !v.Has(m.Name):
			ps.Add(w.Pos, "the frame does not say what %s shows: write it, or `%s: any`", m.Name, m.Name)
			return nil, length
		case f.Text == "any":
			out.of = append(out.of, nil)
			continue
		}
		one, own := display.ReadFrame(f, display.Named(m), w.Strict, ps)
		if one == nil {
			return nil, length
		}
		if own != 0 {
			ps.Add(f.Pos, "the length of a frame belongs beside the members of %q, not inside one", w.Name)
			return nil, length
		}
		out.of, all = append(out.of, one), false
	}
	if all {
		ps.Add(w.Pos, "a frame in which every member may show anything says nothing")
		return nil, length
	}
	return out, length
}

// Read reads a frame of a group of lamps that is written as the names of those that are lit.
func (group) Read(w display.Written, ps *spec.Problems) display.Matcher {
	out := &matcher{members: w.Geometry.Members}
	words := strings.FieldsFunc(w.Text, func(r rune) bool { return r == ' ' || r == '+' || r == ',' })
	if w.Text == "off" || w.Text == "all off" {
		words = nil
	} else if len(words) == 0 {
		ps.Add(w.Pos, "%q is no frame of %q: write which of its lamps are lit, or off", w.Text, w.Name)
		return nil
	}
	var names []string
	for _, m := range w.Geometry.Members {
		if !m.Geometry.Type().Traits().Single {
			ps.Add(w.Pos, "%s of %q is no lamp: a frame says what each member shows, as in {%s: …, …}", m.Name, w.Name,
				m.Name)
			return nil
		}
		names = append(names, m.Name)
		state := "off"
		if slices.Contains(words, m.Name) {
			state = "on"
		}
		out.of = append(out.of,
			m.Geometry.Type().Read(display.Written{Named: display.Named(m), Value: w.Value, Text: state,
				Strict: w.Strict}, ps))
	}
	for _, word := range words {
		if !slices.Contains(names, word) {
			ps.Add(w.Pos, "%q has no lamp %q%s", w.Name, word, spec.Nearest(word, names))
			return nil
		}
	}
	return out
}

// matcher is what each member shows; one without a matcher may show anything.
type matcher struct {
	members []display.Member
	of      []display.Matcher
}

func (m *matcher) Match(t *display.Track, s display.State) (bool, int) {
	ok, off, judged := true, 0, 0
	for i, one := range Split(t.Geometry, s) {
		if m.of[i] == nil {
			continue
		}
		judged++
		right, by := m.of[i].Match(track(m.members[i]), one)
		ok = ok && right
		off += by
	}
	return ok, off / judged
}

func (m *matcher) Ideal(display.Geometry) *display.State {
	out := &display.State{}
	for i, member := range m.members {
		all := display.Emissive(0, member.Geometry.Lights())
		if m.of[i] != nil {
			if s := m.of[i].Ideal(member.Geometry); s != nil {
				copy(all.Lights, s.Lights)
				copy(all.Levels, s.Levels)
			}
		}
		out.Lights, out.Levels = append(out.Lights, all.Lights...), append(out.Levels, all.Levels...)
	}
	return out
}

func (m *matcher) Same(other display.Matcher) bool {
	o, ok := other.(*matcher)
	return ok && slices.EqualFunc(m.of, o.of, func(a, b display.Matcher) bool {
		return a == nil && b == nil ||
			a != nil && b != nil && a.Same(b)
	})
}

// Partial is so where some member may show anything.
func (m *matcher) Partial() bool {
	return slices.ContainsFunc(m.of, func(one display.Matcher) bool { return one == nil || display.IsPartial(one) })
}

// Inner are the members' matchers.
func (m *matcher) Inner() []display.Matcher { return m.of }

// String is how the track of a group tells it, with what may be anything left out.
func (m *matcher) String() string {
	var words []string
	for i, member := range m.members {
		switch one := m.of[i]; {
		case one == nil:
		case !member.Geometry.Type().Traits().Single:
			words = append(words, fmt.Sprintf("%s %s", member.Name, one))
		case one.String() != "off":
			words = append(words, member.Name)
		}
	}
	if words == nil {
		return "all off"
	}
	return strings.Join(words, " + ")
}
