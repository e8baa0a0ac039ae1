package live_test

import (
	"os"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/clock"
	"hemble/live"
)

// A probe changes nothing of what is seen. It tells each net's levels at any width, stops at each change of one, and
// has the displays as driven.
func TestProbe(t *testing.T) {
	x := read(t, "../templates/04-four-digits-scanned")
	file, err := os.ReadFile("../templates/04-four-digits-scanned/reference.elf")
	require.NoError(t, err)
	im, err := live.Image(x, file)
	require.NoError(t, err)
	plain, err := live.Begin(x, 0, im, live.AsCued, false)
	require.NoError(t, err)
	probed, err := live.Begin(x, 0, im, live.AsCued, true)
	require.NoError(t, err)
	require.NoError(t, plain.Advance(t.Context(), x.Trials[0].Length))
	require.NoError(t, probed.Advance(t.Context(), clock.Second))
	_, err = plain.Scope(0, 1, 1)
	assert.ErrorContains(t, err, "no probe")
	_, err = plain.Driven()
	assert.Error(t, err)
	assert.Error(t, plain.AdvanceToChange(t.Context(), 1))

	traces, err := probed.Scope(clock.Second-20*clock.Millisecond, clock.Second, 200)
	require.NoError(t, err)
	require.NotEmpty(t, traces)
	moving := 0
	for _, one := range traces {
		assert.Len(t, one.Columns, 200)
		assert.Empty(t, strings.Trim(one.Columns, "01z~x# "), one.Net)
		if strings.Contains(one.Columns, "0") && strings.Contains(one.Columns, "1") {
			moving++
		}
	}
	assert.Positive(t, moving, "selects of a scanned display move")
	wide, err := probed.Scope(0, clock.Second, 10)
	require.NoError(t, err)
	assert.Contains(t, wide[len(wide)-1].Columns+wide[0].Columns, "#")

	// from change to change: each stop is where some net changes
	for range 20 {
		before := probed.Now()
		require.NoError(t, probed.AdvanceToChange(t.Context(), before+clock.Second))
		now := probed.Now()
		require.Greater(t, now, before)
		require.Less(t, now, before+100*clock.Millisecond)
		after, err := probed.Scope(now-clock.Nanosecond, now+clock.Nanosecond, 2)
		require.NoError(t, err)
		changed := false
		for _, one := range after {
			changed = changed || one.Columns[0] != one.Columns[1]
		}
		assert.True(t, changed)
	}
	tracks, err := probed.Driven()
	require.NoError(t, err)
	require.Len(t, tracks, 1)
	for _, d := range tracks {
		assert.Len(t, d.Frames, 1)
	}
	require.NoError(t, probed.Advance(t.Context(), x.Trials[0].Length))
	a, b := plain.Reel(), probed.Reel()
	assert.Equal(t, a.Tracks, b.Tracks)
	assert.Equal(t, a.Cues, b.Cues)
}

// A net that changes more often than is kept tells what is known, and that the rest is not.
func TestProbeForgets(t *testing.T) {
	x := read(t, "../templates/09-sensor-with-alarm")
	file, err := os.ReadFile("../templates/09-sensor-with-alarm/reference.elf")
	require.NoError(t, err)
	im, err := live.Image(x, file)
	require.NoError(t, err)
	s, err := live.Begin(x, 0, im, live.ByHand, true)
	require.NoError(t, err)
	for i, c := range s.Controls {
		if c.Part == "gauge" {
			require.NoError(t, s.Do(i, false, "5V"))
		}
	}
	require.NoError(t, s.Advance(t.Context(), 40*clock.Second)) // 80,000 edges of 1 kHz
	traces, err := s.Scope(0, 40*clock.Second, 40)
	require.NoError(t, err)
	for _, one := range traces {
		if one.Net == "PB1" {
			assert.Equal(t, byte(' '), one.Columns[0])
			assert.Equal(t, byte('#'), one.Columns[39])
		}
	}
}

// What went over a bus stands in the scope where it was over, as long as it is kept; what falls into one column is
// counted.
func TestProbeHearsBuses(t *testing.T) {
	x := read(t, "../templates/06-two-wire-clock")
	file, err := os.ReadFile("../templates/06-two-wire-clock/reference.elf")
	require.NoError(t, err)
	im, err := live.Image(x, file)
	require.NoError(t, err)
	s, err := live.Begin(x, 0, im, live.ByHand, true)
	require.NoError(t, err)
	require.NoError(t, s.Advance(t.Context(), 1100*clock.Millisecond))
	traces, err := s.Scope(0, s.Now(), 1000)
	require.NoError(t, err)
	require.True(t, traces[0].Bus)
	require.NotEmpty(t, traces[0].Sent)
	first := traces[0].Sent[0]
	at := clock.Time(first.Column) * s.Now() / 1000
	close, err := s.Scope(at, at+2*clock.Millisecond, 1000)
	require.NoError(t, err)
	texts := []string{}
	for _, m := range close[0].Sent {
		texts = append(texts, m.Text)
	}
	assert.Equal(t, "write data, addresses counting", first.Text)
	assert.Contains(t, texts, "display 0x01 BF", "a 0 and the colon")
	assert.Positive(t, first.More, "in a second, they are too close to tell")
	for _, one := range traces[1:] {
		assert.False(t, one.Bus, one.Net)
	}
}
