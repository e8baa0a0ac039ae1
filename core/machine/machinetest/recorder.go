package machinetest

import (
	"fmt"

	"hemble/core/clock"
	"hemble/core/machine"
)

// Recorder is a listener that keeps a digest of every edge with its time and place.
type Recorder struct {
	Edges  int
	Digest uint64
	Last   string
}

// Drive takes edges.
func (r *Recorder) Drive(t clock.Time, changes []machine.Change, at machine.Place) clock.Time {
	for _, c := range changes {
		r.Edges++
		for _, v := range []uint64{uint64(t), uint64(c.Pin), uint64(c.Drive.Level), uint64(c.Drive.Strength),
			uint64(at.PC)} {
			r.Digest = (r.Digest ^ v) * 0x100000001b3
		}
	}
	r.Last = fmt.Sprint(t, changes, at)
	return clock.Never
}
