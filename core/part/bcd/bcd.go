// Package bcd holds the decoders from binary-coded decimal to seven segments: 7447 (Texas Instruments
// SDLS111, "SN5446A, '47A … BCD-to-seven-segment decoders/drivers") and 4511 (Texas Instruments SCHS072,
// "CD4511B").
package bcd

import (
	"hemble/core/circuit"
	"hemble/core/glyph"
	"hemble/core/part"
	"hemble/core/spec"
)

// Terminals, in the order of Pins: four data lines, three controls, seven segments.
const (
	lampTest = 4
	blanking = 5
	third    = 6 // ripple blanking in of the 7447, latch enable of the 4511
	inputs   = 7
	segment  = 7
)

// patterns47 are those of a 7447 for 0 to 15; 6 and 9 have no tails (SDLS111, "Numerical designations and
// resultant displays").
var patterns47 = [16]glyph.Pattern{0x3f, 0x06, 0x5b, 0x4f, 0x66, 0x6d, 0x7c, 0x07, 0x7f, 0x67, 0x58, 0x4c, 0x62, 0x69,
	0x78, 0}

// bits are the data lines.
var bits = [...]string{"d1", "d2", "d4", "d8"}

// exchanged are all pairs of them.
func exchanged() (out [][2]string) {
	for i, a := range bits {
		for _, b := range bits[i+1:] {
			out = append(out, [2]string{a, b})
		}
	}
	return out
}

func init() {
	data := []spec.Key{{Name: "d1", Doc: "data, bit 0"}, {Name: "d2", Doc: "data, bit 1"},
		{Name: "d4", Doc: "data, bit 2"}, {Name: "d8", Doc: "data, bit 3"}}
	var outputs []spec.Key
	for _, s := range "abcdefg" {
		outputs = append(outputs, spec.Key{Name: string(s), Doc: "segment " + string(s), Optional: true})
	}
	pins := func(third spec.Key) []spec.Key {
		controls := []spec.Key{
			{Name: "lt", Doc: "lamp test, active low: all segments; high if not wired", Optional: true},
			{Name: "bi", Doc: "blanking, active low: no segment; high if not wired", Optional: true}, third}
		return append(append(append([]spec.Key{}, data...), controls...), outputs...)
	}
	part.Register(&part.Kind{
		Driven:    part.Always(bits[:]...),
		Turned:    bits[:],
		Exchanged: exchanged(),
		Name:      "7447",
		Title:     "7447 BCD decoder",
		Function:  "BCD/7SEG",
		Doc:       "Decodes four data lines to the segments of a common-anode digit: the output of a lit segment is low, the others are open. With rbi low a 0 stays blank.",
		Source:    "Texas Instruments SDLS111, SN7447A",
		Pins: pins(spec.Key{Name: "rbi",
			Doc: "ripple blanking in, active low: a 0 stays blank; high if not wired", Optional: true}),
		Example: "decoder: {part: 7447, pins: {d1: <1>, d2: <2>, d4: <3>, d8: <4>, a: seg-a, b: seg-b, c: seg-c, d: seg-d, e: seg-e, f: seg-f, g: seg-g}}\n" +
			"digit: {part: seven-segment, common: anode, resistor: 270, pins: {a: seg-a, b: seg-b, c: seg-c, d: seg-d, e: seg-e, f: seg-f, g: seg-g, common: VCC}}",
		New: func(_ part.Instance, w part.Host) part.Part {
			return &decoder{world: w, decode: func(d *decoder) glyph.Pattern {
				if d.value() == 0 && !d.High(third) {
					return 0
				}
				return patterns47[d.value()]
			}, drive: func(lit bool) circuit.Drive {
				if lit {
					return circuit.DrivenLow
				}
				return circuit.Released
			}}
		},
	})
	part.Register(&part.Kind{
		Driven:    part.Always(bits[:]...),
		Turned:    bits[:],
		Exchanged: exchanged(),
		Name:      "4511",
		Title:     "CD4511 BCD decoder with latch",
		Function:  "BCD/7SEG",
		Doc:       "Decodes four data lines to the segments of a common-cathode digit: the output of a lit segment is high. With le high it keeps its digit; above 9 it is blank. At power-on the latch is random.",
		Source:    "Texas Instruments SCHS072, CD4511B",
		Pins: pins(spec.Key{Name: "le", Doc: "latch enable: high keeps the digit; low if not wired",
			Optional: true}),
		Example: "decoder: {part: 4511, pins: {d1: <1>, d2: <2>, d4: <3>, d8: <4>, le: <5>, a: seg-a, b: seg-b, c: seg-c, d: seg-d, e: seg-e, f: seg-f, g: seg-g}}\n" +
			"digit: {part: seven-segment, common: cathode, resistor: 270, pins: {a: seg-a, b: seg-b, c: seg-c, d: seg-d, e: seg-e, f: seg-f, g: seg-g, common: GND}}",
		New: func(_ part.Instance, w part.Host) part.Part {
			held := uint8(w.Random() & 15)
			return &decoder{world: w, decode: func(d *decoder) glyph.Pattern {
				if !d.High(third) {
					held = d.value()
				}
				if held > 9 {
					return 0
				}
				return patterns47[held] // without tails, as the 7447's
			}, drive: circuit.Output, low: 1 << third}
		},
	})
}

// decoder is either chip: how it decodes and drives.
type decoder struct {
	part.Passive
	part.Levels
	world  part.Host
	decode func(*decoder) glyph.Pattern
	drive  func(lit bool) circuit.Drive
	low    uint64 // controls that are low where nothing is wired
}

func (d *decoder) value() (v uint8) {
	for i := 0; i < 4; i++ {
		if d.High(i) {
			v |= 1 << i
		}
	}
	return v
}

// Changed decodes: blanking goes before lamp test on the 7447, the reverse on the 4511.
func (d *decoder) Changed(uint64) {
	d.Read(d.world, inputs, (1<<lampTest|1<<blanking|1<<third)&^d.low)
	p := d.decode(d)
	test, blank := !d.High(lampTest), !d.High(blanking)
	switch {
	case test && (d.low != 0 || !blank):
		p = 0x7f
	case blank:
		p = 0
	}
	for i := 0; i < 7; i++ {
		d.world.Drive(segment+i, d.drive(p>>i&1 == 1))
	}
}
