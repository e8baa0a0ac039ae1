package bench_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/bench"
	"hemble/core/clock"
	"hemble/core/exercise"
	"hemble/core/firmware"
	"hemble/demo"
)

// gaugeCues runs a right firmware of the chamber gauge with other cues, and gives when they came.
func gaugeCues(t *testing.T, cues string, o bench.Options) map[string]clock.Time {
	e, data, err := demo.Pick("chamber-gauge", "ames-polling")
	require.NoError(t, err)
	head, _, _ := strings.Cut(string(e.Text), "trials:")
	x, problems := exercise.Read("x", []byte(head+"trials:\n  - name: x\n    length: 6s\n    cues:\n"+cues+"    expect: [{reads: gauge, text: 2, at: end}]\n"))
	require.NotNil(t, x, "%v", problems)
	im, err := firmware.Read(data)
	require.NoError(t, err)
	b, err := bench.New(x, &x.Trials[0], im, o)
	require.NoError(t, err)
	require.NoError(t, b.Advance(t.Context(), x.Trials[0].Length))
	came := map[string]clock.Time{}
	for _, c := range b.Finish().Cues {
		came[c.Name] = c.Start
	}
	return came
}

// Cues follow what the display shows, and each other: the gauge shows 4 from 1.4 s on, 2 again after the press.
func TestTriggers(t *testing.T) {
	cues := `      - {when: {display: gauge, shows: 4}, press: raise, as: seen}
      - {after: {cue: seen, from: end, by: 500ms}, press: raise, for: 50ms, as: then}
      - {when: {display: gauge, shows: 9, within: 3s}, press: raise, as: never}
      - {after: {cue: never}, press: raise, as: neither}
`
	came := gaugeCues(t, cues, bench.Options{})
	assert.InDelta(t, 1.4+0.175, came["seen"].Seconds(), 0.03)
	assert.Equal(t, came["seen"]+600*clock.Millisecond, came["then"])
	assert.NotContains(t, came, "never")
	assert.NotContains(t, came, "neither")
	assert.Equal(t, came, gaugeCues(t, cues, bench.Options{Plain: true}), "the same in every run")
}

// A cue that waits for a display waits from the moment on when the one before it began.
func TestTriggersInOrder(t *testing.T) {
	came := gaugeCues(t, `      - {at: 4s, press: raise, as: first}
      - {when: {display: gauge, shows: 8}, press: raise, as: second}
`, bench.Options{})
	assert.Greater(t, came["second"], 4*clock.Second, "it was there a second before, too")
}
