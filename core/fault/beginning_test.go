package fault

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/display"
	"hemble/core/judge"
	"hemble/core/reel"
)

// What is drawn when it changes, and not before, is there from the beginning once that is repaired.
func TestShownLate(t *testing.T) {
	const even = "{text: red, for: 500ms}, {text: white, for: 500ms}, {text: green, for: 500ms}"
	s, x := subjected(t, "6s", even, lasts{"red", 500}, lasts{"white", 500}, lasts{"green", 500})
	assert.Empty(t, shownLate(s), "all is right")
	frames := s.Reels[0].Tracks[0].Frames
	frames[0].State = display.Emissive(0, 3)
	again := func() *Subject {
		verdicts := [][]judge.Verdict{{x.Trials[0].Expect[0].Judge(s.Reels[0])}}
		return NewSubject(x, s.Part, []*reel.Reel{s.Reels[0]}, verdicts)
	}
	sizes := shownLate(again())
	require.Len(t, sizes, 1)
	assert.Equal(t, "mood shows nothing until something changes: red should be there from the beginning.", sizes[0].Text)
	assert.Equal(t, judge.Met, x.Trials[0].Expect[0].Judge(sizes[0].Reel(s.Reels[0])).Outcome)
	frames[0].State = display.Emissive(colours["blue"], 3)
	assert.Empty(t, shownLate(again()), "something else is there")
	frames[0].State, frames[3].State = display.Emissive(0, 3), display.Emissive(0, 3)
	assert.Empty(t, shownLate(again()), "it is dark later, too")
}

// An input is read the other way round only where the program does something with it, and not at once what is right.
func TestMisreadInputsDoSomething(t *testing.T) {
	s, x := counted(t, timed, 1, 1, 1, 1)
	s.Part = x.Part("more")
	assert.True(t, s.idle())
	assert.Empty(t, buttonInverted(s))
	s, _ = counted(t, timed, 1, 1, 2, 2)
	assert.False(t, s.idle())

	set := strings.NewReplacer("part: button, pins: {1: PB2, 2: GND}", "part: switch, pins: {common: PB2, on: GND}",
		"press: more, as: c1", "set: more, to: on, as: c1", "press: more, as: c2", "set: more, to: off, as: c2",
		"press: more, as: c3", "set: more, to: on, as: c3").Replace(timed)
	s, x = counted(t, set, 0, 3, 6, 9)
	s.Part = x.Part("more")
	assert.True(t, s.usedRightly(), "it follows at once, each time")
	misread := s.Part.Kind.Misread[0]
	assert.Empty(t, s.misread(misread))
	s, x = counted(t, set, 0, 3, 3, 9)
	s.Part = x.Part("more")
	assert.False(t, s.usedRightly())
	assert.NotEmpty(t, s.misread(misread))
}
