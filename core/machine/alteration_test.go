package machine

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"hemble/core/firmware"
)

// What a number may have been meant to be, by what differs, with how seldom that is.
func TestEach(t *testing.T) {
	for _, c := range []struct {
		name   string
		hints  Hints
		is     int64
		flips  bool
		to     int64
		rare   int
		listed bool
	}{
		{"one more", Hints{}, 9, false, 10, 0, true},
		{"one more, where only times differ", Hints{Timing: true}, 9, false, 10, Seldom, true},
		{"by what a number was off", Hints{Shifts: []int64{-4}}, 9, false, 5, 0, true},
		{"by the ratio of two times", Hints{Ratios: [][2]int64{{1000, 502}}}, 250, false, 500, Seldom, true},
		{"by what a time was too short, and nothing else", Hints{Ratios: [][2]int64{{11_000, 6_020}}, Timing: true}, 5_000,
			false, 10_000, 0, true},
		{"a number too small for a time", Hints{Ratios: [][2]int64{{9, 1}}}, 3, false, 27, 0, false},
		{"a number that was expected", Hints{Wanted: []int64{70}}, 80, false, 70, Seldom, true},
		{"the other way", Hints{}, 5, false, -5, Seldom, true},
		{"one bit", Hints{}, 5, true, 69, Unlikely, true},
		{"no bit", Hints{}, 5, false, 69, Unlikely, false},
	} {
		t.Run(c.name, func(t *testing.T) {
			rare, listed := 0, false
			c.hints.Each(c.is, c.flips, func(r int, to int64) {
				if to == c.to && !listed {
					rare, listed = r, true
				}
			})
			assert.Equal(t, c.listed, listed)
			if listed {
				assert.Equal(t, c.rare, rare)
			}
		})
	}
}

// What was seen too large may have been brought about by a number that is too large.
func TestEachBegins(t *testing.T) {
	for shift, want := range map[int64]int64{0: 10, 3: 10, -3: 8} {
		h := Hints{}
		if shift != 0 {
			h.Shifts = []int64{shift}
		}
		var tried []int64
		h.Each(9, false, func(_ int, to int64) { tried = append(tried, to) })
		assert.Equal(t, want, tried[0], shift)
	}
}

func TestRounded(t *testing.T) {
	for n, want := range map[int64]int64{0: 0, 7: 7, 99: 99, 101: 100, 103: 103, 498: 500, 1_204: 1_200,
		999_999: 1_000_000, 123_456: 123_456, 10_040: 10_000} {
		assert.Equal(t, want, Rounded(n), n)
	}
}

func TestRewrites(t *testing.T) {
	im := &firmware.Image{Flash: []firmware.Segment{{Address: 4, Data: []byte{1, 2, 3, 4}}}}
	assert.True(t, Rewrites(im, map[uint32]uint16{4: 0x0203}))
	assert.False(t, Rewrites(im, map[uint32]uint16{4: 0x0201, 6: 0x0403}))
	assert.False(t, Rewrites(im, map[uint32]uint16{40: 5}), "there is nothing")
	to := Rewritten(map[uint32]uint16{6: 0x0a09})(im)
	assert.Equal(t, []byte{1, 2, 9, 10}, to.Flash[0].Data)
	assert.Equal(t, []byte{1, 2, 3, 4}, im.Flash[0].Data)
}

func TestNumbers(t *testing.T) {
	for _, c := range []struct {
		Alteration
		want [2]int64
	}{
		{Alteration{From: 30, To: 29}, [2]int64{30, 29}}, {Alteration{Stands: "30", Meant: "31"}, [2]int64{30, 31}},
		{Alteration{Stands: "0x10", Meant: "10"}, [2]int64{16, 10}},
		{Alteration{Stands: "250UL", Meant: "251UL"}, [2]int64{250, 251}},
		{Alteration{Stands: "lock", Meant: "gate"}, [2]int64{}},
	} {
		is, meant := c.Numbers()
		assert.Equal(t, c.want, [2]int64{is, meant}, "%+v", c.Alteration)
	}
}
