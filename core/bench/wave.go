package bench

import (
	"math/bits"
	"slices"

	"hemble/core/clock"
	"hemble/core/machine"
)

// mostAside is how many periods of a wave are carried out edge by edge before it is asked again whether vision can do
// without, where it could not.
const mostAside = 16

// repeated carries out a batch of followed pins so many times more, a period after one another. Where a period leaves
// all that vision knows as it was, those behind it are left out.
func (b *Bench) repeated(edges []machine.Edge, times int64, period clock.Time) {
	edges = slices.Clone(edges)
	b.seenBy = b.seenBy[:0]
	for i := range edges {
		b.whoSees(&edges[i])
	}
	further := func(n int64) {
		for i := range edges {
			edges[i].At += clock.Time(n) * period
		}
		times -= n
	}
	aside := int64(1)
	for times > 0 {
		checks := b.load.checks
		for _, f := range b.seenBy {
			f.vision.Remember()
		}
		further(1)
		b.followed(edges)
		more := times
		for _, f := range b.seenBy {
			more = f.vision.Repeats(edges[len(edges)-1].At, period, more)
		}
		if more > 0 && checks == b.load.checks {
			for _, f := range b.seenBy {
				f.vision.Repeat(more, period)
			}
			further(more)
			aside = 1
			continue
		}
		for range min(aside, times) {
			further(1)
			b.followed(edges)
		}
		aside = min(2*aside, mostAside)
	}
}

// whoSees adds the displays that an edge shows on.
func (b *Bench) whoSees(e *machine.Edge) {
	for rest := e.Pins; rest != 0; rest &= rest - 1 {
		for _, effects := range b.effects[int(e.From)+bits.TrailingZeros32(rest)] {
			for _, x := range effects {
				if !slices.Contains(b.seenBy, x.part) {
					b.seenBy = append(b.seenBy, x.part)
				}
			}
		}
	}
}
