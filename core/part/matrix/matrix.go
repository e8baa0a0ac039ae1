// Package matrix is an 8×8 LED matrix that a program scans row by row.
package matrix

import (
	"fmt"
	"slices"

	"hemble/core/circuit"
	"hemble/core/display"
	form "hemble/core/display/matrix"
	"hemble/core/part"
	"hemble/core/spec"
)

const size = 8

func init() {
	var pins []spec.Key
	for _, line := range []string{"row", "column"} {
		for i := 1; i <= size; i++ {
			pins = append(pins,
				spec.Key{Name: fmt.Sprintf("%s%d", line, i),
					Doc: fmt.Sprintf("%s %d, counted from the top left", line, i)})
		}
	}
	part.Register(&part.Kind{
		Name:   "matrix",
		Also:   []string{"dot-matrix", "led-matrix"},
		Title:  "8×8 matrix of LEDs",
		Doc:    "Sixty-four LEDs between eight rows and eight columns, with a resistor in each column. A program lights one row at a time; the lit LEDs of a row share its pin.",
		Source: "the usual 16-pin 8×8 dot-matrix display, either polarity",
		Settings: []spec.Field{
			{Name: "rows", Kind: spec.Choice, Choices: []string{"anode", "cathode"}, Default: "anode",
				Doc: "which end of its LEDs a row joins: anodes need a high row and low columns"},
			{Name: "colour", Kind: spec.Choice, Choices: part.ColourNames(), Default: "red",
				Doc: "colour of the lights"},
			{Name: "resistor", Kind: spec.Ohms, Default: "220", Doc: "resistor in each column in ohms; 0 for none"},
		},
		Pins:     pins,
		Example:  "sign: {part: matrix, pins: {row1: <1>, row2: <2>, row3: <3>, row4: <4>, row5: <5>, row6: <6>, row7: <7>, row8: <8>, column1: <9>, column2: <10>, column3: <11>, column4: <12>, column5: <13>, column6: <14>, column7: <15>, column8: <16>}}",
		Geometry: func(b part.Instance) display.Geometry { return Look(part.FindColour(b.Settings.Text("colour")).Hex) },
		Resistors: func(b part.Instance) []int64 {
			return append(make([]int64, size), slices.Repeat([]int64{b.Settings.Int("resistor")}, size)...)
		},
		Ends: func(b part.Instance) (out [][2]int) {
			for i := 0; i < size*size; i++ {
				out = append(out, part.Way(size+i%size, i/size, b.Settings.Text("rows") == "anode"))
			}
			return out
		},
		New: func(b part.Instance, w part.Host) part.Part {
			return &matrix{world: w, sink: part.Sink[display.LightSink](w), supply: b.Supply,
				vf:   part.FindColour(b.Settings.Text("colour")).Vf,
				ohms: b.Settings.Int("resistor"), anode: b.Settings.Text("rows") == "anode"}
		},
	})
}

// Look draws eight rows of eight round dots.
func Look(color string) display.Geometry {
	out := display.Geometry{TypeName: form.Form, Width: 8*24 + 12, Height: 8*24 + 12}
	for i := 0; i < size*size; i++ {
		out.Shapes = append(out.Shapes, display.Shape{Light: i, Name: fmt.Sprintf("%d,%d", i/size+1, i%size+1),
			Digit: i / size, Color: color,
			Circle: &display.Circle{X: 18 + float64(i%size)*24, Y: 18 + float64(i/size)*24, R: 9}})
	}
	return out
}

type matrix struct {
	part.Passive
	world            part.Host
	sink             display.LightSink
	supply, vf, ohms int64
	anode            bool
	lit              [size]int64 // how many LEDs of each row carry current
}

func (m *matrix) current(row, column int, n int64) int64 {
	a, k := m.world.Net(row), m.world.Net(size+column)
	if !m.anode {
		a, k = k, a
	}
	return circuit.Diode(m.supply, m.vf, a, k, m.ohms, 0, m.anode, n)
}

// Changed recomputes the currents of every row that was or is lit.
func (m *matrix) Changed(uint64) {
	for r := range m.lit {
		n := int64(0)
		for c := 0; c < size; c++ {
			if m.current(r, c, 1) > 0 {
				n++
			}
		}
		if n == 0 && m.lit[r] == 0 {
			continue
		}
		m.lit[r] = n
		for c := 0; c < size; c++ {
			m.sink.Light(r*size+c, m.current(r, c, max(1, n)))
		}
	}
}
