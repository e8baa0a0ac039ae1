package fault

import (
	"cmp"
	"fmt"
	"math"
	"regexp"
	"slices"
	"strconv"

	"hemble/core/clock"
	"hemble/core/display"
	"hemble/core/exercise"
	"hemble/core/finding"
	"hemble/core/judge"
	"hemble/core/part"
	"hemble/core/reel"
	"hemble/core/spec"
)

func init() {
	register(&Fault{Entry: finding.Entry{Code: "wires-swapped", Price: finding.Wiring,
		Doc: "two signal lines are exchanged", Order: 12,
		Subsumes: []finding.Code{"not-shown", "row-empty", "dark"}}, Wiring: true, Sizes: wiresSwapped})
	register(&Fault{Entry: finding.Entry{Code: "bit-order", Price: finding.Wiring, Order: 2,
		Doc:      "the bits of a word are sent, or wired, in reverse order",
		Subsumes: []finding.Code{"not-shown", "row-empty", "dark"}}, Wiring: true, Sizes: bitsTurned})
	register(&Fault{Entry: finding.Entry{Code: "address", Price: finding.Unreadable,
		Doc: "the program uses the wrong bus address", Order: 3,
		Subsumes: []finding.Code{"not-shown", "row-empty", "dark"}}, Wiring: true, Sizes: address})
	register(&Fault{Entry: finding.Entry{Code: "baud", Price: finding.Unreadable,
		Doc: "the serial line runs at the wrong rate", Order: 4,
		Subsumes: []finding.Code{"not-shown", "dark"}}, Wiring: true, Sizes: baud})
	register(&Fault{Entry: finding.Entry{Code: "reference", Price: finding.Wiring,
		Doc:   "the converter measures against another reference",
		Catch: "set the input to several values, near both ends of its range", Order: 5,
		Subsumes: []finding.Code{"never-clears"}}, Value: true, Sizes: reference})
	register(&Fault{Entry: finding.Entry{Code: "scale", Price: finding.Wiring, Vague: true, Order: 6,
		Doc:   "a value of a sensor is shown in the wrong unit, or by the wrong scale",
		Catch: "set the sensor to several values"}, Value: true, Sizes: scale})
	register(&Fault{Entry: finding.Entry{Code: "bounce", Price: finding.Behaviour,
		Doc:   "the bounce of a contact counts",
		Catch: "press the button several times and read the count at the end", Order: 6,
		Subsumes: []finding.Code{"both-edges", "on-release"}}, Sizes: bounce})
	register(&Fault{Entry: finding.Entry{Code: "held", Price: finding.Behaviour, Doc: "a held press counts repeatedly",
		Catch: "hold a press for a second, and read the count behind it", Order: 7,
		Subsumes: []finding.Code{"both-edges", "on-release"}}, Sizes: held})
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

func wiresSwapped(s *Subject) (out []Size) {
	if s.Part.Kind.Geometry == nil && len(s.Part.Kind.Cues) == 0 && !s.unreadable() {
		return nil
	}
	for _, pair := range s.Part.Kind.Exchanged {
		a, b := s.Part.Kind.Terminal(pair[0]), s.Part.Kind.Terminal(pair[1])
		if a < 0 || b < 0 || s.Part.Wired[a] == s.Part.Wired[b] || s.Part.Wired[a] == "" || s.Part.Wired[b] == "" {
			continue
		}
		out = append(out,
			Size{Text: fmt.Sprintf("%s and %s of %s are exchanged (%s and %s).", pair[0], pair[1], s.Part.Name,
				s.Part.Wired[a], s.Part.Wired[b]),
				Bench: func(x *exercise.Exercise) {
					w := x.Part(s.Part.Name).Wired
					w[a], w[b] = w[b], w[a]
				}})
	}
	return out
}

// unreadable reports whether some display hardly ever shows what it should: wires of what is between it and the chip
// may be exchanged. Without verdicts everything may.
func (s *Subject) unreadable() bool {
	if s.Verdicts == nil {
		return true
	}
	wrong, right := map[string]int{}, map[string]int{}
	for _, verdicts := range s.Verdicts {
		for _, v := range verdicts {
			for _, l := range v.Alignment {
				if l.Operation == judge.Right || l.Operation == judge.Mistimed || l.Operation == judge.Near {
					right[v.Display]++
				} else {
					wrong[v.Display]++
				}
			}
		}
	}
	for name := range wrong {
		if right[name]*3 <= wrong[name] {
			return true
		}
	}
	return false
}

// bitsTurned has the bits of a word come from the other end. It is one mistake for all parts of a kind.
func bitsTurned(s *Subject) []Size {
	var at []int
	for _, name := range s.Part.Kind.Turned {
		if i := s.Part.Kind.Terminal(name); i >= 0 {
			at = append(at, i)
		}
	}
	if len(at) == 0 || !s.unreadable() {
		return nil
	}
	return []Size{{Text: fmt.Sprintf("The bits for %s are in reverse order: the lowest is where the highest should be.",
		s.Part.Name),
		Bench: func(x *exercise.Exercise) {
			w := x.Part(s.Part.Name).Wired
			was := slices.Clone(w)
			for i, k := range at {
				w[k] = was[at[len(at)-1-i]]
			}
		}}}
}

func address(s *Subject) (out []Size) {
	f := spec.Find(s.Part.Kind.Settings, "address")
	if f == nil {
		return nil
	}
	is := s.Part.Settings.Text("address")
	for _, a := range s.addresses() {
		if a != is {
			out = append(out,
				Size{Text: fmt.Sprintf("The program uses bus address %s; %s has address %s.", a, s.Part.Name, is),
					Bench: setting(s.Part.Name, "address", spec.Value{Text: a, Int: parse(a)})})
		}
	}
	return out
}

func baud(s *Subject) (out []Size) {
	if spec.Find(s.Part.Kind.Settings, "baud") == nil {
		return nil
	}
	is := s.Part.Settings.Int("baud")
	for _, baud := range []int64{is / 2, is * 2, 1200, 2400, 4800, 9600, 19_200, 38_400, 57_600, 115_200} {
		if baud != is && !slices.ContainsFunc(out, func(o Size) bool { return o.Effect == fmt.Sprint(baud) }) {
			out = append(out,
				Size{Text: fmt.Sprintf("The serial line runs at %d baud; %s expects %d.", baud, s.Part.Name, is),
					Effect: fmt.Sprint(baud),
					Bench:  setting(s.Part.Name, "baud", spec.Value{Text: fmt.Sprint(baud), Int: baud})})
		}
	}
	return out
}

func reference(s *Subject) (out []Size) {
	if s.Part.Kind.Scaled == nil || s.Exercise.Chip == nil || s.Exercise.Chip.Reference == 0 {
		return nil
	}
	const percent = 100
	supply, own := s.Part.Supply/1000, s.Exercise.Chip.Reference/1000 // mV
	volts := fmt.Sprintf("%d.%d V", own/1000, own%1000/100)
	return []Size{
		{Text: fmt.Sprintf("The program measures %s against the chip's internal %s; the exercise needs the supply as the reference.", s.Part.Name,
			volts), Effect: "the converter's reference is the supply instead of " + volts,
			Bench: s.scaledVolts(own, supply), After: s.cuesKept},
		{Text: fmt.Sprintf("The program measures %s against the supply; the exercise needs the chip's internal %s as the reference.", s.Part.Name,
			volts), Effect: "the converter's reference is " + volts + " in place of the supply",
			Bench: s.scaledVolts(supply, own), After: s.cuesKept},
		{Text: fmt.Sprintf("The program's value of %s is a fifth too small: it assumes the wrong full-scale value.",
			s.Part.Name), Effect: "values of the converter are a fifth too large",
			Bench: s.scaledVolts(percent, 80), After: s.cuesKept},
		{Text: fmt.Sprintf("The program's value of %s is a quarter too large: it assumes the wrong full-scale value.",
			s.Part.Name), Effect: "values of the converter are a quarter too small",
			Bench: s.scaledVolts(80, percent), After: s.cuesKept},
	}
}

// scale looks for a ratio between the numbers that were seen and those that were expected.
func scale(s *Subject) (out []Size) {
	if s.Part.Kind.Scaled == nil || s.Exercise.Chip == nil || s.Verdicts == nil {
		return nil
	}
	type ratio struct{ seen, want int }
	var all []ratio
	for trial, verdicts := range s.Verdicts {
		for _, v := range verdicts {
			t := s.Reels[trial].Track(v.Display)
			if t == nil {
				continue
			}
			pairs := pairs(s.Reels[trial], v.Display, []judge.Verdict{v}, (*judge.Span).Meant)
			nth := Which(t, pairs)
			for _, p := range pairs {
				want, a := ReadNumber(t, p.Want, nth)
				seen, b := ReadNumber(t, p.Seen, nth)
				if a && b && want > 0 && seen > 0 {
					all = append(all, ratio{seen, want})
				}
			}
		}
	}
	if len(all) < 2 {
		return nil
	}
	slices.SortFunc(all, func(a, b ratio) int { return a.seen*b.want - b.seen*a.want })
	m := all[len(all)/2]
	large := slices.MaxFunc(all, func(a, b ratio) int { return a.want - b.want }) // it tells the ratio best
	exact := large.want >= 100 && !slices.ContainsFunc(all, func(r ratio) bool {
		return abs(r.seen*large.want-r.want*large.seen) > 2*large.want+large.want*r.want/100
	})
	if exact {
		m = large
	}
	if exact && abs(m.seen-m.want)*50 <= m.want || !exact && m.seen*10 > m.want*9 && m.seen*9 < m.want*10 {
		return nil
	}
	likely, even := []ratio{m}, exact
	if !exact { // both numbers are cut off, so that each pair bounds the ratio
		low, high := 0.0, math.Inf(1)
		for _, r := range all {
			low = max(low, float64(r.seen)/float64(r.want+1))
			high = min(high, float64(r.seen+1)/float64(r.want))
		}
		if n, d, ok := Simplest(low, high); ok {
			likely, even = []ratio{{n, d}, m}, len(all) > 2
		}
	}
	even = even && len(reference(s)) == 0 // which is as likely
	for _, m := range likely {
		out = append(out, Size{Likely: even, Text: fmt.Sprintf("The value of %s is shown %.3g times as large as it is: its unit or its scale is wrong.",
			s.Part.Name, float64(m.seen)/float64(m.want)), Bench: s.scaledVolts(int64(m.want), int64(m.seen)),
			After: s.cuesKept})
	}
	return out
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
		Bench: setting(s.Part.Name, "bounce", spec.Value{Text: "0"})}}
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
	return s.pressedShortly("While %s is held the program counts on: one press must count once.",
		slices.Concat(pressLengths, s.looks()))
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
// presses that change a number change it by more than 1: a press as long as that is seen once.
func (s *Subject) looks() []clock.Time {
	const settled = 150 * clock.Millisecond
	by := map[bool]int{} // presses that change one, by whether it is by more than 1
	usual := []clock.Time{10 * clock.Millisecond, 5 * clock.Millisecond, clock.Millisecond, 20 * clock.Millisecond,
		2 * clock.Millisecond}
	var shortest clock.Time
	for _, r := range s.Reels {
		for _, c := range r.Cues {
			if c.Part != s.Part.Name || c.Verb != part.Press {
				continue
			}
			most := 0
			for k := range r.Tracks {
				t := &r.Tracks[k]
				before, after := t.At(c.Start), t.At(c.End+settled)
				for nth := 0; nth < Several && before != nil && after != nil; nth++ {
					a, shown := ReadNumber(t, before.State, nth)
					b, still := ReadNumber(t, after.State, nth)
					if shown && still {
						most = max(most, abs(a-b))
					}
				}
			}
			if most == 0 {
				continue
			}
			by[most > 1]++
			if look := max(1, (c.End-c.Start)/clock.Time(most)); shortest == 0 || look < shortest {
				shortest = look
			}
		}
	}
	if by[true] == 0 || by[true] < by[false] {
		return nil
	}
	off := func(t clock.Time) clock.Time { return max(t, shortest) * 100 / min(t, shortest) }
	nearest := slices.MinFunc(usual, func(a, b clock.Time) int { return cmp.Compare(off(a), off(b)) })
	others := slices.DeleteFunc(usual, func(t clock.Time) bool { return t == nearest })
	return append([]clock.Time{nearest}, others[:mostLooks-1]...)
}

// mostLooks is how many of them are tried.
const mostLooks = 3

// onRelease reports whether displays change behind the end of most presses of the part, and not before. Presses while
// something changes anyway tell nothing.
func (s *Subject) onRelease() bool {
	begins := func(r *reel.Reel, from, to clock.Time) bool {
		for _, t := range r.Tracks {
			if slices.ContainsFunc(t.Frames,
				func(f display.Frame) bool { return f.From > from && f.From > 0 && f.From <= to }) {
				return true
			}
		}
		return false
	}
	const soon, still = 120 * clock.Millisecond, 300 * clock.Millisecond
	early, late := 0, 0
	for _, r := range s.Reels {
		for _, c := range r.Cues {
			if c.Part != s.Part.Name || c.Verb != part.Press || c.End-c.Start < soon ||
				begins(r, c.Start-still, c.Start) {
				continue
			}
			if begins(r, c.Start, c.End) {
				early++
			} else if begins(r, c.End, c.End+soon) {
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
	if s.Verdicts != nil && (s.floated(s.Part.Wired) || !s.wrongSince() || s.answersPresses() ||
		s.onRelease() && !s.wrongBefore()) {
		return nil
	}
	text := "%s is read the other way round: the program takes it for pressed while it is released."
	sizes := s.cued(part.Press, text, nil)
	for i := range sizes {
		sizes[i].Likely = s.Verdicts != nil && s.wrongBefore()
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

// answersPresses reports whether displays change when presses of the part begin, once, and hardly when they end: an
// input that is misread acts when it is let go, or lets things go on while it is held.
func (s *Subject) answersPresses() bool {
	const soon = 250 * clock.Millisecond
	presses, begun, ended := 0, 0, 0
	for _, r := range s.Reels {
		changes := func(from, within clock.Time) int {
			for _, t := range r.Tracks {
				for _, f := range t.Frames {
					if f.From > from && f.From <= from+within {
						return 1
					}
				}
			}
			return 0
		}
		for _, c := range r.Cues {
			length := c.End - c.Start
			if c.Part == s.Part.Name && c.Verb == part.Press && length > 60*clock.Millisecond {
				if changes(c.Start+soon, length-soon) > 0 {
					return false
				}
				presses++
				begun += changes(c.Start, min(length, soon))
				ended += changes(c.End, 100*clock.Millisecond)
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
	if !s.floated(pins) {
		return nil
	}
	return []Size{{Text: fmt.Sprintf("%s: while the contact of %s is open, nothing defines the level of the pin.",
		Unpulled(s.Part, pins[0]), s.Part.Name),
		Bench: func(x *exercise.Exercise) {
			x.Pulled = slices.Clone(x.Pulled)
			for _, pin := range pins {
				x.Pulled = append(x.Pulled, exercise.Pull{Pin: pin, Down: slices.Contains(s.Part.Wired, "VCC")})
			}
		}}}
}

// setting gives a part another value of one setting.
func setting(name, key string, v spec.Value) func(*exercise.Exercise) {
	return func(x *exercise.Exercise) {
		p := x.Part(name)
		p.Settings = p.Settings.With(key, v)
	}
}

// Simplest is the fraction between two numbers above 0 with the least terms, by the tree of Stern and Brocot; ok is
// false where its terms would be large.
func Simplest(low, high float64) (n, d int, ok bool) {
	const most = 1000
	a, b, c, e := 0, 1, 1, 0 // the fractions around
	for n, d = 1, 1; n <= most && d <= most; n, d = a+c, b+e {
		switch x := float64(n) / float64(d); {
		case x <= low:
			a, b = n, d
		case x >= high:
			c, e = n, d
		default:
			return n, d, true
		}
	}
	return 0, 0, false
}

// scaledVolts has a source give n/d of its voltages, those that cues set, too.
func (s *Subject) scaledVolts(n, d int64) func(*exercise.Exercise) {
	return func(x *exercise.Exercise) {
		p := x.Part(s.Part.Name)
		p.Settings = p.Kind.Scaled(*p, n, d)
		for t := range x.Trials {
			for i := range x.Trials[t].Cues {
				c := &x.Trials[t].Cues[i]
				if volts, err := spec.ParseVolts(c.To); err == nil && c.Part == s.Part.Name {
					volts = volts * n / d
					c.To = fmt.Sprintf("%d.%06dV", volts/1_000_000, volts%1_000_000)
				}
			}
		}
	}
}

// cuesKept tells the cues to the part as the exercise has them: expectations look at what they set.
func (s *Subject) cuesKept(r *reel.Reel) *reel.Reel {
	for _, was := range s.Reels {
		if was.Trial != r.Trial || len(was.Cues) != len(r.Cues) {
			continue
		}
		out := *r
		out.Cues = slices.Clone(r.Cues)
		for i := range out.Cues {
			out.Cues[i].To = was.Cues[i].To
		}
		return &out
	}
	return r
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

// told reports whether the part's log in some run bears a mistake out.
func (s *Subject) told(m part.Misread) bool {
	return slices.ContainsFunc(s.Reels, func(r *reel.Reel) bool { return m.Told(*s.Part, r.Taken(s.Part.Name)) })
}

// misread gives the values that a setting of the part may be taken for, on a bench where it has them.
func (s *Subject) misread(m part.Misread) (out []Size) {
	if m.Mends && s.Verdicts == nil || m.Only != nil && !m.Only(*s.Part) || m.Told != nil && s.Verdicts != nil &&
		!s.told(m) || m.Called != nil && s.Verdicts != nil && !m.Called(*s.Part, s.addresses()) {
		return nil
	}
	for _, taken := range m.Taken[s.Part.Settings.Text(m.Setting)] {
		likely := s.Verdicts != nil && (m.Told != nil || m.Garbles && s.unreadable())
		out = append(out, Size{Text: m.Text(*s.Part, taken), Likely: likely, Bench: func(x *exercise.Exercise) {
			setting(s.Part.Name, m.Setting, spec.Value{Text: taken})(x)
			if m.Setting != s.Part.Kind.Value {
				return
			}
			for t := range x.Trials { // cues set it, too
				for i := range x.Trials[t].Cues {
					if c := &x.Trials[t].Cues[i]; c.Part == s.Part.Name && len(m.Taken[c.To]) > 0 {
						c.To = m.Taken[c.To][0]
					}
				}
			}
		}})
	}
	return out
}

// cued changes the cues of one verb to the part.
func (s *Subject) cued(verb, text string, f func(*exercise.Cue)) []Size {
	cued := false
	for _, t := range s.Exercise.Trials {
		for _, c := range t.Cues {
			cued = cued || c.Part == s.Part.Name && c.Verb == verb
		}
	}
	if !cued {
		return nil
	}
	return []Size{{Text: fmt.Sprintf(text, s.Part.Name), Bench: func(x *exercise.Exercise) {
		for t := range x.Trials {
			for i := range x.Trials[t].Cues {
				if c := &x.Trials[t].Cues[i]; c.Part == s.Part.Name && c.Verb == verb {
					f(c)
				}
			}
		}
	}}}
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

// floated reports whether a run noted that one of some pins was read while nothing drove it.
func (s *Subject) floated(pins []string) bool {
	for _, r := range s.Reels {
		for _, n := range r.Notes {
			for _, pin := range pins {
				if n.Code == "floating-"+pin {
					return true
				}
			}
		}
	}
	return false
}

var calledAddress = regexp.MustCompile(`0x[0-9A-F]{2}`)

// addresses are those that were called on the bus, by the log.
func (s *Subject) addresses() (out []string) {
	for _, r := range s.Reels {
		for _, e := range r.Log {
			a := calledAddress.FindString(e.What)
			if a != "" && e.Part != s.Part.Name && !slices.Contains(out, a) && len(out) < 8 {
				out = append(out, a)
			}
		}
	}
	return out
}

func parse(hex string) int64 {
	n, _ := strconv.ParseInt(hex, 0, 64)
	return n
}

// Unpulled names what an input of a contact lacks: it is pulled away from the rail that the contact joins it to.
func Unpulled(p *part.Instance, pin string) string {
	if slices.Contains(p.Wired, "VCC") {
		return "The pull-down of " + pin + " is missing"
	}
	return "The pull-up of " + pin + " is missing"
}
