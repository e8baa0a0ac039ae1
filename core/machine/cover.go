package machine

import (
	"slices"

	"hemble/core/clock"
)

// Cover tells which instructions of a program were carried out, and when first. A core puts an instruction of its own
// in the place of each until then, so that it costs nothing afterwards.
type Cover[I any] struct {
	belongs []I
	at      []clock.Time // -1 before
}

// NewCover has mark change each instruction.
func NewCover[I any](code []I, mark func(*I)) *Cover[I] {
	c := &Cover[I]{belongs: slices.Clone(code), at: make([]clock.Time, len(code))}
	for i := range code {
		c.at[i] = -1
		mark(&code[i])
	}
	return c
}

// Reach notes down that an instruction is carried out, and gives what belongs in its place.
func (c *Cover[I]) Reach(i int, at clock.Time) I {
	c.at[i] = at
	return c.belongs[i]
}

// Reached tells when that was; ok is false where it never was. A nil Cover knows nothing.
func (c *Cover[I]) Reached(i int) (at clock.Time, ok bool) {
	if c == nil || i < 0 || i >= len(c.at) || c.at[i] < 0 {
		return 0, false
	}
	return c.at[i], true
}
