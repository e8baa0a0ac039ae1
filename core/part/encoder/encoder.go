// Package encoder is a rotary encoder with detents and a push contact.
package encoder

import (
	"fmt"

	"hemble/core/clock"
	"hemble/core/finding"
	"hemble/core/part"
	"hemble/core/part/contact"
	"hemble/core/spec"
)

// Terminals, in the order of Pins.
const (
	a = iota
	b
	common
	push1
	push2
)

func init() {
	part.Register(&part.Kind{
		Name:      "encoder",
		Exchanged: [][2]string{{"a", "b"}},
		Also:      []string{"rotary-encoder", "rotary"},
		Title:     "Rotary encoder",
		Function:  "quadrature",
		Doc:       "Two contacts that close and open a quarter of a period apart as the shaft turns, and one that closes while it is pushed. Clockwise, a closes before b. Each detent is one period, with both contacts open at rest. `turn` moves it `by` detents, each taking `for`; all contacts bounce.",
		Source:    "quadrature code of mechanical incremental encoders; " + contact.Source,
		Settings: []spec.Field{
			{Name: "bounce", Kind: spec.Duration, Default: "1ms",
				Doc: "how long each contact bounces; 0 for no bounce"},
			{Name: "detent", Kind: spec.Choice, Choices: []string{"period", "half", "quarter"}, Default: "period",
				Doc: "whether a detent is a whole period, back to both contacts open, or half or a quarter of one"},
		},
		Misread: []part.Misread{misread},
		Pins: []spec.Key{{Name: "a", Doc: "contact A"}, {Name: "b", Doc: "contact B"},
			{Name: "common", Doc: "what A and B connect to when closed"},
			{Name: "push1", Doc: "one side of the push contact", Optional: true},
			{Name: "push2", Doc: "the other side", Optional: true}},
		Cues:    []string{part.Turn, part.Press, part.Hold, part.Release},
		Example: "sluice: {part: encoder, pins: {a: <1>, b: <2>, common: GND, push1: <3>, push2: GND}}",
		Check: func(p part.Instance) (out []spec.Problem) {
			if (p.Wired[push1] == "") != (p.Wired[push2] == "") {
				out = append(out, spec.Problem{Text: "the push contact needs both its sides wired, push1 and push2"})
			}
			return out
		},
		Controls: func(p part.Instance) []part.Control {
			if p.Wired[push1] == "" {
				return part.TurnControls()
			}
			return append(part.TurnControls(), part.PressControls("", "")...)
		},
		New: func(p part.Instance, w part.Host) part.Part {
			e := &encoder{world: w, a: contact.New(w, a, common, timerA, p.Settings),
				b:        contact.New(w, b, common, timerB, p.Settings),
				push:     contact.New(w, push1, push2, timerPush, p.Settings),
				quarters: quarters[p.Settings.Text("detent")]}
			return e
		},
	})
}

// quarters are those of a period that a detent has.
var quarters = map[string]int64{"period": 4, "half": 2, "quarter": 1}

// misread is a program that counts other edges than each detent has.
var misread = part.Misread{
	Entry: finding.Entry{Code: "count-scaled", Price: finding.Behaviour, Order: 7, Vague: true,
		Doc:   "a number changes by several steps where one is expected, or the reverse",
		Catch: "turn the encoder by one detent, and read the value behind it"},
	Setting: "detent",
	Taken: map[string][]string{"period": {"quarter", "half"}, "half": {"quarter", "period"},
		"quarter": {"half", "period"}},
	Text: func(b part.Instance, taken string) string {
		has, counts := quarters[b.Settings.Text("detent")], quarters[taken]
		if has < counts {
			return fmt.Sprintf("The program takes %d detents of %s for one step.", counts/has, b.Name)
		}
		return fmt.Sprintf("Each detent of %s counts %d times: the program counts every edge of its contacts that it sees.",
			b.Name, has/counts)
	},
}

// Timers of an encoder.
const (
	timerA = iota
	timerB
	timerPush
	timerRelease
	timerTurn
)

type encoder struct {
	world    part.Host
	a, b     *contact.Contact
	push     *contact.Contact
	quarters int64 // of a period, to a detent
	at       int64 // quarters turned, clockwise
	left     int64 // still to turn
	each     clock.Time
}

// Changed does nothing: a contact is the same whatever its nets are at.
func (e *encoder) Changed(uint64) {}

// State is always the same while nobody works the part.
func (*encoder) State() any { return struct{}{} }

// Cue turns or pushes.
func (e *encoder) Cue(c part.Cue) error {
	switch c.Verb {
	case part.Turn:
		e.left += c.By * e.quarters
		e.each = c.For / clock.Time(e.quarters)
		e.turn()
	case part.Press:
		e.push.Move(true)
		e.world.After(timerRelease, c.For)
	default:
		e.push.Move(c.Verb == part.Hold)
	}
	return nil
}

// turn moves by a quarter of a period: one contact changes.
func (e *encoder) turn() {
	if e.left == 0 {
		return
	}
	before := e.at
	if e.left > 0 {
		e.at++
		e.left--
	} else {
		e.at--
		e.left++
	}
	// Clockwise through the quarters: both open, A closed, both closed, B closed.
	closed := func(at, from, to int64) bool { q := (at%4 + 4) % 4; return q == from || q == to }
	if now := closed(e.at, 1, 2); now != closed(before, 1, 2) {
		e.a.Move(now)
	}
	if now := closed(e.at, 2, 3); now != closed(before, 2, 3) {
		e.b.Move(now)
	}
	e.world.After(timerTurn, e.each)
}

// Wake continues with a bounce or a turn, or lets the push contact go.
func (e *encoder) Wake(timer int) {
	switch timer {
	case timerA:
		e.a.Wake()
	case timerB:
		e.b.Wake()
	case timerPush:
		e.push.Wake()
	case timerRelease:
		e.push.Move(false)
	case timerTurn:
		e.turn()
	}
}
