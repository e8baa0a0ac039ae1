package diagnosis

import (
	"fmt"
	"slices"

	"hemble/core/clock"
	"hemble/core/display"
	"hemble/core/fault"
	"hemble/core/judge"
)

// Signs of lamps that are lit beyond their states, or never.

// extra are the lights that are lit in wrong states beyond what was wanted, in each; ok is false where some state lacks
// a light, too.
func (v *view) extra() (beyond [][]int, pairs []display.Pair, ok bool) {
	for _, p := range v.sighting().Pairs {
		if !p.Wrong || p.Want.Unlit() {
			continue
		}
		var more []int
		for k := range p.Seen.Lights {
			if k >= len(p.Want.Lights) {
				return nil, nil, false
			}
			switch seen, want := p.Seen.Lights[k] == display.Lit, p.Want.Lights[k] == display.Lit; {
			case want && !seen:
				return nil, nil, false
			case seen && !want:
				more = append(more, k)
			}
		}
		if len(more) == 0 {
			return nil, nil, false
		}
		beyond, pairs = append(beyond, more), append(pairs, p)
	}
	return beyond, pairs, len(beyond) >= 2
}

// staysLit looks for states in which all that is too much was lit in the state before.
func staysLit(v *view) (string, clock.Time, bool) {
	if _, counts := display.As[display.Counting](v.track.Geometry); counts {
		return "", 0, false // a figure may have more segments than another one by chance
	}
	if at, gathers := v.gathers(); gathers {
		return fmt.Sprintf("What %s lit once stays lit: nothing switches it off.", v.track.Display), at, true
	}
	beyond, pairs, ok := v.extra()
	if !ok || !slices.ContainsFunc(beyond, func(list []int) bool { return !slices.Equal(list, beyond[0]) }) {
		return "", 0, false // what is always too much is none of the state before
	}
	for i, p := range pairs {
		before := v.before(p.At)
		for _, k := range beyond[i] {
			if before == nil || before.Lights[k] == display.Dark {
				return "", 0, false
			}
		}
	}
	return fmt.Sprintf("What %s lit before stays lit when the next state comes: nothing switches it off.",
		v.track.Display), pairs[0].At, true
}

// gathers reports whether states come out as all that should have been lit up to each of them, and from when on: some
// of it comes behind what should have gone.
func (v *view) gathers() (at clock.Time, ok bool) {
	if slices.ContainsFunc(v.reel.Cues, isInput) { // what is counted may come to the same
		return 0, false
	}
	for _, x := range v.verdicts {
		var all, seen []display.Lights
		wrong, grown := false, false
		for _, l := range x.Alignment {
			if l.Expected != nil && l.Expected.State != nil {
				lit := slices.Clone(l.Expected.State.Lights)
				if n := len(all); n > 0 && len(all[n-1]) == len(lit) {
					for i, was := range all[n-1] {
						if was == display.Lit {
							lit[i] = was
						}
					}
				}
				grown = grown || wrong && !slices.Equal(lit, all[len(all)-1])
				wrong = wrong || !slices.Equal(lit, l.Expected.State.Lights)
				all = append(all, lit)
			}
			if l.Seen != nil && l.Seen.State != nil {
				if lit := l.Seen.State.Lights; len(seen) == 0 || !slices.Equal(lit, seen[len(seen)-1]) {
					seen = append(seen, lit)
				}
			}
		}
		if x.Display == v.track.Display && x.First != nil && grown &&
			slices.EqualFunc(slices.CompactFunc(all, slices.Equal), seen, slices.Equal) {
			return x.First.At, true
		}
	}
	return 0, false
}

// rightBefore reports whether what is wanted was there before, as it should be.
func (v *view) rightBefore(wrong display.Pair) bool {
	return slices.ContainsFunc(fault.Pairs(v.reel, v.track.Display, v.all), func(p display.Pair) bool {
		return !p.Wrong && p.At < wrong.At && v.track.Alike(p.Want, wrong.Want)
	})
}

// before is what the display showed just before a moment; nil at the start.
func (v *view) before(at clock.Time) *display.State {
	for i := 1; i < len(v.track.Frames); i++ {
		if v.track.Frames[i].From == at {
			return &v.track.Frames[i-1].State
		}
	}
	return nil
}

// single is the one light that is too much in all of some states, -1 where it is not one.
func single(beyond [][]int) int {
	for _, list := range beyond {
		if len(list) != 1 || list[0] != beyond[0][0] {
			return -1
		}
	}
	return beyond[0][0]
}

// memberStays looks for one lamp of several that is lit in all wrong states.
func memberStays(v *view) (string, clock.Time, bool) {
	beyond, pairs, ok := v.extra()
	if once := len(beyond) == 1 && v.rightBefore(pairs[0]); !ok && !once || single(beyond) < 0 ||
		v.track.Geometry.Members == nil {
		return "", 0, false
	}
	light := single(beyond)
	for _, p := range v.sighting().Pairs { // it goes off nowhere
		if light < len(p.Seen.Lights) && p.Seen.Lights[light] != display.Lit && p.At > pairs[0].At {
			return "", 0, false
		}
	}
	from := 0
	for _, m := range v.track.Geometry.Members {
		if n := m.Geometry.Lights(); light < from+n {
			return fmt.Sprintf("%s of %s stays lit where it should go off, from %s on.", m.Name, v.track.Display,
				pairs[0].At), pairs[0].At, true
		}
		from += m.Geometry.Lights()
	}
	return "", 0, false
}

// lampStays looks for one lamp that is lit in all wrong states, where it goes off again later, or has been off before.
func lampStays(v *view) (string, clock.Time, bool) {
	beyond, pairs, ok := v.extra()
	members := v.track.Geometry.Members
	if !ok || single(beyond) < 0 || members == nil {
		return "", 0, false
	}
	right, from := 0, 0
	for _, p := range v.sighting().Pairs {
		if !p.Wrong {
			right++
		}
	}
	for _, m := range members {
		n := m.Geometry.Lights()
		if from += n; single(beyond) < from {
			return fmt.Sprintf("%s of %s is lit with %s, where it should be off; all other states are right.", m.Name,
				v.track.Display, v.track.Short(pairs[0].Want)), pairs[0].At, n == 1 && right >= 2
		}
	}
	return "", 0, false
}

// lampDark looks for one lamp of several that never lights, where all else is right.
func lampDark(v *view) (string, clock.Time, bool) {
	light, wrong, at := -1, 0, clock.Time(0)
	for _, p := range v.sighting().Pairs {
		for k := range p.Seen.Lights {
			if k >= len(p.Want.Lights) || p.Seen.Lights[k] == p.Want.Lights[k] {
				continue
			}
			if p.Seen.Lights[k] == display.Lit || light >= 0 && light != k {
				return "", 0, false
			}
			light = k
			if wrong++; wrong == 1 {
				at = p.At
			}
		}
	}
	from := 0
	for _, m := range v.track.Geometry.Members {
		n := m.Geometry.Lights()
		if from += n; light < 0 || light >= from {
			continue
		}
		return fmt.Sprintf("%s of %s never lights, where all else is right.", m.Name, v.track.Display), at,
			n == 1 && wrong >= 2 && !slices.ContainsFunc(v.track.Frames, func(f display.Frame) bool {
				return f.State.Lights[light] == display.Lit
			})
	}
	return "", 0, false
}

// slowest is how long a lamp that blinks is on, or off, at most.
const slowest = 2 * clock.Second

// noBlink looks for a lamp or a tone that is on without a break where it should go on and off several times.
func noBlink(v *view) (string, clock.Time, bool) {
	if traits := v.track.Geometry.Type().Traits(); !traits.Single && !traits.Tone ||
		len(v.track.Frames) < 2 { // which has a name of its own
		return "", 0, false
	}
	for _, x := range v.verdicts {
		each, changes := blinking(x)
		if changes < 4 || each > slowest {
			continue
		}
		var longest *display.Frame
		for i := range v.track.Frames {
			f := &v.track.Frames[i]
			switch {
			case !f.State.Unlit() && (longest == nil || f.Length() > longest.Length()):
				longest = f
			case i > 0 && i+1 < len(v.track.Frames) && f.State.Unlit() && f.Length() <= clock.Time(changes)*each &&
				v.track.Frames[i-1].Length() >= each/4: // after more than a flash
				return "", 0, false // it does, perhaps more slowly
			}
		}
		if longest != nil && longest.Length() >= clock.Time(changes-1)*each {
			return fmt.Sprintf("%s is on from %s to %s without a break, where it should go on and off.", v.track.Display,
				longest.From, longest.To), longest.From, true
		}
	}
	return "", 0, false
}

// blinking is the longest run of states in which a lamp is expected to go on and off, each as long as the others: how
// long each of them is, and how many they are.
func blinking(x judge.Verdict) (each clock.Time, most int) {
	here, length, lit := 0, clock.Time(0), false
	for _, l := range x.Alignment {
		if l.Expected == nil || l.Expected.State == nil {
			continue
		}
		is, on := l.Expected.To-l.Expected.From, !l.Expected.State.Unlit()
		if here > 0 && on != lit && max(is-length, length-is)*4 <= length {
			here++
		} else {
			here = 1
		}
		if length, lit = is, on; here > most {
			each, most = is, here
		}
	}
	return each, most
}
