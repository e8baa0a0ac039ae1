package diagnosis

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"hemble/core/clock"
	"hemble/core/display"
	"hemble/core/judge"
)

func TestBlinking(t *testing.T) {
	half := clock.Second / 2
	states := func(lengths ...clock.Time) (v judge.Verdict) { // dark first, then lit
		at := clock.Time(0)
		for i, length := range lengths {
			s := display.Emissive(uint64(i%2), 1)
			v.Alignment = append(v.Alignment, judge.Pair{Expected: &judge.Span{From: at, To: at + length, State: &s}})
			at += length
		}
		return v
	}
	for _, c := range []struct {
		name string
		v    judge.Verdict
		each clock.Time
		most int
	}{
		{"nothing", states(), 0, 0},
		{"even", states(half, half, half, half), half, 4},
		{"behind a long state", states(4*half, half, half, half), half, 3},
		{"nearly even", states(half, half+half/5, half, half-half/5), half - half/5, 4},
		{"none as long as another", states(half, 2*half, 4*half), half, 1},
	} {
		each, most := blinking(c.v)
		assert.Equal(t, c.most, most, c.name)
		assert.Equal(t, c.each, each, c.name)
	}
}
