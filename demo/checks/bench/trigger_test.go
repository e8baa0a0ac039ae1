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
	"hemble/core/machine/avr"
	"hemble/demo"
)

// gaugeCues runs a right firmware of the chamber gauge with other cues, and gives when they came.
func gaugeCues(t *testing.T, cues string, o bench.Options) map[string]clock.Time {
	e, data, err := demo.Pick("chamber-gauge", "ames-polling")
	require.NoError(t, err)
	head, _, _ := strings.Cut(string(e.Text), "trials:")
	x, problems := exercise.Read("x",
		[]byte(head+"trials:\n  - name: x\n    length: 6s\n    cues:\n"+cues+
			"    expect: [{reads: gauge, text: 2, at: end}]\n"))
	require.NotNil(t, x, "%v", problems)
	im, err := firmware.Read(data, avr.Memories)
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
	assert.Equal(t, came, gaugeCues(t, cues, bench.Options{Reference: true}), "the same in every run")
}

// A cue that waits for a display waits from the moment on when the one before it began.
func TestTriggersInOrder(t *testing.T) {
	came := gaugeCues(t, `      - {at: 4s, press: raise, as: first}
      - {when: {display: gauge, shows: 8}, press: raise, as: second}
`, bench.Options{})
	assert.Greater(t, came["second"], 4*clock.Second, "it was there a second before, too")
}

// A cue can wait for a group: the digits of the quay signal read as one number, and its lamps as a phase.
func TestTriggerOfGroup(t *testing.T) {
	e, data, err := demo.Pick("quay-signal", "abbott-loop")
	require.NoError(t, err)
	head, _, _ := strings.Cut(string(e.Text), "trials:")
	head = strings.Replace(head, "groups:", "  push: {part: button, pins: {1: PC3, 2: GND}}\ngroups:", 1)
	x, problems := exercise.Read("x", []byte(head+`trials:
  - name: x
    length: 15s
    cues:
      - {when: {display: seconds, shows: 9}, press: push, as: nine}
      - {when: {display: phase, shows: red + amber}, press: push, as: ready}
      - {when: {display: phase, shows: amber, within: 14s}, press: push, as: never}
    expect: [{reads: phase, text: green, at: end}, {never: seconds, frame: 19}]
`))
	require.NotNil(t, x, "%v", problems)
	im, err := firmware.Read(data, avr.Memories)
	require.NoError(t, err)
	r, err := bench.Run(t.Context(), x, &x.Trials[0], im)
	require.NoError(t, err)
	came := map[string]float64{}
	for _, c := range r.Cues {
		came[c.Name] = c.Start.Seconds()
	}
	assert.InDelta(t, 3.2, came["nine"], 0.1)
	assert.InDelta(t, 12.2, came["ready"], 0.1)
	assert.NotContains(t, came, "never")
	for _, want := range x.Trials[0].Expect {
		assert.Equal(t, "met", string(want.Judge(r).Outcome))
	}
	var groups []string
	for _, track := range r.Tracks {
		if track.Of != nil {
			groups = append(groups, track.Display)
		}
	}
	assert.Equal(t, []string{"seconds", "phase"}, groups)
}
