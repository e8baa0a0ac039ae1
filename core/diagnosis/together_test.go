package diagnosis

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/display"
	"hemble/core/exercise"
	"hemble/core/fault"
	"hemble/core/part"
	"hemble/core/reel"
)

// A mistake that fits several parts of a kind is tried on all of them at once; one that fits a single part, and one
// that only repairs with the help of what was expected, is not.
func TestTogether(t *testing.T) {
	button, lamp := &part.Kind{Name: "button"}, &part.Kind{Name: "lamp"}
	bounce, inverted, once := &fault.Fault{}, &fault.Fault{}, &fault.Fault{Once: true}
	var done []string
	pressed := func(name string) []fault.Size {
		return []fault.Size{{Text: name + " bounces.", Bench: func(*exercise.Exercise) { done = append(done, name) }}}
	}
	flipped := func(name string) []fault.Size {
		return []fault.Size{{Text: name + " is inverted.", Reel: func(r *reel.Reel) *reel.Reel {
			out := *r
			out.Tracks = append(out.Tracks, display.Track{Display: name})
			return &out
		}}}
	}
	var tried sets
	for _, name := range []string{"up", "down"} {
		tried.add(bounce, 1, &part.Instance{Name: name, Kind: button}, pressed(name))
		tried.add(once, 2, &part.Instance{Name: name, Kind: button}, pressed(name))
	}
	for _, name := range []string{"red", "amber", "green"} {
		tried.add(inverted, 3, &part.Instance{Name: name, Kind: lamp}, flipped(name))
	}
	tried.add(bounce, 1, &part.Instance{Name: "lone", Kind: lamp}, pressed("lone"))
	all := tried.together()
	require.Len(t, all, 2)
	assert.Equal(t, "up bounces. The same holds for down.", all[0].size.Text)
	all[0].size.Bench(nil)
	assert.Equal(t, []string{"up", "down"}, done)
	assert.Equal(t, []string{"amber", "green"}, all[1].more)
	assert.Len(t, all[1].size.Reel(&reel.Reel{}).Tracks, 3)

	// what tells uses as they were does so for each; what cuts a display's reel is tried by itself
	after := func(name string) []fault.Size {
		size := pressed(name)[0]
		size.After = flipped(name)[0].Reel
		return []fault.Size{size}
	}
	tried = nil
	for _, name := range []string{"up", "down"} {
		tried.add(bounce, 1, &part.Instance{Name: name, Kind: button}, after(name))
	}
	all = tried.together()
	require.Len(t, all, 1)
	assert.Len(t, all[0].size.After(&reel.Reel{}).Tracks, 2)
	shown := &part.Kind{Name: "lamp", Geometry: func(part.Instance) display.Geometry { return display.Geometry{} }}
	tried = nil
	for _, name := range []string{"red", "amber"} {
		tried.add(bounce, 1, &part.Instance{Name: name, Kind: shown}, after(name))
	}
	assert.Empty(t, tried.together())

	// it is likely where it is for most of them
	for _, likely := range [][]bool{{true, true, false}, {true, false, false}} {
		var tried sets
		for i, l := range likely {
			sizes := pressed("a")
			sizes[0].Likely = l
			tried.add(bounce, 1, &part.Instance{Name: string(rune('a' + i)), Kind: button}, sizes)
		}
		assert.Equal(t, likely[1], tried.together()[0].size.Likely)
	}
}
