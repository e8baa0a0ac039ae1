package bench_test

import (
	"testing"

	"github.com/stretchr/testify/require"

	"hemble/core/bench"
	_ "hemble/core/catalogue"
	"hemble/core/exercise"
	"hemble/core/firmware"
)

// BenchmarkFlood is a lamp whose pin is switched every four cycles, for 100 ms: the cost of an edge
// through nets, part and eye.
func BenchmarkFlood(b *testing.B) {
	x, problems := exercise.Read("x", []byte(`hemble: 1
name: x
title: x
chip: {is: atmega328p}
bench: {red: {part: lamp, pins: {anode: PB0, cathode: GND}}}
trials: [{name: x, length: 100ms, expect: [{reads: red, text: on, at: end}]}]
`))
	require.Empty(b, problems)
	im := &firmware.Image{Flash: []firmware.Segment{{Data: []byte{0x20, 0x9a, 0x18, 0x9a, 0xfe, 0xcf}}}}
	edges := int64(0)
	for b.Loop() {
		r, err := bench.Run(b.Context(), x, &x.Trials[0], im)
		require.NoError(b, err)
		edges += r.Counters.Edges
	}
	b.ReportMetric(float64(b.Elapsed().Nanoseconds())/float64(edges), "ns/edge")
}
