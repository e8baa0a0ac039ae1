package machinetest

import (
	"encoding/binary"
	"fmt"
	"math/bits"
	"slices"

	"hemble/core/circuit"
	"hemble/core/clock"
	"hemble/core/machine"
)

// Recorder is a listener that keeps a digest of every edge with its time and place, in whatever order those come that
// are handed over late.
type Recorder struct {
	Edges  int
	Digest uint64
	last   machine.Edge
}

// Drive takes edges.
func (r *Recorder) Drive(t clock.Time, changes []machine.Change, at machine.Place) clock.Time {
	for _, c := range changes {
		r.edge(t, c, at)
	}
	return clock.Never
}

// Follow takes those of followed pins.
func (r *Recorder) Follow(edges []machine.Edge) {
	for _, e := range edges {
		for p := e.Pins; p != 0; p &= p - 1 {
			i := bits.TrailingZeros32(p)
			d := circuit.DrivenLow
			if e.Levels>>i&1 == 1 {
				d = circuit.DrivenHigh
			}
			r.edge(e.At, machine.Change{Pin: e.From + machine.Pin(i), Drive: d}, e.Place)
		}
	}
}

// Repeat takes edges that come so many times more.
func (r *Recorder) Repeat(edges []machine.Edge, times int64, period clock.Time) {
	edges = slices.Clone(edges)
	for range times {
		for i := range edges {
			edges[i].At += period
		}
		r.Follow(edges)
	}
}

func (r *Recorder) edge(t clock.Time, c machine.Change, at machine.Place) {
	h := machine.Mix(uint64(t))
	for _, v := range []uint64{uint64(c.Pin), uint64(c.Drive.Level), uint64(c.Drive.Strength), uint64(at.Core),
		uint64(at.PC)} {
		h = machine.Mix(h ^ v)
	}
	for i := 0; i < len(at.Stack); i += 8 {
		h = machine.Mix(h ^ binary.LittleEndian.Uint64(at.Stack[i:]))
	}
	r.Edges++
	r.Digest += h
	r.last = machine.Edge{At: t, From: c.Pin, Place: at}
}

// String tells how many edges there were, and the last.
func (r *Recorder) String() string {
	return fmt.Sprintf("%d edges (%016x), the last of pin %d at %s from 0x%04X", r.Edges, r.Digest, r.last.From, r.last.At,
		r.last.Place.PC)
}
