package reel

import (
	"slices"
	"strings"

	"hemble/core/clock"
)

// Group is a name for several displays that are read as one: single digits as a number, lamps as a phase.
type Group struct {
	Name string   `json:"name"`
	Of   []string `json:"of"` // its members, from the left
}

// GroupKind is what the track of a group has for its kind of part.
const GroupKind = "group"

// MaxGroup is how many lights a group may have together: as many as Lights.Bits holds.
const MaxGroup = 64

// Mixture is how long a state between two others may last without being noticed: members that change together change one
// after the other, each by its own pins. The eye has the same time for mixtures within one display.
const Mixture = 25 * clock.Millisecond

// Member is a display within the look of a group.
type Member struct {
	Name string `json:"name"`
	Look Look   `json:"look"`
}

// GroupLook is the look of displays of lights side by side. Where all of them are digits it is a display of digits.
func GroupLook(members []Member) Look {
	const gap = 8
	out := Look{Form: FormDigits}
	lights, digits := 0, 0
	for _, m := range members {
		out.Height = max(out.Height, m.Look.Height)
		if m.Look.Form != FormDigits || m.Look.Colon > 0 {
			out.Form = FormGroup
		}
	}
	for i, m := range members {
		if i > 0 {
			out.Width += gap
		}
		y := (out.Height - m.Look.Height) / 2
		for _, s := range m.Look.Shapes {
			s.Light += lights
			s.Digit += digits
			s.Points = slices.Clone(s.Points)
			for k := range s.Points {
				s.Points[k][0] += out.Width
				s.Points[k][1] += y
			}
			if s.Circle != nil {
				s.Circle = &Circle{s.Circle.X + out.Width, s.Circle.Y + y, s.Circle.R}
			}
			out.Shapes = append(out.Shapes, s)
		}
		lights += m.Look.Lights()
		digits += max(1, m.Look.Digits())
		out.Width += m.Look.Width
	}
	if out.Form == FormGroup {
		out.Members = members
	}
	return out
}

// Split gives the sights of a group's members.
func (l Look) Split(s Sight) (out []Sight) {
	from := 0
	for _, m := range l.Members {
		to := from + m.Look.Lights()
		out = append(out, Sight{Lights: s.Lights[from:to], Levels: s.Levels[from:to], Flicker: s.Flicker})
		from = to
	}
	return out
}

// Gather makes the track of a group out of those of its members; ok is false where one of them has none.
func (r *Reel) Gather(g Group) (out Track, ok bool) {
	var tracks []*Track
	var members []Member
	var changes []clock.Time
	begin, end := clock.Time(0), clock.Never
	for _, name := range g.Of {
		t := r.Track(name)
		if t == nil || len(t.Frames) == 0 {
			return out, false
		}
		tracks, members = append(tracks, t), append(members, Member{name, t.Look})
		begin, end = max(begin, t.Frames[0].From), min(end, t.Frames[len(t.Frames)-1].To)
		for _, f := range t.Frames {
			changes = append(changes, f.From)
		}
	}
	slices.Sort(changes)
	out = Track{Display: g.Name, Kind: GroupKind, Look: GroupLook(members), Of: g.Of, Quality: worst(tracks)}
	for _, at := range slices.Compact(changes) {
		if at < begin || at >= end && at > begin {
			continue
		}
		f := Frame{From: at, To: end}
		for _, t := range tracks {
			one := t.At(at)
			f.Sight.Lights, f.Sight.Levels = append(f.Sight.Lights, one.Sight.Lights...), append(f.Sight.Levels, one.Sight.Levels...)
			f.Sight.Flicker, f.Sight.Uneven = f.Sight.Flicker || one.Sight.Flicker, f.Sight.Uneven || one.Sight.Uneven
			if one.From == at && one.At != nil {
				f.At = one.At
			}
		}
		if n := len(out.Frames); n > 0 {
			out.Frames[n-1].To = at
		}
		out.Frames = append(out.Frames, f)
	}
	out.Frames = settled(out.Frames)
	for i := range out.Frames {
		out.Frames[i].Text = out.Short(out.Frames[i].Sight)
	}
	return out, true
}

// settled leaves out the mixtures: short states that show nothing that neither the one before nor the one after has.
func settled(frames []Frame) (out []Frame) {
	for i, f := range frames {
		n := len(out)
		if f.Length() >= Mixture || i+1 == len(frames) {
			out = append(out, f)
			continue
		}
		around := frames[i+1].Sight.Lights.Bits()
		if n > 0 {
			around |= out[n-1].Sight.Lights.Bits()
		}
		switch own := f.Sight.Lights.Bits() &^ around; {
		case own != 0:
			out = append(out, f)
		case n > 0:
			out[n-1].To = f.To
		default:
			frames[i+1].From = f.From
		}
	}
	return out
}

// worst is the quality of the member that was driven worst; nil where none is scanned.
func worst(tracks []*Track) (out *Quality) {
	for _, t := range tracks {
		switch q := t.Quality; {
		case q == nil:
		case out == nil:
			c := *q
			out = &c
		default:
			out.Refresh, out.Evenness, out.Ghost = min(out.Refresh, q.Refresh), min(out.Evenness, q.Evenness), max(out.Ghost, q.Ghost)
		}
	}
	return out
}

// Regather makes the groups of a reel anew in which one of some displays is a member.
func (r *Reel) Regather(display string) {
	for i, t := range r.Tracks {
		if !slices.Contains(t.Of, display) {
			continue
		}
		if made, ok := r.Gather(Group{t.Display, t.Of}); ok {
			r.Tracks[i] = made
		}
	}
}

// group tells what the members show, lamps by their names alone.
func (t *Track) group(s Sight) string {
	var words []string
	for i, one := range t.Look.Split(s) {
		m := t.Look.Members[i]
		if m.Look.Form != FormLamp {
			words = append(words, m.Name+" "+(&Track{Look: m.Look}).Short(Sight{Lights: one.Lights, Levels: one.Levels}))
			continue
		}
		switch one.Lights[0] {
		case Lit:
			words = append(words, m.Name)
		case Dim:
			words = append(words, m.Name+" dim")
		}
	}
	if words == nil {
		return "all off"
	}
	return strings.Join(words, " + ")
}
