package similarity_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	_ "hemble/core/catalogue"
	"hemble/core/firmware"
	"hemble/core/machine"
	"hemble/core/machine/avr"
	"hemble/core/similarity"
	"hemble/demo"
)

func images(t *testing.T, names ...string) (out []*firmware.Image) {
	for _, name := range names {
		if name == "" {
			out = append(out, nil)
			continue
		}
		_, data, err := demo.Pick("chamber-gauge", name)
		require.NoError(t, err)
		im, err := firmware.Read(data, avr.Memories)
		require.NoError(t, err)
		out = append(out, im)
	}
	return out
}

func chip(t *testing.T) *machine.Chip {
	c, err := machine.Find("atmega328p")
	require.NoError(t, err)
	return c
}

// moved gives a program with a routine of its own pushed to another place: jumps and calls then differ in their
// targets.
func moved(im *firmware.Image) *firmware.Image {
	s := im.Flash[0]
	pad := []byte{0x01, 0x00, 0x12, 0x24, 0x23, 0x24, 0x34, 0x24} // a few instructions that nobody else has there
	return &firmware.Image{Format: im.Format, Machine: im.Machine,
		Flash: []firmware.Segment{{Address: s.Address, Data: append(append([]byte{}, pad...), s.Data...)}}}
}

func TestACopyIsFound(t *testing.T) {
	all := images(t, "haq-interrupts", "ames-polling", "penn-inverted", "", "brook-no-pull-up")
	all = append(all, moved(all[1]))
	found := similarity.Find(chip(t), all, nil)
	require.NotEmpty(t, found)
	copied := 0
	for _, f := range found {
		if f.Programs == 2 && f.Sites[0].Program == 1 && f.Sites[1].Program == 5 {
			copied += f.Instructions
		}
	}
	assert.Greater(t, copied, 2*similarity.Window, "what only the copy has, wherever it stands now")
	assert.GreaterOrEqual(t, found[0].Rank, found[len(found)-1].Rank)
	for _, f := range found {
		assert.Equal(t, f.Programs, len(f.Sites))
		assert.GreaterOrEqual(t, f.Instructions, similarity.Window)
		for i, s := range f.Sites {
			assert.NotEqual(t, 3, s.Program, "what has no program shares nothing")
			assert.True(t, i == 0 || f.Sites[i-1].Program < s.Program)
		}
	}
}

// What the reference has is given to all, and shows nothing.
func TestTheReferenceIsLeftOut(t *testing.T) {
	all := images(t, "haq-interrupts", "ames-polling")
	two := []*firmware.Image{all[0], all[0], all[1]}
	require.NotEmpty(t, similarity.Find(chip(t), two, nil))
	assert.Empty(t, similarity.Find(chip(t), two, all[:1]))
	assert.Empty(t, similarity.Find(chip(t), nil, all))
	assert.Empty(t, similarity.Find(chip(t), []*firmware.Image{nil, nil}, nil))
}

// The same inputs give the same list, in the same order.
func TestRoutinesAreDeterministic(t *testing.T) {
	all := images(t, "haq-interrupts", "ames-polling", "penn-inverted", "reyes-too-slow", "quill-bounce")
	first := similarity.Find(chip(t), all, nil)
	for range 3 {
		assert.Equal(t, first, similarity.Find(chip(t), all, nil))
	}
}
