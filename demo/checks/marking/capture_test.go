package marking_test

import (
	"bytes"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/bench"
	"hemble/core/capture"
	"hemble/core/firmware"
	"hemble/core/judge"
	"hemble/core/machine/avr"
	"hemble/core/marking"
	"hemble/core/sheet"
	"hemble/demo"
	"hemble/demo/checks"
	"hemble/render"
)

// captured runs a firmware, captures its nets and judges the capture.
func captured(t *testing.T, name, file string, trial int, edit func(string) string) (run, capt *sheet.Sheet) {
	e, data, err := demo.Pick(name, file)
	require.NoError(t, err)
	x := checks.Read(t, e.Text)
	x.Each = true // a capture cannot be run again: what was seen alone counts
	im, err := firmware.Read(data, avr.Memories)
	require.NoError(t, err)
	var vcd bytes.Buffer
	watcher := render.NewNetVCD(&vcd, x.Name, x.Parts)
	b, err := bench.New(x, &x.Trials[trial], im, bench.Options{Watcher: watcher})
	require.NoError(t, err)
	require.NoError(t, b.Advance(t.Context(), x.Trials[trial].Length))
	require.NoError(t, watcher.Close(b.Now()))
	tape, err := capture.Open(strings.NewReader(edit(vcd.String())), x.Chip, capture.Options{})
	require.NoError(t, err)
	r, err := marking.MarkCapture(t.Context(), x, trial, "capture.vcd", tape)
	require.NoError(t, err)
	return mark(t, x, data).Sheet, r.Sheet
}

func same(text string) string { return text }

// A capture of a bench is judged as the run itself was: its cues are found in the captured inputs.
func TestCapture(t *testing.T) {
	for _, c := range []struct {
		exercise, file string
		trial          int
	}{
		{"chamber-gauge", "haq-interrupts", 0}, {"chamber-gauge", "haq-interrupts", 1},
		{"chamber-gauge", "stroud-b-f-swapped", 1},
		{"boat-counter", "imre-timer", 0}, {"boat-counter", "jarvis-leading-zeros", 0}, {"gate-word", "frost-loop", 0},
		{"gate-codes", "birch-spi", 0},
		{"boat-lamps", "oke-half-speed", 0}, {"keeper-board", "doyle-waits", 0}, {"notice-board", "webb-hardware", 0},
		{"sluice-dial", "hale-settled", 0}, {"sluice-dial", "irwin-direction", 0}, {"sluice-dial", "kirk-underflow", 0},
	} {
		run, capt := captured(t, c.exercise, c.file, c.trial, same)
		want := run.Trials[c.trial]
		require.Len(t, capt.Trials, 1)
		assert.Equal(t, want.Marks.String(), capt.Trials[0].Marks.String(), "%s %s: %v", c.exercise, c.file,
			capt.Trials[0].Verdicts)
		for i, v := range want.Verdicts {
			assert.Equal(t, v.Outcome, capt.Trials[0].Verdicts[i].Outcome, v.Expectation)
		}
		assert.Equal(t, want.Of.String(), capt.Of.String(), "of the one trial")
	}
}

// Where the capture lacks a signal, what depends on it is not judged.
func TestCaptureOfSome(t *testing.T) {
	_, capt := captured(t, "boat-lamps", "marsh-waits", 0, func(vcd string) string {
		return strings.ReplaceAll(vcd, " PB1 $end", " other $end")
	})
	for _, v := range capt.Trials[0].Verdicts {
		if v.Display == "green" {
			assert.Equal(t, judge.NotJudged, v.Outcome)
			assert.Contains(t, v.Evidence[0], "no signal for PB1")
		} else {
			assert.Equal(t, judge.Met, v.Outcome)
		}
	}
	_, capt = captured(t, "boat-lamps", "marsh-waits", 0, func(vcd string) string { return vcd + "\n#?" })
	assert.Contains(t, capt.Failed, "is no time")
}
