package fault

import (
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
	"hemble/core/part/serial"
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
	register(&Fault{Entry: finding.Entry{Code: "scale", Price: finding.Wiring, Order: 5,
		Doc:      "a value of a sensor is shown in the wrong unit, or by the wrong scale",
		Subsumes: []finding.Code{"never-clears"}}, Value: true, Sizes: byAFifth})
	register(&Fault{Entry: finding.Entry{Code: "scale", Price: finding.Wiring, Vague: true, Order: 6,
		Doc:   "a value of a sensor is shown in the wrong unit, or by the wrong scale",
		Catch: "set the sensor to several values"}, Value: true, Sizes: scale})
}

func wiresSwapped(s *Subject) (out []Size) {
	between := s.Part.Kind.Geometry == nil && len(s.Part.Kind.Cues) == 0
	for _, pair := range s.Part.Kind.Exchanged {
		// two bits of a word are the same in half of all words
		bits := slices.Contains(s.Part.Kind.Turned, pair[0]) && slices.Contains(s.Part.Kind.Turned, pair[1])
		if between && !bits && !s.unreadable() {
			continue
		}
		a, b := s.Part.Kind.Terminal(pair[0]), s.Part.Kind.Terminal(pair[1])
		if a < 0 || b < 0 || s.Part.Wired[a] == s.Part.Wired[b] || s.Part.Wired[a] == "" || s.Part.Wired[b] == "" {
			continue
		}
		out = append(out,
			Size{Text: fmt.Sprintf("%s and %s of %s are exchanged (%s and %s).", pair[0], pair[1], s.Part.Name,
				s.Part.Wired[a], s.Part.Wired[b]), Throughout: between && bits,
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
	is, sent := s.Part.Settings.Int("baud"), s.sentRate()
	rates := []int64{is / 2, is * 2, 1200, 2400, 4800, 9600, 19_200, 38_400, 57_600, 115_200}
	switch {
	case sent != 0:
		rates = []int64{sent}
	case s.Verdicts != nil && s.heard() >= muchHeard: // its rate was measured, and is right
		return nil
	}
	for _, baud := range rates {
		if baud != is && !slices.ContainsFunc(out, func(o Size) bool { return o.Effect == fmt.Sprint(baud) }) {
			out = append(out,
				Size{Text: fmt.Sprintf("The serial line runs at %d baud; %s expects %d.", baud, s.Part.Name, is),
					Effect: fmt.Sprint(baud), Likely: sent != 0,
					Bench: setting(s.Part.Name, "baud", spec.Value{Text: fmt.Sprint(baud), Int: baud})})
		}
	}
	return out
}

// muchHeard is how many characters are enough to measure their rate.
const muchHeard = 20

// heard is how much the part took from its line, in the trial in which that was most.
func (s *Subject) heard() (most int) {
	for _, r := range s.Reels {
		most = max(most, len(r.Taken(s.Part.Name)))
	}
	return most
}

// sentRate is the one that the part measured, of the line that it listens to; 0 where it found none that is wrong.
func (s *Subject) sentRate() int64 {
	for _, r := range s.Reels {
		for _, n := range r.Notes {
			if n.Code == s.Part.Name+" "+string(serial.Rate.Code) {
				return serial.Sent(n.Text)
			}
		}
	}
	return 0
}

// measured reports whether the part's value is measured by a converter that has a reference of its own.
func (s *Subject) measured() bool {
	return s.Part.Kind.Scaled != nil && s.Exercise.Chip != nil && s.Exercise.Chip.Reference != 0
}

func reference(s *Subject) (out []Size) {
	if !s.measured() {
		return nil
	}
	supply, own := s.Part.Supply/1000, s.Exercise.Chip.Reference/1000 // mV
	volts := fmt.Sprintf("%d.%d V", own/1000, own%1000/100)
	return []Size{
		{Text: fmt.Sprintf("The program measures %s against the chip's internal %s; the exercise needs the supply as the reference.", s.Part.Name,
			volts), Effect: "the converter's reference is the supply instead of " + volts,
			Bench: s.scaledVolts(own, supply), After: s.cuesKept},
		{Text: fmt.Sprintf("The program measures %s against the supply; the exercise needs the chip's internal %s as the reference.", s.Part.Name,
			volts), Effect: "the converter's reference is " + volts + " in place of the supply",
			Bench: s.scaledVolts(supply, own), After: s.cuesKept},
	}
}

// byAFifth are the ratios of 4 to 5, as where a full scale of 4.096 V is taken for one of 5 V, or one reading more is
// added up than the sum is divided by.
func byAFifth(s *Subject) (out []Size) {
	if !s.measured() {
		return nil
	}
	const percent = 100
	return []Size{
		{Text: fmt.Sprintf("The program's value of %s is a fifth too small: its scale is wrong, or what it takes for the full scale.",
			s.Part.Name), Effect: "values of the converter are a fifth too large",
			Bench: s.scaledVolts(percent, 80), After: s.cuesKept},
		{Text: fmt.Sprintf("The program's value of %s is a quarter too large: its scale is wrong, or what it takes for the full scale.",
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
		p.Settings = p.Kind.Scaled.Settings(*p, n, d)
		for t := range x.Trials {
			for i := range x.Trials[t].Cues {
				c := &x.Trials[t].Cues[i]
				if c.Part == s.Part.Name && c.Verb == part.Set {
					c.To = p.Kind.Scaled.Cue(c.To, n, d)
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

// told reports whether the part's log in some run bears a mistake out.
func (s *Subject) told(m part.Misread) bool {
	return slices.ContainsFunc(s.Reels, func(r *reel.Reel) bool { return m.Told(*s.Part, r.Taken(s.Part.Name)) })
}

// misread gives the values that a setting of the part may be taken for, on a bench where it has them.
func (s *Subject) misread(m part.Misread) (out []Size) {
	if m.Mends && s.Verdicts == nil || m.Only != nil && !m.Only(*s.Part) || s.Verdicts != nil && s.readRightly(m) {
		return nil
	}
	for _, taken := range m.Taken[s.Part.Settings.Text(m.Setting)] {
		likely := s.Verdicts != nil && (m.Told != nil || m.Garbles && s.unreadable())
		size := Size{Text: m.Text(*s.Part, taken), Likely: likely, Bench: func(x *exercise.Exercise) {
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
		}}
		if m.Mends {
			size.After = withoutPassing
		}
		out = append(out, size)
	}
	return out
}

// readRightly reports whether what was seen speaks against a setting that is misread.
func (s *Subject) readRightly(m part.Misread) bool {
	return m.Told != nil && !s.told(m) || m.Setting == s.Part.Kind.Value && s.usedRightly() ||
		m.Called != nil && !m.Called(*s.Part, s.addresses())
}

// usedRightly reports whether nothing is wrong before the part is used, and something right comes at once, each time:
// what is misread is so from the start, and whenever it is used.
func (s *Subject) usedRightly() bool {
	const soon = 100 * clock.Millisecond
	if s.wrongBefore() {
		return false
	}
	uses := 0
	for trial, verdicts := range s.Verdicts {
		for _, c := range s.Reels[trial].Cues {
			if c.Part != s.Part.Name {
				continue
			}
			follows := func(p judge.Pair) bool {
				return p.Operation == judge.Right && p.Seen != nil && p.Seen.From > c.Start &&
					p.Seen.From < c.Start+soon
			}
			if uses++; !slices.ContainsFunc(verdicts, func(v judge.Verdict) bool {
				return slices.ContainsFunc(v.Alignment, follows)
			}) {
				return false
			}
		}
	}
	return uses > 0
}

// passing is how long nothing lasts at least that an eye tells from what comes behind it.
const passing = 5 * clock.Millisecond

// withoutPassing leaves out what passes faster than an eye sees, as bits do while they are shifted, and joins what is
// alike then.
func withoutPassing(r *reel.Reel) *reel.Reel {
	out := *r
	out.Tracks = slices.Clone(r.Tracks)
	for i := range out.Tracks {
		t := &out.Tracks[i]
		if t.Geometry.Type().Traits().Lines {
			continue
		}
		var frames []display.Frame
		for _, f := range t.Frames {
			if n := len(frames); n > 0 && (f.Length() < passing || t.Alike(frames[n-1].State, f.State)) {
				frames[n-1].To = f.To
			} else {
				frames = append(frames, f)
			}
		}
		t.Frames = frames
	}
	return &out
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
