package lights

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"hemble/core/display"
)

// One light in place of all up to it, or of two neighbours, is told where it is so, and put right.
func TestDot(t *testing.T) {
	row := func(members int, want, seen []uint64) *display.Case {
		g := display.Geometry{Shapes: make([]display.Shape, 6), Members: make([]display.Member, members)}
		for i := range g.Shapes {
			g.Shapes[i].Light = i
		}
		track := &display.Track{Geometry: g}
		c := &display.Case{Named: display.Named{Name: "row", Geometry: g}, Judged: true, Tracks: []*display.Track{track}}
		for i := range want {
			track.Frames = append(track.Frames, display.Frame{State: display.Emissive(seen[i], 6)})
			c.Pairs = append(c.Pairs, display.Pair{On: track, Want: display.Emissive(want[i], 6),
				Seen: track.Frames[i].State, Wrong: want[i] != seen[i]})
		}
		return c
	}
	repaired := func(c *display.Case, text string) bool {
		for _, s := range Dot.Sizes(c) {
			right := true
			for _, p := range c.Pairs {
				right = right && s.State(p.On, p.Seen).Lights.Bits() == p.Want.Lights.Bits()
			}
			if right {
				return assert.Equal(t, text, s.Text)
			}
		}
		return false
	}
	assert.True(t, repaired(row(0, []uint64{1, 3, 7, 15}, []uint64{1, 2, 4, 8}), "row shows one light where all up to it should be lit."))
	assert.True(t, repaired(row(6, []uint64{3, 6, 12, 24}, []uint64{1, 2, 4, 8}), "row shows one light where two neighbours should be lit."))
	assert.True(t, repaired(row(6, []uint64{3, 6, 12, 24}, []uint64{2, 4, 8, 16}), "row shows one light where two neighbours should be lit."))
	assert.False(t, repaired(row(6, []uint64{3, 5, 12, 24}, []uint64{1, 2, 4, 8}), ""), "not neighbours each time")
	assert.Empty(t, Dot.Sizes(row(2, []uint64{1, 3}, []uint64{1, 2})), "lamps of several lights are no row")
}
