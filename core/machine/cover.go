package machine

import (
	"slices"

	"hemble/core/clock"
)

// Cover tells which instructions of a program were carried out, when first, and in which rounds. A core puts an
// instruction of its own in the place of each until then, so that it costs nothing afterwards.
type Cover[I comparable] struct {
	belongs []I
	mark    func(*I)
	at      []clock.Time // -1 before
	rounds  []Rounds
	round   Rounds
}

// Rounds are some of the rounds that a run is parted into: bit 0 is the first.
type Rounds uint8

// NewCover has mark change each instruction.
func NewCover[I comparable](code []I, mark func(*I)) *Cover[I] {
	c := &Cover[I]{belongs: slices.Clone(code), mark: mark, at: make([]clock.Time, len(code)),
		rounds: make([]Rounds, len(code)), round: 1}
	for i := range code {
		c.at[i] = -1
		mark(&code[i])
	}
	return c
}

// Anew begins another round. What has something else in its place now stays as it is.
func (c *Cover[I]) Anew(code []I) {
	c.round <<= 1
	for i := range code {
		if code[i] == c.belongs[i] {
			c.mark(&code[i])
		}
	}
}

// Reach notes down that an instruction is carried out, and gives what belongs in its place.
func (c *Cover[I]) Reach(i int, at clock.Time) I {
	if c.at[i] < 0 {
		c.at[i] = at
	}
	c.rounds[i] |= c.round
	return c.belongs[i]
}

// Reached tells when that was first; ok is false where it never was. A nil Cover knows nothing.
func (c *Cover[I]) Reached(i int) (at clock.Time, ok bool) {
	if c == nil || i < 0 || i >= len(c.at) || c.at[i] < 0 {
		return 0, false
	}
	return c.at[i], true
}

// Rounds tells in which it was.
func (c *Cover[I]) Rounds(i int) Rounds {
	if c == nil || i < 0 || i >= len(c.rounds) {
		return 0
	}
	return c.rounds[i]
}
