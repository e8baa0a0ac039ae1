// Package report writes mark sheets and reels for people: text for terminals, VCD for waveform
// viewers.
package report

import (
	"fmt"
	"strings"

	"hemble/core/display"
	"hemble/core/glyph"
)

// Art draws a sight in box characters, all lines equally wide.
func Art(t *display.Track, s display.State) []string {
	switch t.Geometry.Form {
	case display.FormText:
		return screenArt(t, s)
	case display.FormPixels:
		return pixelArt(t, s)
	case display.FormMatrix:
		return matrixArt(t, s)
	case display.FormDigits:
		return digitsArt(t.Geometry, s.Lights)
	case display.FormLamp, display.FormBar:
		return lampArt(s.Lights)
	case display.FormGroup:
		return groupArt(t.Geometry, s)
	}
	word := t.Describe(s) // of a colour, a pitch, a line: it says more than a drawing
	switch {
	case t.Geometry.Form == display.FormLines:
		return []string{" " + fit(word, min(lineWidth, len([]rune(word)))) + " "}
	case s.Pitch > 0:
		return []string{" ♪ " + word + " "}
	case t.Geometry.Form == display.FormColour && s.Lights.Bits() != 0:
		return []string{" ● " + word + " "}
	}
	return []string{" ○ " + word + " "}
}

// lineWidth is how much of a terminal's line a film strip shows.
const lineWidth = 40

func lampArt(l display.Lights) []string {
	symbol := map[display.Light]string{display.Dark: "○", display.Lit: "●", display.Dim: "◌"}
	var b strings.Builder
	for _, s := range l {
		b.WriteString(symbol[s])
	}
	return []string{"   " + b.String() + "   "}
}

// groupArt draws the members of a group side by side.
func groupArt(look display.Geometry, s display.State) (out []string) {
	var arts [][]string
	high := 0
	for i, one := range look.Split(s) {
		a := Art(&display.Track{Geometry: look.Members[i].Geometry}, one)
		arts, high = append(arts, a), max(high, len(a))
	}
	out = make([]string, high)
	for _, a := range arts {
		above := (high - len(a)) / 2
		for i := range out {
			line := strings.Repeat(" ", width(a))
			if k := i - above; k >= 0 && k < len(a) {
				line = fit(a[k], width(a))
			}
			out[i] += line
		}
	}
	return out
}

// digitsArt draws seven-segment digits side by side, five lines high, and the colon between them.
func digitsArt(look display.Geometry, l display.Lights) []string {
	out := make([]string, 5)
	n := len(glyph.Segments)
	for d := 0; (d+1)*n <= len(l); d++ {
		if look.Colon > 0 && d == look.Colon {
			dot := [...]string{" ", "●", "◌"}[l[len(l)-1]]
			for i, line := range []string{" ", dot, " ", dot, " "} {
				out[i] += line
			}
		}
		for i, line := range digitArt(l[d*n : (d+1)*n]) {
			out[i] += line
		}
	}
	return out
}

// digitArt draws one digit. A dim segment is drawn with light strokes.
func digitArt(l display.Lights) []string {
	across := func(i int) string { return [...]string{"  ", "━━", "──"}[l[i]] }
	down := func(i int) string { return [...]string{" ", "┃", "│"}[l[i]] }
	point := [...]string{" ", "●", "◌"}[l[7]]
	return []string{
		"  " + across(0) + "   ",
		" " + down(5) + "  " + down(1) + "  ",
		"  " + across(6) + "   ",
		" " + down(4) + "  " + down(2) + "  ",
		"  " + across(3) + " " + point + " ",
	}
}

// matrixArt draws a dot and a space for each light.
func matrixArt(t *display.Track, s display.State) []string {
	var out []string
	for _, row := range t.MatrixRows(s) {
		out = append(out, " "+strings.NewReplacer("#", "● ", "+", "◌ ", ".", "· ").Replace(row))
	}
	return out
}

// pixelArt draws a graphic display with two by four pixels to a character, in Braille patterns
// (Unicode U+2800 to U+28FF).
func pixelArt(t *display.Track, s display.State) []string {
	b := t.Bitmap(s)
	edge := strings.Repeat("─", b.Width/2)
	out := []string{"┌" + edge + "┐"}
	for y := 0; y < b.Height; y += 4 {
		var row strings.Builder
		for x := 0; x < b.Width; x += 2 {
			r := rune(0x2800)
			for i, at := range [8][2]int{{0, 0}, {0, 1}, {0, 2}, {1, 0}, {1, 1}, {1, 2}, {0, 3}, {1, 3}} {
				if b.At(x+at[0], y+at[1]) {
					r |= 1 << i
				}
			}
			row.WriteRune(r)
		}
		out = append(out, "│"+row.String()+"│")
	}
	return append(out, "└"+edge+"┘")
}

// screenArt draws a character display in its frame, with the cursor where nothing else stands.
func screenArt(t *display.Track, s display.State) []string {
	g := t.Geometry.Grid
	edge := strings.Repeat("─", g.Columns)
	out := []string{"┌" + edge + "┐"}
	for r, row := range t.Rows(s) {
		if c := s.Cursor; c != nil && c.Cell/g.Columns == r {
			runes := []rune(row)
			if runes[c.Cell%g.Columns] == ' ' {
				runes[c.Cell%g.Columns] = '_'
				if c.Block {
					runes[c.Cell%g.Columns] = '▒'
				}
			}
			row = string(runes)
		}
		out = append(out, "│"+row+"│")
	}
	return append(out, "└"+edge+"┘")
}

// fit cuts or pads a text to a width in characters.
func fit(s string, width int) string {
	r := []rune(s)
	if len(r) > width {
		return string(r[:width-1]) + "…"
	}
	return s + strings.Repeat(" ", width-len(r))
}

func width(lines []string) int {
	w := 0
	for _, l := range lines {
		w = max(w, len([]rune(l)))
	}
	return w
}

func plural(n int, one string) string {
	if n == 1 {
		return fmt.Sprintf("%d %s", n, one)
	}
	return fmt.Sprintf("%d %ss", n, one)
}
