// Package button is a push button with contact bounce.
package button

import (
	"hemble/core/part"
	"hemble/core/part/contact"
	"hemble/core/spec"
)

func init() {
	part.Register(&part.Kind{
		Name:   "button",
		Also:   []string{"push-button", "pushbutton", "key", "switch-button"},
		Title:  "Push button",
		Doc:    "A contact between two nets that is closed while pressed. It bounces, on closing and on opening, in a way that depends on the trial's seed only: every submission gets the same bounce. Between the chip's reset pin and GND it is the reset button.",
		Source: contact.Source,
		Settings: []spec.Field{contact.Bounce, contact.Edges,
			{Name: "contact", Kind: spec.Choice, Choices: []string{open, closed}, Default: open,
				Doc: "a contact that closes while pressed, or one that opens"}},
		Pins:     []spec.Key{{Name: "1", Doc: "one side of the contact"}, {Name: "2", Doc: "the other side"}},
		Symbol:   part.SymbolButton,
		Cues:     []string{part.Press, part.Hold, part.Release},
		Example:  "raise: {part: button, bounce: 4ms, pins: {1: <1>, 2: GND}}",
		Check:    contact.CheckEdges,
		Controls: func(part.Instance) []part.Control { return part.PressControls("", "") },
		New: func(b part.Instance, w part.Host) part.Part {
			return &button{world: w, contact: contact.New(w, 0, 1, timerBounce, b.Settings),
				rests: b.Settings.Text("contact") == closed}
		},
	})
}

// Contacts: normally open (NO), normally closed (NC).
const (
	open   = "normally-open"
	closed = "normally-closed"
)

// Timers of a button.
const (
	timerBounce = iota
	timerRelease
)

type button struct {
	world   part.Host
	contact *contact.Contact
	rests   bool // it is closed while nobody presses
	begun   bool
}

// Changed puts the contact where it rests at power-on, without a bounce.
func (b *button) Changed(uint64) {
	if !b.begun {
		b.begun = true
		b.contact.Rest(b.rests)
	}
}

// State is whether the contact was put where it rests.
func (b *button) State() any { return b.begun }

// Cue presses or lets go.
func (b *button) Cue(c part.Cue) error {
	b.contact.Move((c.Verb != part.Release) != b.rests)
	if c.Verb == part.Press {
		b.world.After(timerRelease, c.For)
	}
	return nil
}

// Wake continues with a bounce, or releases the button.
func (b *button) Wake(timer int) {
	if timer == timerRelease {
		b.contact.Move(b.rests)
		return
	}
	b.contact.Wake()
}
