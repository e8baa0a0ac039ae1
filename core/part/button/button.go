// Package button is a push button with contact bounce.
package button

import (
	"fmt"

	"hemble/core/clock"
	"hemble/core/part"
	"hemble/core/spec"
)

func init() {
	part.Register(&part.Kind{
		Name:   "button",
		Title:  "Push button",
		Doc:    "A contact between two nets that is closed while pressed. It bounces, on closing and on opening, in a way that depends on the trial's seed only: every submission gets the same bounce.",
		Source: "bounce of common tactile switches: under 5 ms, a handful of openings",
		Settings: []spec.Field{
			{Name: "bounce", Kind: spec.Duration, Default: "4ms", Doc: "how long the contact bounces; 0 for a clean one"},
		},
		Pins:    []spec.Key{{Name: "1", Doc: "one side of the contact"}, {Name: "2", Doc: "the other side"}},
		Cues:    []string{"press"},
		Example: "raise: {part: button, bounce: 4ms, pins: {1: PD7, 2: GND}}",
		New: func(b part.Built, w part.World) part.Part {
			return &button{world: w, bounce: b.Settings.Time("bounce")}
		},
	})
}

// Timers of a button.
const (
	timerBounce = iota
	timerRelease
)

type button struct {
	world   part.World
	bounce  clock.Time
	pressed bool
	closed  bool
	left    []clock.Time // gaps between the openings and closings still to come
}

// Changed does nothing: a contact is the same whatever its nets are at.
func (b *button) Changed(uint64) {}

// Cue takes press.
func (b *button) Cue(c part.Cue) error {
	if c.Verb != "press" {
		return fmt.Errorf("a button takes no cue %q", c.Verb)
	}
	b.move(true)
	b.world.After(timerRelease, c.For)
	return nil
}

// Wake goes on with a bounce, or releases the button.
func (b *button) Wake(timer int) {
	if timer == timerRelease {
		b.move(false)
		return
	}
	b.next()
}

// move presses or releases: an even number of contact changes comes after the first one.
func (b *button) move(pressed bool) {
	b.pressed = pressed
	b.left = b.left[:0]
	if b.bounce > 0 {
		n := 2 * int64(1+b.world.Random()%3)
		for i := int64(0); i < n; i++ { // of random length, none longer than its share
			b.left = append(b.left, b.bounce/clock.Time(n)/4+clock.Time(b.world.Random()%uint64(b.bounce/clock.Time(n)*3/4+1)))
		}
	}
	b.set(pressed)
	b.schedule()
}

func (b *button) next() {
	b.set(!b.closed)
	b.schedule()
}

func (b *button) schedule() {
	if len(b.left) == 0 {
		return
	}
	b.world.After(timerBounce, b.left[0])
	b.left = b.left[1:]
}

func (b *button) set(closed bool) {
	if closed != b.closed {
		b.closed = closed
		b.world.Contact(0, 1, closed)
	}
}
