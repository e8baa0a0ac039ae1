package fault

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"

	"hemble/core/clock"
	"hemble/core/display"
	"hemble/core/exercise"
	"hemble/core/judge"
	"hemble/core/part"
	"hemble/core/reel"
)

// A pace is told by what all lengths have in common; a slightly other one not where some time more for each would do as
// well, and no pace at all where some lengths are right.
func TestPace(t *testing.T) {
	for _, c := range []struct {
		name       string
		want, seen []int // ms
		n, d       int64
	}{
		{"twice as long", []int{500, 1000, 300}, []int{1000, 2000, 600}, 2, 1},
		{"an eighth", []int{800, 1600}, []int{100, 200}, 1, 8},
		{"slightly longer, all alike, many of them", []int{1000, 1000, 1000, 1000, 1000}, []int{1060, 1060, 1060, 1060, 1060},
			1060, 1000},
		{"slightly longer, all alike", []int{3000, 3000}, []int{3180, 3180}, 1, 1},
		{"slightly longer in proportion", []int{1000, 2000, 4000, 1000, 3000}, []int{1060, 2120, 4240, 1060, 3180}, 1060, 1000},
		{"as much longer each time", []int{3000, 5000, 3000}, []int{3180, 5180, 3180}, 1, 1},
		{"one of several", []int{800, 2000, 600}, []int{8000, 2000, 600}, 1, 1},
		{"always the same", []int{1000, 1000}, []int{500, 500}, 1, 1},
		{"always the same, by far", []int{1000, 1000}, []int{125, 125}, 1, 8},
	} {
		r := &reel.Reel{Length: clock.Second * 100}
		v := judge.Verdict{Display: "lamp", Timed: true}
		at := clock.Second
		for i, want := range c.want {
			length, text := clock.Time(c.seen[i])*clock.Millisecond, fmt.Sprint(i)
			if strings.HasPrefix(c.name, "always the same") {
				text = "on"
			}
			v.Alignment = append(v.Alignment, judge.Pair{Operation: judge.Mistimed,
				Expected: &judge.Span{From: at, To: at + clock.Time(want)*clock.Millisecond, Text: text},
				Seen:     &judge.Span{From: at, To: at + length}})
			at += length
		}
		s := &Subject{Exercise: &exercise.Exercise{}, Part: &part.Instance{Name: "lamp"}, Reels: []*reel.Reel{r},
			Verdicts: [][]judge.Verdict{{v}}, shown: &display.Case{}}
		n, d := s.pace()
		assert.Equal(t, [2]int64{c.n, c.d}, [2]int64{n, d}, c.name)
	}
}
