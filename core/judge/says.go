package judge

import (
	"fmt"
	"math/big"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"hemble/core/clock"
	"hemble/core/display"
	"hemble/core/reel"
	"hemble/core/spec"
)

func init() {
	register(&Kind{
		Name: "says",
		Doc:  "The terminal receives these lines in this order; other lines are ignored, or count as wrong. A line between slashes is a regular expression (RE2) for the whole line.",
		Fields: []spec.Field{
			{Name: "lines", Kind: spec.List, Of: &spec.Field{Name: "line", Kind: spec.Text}, Required: true,
				Doc: "the lines"},
			afterField,
			{Name: "within", Kind: spec.Duration,
				Doc: "the latest time for the last line, after the cue or after power-on"},
			{Name: "extra", Kind: spec.Choice, Choices: []string{"ignore", "wrong"}, Default: "ignore",
				Doc: "what happens to other lines: each that is wrong takes the share of one that is expected"},
			strictField,
		},
		Example: `{says: log, lines: ["gate open", "/level [0-9]+ cm/"], marks: 2}`,
		Build: func(s Setting, v spec.Values, ps *spec.Problems) Expectation {
			p := displayOf(s, "says", v, ps)
			if p == nil {
				return nil
			}
			if !p.Kind.Geometry(*p).Type().Traits().Lines {
				ps.Add(v.At("says"), "%q is a %s, which takes no lines of text", p.Name, p.Kind.Name)
			}
			x := &says{display: p.Name, within: v.Time("within"), strict: v.Bool("strict"),
				counts: v.Text("extra") == "wrong"}
			if v.Has("after") {
				m := readMoment(s, v.Get("after").Map, ps)
				x.after = &m
			}
			for _, l := range v.Get("lines").List {
				pattern, ok := readPattern(l, ps)
				if !ok {
					pattern = regexp.MustCompile("^(?:" + regexp.QuoteMeta(strings.TrimRight(l.Text, " ")) + ")$")
				}
				x.lines, x.patterns = append(x.lines, l.Text), append(x.patterns, pattern)
			}
			if v.Has("lines") && len(x.lines) == 0 {
				ps.Add(v.At("lines"), "no lines are given")
			}
			return x
		},
	})
}

// readPattern reads a regular expression between slashes; ok is false for other text.
func readPattern(v spec.Value, ps *spec.Problems) (p *regexp.Regexp, ok bool) {
	text, opened := strings.CutPrefix(v.Text, "/")
	text, closed := strings.CutSuffix(text, "/")
	if !opened || !closed || text == "" {
		return nil, false
	}
	p, err := regexp.Compile("^(?:" + text + ")$")
	if err != nil {
		ps.Add(v.Pos, "%s is no regular expression: %s", v.Text,
			strings.TrimPrefix(err.Error(), "error parsing regexp: "))
		return regexp.MustCompile("^$"), true
	}
	return p, true
}

type says struct {
	display  string
	lines    []string
	patterns []*regexp.Regexp
	after    *moment
	strict   bool // nothing is near
	counts   bool // other lines are wrong
	within   clock.Time
}

// Judge gives a share for each line of the longest run of lines that came in order.
func (x *says) Judge(r *reel.Reel) Verdict {
	t := r.Track(x.display)
	v := Verdict{Display: x.display, Fraction: new(big.Rat), Text: fmt.Sprintf("%s says %s", x.display, x.name())}
	from, to := clock.Time(0), r.Length
	if x.after != nil {
		v.Text += " after " + x.after.cue
		at, ok := x.after.in(r)
		if !ok {
			v.Outcome, v.Evidence = NotJudged, []string{"the cue never came"}
			return v
		}
		from = at
	}
	if x.within > 0 {
		to = min(to, from+x.within)
	}
	var frames []seen
	for _, f := range distinct(t, r) {
		if f.From >= from && f.From <= to && f.State.Line != "" {
			frames = append(frames, f)
		}
	}
	came := x.inOrder(frames)
	right, near, passed, at := 0, 0, 0, from
	others := x.others(came, frames)
	extra := len(others)
	tell := func(behind int) { // the other lines up to one
		for ; len(others) > 0 && others[0] < behind; others = others[1:] {
			f := frames[others[0]]
			if v.First == nil {
				v.First = &Difference{At: f.From, Expected: "nothing more", Seen: t.Describe(f.State)}
			}
			v.Alignment = append(v.Alignment, lane(t, Extra, nil, f))
		}
	}
	for i, k := range came {
		tell(k)
		expected := &Span{From: at, To: at, Text: x.word(i), State: x.ideal(i)}
		pair, seen := Pair{Operation: Missing, Expected: expected}, "no such line"
		switch {
		case k >= 0:
			at, passed = frames[k].From, k+1
			expected.From, expected.To = at, at
			if pair = lane(t, Right, expected, frames[k]); x.worth(i, frames[k].State.Line) < rightLine {
				pair.Operation, seen = Near, t.Describe(frames[k].State)
				near++
			} else {
				right++
			}
		case passed < len(frames):
			seen = t.Describe(frames[passed].State) + " next"
			if other := x.beside(i, came, frames); other >= 0 {
				pair = lane(t, Wrong, expected, frames[other])
			}
		}
		if v.First == nil && pair.Operation != Right {
			v.First = &Difference{At: at, Expected: x.word(i), Seen: seen}
		}
		v.Alignment = append(v.Alignment, pair)
	}
	tell(len(frames))
	sum := new(big.Rat).Mul(nearShare, big.NewRat(int64(near), 1))
	v.Fraction = fractionOf(sum.Add(sum, big.NewRat(int64(right-extra), 1)), max(1, len(came)))
	v.Outcome = outcome(v.Fraction)
	v.Evidence = []string{fmt.Sprintf("%d of %d lines, in order", right, len(came))}
	if near > 0 {
		v.Evidence[0] += fmt.Sprintf(", %d in another form", near)
	}
	if extra > 0 {
		v.Evidence[0] += fmt.Sprintf(", %d extra", extra)
	}
	return v
}

// others are the lines that came for none, and in no one's place; none where they do not count.
func (x *says) others(came []int, frames []seen) (out []int) {
	if !x.counts {
		return nil
	}
	taken := map[int]bool{}
	for i, k := range came {
		if k < 0 {
			k = x.beside(i, came, frames)
		}
		taken[k] = true
	}
	for k := range frames {
		if !taken[k] {
			out = append(out, k)
		}
	}
	return out
}

// word is a line as differences tell it: a pattern between its slashes, text in quotes.
func (x *says) word(i int) string {
	if strings.HasPrefix(x.lines[i], "/") {
		return x.lines[i]
	}
	return strconv.Quote(x.lines[i])
}

// ideal is the state that shows a line; nil for a pattern.
func (x *says) ideal(i int) *display.State {
	if strings.HasPrefix(x.lines[i], "/") {
		return nil
	}
	return &display.State{Line: x.lines[i]}
}

// inOrder gives for each line that is expected the one that came for it, -1 for none: the longest common subsequence,
// and of equal ones that in which lines stand nearest to their places.
func (x *says) inOrder(frames []seen) []int {
	n, m := len(x.patterns), len(frames)
	value := func(i, k int) int {
		if worth := x.worth(i, frames[k].State.Line); worth > 0 {
			return worth*(n+m)*(n+m) - max(i-k, k-i)
		}
		return 0
	}
	best := make([][]int, n+1)
	for i := range best {
		best[i] = make([]int, m+1)
	}
	for i := n - 1; i >= 0; i-- {
		for k := m - 1; k >= 0; k-- {
			best[i][k] = max(best[i+1][k], best[i][k+1])
			if v := value(i, k); v > 0 {
				best[i][k] = max(best[i][k], v+best[i+1][k+1])
			}
		}
	}
	out := make([]int, n)
	k := 0
	for i := range n {
		out[i] = -1
		for k < m && best[i][k] > 0 && best[i][k] == best[i][k+1] {
			k++
		}
		if k < m && best[i][k] > best[i+1][k] {
			out[i] = k
			k++
		}
	}
	return out
}

// beside is the line that came in the place of one that did not, -1 for none: where as many came between their
// neighbours as are missing there, each in its turn, unless it is one that came for another place.
func (x *says) beside(i int, came []int, frames []seen) int {
	first, last := i, i+1
	for first > 0 && came[first-1] < 0 {
		first--
	}
	for last < len(came) && came[last] < 0 {
		last++
	}
	from, to := 0, len(frames)
	if first > 0 {
		from = came[first-1] + 1
	}
	if last < len(came) {
		to = came[last]
	}
	if to-from != last-first {
		return -1
	}
	k := from + i - first
	for other, at := range came {
		if at >= 0 && x.worth(other, frames[k].State.Line) > 0 {
			return -1
		}
	}
	return k
}

// What a line is worth, so that one in another form counts as much less as it earns.
const (
	rightLine = 5
	nearLine  = 3
)

// worth is that of a line that was received, for one that is expected: 0 for another one.
func (x *says) worth(i int, line string) int {
	if x.patterns[i].MatchString(strings.TrimRight(line, " ")) {
		return rightLine
	}
	words := func(s string) []string { return strings.Fields(strings.ToLower(s)) }
	if want := words(x.lines[i]); !x.strict && !strings.HasPrefix(x.lines[i], "/") && len(want) > 0 &&
		slices.Equal(want, words(line)) &&
		!x.other(i, line) {
		return nearLine
	}
	return 0
}

// other reports whether a line is what another place asks for: nothing is near that tells two lines apart.
func (x *says) other(i int, line string) bool {
	for k, p := range x.patterns {
		if k != i && x.lines[k] != x.lines[i] && p.MatchString(strings.TrimRight(line, " ")) {
			return true
		}
	}
	return false
}

func (x *says) name() string {
	if len(x.lines) == 1 {
		return fmt.Sprintf("%q", x.lines[0])
	}
	return fmt.Sprintf("%q … %q (%d lines)", x.lines[0], x.lines[len(x.lines)-1], len(x.lines))
}
