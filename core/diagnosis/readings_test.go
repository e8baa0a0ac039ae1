package diagnosis

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"hemble/core/clock"
	"hemble/core/display"
	"hemble/core/judge"
)

// Right states for another time are told as that, unless the sequence had begun before what was found of it.
func TestOnlyMistimed(t *testing.T) {
	span := func(text string, from, to clock.Time) *judge.Span {
		return &judge.Span{Text: text, From: from * clock.Millisecond, To: to * clock.Millisecond}
	}
	found := []judge.Pair{
		{Operation: judge.Mistimed, Seen: span("off", 7110, 8510), Expected: span("off", 0, 3100)},
		{Operation: judge.Right, Seen: span("on", 8510, 10000), Expected: span("on", 3100, 3100)},
	}
	for _, c := range []struct {
		before *judge.Span
		told   bool
	}{
		{nil, true},
		{span("dim", 3510, 7110), true},
		{span("on", 7000, 7110), true},
		{span("on", 3510, 7110), false},
	} {
		all := found
		if c.before != nil {
			all = append([]judge.Pair{{Operation: judge.Ignored, Seen: c.before}}, found...)
		}
		text, at, ok := onlyMistimed(&view{track: &display.Track{Display: "many"},
			verdicts: []judge.Verdict{{Alignment: all}}})
		assert.Equal(t, c.told, ok, "%v", c.before)
		if c.told {
			assert.Equal(t, "many shows the right states, but not for the right time: off for 1.4 s where 3.1 s is expected.", text)
			assert.Equal(t, 7110*clock.Millisecond, at)
		}
	}
}
