// Package contact is a mechanical contact that bounces, for parts that have contacts.
package contact

import (
	"fmt"

	"hemble/core/clock"
	"hemble/core/part"
	"hemble/core/spec"
)

// Bounce is the setting of parts with contacts.
var Bounce = spec.Field{Name: "bounce", Kind: spec.Duration, Default: "4ms",
	Doc: "how long the contact bounces; 0 for no bounce"}

// Edges is the setting that gives the bounce edge by edge.
var Edges = spec.Field{Name: "edges", Kind: spec.List, Of: &spec.Field{Name: "time", Kind: spec.Duration},
	Doc: "the bounce edge by edge, in place of a random one: when the contact opens and closes after it moved, as `[0.4ms, 0.9ms]`; an even number of times, up to 100 ms"}

// longest is the last of given edges; most is how many there may be.
const (
	longest = 100 * clock.Millisecond
	most    = 100
)

// CheckEdges finds what is wrong with given edges.
func CheckEdges(b part.Instance) (out []spec.Problem) {
	before := clock.Time(0)
	list := b.Settings.Get("edges").List
	if len(list)%2 != 0 || len(list) > most {
		out = append(out,
			spec.Problem{Pos: b.Settings.At("edges"),
				Text: fmt.Sprintf("%d edges: expected an even number of at most %d, so that the contact settles in its new position", len(list), most)})
	}
	for _, e := range list {
		if e.Time <= before || e.Time > longest {
			out = append(out,
				spec.Problem{Pos: e.Pos,
					Text: fmt.Sprintf("an edge at %s: expected increasing times, above 0 and up to %s",
						e.Time.Short(), longest.Short())})
			break
		}
		before = e.Time
	}
	return out
}

// Source is where the bounce comes from.
const Source = "bounce of common tactile switches: under 5 ms, a handful of openings"

// Contact joins two terminals of its part. It bounces on closing and on opening, in a way that depends on the
// trial's seed only.
type Contact struct {
	world  part.Host
	a, b   int
	timer  int
	bounce clock.Time
	edges  []clock.Time // given ones, as gaps
	closed bool
	left   []clock.Time // gaps between the openings and closings still to come
}

// New is an open contact between two terminals, with a timer of its part for its bounce, which its part's settings
// tell.
func New(w part.Host, a, b, timer int, settings spec.Values) *Contact {
	c := &Contact{world: w, a: a, b: b, timer: timer, bounce: settings.Time("bounce")}
	before := clock.Time(0)
	for _, e := range settings.Get("edges").List {
		c.edges = append(c.edges, e.Time-before)
		before = e.Time
	}
	return c
}

// Move closes or opens: an even number of changes comes after the first one.
func (c *Contact) Move(closed bool) {
	c.left = c.left[:0]
	switch {
	case c.bounce > 0 && len(c.edges) > 0:
		c.left = append(c.left, c.edges...)
	case c.bounce > 0:
		n := 2 * int64(1+c.world.Random()%3)
		for i := int64(0); i < n; i++ { // of random length, none longer than its share
			c.left = append(c.left,
				c.bounce/clock.Time(n)/4+clock.Time(c.world.Random()%uint64(c.bounce/clock.Time(n)*3/4+1)))
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
