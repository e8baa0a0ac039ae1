package diagnosis

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/clock"
	"hemble/core/display"
	"hemble/core/exercise"
	"hemble/core/finding"
	"hemble/core/reel"
)

// pressed are the codes of the signs of the counter (see leftout_test.go) that shows one number after another: before
// all inputs, and after each of them.
func pressed(t *testing.T, signs []symptom, numbers ...int) (codes []finding.Code) {
	x, problems := exercise.Read("exercise.yaml", []byte(counter))
	require.NotNil(t, x, "%v", problems)
	p := x.Part("count")
	track := display.Track{Display: "count", Geometry: p.Kind.Geometry(*p)}
	c, ok := display.As[display.Counting](track.Geometry)
	require.True(t, ok)
	r := &reel.Reel{Trial: "up and down", Length: x.Trials[0].Length}
	for _, part := range []string{"more", "more", "less", "anew", "more"} {
		at := clock.Time(len(r.Cues)+1) * clock.Second
		r.Cues = append(r.Cues, reel.Fired{Name: x.Trials[0].Cues[len(r.Cues)].Name, Verb: "press", Part: part,
			Text: "press " + part, Start: at, End: at + 100*clock.Millisecond})
	}
	for i, n := range numbers {
		from := clock.Time(i) * clock.Second
		blank := display.Emissive(0, track.Geometry.Lights())
		track.Frames = append(track.Frames, display.Frame{From: from + 20*clock.Millisecond*clock.Time(min(i, 1)),
			To: from + 1020*clock.Millisecond, State: c.WriteNumber(&track, blank, 0, n)})
	}
	track.Frames[len(numbers)-1].To = r.Length
	r.Tracks = []display.Track{track}
	seen := Seen{Reel: r}
	for _, e := range x.Trials[0].Expect {
		seen.Verdicts = append(seen.Verdicts, e.Judge(r))
	}
	for _, f := range symptoms(signs, x, []Seen{seen}) {
		codes = append(codes, f.Code)
	}
	return codes
}

// A number that is drawn before it is counted on catches up with another input; one that does not may be off.
func TestDrawnFirst(t *testing.T) {
	assert.Empty(t, pressed(t, answers, 0, 1, 2, 1, 0, 1))
	assert.Equal(t, []finding.Code{"lag-input"}, pressed(t, answers, 0, 0, 1, 1, 0, 0))
	assert.NotContains(t, pressed(t, answers, 0, 0, 1, 0, 0, 0), finding.Code("lag-input"), "one too few throughout")
	assert.NotContains(t, pressed(t, answers, 0, 0, 0, 0, 0, 0), finding.Code("lag-input"), "nothing is counted")
}

// One input of several that counts by another step is told with both.
func TestOtherStep(t *testing.T) {
	scaled := finding.Code("count-scaled")
	assert.NotContains(t, pressed(t, fields, 0, 1, 2, 1, 0, 1), scaled)
	assert.Contains(t, pressed(t, fields, 0, 1, 3, 1, 0, 1), scaled)
	assert.NotContains(t, pressed(t, fields, 0, 2, 4, 3, 0, 2), scaled, "wrong before the second")
	assert.NotContains(t, pressed(t, fields, 0, 1, 0, 1, 0, 1), scaled, "the other way")
}
