package group

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"hemble/core/display"
	"hemble/core/display/digits"
	"hemble/core/display/lamp"
)

// Members lie side by side, each light with a number of its own, and digits next to each other are one display.
func TestJoin(t *testing.T) {
	digit := display.Geometry{TypeName: digits.Form, Width: 100, Height: 160, Shapes: make([]display.Shape, 8)}
	for i := range digit.Shapes {
		digit.Shapes[i] = display.Shape{Light: i, Points: [][2]float64{{1, 2}}}
	}
	light := lamp.Geometry("red", "#f00")
	two := Join([]display.Member{{Name: "tens", Geometry: digit}, {Name: "ones", Geometry: digit}})
	assert.Equal(t, digits.Form, two.TypeName)
	assert.Equal(t, 2, two.Digits())
	assert.Equal(t, [2]float64{109, 2}, two.Shapes[8].Points[0])
	assert.Equal(t, 1, two.Shapes[8].Digit)
	assert.Equal(t, [2]float64{1, 2}, digit.Shapes[0].Points[0], "the member's own drawing stays")
	mixed := Join([]display.Member{{Name: "tens", Geometry: digit}, {Name: "a", Geometry: light}})
	assert.Equal(t, Form, mixed.TypeName)
	assert.Equal(t, 8, mixed.Shapes[8].Light)
	assert.Equal(t, display.Circle{X: 138, Y: 80, R: 22}, *mixed.Shapes[8].Circle)
	s := display.Emissive(0b100000110, 9)
	assert.Len(t, Split(mixed, s)[0].Lights, 8)
	assert.Equal(t, "tens 1 + a", (&display.Track{Geometry: mixed}).Describe(s))
	s.Lights[8] = display.Dim
	assert.Equal(t, "tens 1 + a dim", (&display.Track{Geometry: mixed}).Describe(s))
}
