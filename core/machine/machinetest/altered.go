package machinetest

import (
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/firmware"
	"hemble/core/machine"
)

// FuzzAlterations holds for any program at an address: there is never too much that may be changed in it, and each of
// some of the changes leaves it as long as it is, changes it, and leaves the program itself alone.
func FuzzAlterations(f *testing.F, address uint32, list func(*firmware.Image, machine.Hints) []machine.Alteration) {
	f.Fuzz(func(t *testing.T, data []byte) {
		im := &firmware.Image{Flash: []firmware.Segment{{Address: address, Data: slices.Clone(data)}}}
		all := list(im, machine.Hints{Shifts: []int64{3, -1}, Wanted: []int64{77, 1 << 20}, Ratios: [][2]int64{{3, 2}}})
		require.LessOrEqual(t, len(all), 2*machine.MostAltered)
		for i, a := range all {
			if i%17 != 0 {
				continue
			}
			to := a.Change(im)
			require.Len(t, to.Flash, 1)
			require.Len(t, to.Flash[0].Data, len(data))
			assert.NotEqual(t, data, to.Flash[0].Data, "at %#x: slip %d, %d for %d", a.Address, a.Slip, a.To, a.From)
		}
		require.Equal(t, data, im.Flash[0].Data)
	})
}
