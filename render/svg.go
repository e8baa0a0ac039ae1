package render

import (
	"fmt"
	"html"
	"math"
	"strings"

	"hemble/core/display"
)

// The dark well that a display sits in.
const (
	wellColour = "#171412"
	wellMargin = 10
	wellRound  = 6
)

// SVG draws a state of a display in its dark well, as a document of its own.
func SVG(t *display.Track, s display.State) string {
	w, h := t.Geometry.Width+2*wellMargin, t.Geometry.Height+2*wellMargin
	return fmt.Sprintf(`<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 %s %s" role="img" aria-label="%s">%s</svg>`,
		number(w), number(h), html.EscapeString(t.Display+": "+t.Describe(s)), well(t, s))
}

// well is the drawing with its well around it, from 0, 0 on.
func well(t *display.Track, s display.State) string {
	return fmt.Sprintf(`<rect width="%s" height="%s" rx="%d" fill="%s"/><g transform="translate(%d %d)">%s</g>`,
		number(t.Geometry.Width+2*wellMargin), number(t.Geometry.Height+2*wellMargin), wellRound, wellColour,
		wellMargin, wellMargin, drawing(t, s))
}

// drawing writes the items of a display's drawing.
func drawing(t *display.Track, s display.State) string {
	var b strings.Builder
	for _, item := range t.Geometry.Type().Draw(t, s) {
		b.WriteString(svg(item))
	}
	return b.String()
}

func svg(item display.Item) string {
	switch x := item.(type) {
	case display.Lamp:
		return light(x)
	case display.Panel:
		stroke := ""
		if x.Stroke != "" {
			stroke = fmt.Sprintf(` stroke="%s"`, x.Stroke)
		}
		return fmt.Sprintf(`<rect x="%s" y="%s" width="%s" height="%s" rx="%s" fill="%s"%s/>`, number(x.X), number(x.Y),
			number(x.Width), number(x.Height), number(x.Round), x.Fill, stroke)
	case display.Disc:
		fill, stroke := "none", ""
		if x.Fill != "" {
			fill = x.Fill
		}
		if x.Stroke != "" {
			stroke = fmt.Sprintf(` stroke="%s" stroke-width="%s"`, x.Stroke, number(x.Thick))
		}
		return fmt.Sprintf(`<circle cx="%s" cy="%s" r="%s" fill="%s"%s/>`, number(x.X), number(x.Y), number(x.R), fill,
			stroke)
	case display.Squares:
		var d strings.Builder
		side := number(x.Side)
		for _, at := range x.At {
			fmt.Fprintf(&d, "M%d %dh%sv%sh-%sz", at[0], at[1], side, side, side)
		}
		return fmt.Sprintf(`<path transform="translate(%s %s) scale(%s)" d="%s" fill="%s" fill-opacity="%s"/>`,
			number(x.X), number(x.Y), number(x.Scale), d.String(), x.Fill, number(x.Opacity))
	case display.Words:
		anchor := ""
		if x.Centred {
			anchor = ` text-anchor="middle"`
		}
		return fmt.Sprintf(`<text x="%s" y="%s" font-family="monospace" font-size="%s"%s fill="%s">%s</text>`,
			number(x.X), number(x.Y), number(x.Size), anchor, x.Fill, html.EscapeString(x.Text))
	}
	panic(fmt.Sprintf("no drawing of a %T", item))
}

func number(v float64) string { return fmt.Sprintf("%g", math.Round(v*100)/100) }

// How a light is drawn, in units.
const (
	haloWidth    = 7
	haloOpacity  = 0.22
	outlineWidth = 0.7
)

// glow is how opaque the colour of a light is over its dark body.
func glow(l display.Lamp) float64 {
	switch level := math.Sqrt(l.Level); l.State {
	case display.Lit:
		return 0.55 + 0.45*level
	case display.Dim:
		return 0.15 + 0.25*level
	}
	return 0
}

// light has three visible states: lit with a soft halo, dim, or dark but outlined.
func light(l display.Lamp) string {
	x, outline := l.Shape, ""
	if x.Circle != nil {
		outline = fmt.Sprintf(`circle cx="%s" cy="%s" r="%s"`, number(x.Circle.X), number(x.Circle.Y),
			number(x.Circle.R))
	} else {
		var points []string
		for _, p := range x.Points {
			points = append(points, number(p[0])+","+number(p[1]))
		}
		outline = fmt.Sprintf(`polygon points="%s"`, strings.Join(points, " "))
	}
	out := ""
	if l.State == display.Lit {
		out = fmt.Sprintf(`<%s fill="none" stroke="%s" stroke-opacity="%g" stroke-width="%d" stroke-linejoin="round"/>`,
			outline, x.Color, haloOpacity, haloWidth)
	}
	out += fmt.Sprintf(`<%s fill="%s" stroke="%s" stroke-width="%g"/>`, outline, display.InkDark, display.InkOutline,
		outlineWidth)
	if opacity := glow(l); opacity > 0 {
		out += fmt.Sprintf(`<%s fill="%s" fill-opacity="%s"/>`, outline, x.Color, number(opacity))
	}
	return out
}
