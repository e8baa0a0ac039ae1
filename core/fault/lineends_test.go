package fault

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"

	"hemble/core/clock"
	"hemble/core/display"
)

// Texts behind each other in one line are lines of their own, from when they came on, also where the page is not wide
// enough for all of them.
func TestLineEnds(t *testing.T) {
	const s = clock.Second
	first := strings.Repeat("gate open, ", 10)
	line := func(from, to clock.Time, text string, stages ...display.Stage) display.Frame {
		return display.Frame{From: from, To: to, State: display.State{Line: text}, Stages: stages}
	}
	track := &display.Track{Frames: []display.Frame{
		line(0, 1*s, ""),
		line(1*s, 5*s, first+"gate shut ", display.Stage{To: 2 * s, Line: "gate open,"}, display.Stage{To: 4 * s, Line: first}),
		line(5*s, 9*s, "again ", display.Stage{To: 7 * s, Line: "again"}),
	}}
	assert.Len(t, []rune(track.Frames[1].State.Line), pageWidth)
	got := ended(track)
	want := []display.Frame{line(0, 1*s, ""), line(1*s, 2*s, "gate open,"),
		line(2*s, 4*s, strings.TrimSpace(strings.Repeat("gate open, ", 9))), line(4*s, 9*s, "gate shut again")}
	assert.Equal(t, want, got)
}
