// Package hc595 is a 74HC595: eight bits of shift register behind a storage register with three-state
// outputs (Texas Instruments SCLS041, "SNx4HC595").
package hc595

import (
	"fmt"

	"hemble/core/circuit"
	"hemble/core/finding"
	"hemble/core/part"
	"hemble/core/spec"
)

// Terminals, in the order of Pins.
const (
	ser = iota
	srclk
	rclk
	oe
	srclr
	inputs
	qa  = inputs
	out = qa + 8 // QH', the end of the shift register
)

func init() {
	pins := []spec.Key{
		{Name: "ser", Doc: "serial data in"},
		{Name: "srclk", Doc: "shift clock: a rising edge shifts in ser"},
		{Name: "rclk", Doc: "storage clock, or latch: a rising edge copies the shift register to the outputs"},
		{Name: "oe", Doc: "output enable, active low; GND if not wired", Optional: true},
		{Name: "srclr", Doc: "clear of the shift register, active low; VCC if not wired", Optional: true},
	}
	for _, q := range "abcdefgh" {
		pins = append(pins, spec.Key{Name: "q" + string(q), Doc: fmt.Sprintf("output Q%c", q-32), Optional: true})
	}
	pins = append(pins,
		spec.Key{Name: "out", Doc: "QH': the end of the shift register, for the ser of the next in a chain",
			Optional: true})
	part.Register(&part.Kind{
		Name:      "74hc595",
		Exchanged: [][2]string{{"ser", "srclk"}, {"srclk", "rclk"}, {"ser", "rclk"}},
		Driven:    part.Always("ser", "srclk", "rclk"),
		Turned:    []string{"qa", "qb", "qc", "qd", "qe", "qf", "qg", "qh"},
		Title:     "74HC595 shift register",
		Function:  "SRG8",
		Doc:       "Eight outputs on three wires. The first bit sent ends up at qh, the last at qa. Chain several from out to ser. At power-on the registers are random.",
		Source:    "Texas Instruments SCLS041, SN74HC595",
		Pins:      pins,
		Example: "segments: {part: 74hc595, pins: {ser: <1>, srclk: <2>, rclk: <3>, qa: seg-a, qb: seg-b, qc: seg-c, qd: seg-d, qe: seg-e, qf: seg-f, qg: seg-g, qh: seg-dp}}\n" +
			"digit: {part: seven-segment, common: cathode, resistor: 270, pins: {a: seg-a, b: seg-b, c: seg-c, d: seg-d, e: seg-e, f: seg-f, g: seg-g, dp: seg-dp, common: GND}}",
		Misread: []part.Misread{early, seven},
		New: func(b part.Instance, w part.Host) part.Part {
			r := w.Random()
			reg := &register{world: w, shift: uint8(r), stored: uint8(r >> 8), shown: -1,
				open: b.Settings.Text("latch") == "open", last: 7}
			if b.Settings.Text("stages") == "7" {
				reg.last = 6
			}
			return reg
		},
	})
}

// early is the mistake of a program that gives the latch its edge before it shifts: what it sends is seen one time
// later. A register whose outputs follow every bit would suit it: bits pass faster than an eye sees.
var early = part.Misread{
	Entry: finding.Entry{Code: "latch", Price: finding.Behaviour, Order: 9, Subsumes: []finding.Code{"lag"},
		Doc:   "a shift register is latched before the bits are shifted: what it shows is one time behind",
		Catch: "read the display shortly after it should change"},
	Setting: "latch", Assumed: true, Mends: true, Taken: map[string][]string{"": {"open"}}, Wiring: true,
	Text: func(b part.Instance, _ string) string {
		return fmt.Sprintf("%s is not latched after its bits are shifted in: it shows what was sent the time before, or what it held at power-on.",
			b.Name)
	},
}

// seven is the mistake of a program that shifts seven bits for each register of a chain: those for the far ones stop
// one place too early. It would suit registers of seven stages.
var seven = part.Misread{
	Entry: finding.Entry{Code: "clocks", Price: finding.Wiring, Order: 10,
		Doc: "a shift register has fewer clocks than it has stages: all bits are one place off"},
	Setting: "stages", Assumed: true, Taken: map[string][]string{"": {"7"}}, Wiring: true,
	Only: func(b part.Instance) bool { return b.Wired[out] != "" },
	Text: func(b part.Instance, _ string) string {
		return fmt.Sprintf("Seven bits are shifted for %s, which has eight stages: what is behind it in the chain is one place off.",
			b.Name)
	},
}

type register struct {
	part.Passive
	part.Levels
	world         part.Host
	shift, stored uint8
	shown         int  // what the outputs do: the stored byte, or off; -1 at first
	open          bool // its outputs follow the shift register
	last          int  // the stage whose bit goes on to the next register
}

// State is what both registers hold.
func (r *register) State() any {
	return struct {
		part.Levels
		shift, stored uint8
		shown         int
	}{r.Levels, r.shift, r.stored, r.shown}
}

const off = 0x100

// Changed follows the function table. Where both clocks rise at once the storage register takes what
// the shift register held before ("the shift register is one clock pulse ahead").
func (r *register) Changed(uint64) {
	r.Read(r.world, inputs, 1<<srclr)
	before := r.shift
	data := r.Was(ser)
	switch {
	case !r.High(srclr):
		r.shift = 0
	case r.Rose(srclk):
		r.shift <<= 1
		if data {
			r.shift |= 1
		}
	}
	switch {
	case r.open:
		r.stored = r.shift
	case r.Rose(rclk):
		r.stored = before
	}
	shown := int(r.stored)
	if r.High(oe) {
		shown = off
	}
	if shown != r.shown {
		r.shown = shown
		for i := 0; i < 8; i++ {
			d := circuit.Output(r.stored>>i&1 == 1)
			if shown == off {
				d = circuit.Released
			}
			r.world.Drive(qa+i, d)
		}
	}
	r.world.Drive(out, circuit.Output(r.shift>>r.last&1 == 1))
}
