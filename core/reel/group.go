package reel

import (
	"slices"

	"hemble/core/clock"
	"hemble/core/display"
	"hemble/core/display/group"
)

// Group is a name for several displays that are read as one: single digits as a number, lamps as a phase.
type Group struct {
	Name string   `json:"name"`
	Of   []string `json:"of"` // its members, from the left
}

// Gather makes the track of a group out of those of its members; ok is false where one of them has none.
func (r *Reel) Gather(g Group) (out display.Track, ok bool) {
	var tracks []*display.Track
	var members []display.Member
	var changes []clock.Time
	begin, end := clock.Time(0), clock.Never
	for _, name := range g.Of {
		t := r.Track(name)
		if t == nil || len(t.Frames) == 0 {
			return out, false
		}
		tracks, members = append(tracks, t), append(members, display.Member{Name: name, Geometry: t.Geometry})
		begin, end = max(begin, t.Frames[0].From), min(end, t.Frames[len(t.Frames)-1].To)
		for _, f := range t.Frames {
			changes = append(changes, f.From)
		}
	}
	slices.Sort(changes)
	out = display.Track{Display: g.Name, Kind: display.GroupKind, Geometry: group.Join(members), Of: g.Of,
		Quality: worst(tracks)}
	for _, at := range slices.Compact(changes) {
		if at < begin || at >= end && at > begin {
			continue
		}
		f := display.Frame{From: at, To: end}
		for _, t := range tracks {
			one := t.At(at)
			f.State.Lights, f.State.Levels = append(f.State.Lights, one.State.Lights...), append(f.State.Levels,
				one.State.Levels...)
			f.State.Flicker, f.State.Uneven = f.State.Flicker || one.State.Flicker, f.State.Uneven || one.State.Uneven
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
		out.Frames[i].Text = out.Short(out.Frames[i].State)
	}
	return out, true
}

// settled leaves out the mixtures: short states that show nothing that neither the one before nor the one after has.
func settled(frames []display.Frame) (out []display.Frame) {
	for i, f := range frames {
		n := len(out)
		if f.Length() >= display.Mixture || i+1 == len(frames) {
			out = append(out, f)
			continue
		}
		around := frames[i+1].State.Lights.Bits()
		if n > 0 {
			around |= out[n-1].State.Lights.Bits()
		}
		switch own := f.State.Lights.Bits() &^ around; {
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
func worst(tracks []*display.Track) (out *display.Quality) {
	for _, t := range tracks {
		switch q := t.Quality; {
		case q == nil:
		case out == nil:
			c := *q
			out = &c
		default:
			out.Refresh, out.Evenness, out.Ghost = min(out.Refresh, q.Refresh), min(out.Evenness,
				q.Evenness), max(out.Ghost, q.Ghost)
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
