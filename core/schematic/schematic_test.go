package schematic_test

import (
	"encoding/xml"
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	_ "hemble/core/catalogue"
	"hemble/core/exercise"
	"hemble/core/machine"
	"hemble/core/part"
	"hemble/core/schematic"
)

func read(t *testing.T, text string) *exercise.Exercise {
	x, problems := exercise.Reader{File: "x", Draft: true}.Read([]byte(text))
	require.NotNil(t, x, "%v", problems)
	return x
}

// Every wired terminal of every part is drawn with its net, all within the drawing, and the document is XML.
func TestEveryPart(t *testing.T) {
	for _, k := range part.Kinds() {
		t.Run(k.Name, func(t *testing.T) {
			x := read(t,
				"hemble: 1\nname: x\ntitle: a <b> & \"c\"\nchip: {is: atmega328p}\nbench:\n  "+
					strings.ReplaceAll(exercise.Example(k, machine.Usual()), "\n",
						"\n  ")+"\ntrials: [{name: x, length: 1s, expect: []}]\n")
			d := schematic.Draw(x)
			drawn := map[string]int{}
			for _, s := range d.Texts {
				drawn[s.Text]++
				assert.True(t, s.X >= 0 && s.X <= d.Width && s.Y >= 0 && s.Y <= d.Height+12, "%+v in %g × %g", s,
					d.Width, d.Height)
			}
			for _, p := range x.Parts {
				assert.Positive(t, drawn[p.Name])
				for i, w := range p.Wired {
					assert.True(t, w == "" || drawn[w] > 0, "%s of %s goes to %s, which is not drawn",
						p.Kind.Pins[i].Name, p.Name, w)
				}
			}
			assert.NoError(t, xml.Unmarshal([]byte(d.SVG(x.Title)), new(struct{})))
		})
	}
}

// The table has the package's pins in their order, each with what is wired to it and the resistor in its lead.
func TestWires(t *testing.T) {
	x := read(t, `hemble: 1
name: x
title: x
chip: {is: atmega328p}
bench:
  red: {part: lamp, resistor: 470, pins: {anode: VCC, cathode: PC5}}
  key: {part: button, pins: {1: PC5, 2: own}}
trials: [{name: x, length: 1s, expect: []}]
`)
	var rows []string
	for _, w := range schematic.Wires(x) {
		row := fmt.Sprintf("%d %s:", w.Package, w.Net)
		for _, e := range w.Ends {
			row += fmt.Sprintf(" %s.%s %d", e.Part, e.Pin, e.Ohms)
		}
		rows = append(rows, row)
	}
	assert.Equal(t, []string{"28 PC5: red.cathode 0 key.1 0", "0 own: key.2 0", "0 VCC: red.anode 470"}, rows)
}

// Pins of the datasheet's figure 1-1: every one of the 28 has its number and its name once.
func TestPackage(t *testing.T) {
	x := read(t,
		"hemble: 1\nname: x\ntitle: x\nchip: {is: atmega328p, clock: 8MHz}\nbench: {red: {part: lamp, pins: {anode: PB6, cathode: GND}}}\ntrials: [{name: x, length: 1s, expect: []}]\n")
	d := schematic.Draw(x)
	names := map[string]int{}
	for _, s := range d.Texts {
		names[s.Text]++
	}
	for i := 1; i <= 28; i++ {
		assert.Positive(t, names[fmt.Sprint(i)], i)
	}
	for _, n := range []string{"PC6", "PD0", "PD7", "PB0", "PB7", "PC0", "AVCC", "AREF"} {
		assert.Positive(t, names[n], n)
	}
	assert.Equal(t, 3, names["PB6"], "the pin, its net, and the lamp's")
}

func TestOhms(t *testing.T) {
	for n, want := range map[int64]string{0: "0 Ω", 270: "270 Ω", 4700: "4.7 kΩ", 10_000: "10 kΩ", 1_000_000: "1 MΩ",
		1234: "1234 Ω"} {
		assert.Equal(t, want, schematic.Ohms(n))
	}
}

// Every part has something of its own in the diagram: a symbol, what it shows, or the function of a box.
func TestNoEmptyBox(t *testing.T) {
	for _, k := range part.Kinds() {
		assert.True(t, k.Symbol != "" || k.Geometry != nil || k.Function != "", "%s is an empty box", k.Name)
	}
}
