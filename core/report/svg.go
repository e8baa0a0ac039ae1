package report

import (
	"fmt"
	"html"
	"math"
	"strings"

	"hemble/core/display"
)

// Colours of a display's surroundings: the dark well it sits in, a light that is dark, its outline.
const (
	wellColour    = "#171412"
	darkColour    = "#241c19"
	outlineColour = "#5a4a44"
	wellMargin    = 10
)

// SVG draws a sight of a display in its dark well, as a document of its own.
func SVG(t *display.Track, s display.State) string {
	w, h := t.Geometry.Width+2*wellMargin, t.Geometry.Height+2*wellMargin
	return fmt.Sprintf(`<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 %s %s" role="img" aria-label="%s">%s</svg>`,
		number(w), number(h), html.EscapeString(t.Display+": "+t.Describe(s)), well(t, s))
}

// well is the drawing with its well around it, from 0, 0 on.
func well(t *display.Track, s display.State) string {
	return fmt.Sprintf(`<rect width="%s" height="%s" rx="6" fill="%s"/><g transform="translate(%d %d)">%s</g>`,
		number(t.Geometry.Width+2*wellMargin), number(t.Geometry.Height+2*wellMargin), wellColour, wellMargin, wellMargin, drawing(t, s))
}

func drawing(t *display.Track, s display.State) string {
	switch {
	case t.Geometry.Grid != nil:
		return characters(t, s)
	case t.Geometry.Pixels != nil:
		return pixels(t, s)
	case t.Geometry.Form == display.FormSound:
		return sound(t, s)
	case t.Geometry.Form == display.FormLines:
		return fmt.Sprintf(`<text x="12" y="38" font-family="monospace" font-size="22" fill="#cfe8d8">%s</text>`, html.EscapeString(s.Line))
	}
	var b strings.Builder
	for _, x := range t.Geometry.Shapes {
		b.WriteString(light(x, s))
	}
	return b.String()
}

func number(v float64) string { return fmt.Sprintf("%g", math.Round(v*100)/100) }

// light has three visible states: lit with a soft halo, dim, or dark but outlined.
func light(x display.Shape, s display.State) string {
	outline := ""
	if x.Circle != nil {
		outline = fmt.Sprintf(`circle cx="%s" cy="%s" r="%s"`, number(x.Circle.X), number(x.Circle.Y), number(x.Circle.R))
	} else {
		var points []string
		for _, p := range x.Points {
			points = append(points, number(p[0])+","+number(p[1]))
		}
		outline = fmt.Sprintf(`polygon points="%s"`, strings.Join(points, " "))
	}
	state, level := display.Dark, 0.0
	if x.Light < len(s.Lights) {
		state = s.Lights[x.Light]
	}
	if x.Light < len(s.Levels) {
		level = math.Sqrt(float64(s.Levels[x.Light]) / 255)
	}
	out := ""
	if state == display.Lit {
		out = fmt.Sprintf(`<%s fill="none" stroke="%s" stroke-opacity="0.22" stroke-width="7" stroke-linejoin="round"/>`, outline, x.Color)
	}
	out += fmt.Sprintf(`<%s fill="%s" stroke="%s" stroke-width="0.7"/>`, outline, darkColour, outlineColour)
	switch state {
	case display.Lit:
		out += fmt.Sprintf(`<%s fill="%s" fill-opacity="%s"/>`, outline, x.Color, number(0.55+0.45*level))
	case display.Dim:
		out += fmt.Sprintf(`<%s fill="%s" fill-opacity="%s"/>`, outline, x.Color, number(0.15+0.25*level))
	}
	return out
}

// Geometry of a character: dots of 8 with a gap of 1, characters a gap apart.
const (
	dotSize   = 8
	dotPitch  = dotSize + 1
	cellWide  = 5*dotPitch + 4
	cellHigh  = 8*dotPitch + 8
	glassEdge = 12
)

// characters draws real dots, those that are not set just visible.
func characters(t *display.Track, s display.State) string {
	g := t.Geometry.Grid
	var set, washed, unset strings.Builder
	for i := 0; i < g.Columns*g.Rows; i++ {
		cell := display.Cell(' ')
		if i < len(s.Cells) {
			cell = s.Cells[i]
		}
		dots := t.Dots(cell)
		cursor := s.Cursor != nil && s.Cursor.Cell == i
		for row := 0; row < 8; row++ {
			for column := 0; column < 5; column++ {
				on := dots[row]>>(4-column)&1 == 1 || cursor && (s.Cursor.Block || row == 7)
				to := &unset
				switch {
				case on && cell&display.WashedOut != 0:
					to = &washed
				case on:
					to = &set
				}
				fmt.Fprintf(to, "M%d %dh%dv%dh-%dz", i%g.Columns*cellWide+column*dotPitch, i/g.Columns*cellHigh+row*dotPitch, dotSize, dotSize, dotSize)
			}
		}
	}
	wide, high := float64(g.Columns*cellWide-4), float64(g.Rows*cellHigh-8)
	scale := min((t.Geometry.Width-60)/wide, (t.Geometry.Height-50)/high)
	return fmt.Sprintf(`<rect width="%s" height="%s" rx="6" fill="#20281a"/><rect x="%d" y="%d" width="%s" height="%s" rx="4" fill="%s"/><g transform="translate(%s %s) scale(%s %s)"><path d="%s" fill="%s"/><path d="%s" fill="%s"/><path d="%s" fill="%s" fill-opacity="0.4"/></g>`,
		number(t.Geometry.Width), number(t.Geometry.Height), glassEdge, glassEdge, number(t.Geometry.Width-2*glassEdge), number(t.Geometry.Height-2*glassEdge), g.Back,
		number((t.Geometry.Width-wide*scale)/2), number((t.Geometry.Height-high*scale)/2), number(scale), number(scale), unset.String(), g.Faint, set.String(), g.Ink, washed.String(), g.Ink)
}

// pixels draws a graphic display, as bright as it shines.
func pixels(t *display.Track, s display.State) string {
	const size, edge = 4, 20
	var d strings.Builder
	bitmap := t.Bitmap(s)
	for y := 0; y < bitmap.Height; y++ {
		for x := 0; x < bitmap.Width; x++ {
			if bitmap.At(x, y) {
				fmt.Fprintf(&d, "M%d %dh3.4v3.4h-3.4z", edge+x*size, edge+y*size)
			}
		}
	}
	level := 255
	if len(s.Levels) > 0 {
		level = s.Levels[0]
	}
	return fmt.Sprintf(`<rect width="%s" height="%s" rx="4" fill="#05080a" stroke="#2c3a3a"/><path d="%s" fill="%s" fill-opacity="%s"/>`,
		number(t.Geometry.Width), number(t.Geometry.Height), d.String(), t.Geometry.Pixels.Ink, number(0.35+0.65*float64(level)/255))
}

// sound draws a sounder: with waves and its pitch while it sounds.
func sound(t *display.Track, s display.State) string {
	c := t.Geometry.Shapes[0].Circle
	out := fmt.Sprintf(`<circle cx="%s" cy="%s" r="%s" fill="%s" stroke="%s"/><circle cx="%s" cy="%s" r="4" fill="%s"/>`,
		number(c.X), number(c.Y), number(c.R), darkColour, outlineColour, number(c.X), number(c.Y), outlineColour)
	if s.Pitch == 0 {
		return out
	}
	for _, r := range []float64{10, 15, 20} {
		out += fmt.Sprintf(`<circle cx="%s" cy="%s" r="%s" fill="none" stroke="%s" stroke-width="1.5"/>`, number(c.X), number(c.Y), number(r), t.Geometry.Shapes[0].Color)
	}
	return out + fmt.Sprintf(`<text x="%s" y="%s" font-family="monospace" font-size="9" text-anchor="middle" fill="%s">%d Hz</text>`,
		number(c.X), number(t.Geometry.Height-4), t.Geometry.Shapes[0].Color, s.Pitch)
}
