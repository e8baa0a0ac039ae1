// Package cd4026 is a CD4026B: a decade counter that drives a seven-segment digit (Texas Instruments SCHS031,
// "CD4026B, CD4033B types").
package cd4026

import (
	"fmt"

	"hemble/core/circuit"
	"hemble/core/clock"
	"hemble/core/finding"
	"hemble/core/glyph"
	"hemble/core/part"
	"hemble/core/spec"
)

// Terminals, in the order of Pins.
const (
	clk = iota
	inh
	rst
	dei
	inputs
	co  = inputs
	deo = inputs + 1
	ucs = inputs + 2
	a   = inputs + 3
)

func init() {
	pins := []spec.Key{
		{Name: "clk", Doc: "clock: a rising edge counts"},
		{Name: "inh", Doc: "clock inhibit: high stops counting; low if not wired", Optional: true},
		{Name: "rst", Doc: "reset: high sets the count to 0; low if not wired", Optional: true},
		{Name: "dei", Doc: "display enable in: low blanks the digit; high if not wired", Optional: true},
		{Name: "co", Doc: "carry out: high for 0 to 4, so that it rises when 9 goes to 0", Optional: true},
		{Name: "deo", Doc: "display enable out: follows dei", Optional: true},
		{Name: "ucs", Doc: "segment c, whether the display is enabled or not: low only for 2", Optional: true},
	}
	for _, s := range "abcdefg" {
		pins = append(pins, spec.Key{Name: string(s), Doc: "segment " + string(s), Optional: true})
	}
	part.Register(&part.Kind{
		Name:      "cd4026",
		Exchanged: [][2]string{{"clk", "rst"}},
		Driven:    part.Always("clk", "rst"),
		Title:     "CD4026 counter with digit outputs",
		Function:  "CTRDIV10/7SEG",
		Doc:       "Counts rising edges from 0 to 9 and drives the segments of a common-cathode digit with about a milliampere each. Chain several from co to clk. At power-on it holds a random count until it is reset.",
		Source:    "Texas Instruments SCHS031, CD4026B",
		Pins:      pins,
		Example: "units: {part: cd4026, pins: {clk: <1>, rst: <2>, a: seg-a, b: seg-b, c: seg-c, d: seg-d, e: seg-e, f: seg-f, g: seg-g}}\n" +
			"digit: {part: seven-segment, common: cathode, resistor: 0, pins: {a: seg-a, b: seg-b, c: seg-c, d: seg-d, e: seg-e, f: seg-f, g: seg-g, common: GND}}",
		Misread: []part.Misread{unreset},
		Notes: []finding.Entry{
			{Code: "held-in-reset", Doc: "a counter chip is clocked again and again while its reset is high"},
		},
		New: func(b part.Instance, w part.Host) part.Part {
			c := &counter{world: w, count: int(w.Random() % 10)}
			if b.Settings.Text("power-on") == "zero" {
				c.count = 0
			}
			return c
		},
	})
}

// unreset is a program that counts on from what the counter holds at power-on, as if that were 0.
var unreset = part.Misread{
	Entry: finding.Entry{Code: "not-reset", Price: finding.Behaviour, Order: 5,
		Doc:      "a counter chip is not reset at the start: it counts on from what it holds at power-on",
		Subsumes: []finding.Code{"carry", "limit"}},
	Setting: "power-on", Assumed: true, Mends: true, Taken: map[string][]string{"": {"zero"}}, Wiring: true,
	Text: func(b part.Instance, _ string) string {
		return fmt.Sprintf("%s is not reset at the start: it counts on from what it happens to hold at power-on.",
			b.Name)
	},
}

type counter struct {
	part.Passive
	part.Levels
	world   part.Host
	count   int
	clocked bool // the gated clock was high
	started bool
	ignored clock.Time // when it was first clocked in this reset; 0 for not yet
}

// longReset is how long it is clocked while it is reset until that is no reset any more, but a line that was left high.
const longReset = 100 * clock.Millisecond

// Changed follows the timing diagram: the clock is gated by inhibit, so that releasing inhibit while the
// clock is high counts as well.
func (c *counter) Changed(uint64) {
	c.Read(c.world, inputs, 1<<dei)
	clocked := c.High(clk) && !c.High(inh)
	edge := clocked && !c.clocked && c.started
	switch now := c.world.Now(); {
	case c.High(rst):
		if c.count = 0; edge && c.ignored == 0 {
			c.ignored = now
		} else if edge && now-c.ignored >= longReset {
			c.world.Note("held-in-reset", "it is clocked while its reset is high, and counts nothing")
		}
	case edge:
		c.count = (c.count + 1) % 10
	}
	if !c.High(rst) {
		c.ignored = 0
	}
	c.clocked, c.started = clocked, true
	p := glyph.Seven(rune('0' + c.count))[0]
	c.world.Drive(co, circuit.Output4000(c.count < 5))
	c.world.Drive(deo, circuit.Output4000(c.High(dei)))
	c.world.Drive(ucs, circuit.Output4000(c.count != 2))
	for i := 0; i < 7; i++ {
		c.world.Drive(a+i, circuit.Output4000(c.High(dei) && p>>i&1 == 1))
	}
}
