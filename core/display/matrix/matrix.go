// Package matrix is the display type of a grid of dots that a program scans.
package matrix

import (
	"fmt"
	"math/bits"
	"strings"

	"hemble/core/display"
	"hemble/core/display/lights"
	"hemble/core/glyph"
	"hemble/core/spec"
)

// Form is the word for it in reels. The Digit of a shape is its row.
const Form display.TypeName = "matrix"

func init() { display.Register(matrix{}) }

type matrix struct{ lights.Type }

func (matrix) Name() display.TypeName { return Form }

// Watch knows the dots of one row as lit together.
func (matrix) Watch(g display.Geometry, b display.Bench) display.Observer { return lights.InRows(g, b) }

// Sample leaves every other row dim.
func (matrix) Sample(g display.Geometry, l display.Light) display.State {
	return lights.Sample(g, l, func(x display.Shape) bool { return x.Light%8 != 6 && x.Digit%2 == 0 })
}

// rows draws the rows, # for a lit dot.
func rows(g display.Geometry, s display.State) (out []string) {
	for i, x := range g.Shapes {
		for x.Digit >= len(out) {
			out = append(out, "")
		}
		out[x.Digit] += [...]string{".", "#", "+"}[s.Lights[i]]
	}
	return out
}

func (matrix) Describe(t *display.Track, s display.State) string {
	return strings.Join(rows(t.Geometry, s), "/")
}

// Short counts the lit dots, with the rows in hexadecimal to tell them apart.
func (matrix) Short(t *display.Track, s display.State) string { return short(t.Geometry, s) }

func short(g display.Geometry, s display.State) string {
	return fmt.Sprintf("%d of %d lit (%s)", bits.OnesCount64(s.Lights.Bits()), len(s.Lights), glyph.HexRows(rows(g, s)))
}

// Sketch draws a dot and a space for each light.
func (matrix) Sketch(t *display.Track, s display.State) (out []string) {
	for _, row := range rows(t.Geometry, s) {
		out = append(out, " "+dots.Replace(row))
	}
	return out
}

func (matrix) Keys() []display.Key { return []display.Key{display.KeyBitmap} }

// Read reads all of the matrix.
func (matrix) Read(w display.Written, ps *spec.Problems) display.Matcher {
	if !w.Has(display.KeyBitmap.Name) {
		ps.Add(w.Pos, "a frame of a matrix is {bitmap: [rows of # and .]}")
		return nil
	}
	picture, ok := display.ReadBitmap(w, ps)
	if !ok {
		return nil
	}
	m := &lights.Matcher{N: len(w.Geometry.Shapes)}
	column := map[int]int{}
	for i, s := range w.Geometry.Shapes {
		if picture.At(column[s.Digit], s.Digit) {
			m.Pattern |= 1 << i
		}
		column[s.Digit]++
	}
	if picture.Width > column[0] || picture.Height > len(column) {
		ps.Add(w.Pos, "a bitmap of %d×%d for a matrix of %d×%d", picture.Width, picture.Height, column[0], len(column))
		return nil
	}
	m.Text = short(w.Geometry, *m.Ideal(w.Geometry))
	return m
}

func (matrix) Spell(t *display.Track, s display.State) []string {
	return []string{"{bitmap: [" + display.QuotedList(rows(t.Geometry, s)) + "]}"}
}

// dots draws the pixels of a row.
var dots = strings.NewReplacer("#", "● ", "+", "◌ ", ".", "· ")
