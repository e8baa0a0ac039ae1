package judge

import (
	"fmt"
	"slices"
	"strings"

	"hemble/core/clock"
	"hemble/core/display"
	"hemble/core/part"
	"hemble/core/spec"
)

// groupWant is what each member of a group shows; a member without a want may show anything.
type groupWant struct {
	members []display.Member
	of      []want
}

// GroupFields are those of a frame of a group that is written as a mapping, beside its members.
var GroupFields = []spec.Field{*spec.Find(FrameFields, "for"), *spec.Find(FrameFields, "one-of")}

// readPhase reads a frame of a group that is written as a mapping: what each member shows.
func readPhase(v spec.Value, name string, look display.Geometry, strict bool, ps *spec.Problems) (want, clock.Time) {
	fields := slices.Clone(GroupFields)
	for _, m := range look.Members {
		fields = append(fields, spec.Field{Name: m.Name, Kind: spec.Frame})
	}
	m := spec.Decode(v.Node, fields, ps)
	length := readLength(m.Get("for"), ps)
	if m.Has("one-of") {
		return readAny(m.Get("one-of"), &part.Built{Name: name, Kind: groupKind(look)}, strict, ps), length
	}
	w := &groupWant{members: look.Members}
	all := true // may show anything
	for _, one := range look.Members {
		f := m.Get(one.Name)
		switch {
		case !m.Has(one.Name):
			ps.Add(v.Pos, "the frame does not say what %s shows: write it, or `%s: any`", one.Name, one.Name)
			return nil, length
		case f.Text == "any":
			w.of = append(w.of, nil)
			continue
		}
		inner, own := readWant(f, &part.Built{Name: one.Name, Kind: groupKind(one.Geometry)}, strict, ps)
		if inner == nil {
			return nil, length
		}
		if own != 0 {
			ps.Add(f.Pos, "the length of a frame stands beside the members of %q, not within one", name)
			return nil, length
		}
		w.of, all = append(w.of, inner), false
	}
	if all {
		ps.Add(v.Pos, "a frame in which every member may show anything says nothing")
		return nil, length
	}
	return w, length
}

// groupKind is the kind of a display of some look that is no part by itself.
func groupKind(look display.Geometry) *part.Kind {
	return &part.Kind{Name: display.GroupKind, Geometry: func(part.Built) display.Geometry { return look }}
}

// readLitMembers reads a frame of a group of lamps that is written as the names of those that are lit.
func readLitMembers(text string, v spec.Value, name string, look display.Geometry, ps *spec.Problems) want {
	w := &groupWant{members: look.Members}
	words := strings.FieldsFunc(text, func(r rune) bool { return r == ' ' || r == '+' || r == ',' })
	if text == "off" || text == "all off" {
		words = nil
	} else if len(words) == 0 {
		ps.Add(v.Pos, "%q is no frame of %q: write which of its lamps are lit, or off", text, name)
		return nil
	}
	var names []string
	for _, m := range look.Members {
		if m.Geometry.Form != display.FormLamp {
			ps.Add(v.Pos, "%s of %q is no lamp: a frame says what each member shows, as in {%s: …, …}", m.Name, name, m.Name)
			return nil
		}
		names = append(names, m.Name)
		w.of = append(w.of, lampWant(slices.Contains(words, m.Name)))
	}
	for _, word := range words {
		if !slices.Contains(names, word) {
			ps.Add(v.Pos, "%q has no lamp %q%s", name, word, spec.Nearest(word, names))
			return nil
		}
	}
	return w
}

func (w *groupWant) shows(t *display.Track, s display.State) (bool, int) {
	ok, off, judged := true, 0, 0
	for i, one := range t.Geometry.Split(s) {
		if w.of[i] == nil {
			continue
		}
		judged++
		right, by := w.of[i].shows(&display.Track{Display: w.members[i].Name, Geometry: w.members[i].Geometry}, one)
		ok = ok && right
		off += by
	}
	return ok, off / judged
}

func (w *groupWant) sight(display.Geometry) *display.State {
	out := &display.State{}
	for i, m := range w.members {
		n := m.Geometry.Lights()
		lights, levels := make(display.Lights, n), make([]int, n)
		if w.of[i] != nil {
			if s := w.of[i].sight(m.Geometry); s != nil {
				copy(lights, s.Lights)
				copy(levels, s.Levels)
			}
		}
		out.Lights, out.Levels = append(out.Lights, lights...), append(out.Levels, levels...)
	}
	return out
}

func (w *groupWant) same(other want) bool {
	o, ok := other.(*groupWant)
	return ok && slices.EqualFunc(w.of, o.of, func(a, b want) bool { return a == nil && b == nil || a != nil && b != nil && a.same(b) })
}

// String is how the track of a group tells it, with what may be anything left out.
func (w *groupWant) String() string {
	var words []string
	for i, m := range w.members {
		switch lamp, isLamp := w.of[i].(lampWant); {
		case w.of[i] == nil, isLamp && !bool(lamp):
		case isLamp:
			words = append(words, m.Name)
		default:
			words = append(words, fmt.Sprintf("%s %s", m.Name, w.of[i]))
		}
	}
	if words == nil {
		return "all off"
	}
	return strings.Join(words, " + ")
}
