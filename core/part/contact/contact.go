// Package contact is a mechanical contact that bounces, for the parts that have some.
package contact

import (
	"hemble/core/clock"
	"hemble/core/part"
	"hemble/core/spec"
)

// Bounce is the setting of parts with contacts.
var Bounce = spec.Field{Name: "bounce", Kind: spec.Duration, Default: "4ms", Doc: "how long the contact bounces; 0 for a clean one"}

// Source tells where the bounce comes from.
const Source = "bounce of common tactile switches: under 5 ms, a handful of openings"

// Contact joins two terminals of its part. It bounces on closing and on opening, in a way that depends on the
// trial's seed only.
type Contact struct {
	world  part.World
	a, b   int
	timer  int
	bounce clock.Time
	closed bool
	left   []clock.Time // gaps between the openings and closings still to come
}

// New is an open contact between two terminals, with a timer of its part for its bounce.
func New(w part.World, a, b, timer int, bounce clock.Time) *Contact {
	return &Contact{world: w, a: a, b: b, timer: timer, bounce: bounce}
}

// Move closes or opens: an even number of changes comes after the first one.
func (c *Contact) Move(closed bool) {
	c.left = c.left[:0]
	if c.bounce > 0 {
		n := 2 * int64(1+c.world.Random()%3)
		for i := int64(0); i < n; i++ { // of random length, none longer than its share
			c.left = append(c.left, c.bounce/clock.Time(n)/4+clock.Time(c.world.Random()%uint64(c.bounce/clock.Time(n)*3/4+1)))
		}
	}
	c.set(closed)
	c.schedule()
}

// Wake is the next change of a bounce.
func (c *Contact) Wake() {
	c.set(!c.closed)
	c.schedule()
}

func (c *Contact) schedule() {
	if len(c.left) == 0 {
		return
	}
	c.world.After(c.timer, c.left[0])
	c.left = c.left[1:]
}

func (c *Contact) set(closed bool) {
	if closed != c.closed {
		c.closed = closed
		c.world.Contact(c.a, c.b, closed)
	}
}

// Rest puts the contact somewhere without a bounce, and ends one under way.
func (c *Contact) Rest(closed bool) {
	c.left = c.left[:0]
	c.set(closed)
}
