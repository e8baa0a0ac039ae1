package fault

import (
	"fmt"
	"maps"
	"math/big"
	"slices"
	"strings"
	"unicode"

	"hemble/core/clock"
	"hemble/core/display"
	"hemble/core/exercise"
	"hemble/core/finding"
	"hemble/core/judge"
	"hemble/core/part"
	"hemble/core/reel"
)

func init() {
	register(&Fault{Entry: finding.Entry{Code: "wires-swapped", Price: finding.Wiring,
		Doc: "two signal lines, or two displays of the same kind, are exchanged"}, Sizes: displaysSwapped})
	register(&Fault{Entry: finding.Entry{Code: "keys-swapped", Price: finding.Wiring,
		Doc: "two buttons are exchanged, or the rows and the columns of a keypad", Order: 5, Input: true,
		Catch:    "press each of them, and read the display behind each",
		Subsumes: []finding.Code{"dark", "never-changes"}}, Sizes: keysSwapped})
	register(&Fault{Entry: finding.Entry{Code: "texts-swapped", Price: finding.Constant, Vague: true,
		Doc: "two texts, numbers or tones are exchanged"}, Once: true, Sizes: textsSwapped})
}

// later lists the parts of the same kind that come behind this one: each pair is looked at once.
func (s *Subject) later() (out []*part.Instance) {
	at := slices.Index(s.Exercise.Parts, s.Part)
	if at < 0 { // a group
		return nil
	}
	for _, p := range s.Exercise.Parts[at+1:] {
		if p.Kind == s.Part.Kind {
			out = append(out, p)
		}
	}
	return out
}

func displaysSwapped(s *Subject) (out []Size) {
	if s.Part.Kind.Geometry == nil {
		return nil
	}
	own := slices.Index(s.Exercise.Parts, s.Part)
	for i, p := range s.Exercise.Parts {
		a, b := s.Part.Name, p.Name
		if p.Kind != s.Part.Kind || i == own || i < own && !s.allMet(b) {
			continue // each pair once; a display that is right has no turn of its own
		}
		if g := p.Kind.Geometry(*p); g.Lights() != s.Part.Kind.Geometry(*s.Part).Lights() {
			continue
		}
		out = append(out, Size{Text: fmt.Sprintf("%s and %s are exchanged: each shows what the other should.", a, b),
			Reel: func(r *reel.Reel) *reel.Reel {
				x, y := r.Track(a).Frames, r.Track(b).Frames
				given := func(frames []display.Frame) func(string, *display.Track) []display.Frame {
					return func(string, *display.Track) []display.Frame { return frames }
				}
				return frames(b, given(x))(frames(a, given(y))(r))
			}})
	}
	return out
}

// allMet reports whether all that is expected of a display is as it should be.
func (s *Subject) allMet(name string) bool {
	return s.Verdicts != nil && !slices.ContainsFunc(s.Verdicts, func(all []judge.Verdict) bool {
		return slices.ContainsFunc(all, func(v judge.Verdict) bool {
			return v.Display == name && v.Outcome != judge.Met
		})
	})
}

func keysSwapped(s *Subject) (out []Size) {
	if s.Part.Kind.Geometry != nil || len(s.Part.Kind.Cues) == 0 {
		return nil
	}
	_, columns := s.keyLines()
	// with two alone a run tells, and what seems to be an answer may be one to the other
	alike := 0
	for _, p := range s.Exercise.Parts {
		if p.Kind == s.Part.Kind {
			alike++
		}
	}
	alone := alike == 2 && len(columns) == 0
	turned := s.linesTurned()
	if i := slices.IndexFunc(turned, func(x Size) bool { return x.Likely }); i >= 0 { // some keys stay as they are
		return turned[i : i+1]
	}
	if out = s.linesExchanged(); out != nil || !alone && s.answered(s.Part.Name, len(columns) > 0) {
		return out
	}
	cued := func(name string) bool {
		for _, t := range s.Exercise.Trials {
			if slices.ContainsFunc(t.Cues, func(c exercise.Cue) bool { return c.Part == name }) {
				return true
			}
		}
		return false
	}
	for _, p := range s.later() {
		a, b := s.Part.Name, p.Name
		if !cued(a) && !cued(b) || !alone && s.answered(b, false) {
			continue
		}
		out = append(out, Size{Text: fmt.Sprintf("%s and %s are exchanged: each does what the other should.", a, b),
			Bench: func(x *exercise.Exercise) {
				for t := range x.Trials {
					for i := range x.Trials[t].Cues {
						switch c := &x.Trials[t].Cues[i]; c.Part {
						case a:
							c.Part = b
						case b:
							c.Part = a
						}
					}
				}
			}})
	}
	return append(out, turned...)
}

// answered reports whether a use of a part was answered as it should be, where others were not: then it is exchanged
// with none. What is right behind the first wrong answer, or where little is right, may be so by chance: that counts
// for keys of which each has an answer of its own.
func (s *Subject) answered(name string, keys bool) bool {
	for trial, verdicts := range s.Verdicts {
		for _, v := range verdicts {
			if !keys && v.Fraction.Cmp(big.NewRat(1, 2)) < 0 {
				continue
			}
			before := ""
			for _, l := range v.Alignment {
				if l.Expected == nil {
					continue
				}
				if !keys && (l.Operation != judge.Right && l.Operation != judge.Mistimed || outOfStep(l)) {
					break
				}
				changes := l.Expected.Text != before
				before = l.Expected.Text
				if v.Outcome != judge.Met && len(v.Alignment) > 1 && l.Operation == judge.Right && changes &&
					atOnce(l) && // else it is another one's answer
					s.lastUsed(trial, l.Expected.From-soonest) == name {
					return true
				}
			}
		}
	}
	return false
}

// atOnce reports whether something is seen about when it is expected.
func atOnce(l judge.Pair) bool {
	return l.Seen != nil && max(l.Seen.From-l.Expected.From, l.Expected.From-l.Seen.From) < clock.Second
}

// outOfStep reports whether a state lasts so much longer or shorter than it should that what follows is an answer to
// another input.
func outOfStep(l judge.Pair) bool {
	if l.Operation != judge.Mistimed {
		return false
	}
	off := l.Seen.To - l.Seen.From - (l.Expected.To - l.Expected.From)
	return max(off, -off) >= clock.Second
}

// lastUsed is the part that was used last up to a moment.
func (s *Subject) lastUsed(trial int, at clock.Time) (name string) {
	for _, c := range s.Reels[trial].Cues {
		if c.Start <= at {
			name = c.Part
		}
	}
	return name
}

// textsSwapped looks for two states of which each is shown in the place of the other. Of texts in rows, it looks at
// each row by itself.
func textsSwapped(s *Subject) (out []Size) {
	if s.shown == nil {
		return nil
	}
	t := s.shown.Track()
	lettered, rowed := display.As[display.Lettered](t.Geometry)
	words := func(x display.State) []string {
		if rowed {
			return lettered.Rows(t, x)
		}
		return []string{t.Short(x)}
	}
	wanted, asked, sequence := map[string]bool{}, map[string]display.State{}, false
	lost := false // a state that should come before others does not
	for _, verdicts := range s.Verdicts {
		for _, v := range verdicts {
			for i, l := range v.Alignment {
				lost = lost || i > 0 && l.Seen != nil && v.Display == s.Part.Name &&
					v.Alignment[i-1].Operation == judge.Missing
				switch {
				case v.Display != s.Part.Name || l.Expected == nil:
				case l.Expected.State == nil: // a line that should come at some time
					wanted[l.Expected.Text] = true
				default:
					sequence = sequence || len(v.Alignment) > 1
					for _, w := range words(*l.Expected.State) {
						wanted[w], asked[w] = true, *l.Expected.State
					}
				}
			}
		}
	}
	exchanged := func(pair [2]string) Size {
		other := map[string]string{pair[0]: pair[1], pair[1]: pair[0]}
		change := display.InRows(other)
		if !rowed {
			change = func(t *display.Track, x display.State) display.State {
				if to, ok := other[t.Short(x)]; ok {
					return asked[to]
				}
				return x
			}
		}
		return Size{Text: fmt.Sprintf("%s and %s of %s are exchanged: each is shown where the other should be.",
			quoted(rowed, pair[0]), quoted(rowed, pair[1]), s.Part.Name), Reel: states(s.Part.Name, change)}
	}
	right, shown := map[string]bool{}, map[[2]string]bool{} // shown where it should be; what is shown in place of what
	for _, p := range s.shown.Pairs {
		want, got := words(p.Want), words(p.Seen)
		for i := range min(len(want), len(got)) {
			right[want[i]] = right[want[i]] || want[i] == got[i]
			shown[[2]string{want[i], got[i]}] = true
		}
	}
	seen := map[[2]string]bool{}
	for _, p := range s.shown.Pairs {
		want, got := words(p.Want), words(p.Seen)
		if !p.Wrong || len(want) != len(got) {
			continue
		}
		for i := range want {
			pair := [2]string{min(want[i], got[i]), max(want[i], got[i])}
			both := shown[[2]string{got[i], want[i]}] ||
				!sequence && rowed && worded(want[i]) && !right[want[i]] && !right[got[i]] && s.showsRow(want[i])
			if pair[0] == pair[1] || !wanted[got[i]] || !both || seen[pair] || strings.TrimSpace(pair[0]) == "" ||
				len(out) == 4 {
				continue
			}
			seen[pair] = true
			out = append(out, exchanged(pair))
		}
	}
	if _, counts := s.counting(); len(out) > 0 || !sequence || !lost || counts || len(asked) > mostExchanged {
		return out
	}
	// where the order is another one from the start, nothing stands beside what should be there
	names := slices.Sorted(maps.Keys(asked))
	for i, a := range names {
		for _, b := range names[i+1:] {
			if s.shows(asked[a]) && s.shows(asked[b]) && !asked[a].Unlit() && !asked[b].Unlit() {
				out = append(out, exchanged([2]string{a, b}))
			}
		}
	}
	return out
}

// mostExchanged is among how many states any two are tried.
const mostExchanged = 5

// shows reports whether a state of the display is ever seen.
func (s *Subject) shows(x display.State) bool {
	return slices.ContainsFunc(s.shown.Tracks, func(t *display.Track) bool {
		return slices.ContainsFunc(t.Frames, func(f display.Frame) bool { return t.Alike(f.State, x) })
	})
}

// showsRow reports whether a row of the display is ever seen with a text.
func (s *Subject) showsRow(text string) bool {
	return slices.ContainsFunc(s.shown.Tracks, func(t *display.Track) bool {
		lettered, _ := display.As[display.Lettered](t.Geometry)
		return slices.ContainsFunc(t.Frames, func(f display.Frame) bool {
			return slices.Contains(lettered.Rows(t, f.State), text)
		})
	})
}

// worded reports whether a text has a word in it: numbers get exchanged by chance.
func worded(text string) bool { return strings.ContainsFunc(text, unicode.IsLetter) }

func quoted(text bool, s string) string {
	if text {
		return fmt.Sprintf("%q", strings.TrimSpace(s))
	}
	return s
}
