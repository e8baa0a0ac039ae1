package display_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/clock"
	"hemble/core/display"
	_ "hemble/core/display/bar"
)

// judged is a bar of four lights in one trial: what was asked for in each second, and what was seen, as bits.
func judged(want, seen []uint64) *display.Case {
	g := display.Geometry{TypeName: "bar"}
	for i := range 4 {
		g.Shapes = append(g.Shapes, display.Shape{Light: i})
	}
	t := &display.Track{Display: "path", Geometry: g}
	c := &display.Case{Named: display.Named{Name: "path", Geometry: g}, Judged: true, Tracks: []*display.Track{t}}
	for i := range want {
		at := clock.Time(i) * clock.Second
		w, s := display.Emissive(want[i], 4), display.Emissive(seen[i], 4)
		t.Frames = append(t.Frames, display.Frame{From: at, To: at + clock.Second, State: s})
		c.Pairs = append(c.Pairs, display.Pair{Trial: "a day", On: t, At: at, Want: w, Seen: s, Wrong: want[i] != seen[i]})
	}
	return c
}

// A state that is always the same other one is told, and put back wherever it stands.
func TestInstead(t *testing.T) {
	want := []uint64{1, 2, 4, 8, 1, 2, 4, 8}
	c := judged(want, []uint64{1, 2, 5, 8, 1, 2, 5, 8})
	wrong, asked := c.Instead()
	require.Len(t, wrong, 1)
	assert.Equal(t, 4, asked)
	mended := c.Restored(wrong)
	for i, f := range c.Tracks[0].Frames {
		assert.Equal(t, want[i], mended(c.Tracks[0], f.State).Lights.Bits(), i)
	}
	for name, seen := range map[string][]uint64{
		"right at times":       {1, 2, 5, 8, 1, 2, 4, 8},
		"two in its place":     {1, 2, 5, 8, 1, 2, 6, 8},
		"another one's":        {1, 2, 8, 8, 1, 2, 8, 8},
		"two have it in place": {1, 3, 3, 8, 1, 3, 3, 8},
	} {
		wrong, _ := judged(want, seen).Instead()
		assert.Empty(t, wrong, name)
	}
}

// A step that is wrong at its place alone is told by its neighbours.
func TestMisstep(t *testing.T) {
	want := []uint64{1, 2, 4, 8, 4, 2, 1, 2, 4, 8, 4, 2, 1}
	c := judged(want, []uint64{1, 2, 0, 8, 4, 2, 1, 2, 0, 8, 4, 2, 1})
	wrong, mended := c.Misstep()
	require.NotNil(t, wrong)
	assert.Equal(t, uint64(4), wrong.Want.Lights.Bits())
	for i, f := range mended("a day", c.Tracks[0]) {
		assert.Equal(t, want[i], f.State.Lights.Bits(), i)
	}
	c = judged(want[:5], []uint64{0, 2, 4, 8, 4})
	wrong, mended = c.Misstep()
	require.NotNil(t, wrong, "the first")
	assert.Equal(t, uint64(1), mended("a day", c.Tracks[0])[0].State.Lights.Bits())
	for name, seen := range map[string][]uint64{
		"two are wrong":  {1, 2, 0, 8, 0, 2, 1, 2, 4, 8, 4, 2, 1},
		"right again":    {0, 2, 4, 8, 4, 2, 1, 2, 4, 8, 4, 2, 1},
		"right at times": {1, 2, 0, 8, 4, 2, 1, 2, 4, 8, 0, 2, 1},
	} {
		wrong, _ := judged(want, seen).Misstep()
		assert.Nil(t, wrong, name)
	}
}
