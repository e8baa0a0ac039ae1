package fault

import (
	"fmt"
	"maps"
	"slices"
	"strings"

	"hemble/core/clock"
	"hemble/core/display"
	"hemble/core/judge"
)

// States of sequences that last too long or too short, and are repaired by moving what comes behind.

// standing is how long a state should last, and how long it does.
type standing struct{ want, seen clock.Time }

// place is a state after another one.
type place struct{ before, text string }

// places gives what was seen of sequences that have times, each with its place, but for what lasts to the end of a
// trial.
func (s *Subject) places(see func(at place, l judge.Pair)) {
	s.sequences(func(trial int, v judge.Verdict) {
		before := ""
		for _, l := range v.Alignment {
			if l.Seen == nil {
				continue
			}
			at := place{before, l.Seen.Text}
			before = l.Seen.Text
			if v.Timed && l.Expected != nil && l.Seen.To < s.Reels[trial].Length {
				see(at, l)
			}
		}
	})
}

// standings are the states of a display that last too long or too short, all of them the same each time; nil where some
// do not, or where nothing does.
func (s *Subject) standings() map[place]standing {
	by, uneven := map[place]standing{}, false
	s.places(func(at place, l judge.Pair) {
		if l.Operation != judge.Mistimed {
			return
		}
		x := standing{l.Expected.To - l.Expected.From, l.Seen.To - l.Seen.From}
		if was, ok := by[at]; ok && (!near(was.want, x.want) || !near(was.seen, x.seen)) {
			uneven = true
		}
		by[at] = x
	})
	if uneven {
		return nil
	}
	return by
}

// timed reports whether an expectation asks for times.
func (s *Subject) timed(trial, k int) bool {
	return s.Verdicts[trial][k].Timed || s.Exercise.Trials[trial].Expect[k].Kind == "blinks"
}

// everInTime reports whether some state lasts as long as it should, or another display is in time: else the time of all
// is wrong.
func (s *Subject) everInTime() (in bool) {
	for trial, verdicts := range s.Verdicts {
		for k, v := range verdicts {
			in = in || v.Display != s.Part.Name && v.Outcome == judge.Met && s.timed(trial, k)
		}
	}
	s.sequences(func(_ int, v judge.Verdict) {
		for i, l := range v.Alignment {
			in = in || v.Timed && l.Operation == judge.Right && i > 0 && i+1 < len(v.Alignment)
		}
	})
	return in
}

// anyLong are the beginnings of states that may last as long as they like, where others must not.
func (s *Subject) anyLong() map[clock.Time]bool {
	out := map[clock.Time]bool{}
	s.sequences(func(_ int, v judge.Verdict) {
		for _, l := range v.Alignment {
			if v.Timed && l.Operation == judge.Right && l.Seen != nil && l.Expected.To == l.Seen.To {
				out[l.Seen.From] = true
			}
		}
	})
	return out
}

// everyTime reports whether a state lasts as long wherever it comes at its place, unless an input ends it sooner.
func (s *Subject) everyTime(at place, seen clock.Time) bool {
	anyLong := s.anyLong()
	for _, r := range s.Reels {
		t := r.Track(s.Part.Name)
		if t == nil {
			continue
		}
		for i := 1; i+1 < len(t.Frames); i++ {
			f := t.Frames[i]
			if !anyLong[f.From] && t.Short(f.State) == at.text &&
				t.Short(t.Frames[i-1].State) == at.before && !near(f.Length(), seen) &&
				!(f.Length() < seen && Ended(r, f.To)) {
				return false
			}
		}
	}
	return true
}

// mostLengths bounds the states that last too long, or too short, each time.
const mostLengths = 24

// mostNamed is how many states are named that all last too long.
const mostNamed = 3

func eachLength(s *Subject) []Size {
	by := s.standings()
	if len(by) == 0 || len(by) > mostLengths || len(by) > 1 && !s.everInTime() {
		return nil
	}
	names, sometimes := map[string]standing{}, map[string]bool{}
	for _, at := range slices.SortedFunc(maps.Keys(by), func(a, b place) int {
		return strings.Compare(a.text+"|"+a.before, b.text+"|"+b.before)
	}) {
		x := by[at]
		if was, ok := names[at.text]; ok && was != x && !(near(was.want, x.want) && near(was.seen, x.seen)) {
			return nil
		}
		names[at.text] = x
		sometimes[at.text] = sometimes[at.text] || !s.everyTime(at, x.seen)
	}
	list := slices.Sorted(maps.Keys(names))
	x := names[list[0]]
	told := func(of []string, x standing, by map[place]standing) Size {
		what := fmt.Sprintf("%s for %s each time", listed(s.placed(of, by)), x.seen.Brief())
		if len(of) > mostNamed {
			what = fmt.Sprintf("each of %d states for %s", len(of), x.seen.Brief())
		}
		return s.moved(fmt.Sprintf("%s shows %s; expected: %s.", s.Part.Name, what, x.want.Brief()), s.lasting(by))
	}
	for _, n := range list {
		if near(names[n].want, x.want) && near(names[n].seen, x.seen) {
			continue
		}
		if len(list) > 2 || !near(x.want+names[n].want, x.seen+names[n].seen) {
			return nil // not one thing
		}
		var out []Size
		for _, one := range list { // an input ends the other one, which takes up what this one leaves
			if sometimes[one] {
				continue
			}
			own := maps.Clone(by)
			maps.DeleteFunc(own, func(at place, _ standing) bool { return at.text != one })
			out = append(out, told([]string{one}, names[one], own))
		}
		return out
	}
	if slices.ContainsFunc(list, func(name string) bool { return sometimes[name] }) {
		return nil
	}
	return []Size{told(list, x, by)}
}

// placed are the names of states that last too long or too short, each with what it comes behind where it lasts rightly
// behind something else.
func (s *Subject) placed(names []string, by map[place]standing) (out []string) {
	rightly := map[string]bool{}
	s.places(func(at place, l judge.Pair) {
		rightly[at.text] = rightly[at.text] || l.Operation == judge.Right
	})
	for _, name := range names {
		var behind []string
		for at := range by {
			if at.text == name && at.before != "" {
				behind = append(behind, at.before)
			}
		}
		if slices.Sort(behind); rightly[name] && len(behind) > 0 {
			name += " behind " + strings.Join(behind, " or ")
		}
		out = append(out, name)
	}
	return out
}

func lengthsSwapped(s *Subject) []Size {
	by := s.standings()
	if len(by) < 2 || len(by) > 4 {
		return nil
	}
	names := map[string]standing{}
	for at, x := range by {
		if was, ok := names[at.text]; ok && !(near(was.want, x.want) && near(was.seen, x.seen)) {
			return nil
		}
		names[at.text] = x
	}
	list := slices.Sorted(maps.Keys(names))
	if len(list) != 2 {
		return nil
	}
	a, b := names[list[0]], names[list[1]]
	if near(a.want, b.want) || !near(a.want, b.seen) || !near(b.want, a.seen) {
		return nil
	}
	return []Size{s.moved(fmt.Sprintf("The times of %s and %s on %s are exchanged: %s lasts %s and %s %s.", list[0],
		list[1],
		s.Part.Name, list[0], a.seen.Brief(), list[1], b.seen.Brief()), s.lasting(by))}
}

// lasting gives states the lengths that they should have, wherever they last otherwise at the same place.
// What a cue brings about stays where it is.
func (s *Subject) lasting(by map[place]standing) mover {
	return func(trial string, t *display.Track) (out []display.Frame, shift clock.Time) {
		before := ""
		for i, f := range t.Frames {
			if n := len(out); n > 0 && shift != 0 && s.afterCue(trial, f.From) && out[n-1].From < f.From {
				out[n-1].To, shift = f.From, 0
			}
			length, text := f.Length(), t.Short(f.State)
			if x, ok := by[place{before, text}]; ok && near(length, x.seen) && i+1 < len(t.Frames) {
				length = x.want
			}
			from := f.From + shift
			shift += length - f.Length()
			f.From, f.To = from, from+length
			before, out = text, append(out, f)
		}
		return out, shift
	}
}

// byAsMuch looks for a state that is always too short, or too long, by the same time, where it should last now so long,
// now so long: as one that ends some time after the last input.
func byAsMuch(s *Subject) []Size {
	by, wants := map[place]clock.Time{}, map[clock.Time]bool{}
	right, uneven := map[place]bool{}, false
	s.places(func(at place, l judge.Pair) {
		if l.Operation != judge.Mistimed {
			right[at] = right[at] || l.Operation == judge.Right && l.Expected.To != l.Seen.To
			return
		}
		want, seen := l.Expected.To-l.Expected.From, l.Seen.To-l.Seen.From
		if was, ok := by[at]; ok && !near(was, want-seen) {
			uneven = true
		}
		by[at] = want - seen
		wants[want] = true
	})
	if len(by) != 1 || uneven || len(wants) < 2 {
		return nil
	}
	for at, more := range by {
		if right[at] || max(more, -more) < 100*clock.Millisecond {
			return nil
		}
		how := map[bool]string{true: "too short", false: "too long"}[more > 0]
		size := s.moved(fmt.Sprintf("%s shows %s for a time that is %s %s, each time.", s.Part.Name, at.text,
			max(more, -more).Brief(), how), func(_ string, t *display.Track) (out []display.Frame, shift clock.Time) {
			before := ""
			for i, f := range t.Frames {
				length, text := f.Length(), t.Short(f.State)
				if (place{before, text}) == at && i+1 < len(t.Frames) {
					length += more
				}
				if n := len(out); i+1 == len(t.Frames) && n > 0 { // the last one gives way
					f.From, out[n-1].To = f.From+shift, f.From+shift
					out = append(out, f)
					break
				}
				from := f.From + shift
				shift += length - f.Length()
				f.From, f.To = from, from+length
				before, out = text, append(out, f)
			}
			return out, 0
		})
		size.Certain = true
		return []Size{size}
	}
	return nil
}
