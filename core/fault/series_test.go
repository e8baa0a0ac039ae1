package fault

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/judge"
)

// Numbers that follow from those that are wanted by a rule of their neighbours are told, and put right.
func TestSeries(t *testing.T) {
	exercise := func(frames string) string {
		return timed[:strings.Index(timed, "      - {answers")] +
			"      - {shows: count, frames: [" + frames + "], each: 1s, start: power, marks: 10}\n"
	}
	for _, c := range []struct {
		find   func(*Subject) []Size
		frames string
		shows  []int
		text   string
	}{
		{addsUp, `" 4", " 1", " 2", " 3", {text: " 5", for: any}`, []int{4, 5, 7, 10, 15},
			"The number on count adds up: it is not set back to 0 once it was shown."},
		{addsNothing, `" 4", " 5", " 7", 10, {text: 15, for: any}`, []int{4, 1, 2, 3, 5},
			"The number on count is set anew each time, where it should be added to."},
		{countedLate, `" 4", " 6", " 8", 10, {text: 12, for: any}`, []int{4, 5, 7, 9, 11},
			"The number on count is too small by 1 from the second one on: it is shown before it is counted on."},
	} {
		s, x := counted(t, exercise(c.frames), c.shows...)
		sizes := c.find(s)
		require.Len(t, sizes, 1, c.text)
		assert.Equal(t, c.text, sizes[0].Text)
		assert.Equal(t, judge.Met, x.Trials[0].Expect[0].Judge(sizes[0].Reel(s.Reels[0])).Outcome, c.text)
		for _, shows := range [][]int{{4, 9, 2, 7, 1}, {4, 5}} { // nothing that follows, and too few
			s, _ := counted(t, exercise(c.frames), shows...)
			assert.Empty(t, c.find(s), "%s %v", c.text, shows)
		}
	}
}
