package rtl

import (
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/clock"
	"hemble/core/firmware"
	"hemble/core/machine"
	"hemble/core/machine/machinetest"
	"hemble/core/netlist"
)

// courseDesigns begins a fuzz target with the designs of the demo course.
func courseDesigns(f *testing.F) {
	course, err := filepath.Glob("../../../demo/course/*/firmware/*.design")
	require.NoError(f, err)
	require.NotEmpty(f, course)
	for _, name := range course {
		data, err := os.ReadFile(name)
		require.NoError(f, err)
		f.Add(data)
	}
}

// Whatever the file of a design says: it is refused, or it runs within its effort, with waiting left out as without.
func FuzzDesign(f *testing.F) {
	courseDesigns(f)
	f.Fuzz(func(t *testing.T, data []byte) {
		d, err := netlist.Read(data)
		if err != nil {
			return
		}
		var seen [2]machinetest.Recorder
		var hashes [2][32]byte
		for i := range seen {
			m := newMachine(Chip, machine.Config{Seed: 3, NoSkip: i == 1, Watched: []machine.Pin{3, 17}}).(*Machine)
			if m.Load(&firmware.Image{Design: d}) != nil {
				return
			}
			m.most = 200_000
			if stop := m.Run(20*clock.Microsecond, &seen[i]); stop.Reason != machine.Reached {
				return
			}
			hashes[i] = m.Hash()
		}
		assert.Equal(t, seen[1], seen[0])
		assert.Equal(t, hashes[1], hashes[0])
	})
}
