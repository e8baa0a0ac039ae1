package cli

import (
	"strings"
	"testing"

	tea "github.com/charmbracelet/bubbletea"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/bench"
	"hemble/core/clock"
)

// live opens a bench of the demo course as `play` does, without a terminal.
func playing(t *testing.T, name, firmware string, cues bool) *player {
	x, err := readExercise(course + name)
	require.NoError(t, err)
	x, im, err := (&sources{}).image(t.Context(), x, course+name+"/firmware/"+firmware)
	require.NoError(t, err)
	p, err := newPlayer(t.Context(), x, &x.Trials[0], im, firmware, cues, bench.Options{})
	require.NoError(t, err)
	return p
}

// pass lets simulated time go by.
func (p *player) pass(t *testing.T, d clock.Time) {
	require.NoError(t, p.bench.Advance(t.Context(), p.bench.Now()+d))
}

func (p *player) press(keys ...string) {
	for _, k := range keys {
		m := tea.KeyMsg{Type: tea.KeyRunes, Runes: []rune(k)}
		switch k {
		case "enter":
			m = tea.KeyMsg{Type: tea.KeyEnter}
		case " ":
			m = tea.KeyMsg{Type: tea.KeySpace, Runes: []rune(" ")}
		}
		p.Update(m)
	}
}

func TestPlayButtons(t *testing.T) {
	p := playing(t, "sluice-dial", "bell-table.elf", false)
	p.pass(t, 500*clock.Millisecond)
	view := p.View()
	for _, want := range []string{"Sluice dial", "percent", "0.500 s", "[.] turn right", "[,] turn left", "[q] quit"} {
		assert.Contains(t, view, want)
	}
	shown := func() string { return p.bench.Live()[0].Frames[0].Text }
	assert.Equal(t, `"       0"`, shown())
	for range 3 {
		p.press(".")
		p.pass(t, 100*clock.Millisecond)
	}
	p.press(",")
	p.pass(t, 500*clock.Millisecond)
	assert.Equal(t, `"       2"`, shown())
	assert.NotContains(t, p.View(), "register digit")
	p.press("l")
	assert.Contains(t, p.View(), "register digit")
	p.press("r")
	p.pass(t, 500*clock.Millisecond)
	assert.Equal(t, `"       0"`, shown(), "power off and on")
}

func TestPlayValuesAndText(t *testing.T) {
	p := playing(t, "log-terminal", "tate-polling.elf", false)
	p.pass(t, 500*clock.Millisecond)
	assert.Contains(t, p.View(), "Wherry Lock ready")
	assert.Contains(t, p.View(), "is off")
	p.press("g")
	p.pass(t, 500*clock.Millisecond)
	assert.Contains(t, p.View(), "gate open")
	assert.Contains(t, p.View(), "is on")
	p.press("t", "l", "e", "v", "e", "l", "?")
	assert.Contains(t, p.View(), "level?█", "keys go into the text while one is typed")
	p.press("enter")
	p.pass(t, 500*clock.Millisecond)
	assert.Contains(t, p.View(), "level 102 cm")

	p = playing(t, "flood-alarm", "naylor-timer.elf", false)
	for range 40 {
		p.press("g")
	}
	p.pass(t, clock.Second)
	assert.Contains(t, p.View(), "♪ 880Hz")
	p.press("G")
	assert.Contains(t, p.View(), "set to 4.4V")
}

func TestPlaySpeedAndCues(t *testing.T) {
	p := playing(t, "gate-word", "frost-loop.elf", true)
	assert.Contains(t, p.View(), "1×")
	p.press("+", "+", "-")
	assert.Contains(t, p.View(), "2×")
	p.press(" ")
	assert.Contains(t, p.View(), "paused")
	p.pass(t, 1500*clock.Millisecond)
	assert.Equal(t, `"OPEn"`, p.bench.Live()[0].Frames[0].Text, "the trial's own cue")
	p.advance(frame)
	assert.Greater(t, p.bench.Now(), 1500*clock.Millisecond)
	_, quit := p.Update(tea.KeyMsg{Type: tea.KeyRunes, Runes: []rune("q")})
	require.NotNil(t, quit)
	assert.Equal(t, tea.Quit(), quit())
}

// Every control of every part of the course has a key of its own.
func TestPlayKeys(t *testing.T) {
	for _, c := range [][2]string{{"gate-clock", "rudge-timer.elf"}, {"lock-tally", "keane-debounced.elf"},
		{"chamber-gauge", "ames-polling.elf"}} {
		p := playing(t, c[0], c[1], false)
		keys := map[string]bool{}
		for _, k := range p.controls {
			assert.False(t, keys[k.key], "%s: %s", c[0], k.key)
			assert.False(t, strings.Contains(reserved, k.key))
			keys[k.key] = true
		}
		assert.NotEmpty(t, keys)
	}
}
