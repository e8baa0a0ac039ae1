package judge

import (
	"fmt"
	"math/big"
	"regexp"
	"slices"
	"strings"

	"hemble/core/clock"
	"hemble/core/reel"
	"hemble/core/spec"
)

func init() {
	register(&Kind{
		Name: "says",
		Doc:  "The terminal receives these lines in this order; other lines in between are ignored. A line between slashes is a regular expression (RE2) for the whole line.",
		Fields: []spec.Field{
			{Name: "lines", Kind: spec.List, Of: &spec.Field{Name: "line", Kind: spec.Text}, Required: true,
				Doc: "the lines"},
			afterField,
			{Name: "within", Kind: spec.Duration,
				Doc: "the latest time for the last line, after the cue or after power-on"},
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
			x := &says{display: p.Name, within: v.Time("within"), strict: v.Bool("strict")}
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
	// The longest common subsequence of lines and patterns.
	n, m := len(x.patterns), len(frames)
	best := make([][]int, n+1)
	for i := range best {
		best[i] = make([]int, m+1)
	}
	for i := n - 1; i >= 0; i-- {
		for k := m - 1; k >= 0; k-- {
			best[i][k] = max(best[i+1][k], best[i][k+1])
			if worth := x.worth(i, frames[k].State.Line); worth > 0 {
				best[i][k] = max(best[i][k], worth+best[i+1][k+1])
			}
		}
	}
	right, near := 0, 0
	at, k := from, 0
	for i := range n {
		for k < m && best[i][k] == best[i][k+1] && best[i][k] > 0 {
			k++
		}
		expected := &Span{From: at, To: at, Text: x.lines[i]}
		if worth := 0; k < m {
			worth = x.worth(i, frames[k].State.Line)
			if worth > 0 && best[i][k] == worth+best[i+1][k+1] {
				at = frames[k].From
				expected.From, expected.To = at, at
				pair := lane(t, Right, expected, frames[k])
				if right++; worth < rightLine {
					right--
					near++
					pair.Operation = Near
					if v.First == nil {
						v.First = &Difference{At: at, Expected: x.lines[i], Seen: t.Describe(frames[k].State)}
					}
				}
				v.Alignment = append(v.Alignment, pair)
				k++
				continue
			}
		}
		v.Alignment = append(v.Alignment, Pair{Operation: Missing, Expected: expected})
		if v.First == nil {
			seen := "no such line"
			if k < m {
				seen = t.Describe(frames[k].State) + " next"
			}
			v.First = &Difference{At: at, Expected: x.lines[i], Seen: seen}
		}
	}
	sum := new(big.Rat).Mul(nearShare, big.NewRat(int64(near), 1))
	v.Fraction = fractionOf(sum.Add(sum, big.NewRat(int64(right), 1)), max(1, n))
	v.Outcome = outcome(v.Fraction)
	v.Evidence = []string{fmt.Sprintf("%d of %d lines, in order", right, n)}
	if near > 0 {
		v.Evidence[0] += fmt.Sprintf(", %d in another form", near)
	}
	return v
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
