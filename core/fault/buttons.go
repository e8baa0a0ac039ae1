package fault

import (
	"cmp"
	"fmt"
	"slices"

	"hemble/core/clock"
	"hemble/core/display"
	"hemble/core/exercise"
	"hemble/core/finding"
	"hemble/core/judge"
	"hemble/core/machine"
	"hemble/core/part"
	"hemble/core/reel"
	"hemble/core/spec"
)

// What a program makes of presses, and of contacts at rest.

func init() {
	register(&Fault{Entry: finding.Entry{Code: "bounce", Price: finding.Behaviour,
		Doc:   "the bounce of a contact counts",
		Catch: "press the button several times and read the count at the end", Order: 6,
		Subsumes: []finding.Code{"both-edges", "on-release"}}, Sizes: bounce})
	register(&Fault{Entry: finding.Entry{Code: "held", Price: finding.Behaviour, Doc: "a held press counts repeatedly",
		Catch: "hold a press for a second, and read the count behind it", Order: 7,
		Subsumes: []finding.Code{"both-edges", "on-release"}}, Sizes: held})
	register(&Fault{Entry: finding.Entry{Code: "both-edges", Price: finding.Behaviour,
		Doc:   "releasing a button counts as well",
		Catch: "let each press last as long as the time that is allowed for its answer", Order: 7,
		Subsumes: []finding.Code{"on-release"}}, Sizes: bothEdges})
	register(&Fault{Entry: finding.Entry{Code: "on-release", Price: finding.Behaviour,
		Doc:   "a display changes when a button is released, not when it is pressed",
		Catch: "hold a press for longer than the time that is allowed, and read the display before it ends", Order: 7},
		Sizes: released})
	register(&Fault{Entry: finding.Entry{Code: "input-inverted", Price: finding.Wiring,
		Doc:   "an input is read the other way round: a button as pressed while it is released, a switch as on while it is off",
		Catch: "read the display before the first press, and while the button is held", Order: 9, Input: true},
		Sizes: buttonInverted})
	register(&Fault{Entry: finding.Entry{Code: "missed", Price: finding.Behaviour, Doc: "short presses are missed",
		Catch: "press shortly, for 100 ms or less", Order: 13}, Sizes: missed})
	register(&Fault{Entry: finding.Entry{Code: "pull-up", Price: finding.Behaviour,
		Doc:   "the pull-up of an input was forgotten",
		Catch: "let the input rest for some seconds before it is used", Order: 1,
		Subsumes: []finding.Code{"both-edges", "on-release"}}, Sizes: pullUp})
}

func bounce(s *Subject) []Size {
	if spec.Find(s.Part.Kind.Settings, "bounce") == nil || s.Part.Settings.Time("bounce") == 0 {
		return nil
	}
	if s.Verdicts == nil {
		return s.pressed("presses count twice", func(c exercise.Cue) []exercise.Cue {
			again := c
			again.At, again.For, again.Name = c.At+c.For+30*clock.Millisecond, 60*clock.Millisecond, ""
			return []exercise.Cue{c, again}
		})
	}
	return []Size{{Text: fmt.Sprintf("Contact bounce of %s is counted: one press is taken for several. The program must wait until the contact has settled.", s.Part.Name),
		Likely: s.countsWhileItBounces(), Bench: setting(s.Part.Name, "bounce", spec.Value{Text: "0"})}}
}

// countsWhileItBounces reports whether a number changes when a press of the part begins, and again while the contact
// bounces at its end.
func (s *Subject) countsWhileItBounces() bool {
	settled := s.Part.Settings.Time("bounce") + 10*clock.Millisecond
	for _, r := range s.Reels {
		for _, c := range r.Cues {
			if c.Part != s.Part.Name || c.Verb != part.Press || c.End-c.Start <= 2*settled {
				continue
			}
			for k := range r.Tracks {
				t := &r.Tracks[k]
				changes := func(at clock.Time) bool {
					before, after := t.At(at-1), t.At(at+settled)
					if before == nil || after == nil {
						return false
					}
					was, a := ReadNumber(t, before.State, 0)
					is, b := ReadNumber(t, after.State, 0)
					return a && b && was != is
				}
				if changes(c.Start) && changes(c.End) {
					return true
				}
			}
		}
	}
	return false
}

func held(s *Subject) (out []Size) {
	if s.Verdicts == nil {
		return s.pressed("a held press counts again every 250 ms", func(c exercise.Cue) (all []exercise.Cue) {
			for at := c.At; at < c.At+c.For; at += 250 * clock.Millisecond {
				one := c
				if one.At, one.For = at, min(c.For, 150*clock.Millisecond); at > c.At {
					one.Name = ""
				}
				all = append(all, one)
			}
			return all
		})
	}
	if s.onRelease() {
		return nil
	}
	out = s.pressedShortly("While %s is held the program counts on: one press must count once.",
		slices.Concat(s.looks(), pressLengths))
	if s.actsAgain() { // else a press may last that long on purpose
		for i := range out {
			out[i].After = s.lengthsKept
		}
	}
	return out
}

// shownBy is how long after a press a display shows what came of it.
const shownBy = 150 * clock.Millisecond

// actsAgain reports whether a press of the part changes some display more than once, or a number by more than 1.
func (s *Subject) actsAgain() bool {
	for _, r := range s.Reels {
		for _, c := range r.Cues {
			if c.Part != s.Part.Name || c.Verb != part.Press {
				continue
			}
			for k := range r.Tracks {
				t := &r.Tracks[k]
				if apartWithin(t, c.Start, c.End+shownBy) != clock.Never || moved(t, c.Start, c.End+shownBy) > 1 {
					return true
				}
			}
		}
	}
	return false
}

// bothEdges has each press be one edge: the contact closes with the first, opens with the second, and so on. What
// counts releases as well counts each press once then.
func bothEdges(s *Subject) []Size {
	if s.Verdicts == nil || !s.countsReleases() {
		return nil
	}
	sizes := s.cued(part.Press,
		"A press of %s counts when it begins and again when it ends: the program acts on both edges.", nil)
	for i := range sizes {
		sizes[i].Bench = func(x *exercise.Exercise) {
			for t := range x.Trials {
				trial := &x.Trials[t]
				var cues []exercise.Cue
				open := -1 // the place of the press that the next one ends
				for _, c := range trial.Cues {
					switch {
					case c.Part != s.Part.Name || c.Verb != part.Press:
						cues = append(cues, c)
					case open >= 0:
						cues[open].For, open = c.At-cues[open].At, -1
					default:
						open = len(cues)
						c.For = max(c.For, trial.Length-c.At)
						cues = append(cues, c)
					}
				}
				trial.Cues = cues
			}
		}
		sizes[i].After, sizes[i].Likely = s.usesKept, true
	}
	return sizes
}

// countsReleases reports whether displays change at both ends of most presses of the part that change something, each
// of which comes at a time of its own.
func (s *Subject) countsReleases() bool {
	const soon = 80 * clock.Millisecond
	for _, t := range s.Exercise.Trials {
		for _, c := range t.Cues {
			if c.Part == s.Part.Name && (c.Key != "" || c.After != nil || c.When != nil) {
				return false
			}
		}
	}
	presses, both := 0, 0
	for _, r := range s.Reels {
		for _, c := range r.Cues {
			if c.Part != s.Part.Name || c.Verb != part.Press || c.End-c.Start <= soon {
				continue
			}
			begins, ends := changes(r, c.Start-1, c.Start+soon), changes(r, c.End-1, c.End+soon)
			if begins || ends { // else the count is at its end
				presses++
			}
			if begins && ends {
				both++
			}
		}
	}
	return presses > 1 && 3*both >= 2*presses
}

// changes reports whether a display changes behind a time, up to another.
func changes(r *reel.Reel, behind, to clock.Time) bool {
	return slices.ContainsFunc(r.Tracks, func(t display.Track) bool {
		return slices.ContainsFunc(t.Frames, func(f display.Frame) bool {
			return f.From > behind && f.From > 0 && f.From <= to
		})
	})
}

// released has presses end when they should begin, or as they begin, where nothing follows them before they end.
func released(s *Subject) []Size {
	if s.Verdicts == nil || !s.onRelease() {
		return nil
	}
	const text = "The program acts when %s is let go, not when it is pressed."
	sooner := s.cued(part.Press, text, func(c *exercise.Cue) {
		if c.After == nil && c.When == nil {
			c.At -= min(c.At, c.For)
		}
	})
	for i := range sooner {
		sooner[i].After = s.usesKept
	}
	return append(sooner, s.pressedShortly(text, pressLengths)...)
}

// longestBounce is how long a press is at most of which its bounce would be the most.
const longestBounce = 20 * clock.Millisecond

// pressLengths are those of short presses that most programs see once.
var pressLengths = []clock.Time{60 * clock.Millisecond, 22 * clock.Millisecond}

func (s *Subject) pressedShortly(text string, lengths []clock.Time) (out []Size) {
	for _, short := range lengths {
		shorter := s.cued(part.Press, text, func(c *exercise.Cue) { c.For = min(c.For, short) })
		for i := range shorter {
			if spec.Find(s.Part.Kind.Settings, "bounce") == nil || short > longestBounce {
				continue
			}
			shorten, still := shorter[i].Bench, setting(s.Part.Name, "bounce", spec.Value{Text: "0"})
			shorter[i].Bench = func(x *exercise.Exercise) {
				shorten(x)
				still(x)
			}
		}
		out = append(out, shorter...)
	}
	return out
}

// looks are how long it may be from one look of the program at the part to the next, the likeliest first, where most
// presses that change a number change it by more than 1, or change what is seen again before they end: a press as long
// as that is seen once.
func (s *Subject) looks() []clock.Time {
	by := map[bool]int{} // presses that change something, by whether it is more than once
	usual := []clock.Time{10 * clock.Millisecond, 5 * clock.Millisecond, clock.Millisecond, 20 * clock.Millisecond,
		2 * clock.Millisecond}
	// from one change to the next: as it was seen, and by how far the number has come
	shortest, told := clock.Never, clock.Never
	for _, r := range s.Reels {
		for _, c := range r.Cues {
			if c.Part != s.Part.Name || c.Verb != part.Press {
				continue
			}
			most := 0
			apart := clock.Never // changes, at least
			for k := range r.Tracks {
				t := &r.Tracks[k]
				apart = min(apart, apartWithin(t, c.Start, c.End))
				most = max(most, moved(t, c.Start, c.End+shownBy))
			}
			again := apart < shownBy
			if most > 0 || again {
				by[most > 1 || again]++
			}
			switch {
			case again:
				shortest = min(shortest, apart)
			case most > 0:
				told = min(told, max(1, (c.End-c.Start)/clock.Time(most)))
			}
		}
	}
	if by[true] == 0 || by[true] < by[false] {
		return nil
	}
	if shortest == clock.Never { // else a number may have begun again meanwhile
		shortest = told
	}
	off := func(t clock.Time) clock.Time { return max(t, shortest) * 100 / min(t, shortest) }
	nearest := slices.MinFunc(usual, func(a, b clock.Time) int { return cmp.Compare(off(a), off(b)) })
	others := slices.DeleteFunc(usual, func(t clock.Time) bool { return t == nearest })
	return append([]clock.Time{nearest}, others[:mostLooks-1]...)
}

// moved is by how much a number of a display differs at two times; the most, of several.
func moved(t *display.Track, from, to clock.Time) (most int) {
	before, after := t.At(from), t.At(to)
	for nth := 0; nth < Several && before != nil && after != nil; nth++ {
		a, shown := ReadNumber(t, before.State, nth)
		b, still := ReadNumber(t, after.State, nth)
		if shown && still {
			most = max(most, abs(a-b))
		}
	}
	return most
}

// apartWithin is the shortest time from one change of a display to the next within a time; clock.Never where there are
// no two.
func apartWithin(t *display.Track, from, to clock.Time) clock.Time {
	apart, last := clock.Never, clock.Never
	for _, f := range t.Frames {
		if f.From >= from && f.From < to {
			if last != clock.Never {
				apart = min(apart, max(1, f.From-last))
			}
			last = f.From
		}
	}
	return apart
}

// mostLooks is how many of them are tried.
const mostLooks = 3

// onRelease reports whether displays change behind the end of most presses of the part, and not before. Presses while
// something changes anyway tell nothing.
func (s *Subject) onRelease() bool {
	const soon, still = 120 * clock.Millisecond, 300 * clock.Millisecond
	early, late := 0, 0
	for _, r := range s.Reels {
		for _, c := range r.Cues {
			if c.Part != s.Part.Name || c.Verb != part.Press || c.End-c.Start < soon ||
				changes(r, c.Start-still, c.Start) {
				continue
			}
			if changes(r, c.Start, c.End) {
				early++
			} else if changes(r, c.End, c.End+soon) {
				late++
			}
		}
	}
	return late > 0 && late >= 2*early
}

// buttonInverted holds a button at rest, and lets it go where it should be pressed.
func buttonInverted(s *Subject) []Size {
	if s.Part.Kind.Geometry != nil || !slices.Contains(s.Part.Kind.Cues, part.Hold) {
		return nil
	}
	// held, it is defined for once
	if s.Verdicts != nil && (slices.ContainsFunc(s.Part.Wired, s.floated) || s.answersPresses() ||
		!s.wrongBefore() && (s.idle() || !s.wrongSince() || s.onRelease())) {
		return nil
	}
	text := "%s is read the other way round: the program takes it for pressed while it is released."
	sizes := s.cued(part.Press, text, nil)
	for i := range sizes {
		sizes[i].Likely = s.Verdicts != nil && s.wrongBefore()
		sizes[i].Throughout = s.Verdicts != nil && !s.wrongSince() // what is right whenever it is used is read rightly
		if spec.Find(s.Part.Kind.Settings, "contact") != nil {
			sizes[i].Bench = setting(s.Part.Name, "contact", spec.Value{Text: "normally-closed"})
			continue
		}
		sizes[i].Bench = func(x *exercise.Exercise) {
			for t := range x.Trials {
				cues := []exercise.Cue{s.moves(part.Hold, 0)}
				for _, c := range x.Trials[t].Cues {
					if c.Part != s.Part.Name || c.Verb != part.Press {
						cues = append(cues, c)
						continue
					}
					open := s.moves(part.Release, c.At)
					open.Name, open.Key = c.Name, c.Key
					cues = append(cues, open, s.moves(part.Hold, c.At+c.For))
				}
				slices.SortStableFunc(cues, func(a, b exercise.Cue) int { return cmp.Compare(a.At, b.At) })
				x.Trials[t].Cues = cues
			}
		}
	}
	return sizes
}

// idle reports whether no display ever changes, whatever is pressed and let go: what is misread does something then, or
// keeps from the start what should go on.
func (s *Subject) idle() bool {
	const starts = 100 * clock.Millisecond // as pins are set up
	return !slices.ContainsFunc(s.Reels, func(r *reel.Reel) bool { return changes(r, starts, r.Length) })
}

// answersPresses reports whether displays change when presses of the part begin, once, and hardly when they end: an
// input that is misread acts when it is let go, or lets things go on while it is held.
func (s *Subject) answersPresses() bool {
	const soon = 250 * clock.Millisecond
	presses, begun, ended := 0, 0, 0
	for _, r := range s.Reels {
		for _, c := range r.Cues {
			length := c.End - c.Start
			if c.Part == s.Part.Name && c.Verb == part.Press && length > 60*clock.Millisecond {
				if changes(r, c.Start+soon, c.End) {
					return false
				}
				presses++
				if changes(r, c.Start, c.Start+min(length, soon)) {
					begun++
				}
				if changes(r, c.End, c.End+100*clock.Millisecond) {
					ended++
				}
			}
		}
	}
	if presses == 0 || 3*begun < 2*presses {
		return false
	}
	// what follows a button that is misread is wrong before it is used
	return 3*ended <= presses || 3*ended >= 2*presses && !s.wrongBefore()
}

// wrongSince reports whether anything is wrong from the part's first use on: an input that is misread is not right
// whenever it is used.
func (s *Subject) wrongSince() bool {
	return s.wrongWhere(func(at, use clock.Time) bool { return at >= use })
}

// wrongBefore reports whether something is wrong before the part is first used: an input that is misread is so from the
// start.
func (s *Subject) wrongBefore() bool {
	return s.wrongWhere(func(at, use clock.Time) bool { return at < use })
}

// wrongWhere reports whether something first goes wrong at a time that lies so to the part's first use in the trial.
func (s *Subject) wrongWhere(lies func(at, use clock.Time) bool) bool {
	for trial, verdicts := range s.Verdicts {
		use := clock.Never
		for _, c := range s.Reels[trial].Cues {
			if c.Part == s.Part.Name {
				use = min(use, c.Start)
			}
		}
		for _, v := range verdicts {
			if v.First != nil && v.Outcome != judge.Met && lies(v.First.At, use) {
				return true
			}
		}
	}
	return false
}

func (s *Subject) moves(verb string, at clock.Time) exercise.Cue {
	c := exercise.Cue{At: at}
	c.Part, c.Verb = s.Part.Name, verb
	return c
}

func missed(s *Subject) []Size {
	if s.Verdicts == nil {
		return s.pressed("presses shorter than 130 ms are missed", func(c exercise.Cue) []exercise.Cue {
			if c.For < 130*clock.Millisecond {
				return nil
			}
			return []exercise.Cue{c}
		})
	}
	return s.cued(part.Press,
		"Short presses of %s are missed: the program does not look often enough, or waits too long for the contact to rest.",
		func(c *exercise.Cue) { c.For = max(c.For, 400*clock.Millisecond) })
}

func pullUp(s *Subject) (out []Size) {
	if s.Part.Kind.Geometry != nil || s.Exercise.Chip == nil || len(s.Part.Kind.Cues) == 0 {
		return nil
	}
	var pins []string
	for _, w := range s.Part.Wired {
		if _, ok := s.Exercise.Chip.Pin(w); ok && w != "" {
			pins = append(pins, w)
		}
	}
	if len(pins) == 0 {
		return nil
	}
	if s.Verdicts == nil {
		return s.pressed("an input that floats is read as pressed at times", func(c exercise.Cue) []exercise.Cue {
			stray := c
			stray.At, stray.For, stray.Name = c.At/2, 40*clock.Millisecond, ""
			return []exercise.Cue{stray, c}
		})
	}
	pins = slices.DeleteFunc(pins, func(pin string) bool { return !s.floated(pin) })
	if len(pins) == 0 {
		return nil
	}
	return []Size{{Text: fmt.Sprintf("%s: while the contact of %s is open, nothing defines the level of the pin.",
		Unpulled(s.Part, pins...), s.Part.Name),
		Bench: func(x *exercise.Exercise) {
			x.Pulled = slices.Clone(x.Pulled)
			for _, pin := range pins {
				x.Pulled = append(x.Pulled, exercise.Pull{Pin: pin, Down: slices.Contains(s.Part.Wired, "VCC")})
			}
		}}}
}

// usesKept tells all that was done as the exercise has it: expectations count from there.
func (s *Subject) usesKept(r *reel.Reel) *reel.Reel {
	for _, was := range s.Reels {
		if was.Trial == r.Trial {
			out := *r
			out.Cues = was.Cues
			return &out
		}
	}
	return r
}

// lengthsKept has each use end when it would have, had it lasted as long as the exercise has it: what is looked at then
// is looked at no sooner.
func (s *Subject) lengthsKept(r *reel.Reel) *reel.Reel {
	for _, was := range s.Reels {
		if was.Trial == r.Trial && len(was.Cues) == len(r.Cues) {
			out := *r
			out.Cues = slices.Clone(r.Cues)
			for i, c := range was.Cues {
				out.Cues[i].End = out.Cues[i].Start + c.End - c.Start
			}
			return &out
		}
	}
	return r
}

// pressed puts other presses in the place of each.
func (s *Subject) pressed(makes string, f func(exercise.Cue) []exercise.Cue) []Size {
	sizes := s.cued(part.Press, "%s", nil)
	for i := range sizes {
		sizes[i].Effect = makes
		sizes[i].Bench = func(x *exercise.Exercise) {
			for t := range x.Trials {
				var cues []exercise.Cue
				for _, c := range x.Trials[t].Cues {
					if c.Part == s.Part.Name && c.Verb == part.Press {
						cues = append(cues, f(c)...)
					} else {
						cues = append(cues, c)
					}
				}
				x.Trials[t].Cues = cues
			}
		}
	}
	return sizes
}

// floated reports whether a run noted that a pin was read while nothing drove it.
func (s *Subject) floated(pin string) bool {
	return slices.ContainsFunc(s.Reels, func(r *reel.Reel) bool {
		return slices.ContainsFunc(r.Notes, func(n machine.Note) bool { return n.Code == "floating-"+pin })
	})
}

// Unpulled names what inputs of a contact lack: they are pulled away from the rail that the contact joins them to.
func Unpulled(p *part.Instance, pins ...string) string {
	pull := "pull-up"
	if slices.Contains(p.Wired, "VCC") {
		pull = "pull-down"
	}
	if len(pins) > 1 {
		return fmt.Sprintf("The %ss of %s are missing", pull, listed(pins))
	}
	return fmt.Sprintf("The %s of %s is missing", pull, pins[0])
}
