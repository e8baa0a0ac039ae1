// Package schematic draws the bench of an exercise as a circuit diagram, in standard symbols (IEC 60617), with net
// names in place of long wires, and lists the connections. The drawing is data: pages, SVG files and printers draw it
// in their own colours.
package schematic

import (
	"fmt"
	"html"
	"math"
	"strings"

	"hemble/core/exercise"
	"hemble/core/part"
)

// Drawing is a diagram in units of a tenth of a millimetre or so, from the top left.
type Drawing struct {
	Width   float64  `json:"width"`
	Height  float64  `json:"height"`
	Strokes []string `json:"strokes"` // SVG path data of lines
	Fills   []string `json:"fills"`   // and of filled shapes
	Texts   []Text   `json:"texts"`
}

// Text is a word of the diagram, its baseline at Y.
type Text struct {
	X      float64 `json:"x"`
	Y      float64 `json:"y"`
	Text   string  `json:"text"`
	Anchor Anchor  `json:"anchor"` // where X is
	Role   string  `json:"role"`   // name, net, pin or value
}

// Anchor is the end of a text that its place is of, as in SVG.
type Anchor string

// The anchors.
const (
	AtStart  Anchor = "start"
	AtMiddle Anchor = "middle"
	AtEnd    Anchor = "end"
)

// Anchors lists them.
var Anchors = []Anchor{AtStart, AtMiddle, AtEnd}

// The roles of texts.
const (
	roleName  = "name"
	roleNet   = "net"
	rolePin   = "pin"
	roleValue = "value"
)

// Measures of the diagram.
const (
	pitch   = 22.0  // from one pin of a box to the next
	column  = 330.0 // parts are in columns of this width
	gap     = 28.0  // between parts
	chipBox = 120.0 // width of the chip
)

// Draw draws the bench of an exercise: the chip at the left, the parts in columns beside it.
func Draw(x *exercise.Exercise) *Drawing {
	d := &Drawing{Strokes: []string{}, Fills: []string{}, Texts: []Text{}}
	left, high := 0.0, 0.0
	if x.Chip != nil {
		left, high = d.chip(x)
	}
	total := 0.0
	for _, p := range x.Parts {
		total += size(p) + gap
	}
	columns := 1
	for columns < 3 && total/float64(columns) > max(high, 420)*1.15 {
		columns++
	}
	filled := make([]float64, columns)
	for _, p := range x.Parts {
		at := 0
		for i := range filled {
			if filled[i] < filled[at] {
				at = i
			}
		}
		d.part(p, left+float64(at)*column, filled[at])
		filled[at] += size(p) + gap
	}
	for _, f := range filled {
		high = max(high, f-gap)
	}
	d.Width, d.Height = left+float64(columns)*column+24, high
	return d
}

// SVG draws a diagram in black on white, as a document of its own.
func (d *Drawing) SVG(title string) string {
	var b strings.Builder
	fmt.Fprintf(&b,
		`<svg xmlns="http://www.w3.org/2000/svg" viewBox="-10 -10 %g %g" role="img" aria-label="%s" font-family="ui-sans-serif, sans-serif"><rect x="-10" y="-10" width="100%%" height="100%%" fill="#fff"/>`,
		d.Width+20, d.Height+20, html.EscapeString(title))
	fmt.Fprintf(&b, `<path d="%s" fill="none" stroke="#000" stroke-width="1.3" stroke-linejoin="round"/><path d="%s"/>`,
		strings.Join(d.Strokes, ""), strings.Join(d.Fills, ""))
	for _, t := range d.Texts {
		style := map[string]string{roleName: `font-size="13" font-weight="600"`,
			roleNet: `font-size="11" font-family="ui-monospace, monospace"`,
			rolePin: `font-size="9" fill="#444"`, roleValue: `font-size="10" fill="#444"`}[t.Role]
		fmt.Fprintf(&b, `<text x="%g" y="%g" text-anchor="%s" %s>%s</text>`, t.X, t.Y, t.Anchor, style,
			html.EscapeString(t.Text))
	}
	return b.String() + "</svg>\n"
}

func (d *Drawing) text(x, y float64, role string, anchor Anchor, text string) {
	if text != "" {
		d.Texts = append(d.Texts, Text{round(x), round(y), text, anchor, role})
	}
}

// stroke draws a line through points, M and L being written for it: pairs of x and y.
func (d *Drawing) stroke(points ...float64) { d.Strokes = append(d.Strokes, polyline(points)) }

func (d *Drawing) fill(points ...float64) { d.Fills = append(d.Fills, polyline(points)+"Z") }

func polyline(points []float64) string {
	var b strings.Builder
	for i := 0; i+1 < len(points); i += 2 {
		fmt.Fprintf(&b, "%c%g %g", "ML"[min(i, 1)], round(points[i]), round(points[i+1]))
	}
	return b.String()
}

func (d *Drawing) box(x, y, w, h float64) { d.stroke(x, y, x+w, y, x+w, y+h, x, y+h, x, y) }

func (d *Drawing) circle(x, y, r float64) {
	d.Strokes = append(d.Strokes, fmt.Sprintf("M%g %ga%g %g 0 1 0 %g 0a%g %g 0 1 0 %g 0", round(x-r), round(y), r, r,
		2*r, r, r, -2*r))
}

// arrow draws a line with a head at its end.
func (d *Drawing) arrow(x1, y1, x2, y2 float64) {
	d.stroke(x1, y1, x2, y2)
	angle := math.Atan2(y2-y1, x2-x1)
	a, b := angle+2.7, angle-2.7
	d.fill(x2, y2, x2+5*math.Cos(a), y2+5*math.Sin(a), x2+5*math.Cos(b), y2+5*math.Sin(b))
}

func round(v float64) float64 { return math.Round(v*10) / 10 }

// net ends a lead at a place: with the sign of the supply's end that it goes to, or a flag with the net's name. to is
// -1 for a lead that ends at the left, 1 for the right.
func (d *Drawing) net(x, y, to float64, name string) {
	switch name {
	case "":
		d.stroke(x-3, y-3, x+3, y+3)
		d.stroke(x-3, y+3, x+3, y-3)
	case "VCC":
		d.stroke(x, y, x+8*to, y, x+8*to, y-7)
		d.stroke(x+8*to-7, y-7, x+8*to+7, y-7)
		d.text(x+8*to+10*to, y-3, roleNet, anchor(to), name)
	case "GND":
		d.stroke(x, y, x+8*to, y, x+8*to, y+5)
		for i := 0.0; i < 3; i++ {
			d.stroke(x+8*to-7+2.5*i, y+5+3*i, x+8*to+7-2.5*i, y+5+3*i)
		}
		d.text(x+8*to+10*to, y+10, roleNet, anchor(to), name)
	default:
		wide := float64(len([]rune(name)))*6.7 + 8
		d.stroke(x, y, x+5*to, y-7, x+(5+wide)*to, y-7, x+(5+wide)*to, y+7, x+5*to, y+7, x, y)
		d.text(x+(5+wide/2)*to, y+4, roleNet, AtMiddle, name)
	}
}

// anchor is where a text stands from a place on, going left or right.
func anchor(to float64) Anchor {
	if to < 0 {
		return AtEnd
	}
	return AtStart
}

// resistor draws one in the middle of a level lead of its length.
func (d *Drawing) resistor(x1, x2, y float64, ohms int64) {
	middle := (x1 + x2) / 2
	d.stroke(x1, y, middle-15, y)
	d.box(middle-15, y-4.5, 30, 9)
	d.stroke(middle+15, y, x2, y)
	if ohms > 0 {
		d.text(middle, y-6.5, rolePin, AtMiddle, Ohms(ohms))
	}
}

// Ohms writes a resistance as on a diagram.
func Ohms(ohms int64) string {
	switch {
	case ohms >= 1_000_000 && ohms%100_000 == 0:
		return fmt.Sprintf("%g MΩ", float64(ohms)/1e6)
	case ohms >= 1000 && ohms%100 == 0:
		return fmt.Sprintf("%g kΩ", float64(ohms)/1000)
	}
	return fmt.Sprintf("%d Ω", ohms)
}

// ohms is the resistor in the lead of a terminal, 0 for none.
func ohms(p *part.Instance, terminal int) int64 {
	if p.Kind.Resistors == nil {
		return 0
	}
	return p.Kind.Resistors(*p)[terminal]
}
