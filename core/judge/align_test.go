package judge

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"

	"hemble/core/clock"
	"hemble/core/display"
	"hemble/core/display/lines"
)

// every is the alignment by all cells, of which align looks at some.
func (a *aligner) every() []pairing {
	a.number()
	steps, _ := a.within((len(a.want)+1)*costMissing + (len(a.seen)+1)*costExtra)
	return steps
}

// numbered makes a track and expected frames of numbered lines of a terminal.
func numbered(want, seen []int) *aligner {
	a := &aligner{track: &display.Track{Geometry: display.Geometry{TypeName: lines.Form}},
		tolerance: func(l clock.Time) clock.Time { return l / 20 }}
	for _, n := range want {
		a.want = append(a.want, expected{want: lines.Matcher(fmt.Sprint(n)), length: clock.Second})
	}
	at := clock.Time(0)
	for _, n := range seen {
		length := clock.Second
		if n < 0 {
			n, length = -n, 2*clock.Second
		}
		a.seen = append(a.seen, seen1(at, at+length, n))
		at += length
	}
	return a
}

func seen1(from, to clock.Time, n int) seen {
	return seen{Frame: display.Frame{From: from, To: to, State: display.State{Line: fmt.Sprint(n)}}}
}

// What is looked at of all ways finds the one that looking at all of them finds, whatever was seen.
func TestAlignmentIsTheCheapest(t *testing.T) {
	r := rand.New(rand.NewPCG(5, 9))
	for range 3000 {
		var want, seen []int
		for range 1 + r.IntN(30) {
			want = append(want, 1+r.IntN(12))
		}
		seen = slices.Clone(want)
		for range r.IntN(12) { // some harm
			switch k := r.IntN(len(seen) + 1); r.IntN(5) {
			case 0:
				seen = slices.Insert(seen, k, 1+r.IntN(12))
			case 1:
				if k < len(seen) {
					seen = slices.Delete(seen, k, k+1)
				}
			case 2:
				if k < len(seen) {
					seen[k] = 1 + r.IntN(12)
				}
			case 3:
				if k < len(seen) {
					seen[k] = -seen[k]
				}
			case 4:
				for range r.IntN(20) {
					seen = append(seen, 1+r.IntN(12))
				}
			}
		}
		a := numbered(want, seen)
		a.anchored, a.ignore = r.IntN(2) == 0, r.IntN(2) == 0
		if r.IntN(2) == 0 {
			a.want[0].length = display.AnyLength
		}
		assert.Equal(t, a.every(), a.align(), "%v %v %v %v", want, seen, a.anchored, a.ignore)
	}
}

// Of usual tracks, right or with a few faults, the effort goes with their length and not with its square.
func TestAlignmentIsLinear(t *testing.T) {
	effort := func(n int, harm func([]int) []int) int {
		want := make([]int, n)
		for i := range want {
			want[i] = i + 1
		}
		a := numbered(want, harm(slices.Clone(want)))
		a.align()
		return a.compared
	}
	for name, harm := range map[string]func([]int) []int{
		"right":     func(s []int) []int { return s },
		"one gone":  func(s []int) []int { return slices.Delete(s, len(s)/2, len(s)/2+1) },
		"one more":  func(s []int) []int { return slices.Insert(s, len(s)/3, 7777777) },
		"two wrong": func(s []int) []int { s[3], s[len(s)-4] = 7777777, 8888888; return s },
		"too long":  func(s []int) []int { s[5] = -s[5]; return s },
	} {
		few, many := effort(300, harm), effort(3000, harm)
		assert.LessOrEqual(t, few, 300*40, name)
		assert.InDelta(t, 10, float64(many)/float64(few), 0.5, "%s: ten times the frames, ten times the effort", name)
	}
}

// Nothing that is shown while a program starts takes an expected frame's place: what comes then stands at the front.
func TestDarkStart(t *testing.T) {
	a := numbered([]int{1, 2, 3, 1, 2, 3}, []int{9, 1, 2, -3})
	a.seen[0].dark = true
	var first []int
	for _, p := range a.align() {
		if p.e >= 0 && p.s >= 0 {
			first = append(first, p.e)
		}
	}
	assert.Equal(t, []int{0, 1, 2}, first)
}

// A first frame of any length begins the sequence where it is first seen, so that what comes twice is too much; one
// that has a length may be there before, and what stands in front of it counts for nothing.
func TestBeginning(t *testing.T) {
	for _, c := range []struct {
		first clock.Time
		seen  []int
		steps string
	}{
		{display.AnyLength, []int{1, 2, 1, 2, 1}, "✓✓✓++"},
		{0, []int{1, 2, 1, 2, 1}, "✓✓✓++"},
		{clock.Second, []int{1, 2, 1, 2, 1}, "··✓✓✓"},
		{clock.Second, []int{1, -2, 1, 2, 1}, "··✓✓✓"},
		{display.AnyLength, []int{9, 2, 1, 2, 1}, "··✓✓✓"},
		{display.AnyLength, []int{9, 8, 1, 2, 1}, "··✓✓✓"},
		{display.AnyLength, []int{1, 9, 1, 2, 1}, "✓++✓✓"},
	} {
		a := numbered([]int{1, 2, 1}, c.seen)
		a.want[0].length = c.first
		marks := map[Operation]string{Right: "✓", Mistimed: "≈", Wrong: "✗", Missing: "-", Extra: "+", Ignored: "·"}
		steps := ""
		for _, p := range a.align() {
			steps += marks[p.step]
		}
		assert.Equal(t, c.steps, steps, "%s %v", c.first, c.seen)
	}
}
