// Package buzzer is a sounder: a bare membrane that sounds as it is driven, or one with a built-in oscillator.
package buzzer

import (
	"hemble/core/circuit"
	"hemble/core/display"
	form "hemble/core/display/tone"
	"hemble/core/part"
	"hemble/core/spec"
)

const (
	plus = iota
	minus
)

func init() {
	part.Register(&part.Kind{
		Name:   "buzzer",
		Also:   []string{"speaker", "piezo", "beeper", "sounder"},
		Title:  "Buzzer",
		Doc:    "A passive one is a membrane: its pitch is that of the wave that drives it, and a steady level is silent. An active one sounds at its own pitch while it has current. A frame is a pitch, such as 440Hz, or silent.",
		Source: "piezo sounders: a membrane follows its driving wave; self-drive types of 2 to 4 kHz",
		Settings: []spec.Field{
			{Name: "is", Kind: spec.Choice, Choices: []string{"passive", "active"}, Default: "passive",
				Doc: "`passive` needs a wave, `active` makes its own"},
			{Name: "pitch", Kind: spec.Rate, Default: "2300Hz", Doc: "of an active one"},
		},
		Symbol:  part.SymbolBuzzer,
		Pins:    []spec.Key{{Name: "plus", Doc: "the positive end"}, {Name: "minus", Doc: "the negative end"}},
		Example: "horn: {part: buzzer, is: passive, pins: {plus: <1>, minus: GND}}",
		Geometry: func(part.Instance) display.Geometry {
			return display.Geometry{TypeName: form.Form, Width: 60, Height: 70, Shapes: []display.Shape{
				{Name: "case", Color: "#e9b44c", Circle: &display.Circle{X: 30, Y: 30, R: 24}}}}
		},
		New: func(b part.Instance, w part.Host) part.Part {
			z := &buzzer{world: w, sink: part.Sink[display.ToneSink](w)}
			if b.Settings.Text("is") == "active" {
				z.pitch = int(b.Settings.Get("pitch").Rate)
			}
			return z
		},
	})
}

type buzzer struct {
	part.Passive
	world part.Host
	sink  display.ToneSink
	pitch int // of its own oscillator; 0 for none
	on    bool
}

// Changed pushes the membrane while the plus end is high and the minus end low.
func (z *buzzer) Changed(uint64) {
	p, m := z.world.Net(plus), z.world.Net(minus)
	on := p.Level == circuit.High && m.Level == circuit.Low && p.Strength > circuit.Pull && m.Strength > circuit.Pull
	switch {
	case z.pitch == 0:
		z.sink.Move(on)
	case on != z.on && on:
		z.sink.Tone(z.pitch)
	case on != z.on:
		z.sink.Tone(0)
	}
	z.on = on
}
