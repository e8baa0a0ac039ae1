package graphic

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/display"
)

// read is a panel: the lines that were asked for beside those that were seen.
func read(pairs ...[2][]string) *display.Case {
	g := display.Geometry{TypeName: Form, Pixels: &display.Pixels{Columns: 128, Rows: 64}}
	t := &display.Track{Display: "panel", Geometry: g}
	c := &display.Case{Named: display.Named{Name: "panel", Geometry: g}, Judged: true, Tracks: []*display.Track{t}}
	for _, p := range pairs {
		want, seen := *(&text{p[0]}).Ideal(g), *(&text{p[1]}).Ideal(g)
		c.Pairs = append(c.Pairs, display.Pair{On: t, Want: want, Seen: seen, Wrong: !t.Alike(want, seen)})
	}
	return c
}

// A letter that is drawn as another one is told by every text that has it, and put right.
func TestOtherLetter(t *testing.T) {
	c := read([2][]string{{"HEATER", "STEP 1"}, {"HFATFR", "STFP 1"}}, [2][]string{{"HEATER", "STEP 2"}, {"HFATFR", "STFP 2"}})
	sizes := otherLetter(c)
	require.Len(t, sizes, 1)
	assert.Equal(t, "panel draws 'E' with the pattern of 'F'.", sizes[0].Text)
	for _, p := range c.Pairs {
		assert.True(t, p.On.Alike(p.Want, sizes[0].State(p.On, p.Seen)))
	}
	assert.Empty(t, otherLetter(read([2][]string{{"FEET"}, {"FFFT"}})), "another letter of the text")
	assert.Empty(t, otherLetter(read([2][]string{{"HEAT"}, {"HFAD"}})), "two letters")
	assert.Empty(t, otherLetter(read([2][]string{{"HEAT"}, {"HFAT"}})), "once")
}

// Text that differs in its spaces is near; a picture that is inverted is put right.
func TestForms(t *testing.T) {
	c := read([2][]string{{"STEP 1"}, {"STEP1"}}, [2][]string{{"STEP 1"}, {"STEP 7"}})
	assert.True(t, graphic{}.Near(c.Pairs[0].On, c.Pairs[0].Want, c.Pairs[0].Seen, nil))
	assert.False(t, graphic{}.Near(c.Pairs[1].On, c.Pairs[1].Want, c.Pairs[1].Seen, nil))
	size := inverted.Sizes(c)[0]
	p := c.Pairs[0]
	turned := size.State(p.On, p.Seen)
	assert.NotEqual(t, p.Seen.Pixels, turned.Pixels)
	assert.Equal(t, p.Seen.Pixels, size.State(p.On, turned).Pixels)
	assert.Nil(t, size.State(p.On, display.State{}).Pixels, "it is off")
}
