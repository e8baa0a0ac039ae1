package fault_test

import (
	"encoding/json"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/bench"
	_ "hemble/core/catalogue"
	"hemble/core/exercise"
	"hemble/core/fault"
	"hemble/core/finding"
	"hemble/core/firmware"
	"hemble/core/machine/avr"
	"hemble/core/reel"
	"hemble/demo"
	"hemble/demo/checks"
)

// run gives an exercise of the demo course and the reel of a firmware on its first trial.
func run(t *testing.T, name, file string) (*exercise.Exercise, *reel.Reel) {
	e, data, err := demo.Pick(name, file)
	require.NoError(t, err)
	x := checks.Read(t, e.Text)
	im, err := firmware.Read(data, avr.Memories)
	require.NoError(t, err)
	r, err := bench.Run(t.Context(), x, &x.Trials[0], im)
	require.NoError(t, err)
	return x, r
}

func text(t *testing.T, r *reel.Reel) string {
	b, err := json.Marshal(r)
	require.NoError(t, err)
	return string(b)
}

// lit is what lights and characters a reel shows, brightness left aside.
func lit(r *reel.Reel) (out []any) {
	for _, track := range r.Tracks {
		for _, f := range track.Frames {
			out = append(out, f.From, f.To, f.State.Lights.Bits(), f.State.Cells, f.State.Pitch, f.State.Line,
				f.State.Pixels)
		}
	}
	return out
}

var runs = [][2]string{{"chamber-gauge", "haq-interrupts"}, {"boat-counter", "imre-timer"},
	{"gate-clock", "rudge-timer"}, {"keeper-board", "doyle-waits"},
	{"flood-alarm", "naylor-timer"}, {"boat-lamps", "marsh-waits"}, {"log-terminal", "tate-polling"},
	{"notice-board", "webb-hardware"}, {"lock-plate", "hale-pages"}}

func TestTable(t *testing.T) {
	seen := map[finding.Code]bool{}
	for _, f := range fault.All() {
		seen[f.Code] = true // several may share one: the same mistake on a display, and on what is between
		assert.NotEmpty(t, f.Doc, f.Code)
	}
	assert.Greater(t, len(seen), 30)
}

// A transform leaves the reel that it is given alone, and one on the reel that is not Once is undone by some transform
// of the same fault: a mistake can be repaired in the way that it is made. (A number that left the display's range is
// not.)
func TestTransforms(t *testing.T) {
	tried := map[finding.Code]int{}
	for _, name := range runs {
		x, r := run(t, name[0], name[1])
		before := text(t, r)
		for _, p := range x.Parts {
			for _, f := range fault.All() {
				sizes := f.Sizes(fault.NewSubject(x, p, []*reel.Reel{r}, nil))
				if f.Once {
					assert.Empty(t, sizes, "%s: nothing to undo it by without verdicts", f.Code)
				}
				for _, size := range sizes {
					assert.True(t, (size.Reel == nil) != (size.Bench == nil), f.Code)
					assert.True(t, size.Text+size.Effect+f.Doc != "", f.Code)
					if size.Reel == nil {
						clone := x.Clone()
						size.Bench(clone)
						continue
					}
					made := size.Reel(r)
					require.Equal(t, before, text(t, r), f.Code)
					if f.Code == "count-scaled" || f.Code == "columns" || f.Code == "leading-zeros" ||
						f.Code == "colon" || f.Code == "pitch" || f.Code == "lag" || f.Code == "hexadecimal" {
						continue // they lose what is cut off or rounded, or leave letters alone
					}
					undone := false
					for _, back := range sizes {
						undone = undone || back.Reel != nil && assert.ObjectsAreEqual(lit(r), lit(back.Reel(made)))
					}
					assert.True(t, undone, "%s: %s", f.Code, size.Text)
					tried[f.Code]++
				}
			}
		}
		fresh, _ := run(t, name[0], name[1])
		assert.Equal(t, fresh.Clock, x.Clock, "clones were changed, not the exercise")
		for i := range x.Parts {
			assert.Equal(t, fresh.Parts[i].Wired, x.Parts[i].Wired)
		}
	}
	for _, code := range strings.Fields("segments-inverted segments-swapped digits-order bit-order lamp-inverted count-offset rows turned") {
		assert.Positive(t, tried[finding.Code(code)], code)
	}
}

func TestReadNumber(t *testing.T) {
	x, r := run(t, "boat-counter", "imre-timer")
	track := r.Track(x.Parts[0].Name)
	var seen []int
	for _, f := range track.Frames {
		if n, ok := fault.ReadNumber(track, f.State, 0); ok {
			seen = append(seen, n)
		}
	}
	assert.Equal(t, []int{8, 9, 10, 11, 12}, seen)
}
