package machinetest

import (
	"bytes"
	"testing"

	"hemble/core/firmware"
	"hemble/core/machine"
)

// FuzzAlterations holds for any program at an address: there is never too much that may be changed in it, and each of
// some of the changes leaves it as long as it is, changes it, and leaves the program itself alone.
func FuzzAlterations(f *testing.F, address uint32, list func(*firmware.Image, machine.Hints) []machine.Alteration) {
	f.Fuzz(func(t *testing.T, data []byte) {
		im := &firmware.Image{Flash: []firmware.Segment{{Address: address, Data: bytes.Clone(data)}}}
		all := list(im, machine.Hints{Shifts: []int64{3, -1}, Wanted: []int64{77, 1 << 20}, Ratios: [][2]int64{{3, 2}}})
		if len(all) > 2*machine.MostAltered {
			t.Fatalf("%d changes are listed", len(all))
		}
		for i, a := range all {
			if i%17 != 0 {
				continue
			}
			to := a.Change(im)
			if len(to.Flash) != 1 || len(to.Flash[0].Data) != len(data) || bytes.Equal(data, to.Flash[0].Data) {
				t.Fatalf("at %#x: slip %d, %d for %d changes nothing, or the length", a.Address, a.Slip, a.To, a.From)
			}
		}
		if !bytes.Equal(data, im.Flash[0].Data) {
			t.Fatal("the program itself was changed")
		}
	})
}
