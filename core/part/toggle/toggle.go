// Package toggle is a switch that stays in its position.
package toggle

import (
	"fmt"

	"hemble/core/finding"
	"hemble/core/part"
	"hemble/core/part/contact"
	"hemble/core/spec"
)

// Terminals, in the order of Pins.
const (
	common = iota
	on
	off
)

func init() {
	part.Register(&part.Kind{
		Name:   "switch",
		Also:   []string{"toggle", "slide-switch"},
		Title:  "Switch",
		Doc:    "A switch that stays in its position: `common` is joined to `on` or, where that is wired, to `off`. It bounces like a button. `set` puts it `on` or `off`.",
		Source: contact.Source,
		Settings: []spec.Field{contact.Bounce, contact.Edges,
			{Name: "is", Kind: spec.Choice, Choices: []string{"off", "on"}, Default: "off",
				Doc: "its position at power-on"}},
		Pins: []spec.Key{{Name: "common", Doc: "the moving side"}, {Name: "on", Doc: "what it connects when on"},
			{Name: "off", Doc: "what it connects when off", Optional: true}},
		Symbol: part.SymbolSwitch,
		Cues:   []string{part.Set},
		Value:  "is",
		Misread: []part.Misread{{
			Entry: finding.Entry{Code: "input-inverted", Price: finding.Wiring,
				Doc:   "an input is read the other way round: a button as pressed while it is released, a switch as on while it is off",
				Catch: "set the switch both ways and read the display behind each", Order: 9},
			Setting: "is", Taken: map[string][]string{"on": {"off"}, "off": {"on"}},
			Text: func(b part.Instance, _ string) string {
				return fmt.Sprintf("The program reads %s inverted: on as off.", b.Name)
			},
		}},
		Example: "night: {part: switch, is: off, pins: {common: <1>, on: GND}}",
		Check:   contact.CheckEdges,
		CheckCue: func(_ part.Instance, c part.Cue) error {
			_, err := position(c.To)
			return err
		},
		Controls: func(b part.Instance) []part.Control {
			at := 0
			if b.Settings.Text("is") == "on" {
				at = 1
			}
			return []part.Control{{Label: "is", Cue: part.Cue{Verb: part.Set}, Values: []string{"off", "on"}, At: at}}
		},
		New: func(b part.Instance, w part.Host) part.Part {
			return &toggle{up: contact.New(w, common, on, on, b.Settings),
				down: contact.New(w, common, off, off, b.Settings), start: b.Settings.Text("is") == "on",
				world: w}
		},
	})
}

func position(to string) (bool, error) {
	switch to {
	case "on", "yes", "true", "1":
		return true, nil
	case "off", "no", "false", "0":
		return false, nil
	}
	return false, fmt.Errorf("a switch is set `to: on` or `to: off`, not %q", to)
}

type toggle struct {
	world    part.Host
	up, down *contact.Contact
	start    bool // where it is put at power-on
	begun    bool
	is       bool
}

// State is whether the switch was put where it is at power-on.
func (s *toggle) State() any { return s.begun }

// Changed puts the switch where it is at power-on, without a bounce.
func (s *toggle) Changed(uint64) {
	if s.begun {
		return
	}
	s.begun, s.is = true, s.start
	if s.start {
		s.up.Rest(true)
	} else {
		s.down.Rest(true)
	}
}

// Cue moves the switch; where it is already, nothing happens.
func (s *toggle) Cue(c part.Cue) error {
	to, err := position(c.To)
	if err != nil || to == s.is {
		return err
	}
	s.is = to
	if to {
		s.down.Rest(false)
		s.up.Move(true)
	} else {
		s.up.Rest(false)
		s.down.Move(true)
	}
	return nil
}

// Wake continues with a bounce.
func (s *toggle) Wake(timer int) {
	if timer == on {
		s.up.Wake()
	} else {
		s.down.Wake()
	}
}
