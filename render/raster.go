package render

import (
	"image"
	"image/color"
	"image/draw"
	"math"

	"golang.org/x/image/vector"

	"hemble/core/display"
)

// raster paints shapes on an image: what the SVG of a picture says, dot by dot.
type raster struct {
	img   *image.RGBA
	x, y  float64 // where 0, 0 of what is painted stands, in dots
	scale float64 // dots for a unit
}

// at is a raster for what is at a place of this one, in units, and is drawn larger or smaller.
func (r raster) at(x, y, scale float64) raster {
	return raster{r.img, r.x + x*r.scale, r.y + y*r.scale, r.scale * scale}
}

type point struct{ x, y float64 }

// outline is closed shapes that are painted as one: where they overlap, the paint is no thicker. All go round the same
// way, but for holes.
type outline struct{ shapes [][]point }

// roundness is how many straight pieces stand for a full circle.
const roundness = 48

func (o *outline) polygon(points ...point) { o.shapes = append(o.shapes, points) }

func (o *outline) rect(x, y, w, h float64) {
	o.polygon(point{x, y}, point{x + w, y}, point{x + w, y + h}, point{x, y + h})
}

// disc adds a circle; one with a negative radius is a hole.
func (o *outline) disc(x, y, r float64) {
	points := make([]point, roundness)
	for i := range points {
		sin, cos := math.Sincos(2 * math.Pi * float64(i) / roundness)
		points[i] = point{x + math.Abs(r)*cos, y + r*sin}
	}
	o.polygon(points...)
}

// panel adds a rectangle with round corners.
func (o *outline) panel(x, y, w, h, round float64) {
	if round = min(round, w/2, h/2); round <= 0 {
		o.rect(x, y, w, h)
		return
	}
	var points []point
	for corner, at := range []point{{x + w - round, y + h - round}, {x + round, y + h - round}, {x + round, y + round},
		{x + w - round, y + round}} {
		for i := range roundness/4 + 1 {
			sin, cos := math.Sincos(math.Pi/2*float64(corner) + 2*math.Pi*float64(i)/roundness)
			points = append(points, point{at.x + round*cos, at.y + round*sin})
		}
	}
	o.polygon(points...)
}

// stroke adds a line of some thickness through points, with round joins; a closed one ends where it begins.
func (o *outline) stroke(points []point, thick float64, closed bool) {
	for i, p := range points {
		q := points[(i+1)%len(points)]
		if last := i == len(points)-1; closed || !last {
			if long := math.Hypot(q.x-p.x, q.y-p.y); long > 0 {
				nx, ny := (q.y-p.y)/long*thick/2, (p.x-q.x)/long*thick/2
				o.polygon(point{p.x + nx, p.y + ny}, point{q.x + nx, q.y + ny}, point{q.x - nx, q.y - ny},
					point{p.x - nx, p.y - ny})
			}
		}
		if closed || i > 0 && i < len(points)-1 {
			o.disc(p.x, p.y, thick/2)
		}
	}
}

// paint fills an outline with a colour.
func (r raster) paint(o outline, fill string, opacity float64) {
	box := image.Rectangle{}
	for _, shape := range o.shapes {
		for i, p := range shape {
			shape[i] = point{r.x + p.x*r.scale, r.y + p.y*r.scale}
			dot := image.Rect(int(math.Floor(shape[i].x)), int(math.Floor(shape[i].y)), int(math.Ceil(shape[i].x))+1,
				int(math.Ceil(shape[i].y))+1)
			box = box.Union(dot)
		}
	}
	if box = box.Intersect(r.img.Bounds()); box.Empty() {
		return
	}
	z := vector.NewRasterizer(box.Dx(), box.Dy())
	for _, shape := range o.shapes {
		for i, p := range shape {
			x, y := float32(p.x-float64(box.Min.X)), float32(p.y-float64(box.Min.Y))
			if i == 0 {
				z.MoveTo(x, y)
			} else {
				z.LineTo(x, y)
			}
		}
		z.ClosePath()
	}
	c := ink(fill)
	z.DrawOp = draw.Over
	z.Draw(r.img, box, image.NewUniform(color.NRGBA{c.R, c.G, c.B, uint8(math.Round(255 * opacity))}), image.Point{})
}

// item paints one item of a display's drawing, but for words.
func (r raster) item(item display.Item) {
	var o outline
	switch x := item.(type) {
	case display.Lamp:
		r.lamp(x)
	case display.Panel:
		o.panel(x.X, x.Y, x.Width, x.Height, x.Round)
		r.paint(o, x.Fill, 1)
		if x.Stroke != "" {
			r.ring(x)
		}
	case display.Disc:
		if x.Fill != "" {
			o.disc(x.X, x.Y, x.R)
			r.paint(o, x.Fill, 1)
		}
		if x.Stroke != "" {
			r.circle(x.Circle, x.Stroke, x.Thick, 1)
		}
	case display.Squares:
		for _, at := range x.At {
			o.rect(float64(at[0]), float64(at[1]), x.Side, x.Side)
		}
		r.at(x.X, x.Y, x.Scale).paint(o, x.Fill, x.Opacity)
	}
}

// circle paints the line of a circle.
func (r raster) circle(c display.Circle, colour string, thick, opacity float64) {
	var o outline
	o.disc(c.X, c.Y, c.R+thick/2)
	o.disc(c.X, c.Y, -max(0, c.R-thick/2))
	r.paint(o, colour, opacity)
}

// ring paints the line around a panel, one unit wide.
func (r raster) ring(x display.Panel) {
	var o, whole outline
	whole.panel(x.X, x.Y, x.Width, x.Height, x.Round)
	o.stroke(whole.shapes[0], 1, true)
	r.paint(o, x.Stroke, 1)
}

// lamp paints a light as svg writes it: with a soft halo where it is lit, in its outline where it is dark.
func (r raster) lamp(l display.Lamp) {
	body := func() (o outline) {
		if c := l.Shape.Circle; c != nil {
			o.disc(c.X, c.Y, c.R)
		} else {
			o.polygon(corners(l.Shape)...)
		}
		return o
	}
	line := func(colour string, thick, opacity float64) {
		if c := l.Shape.Circle; c != nil {
			r.circle(*c, colour, thick, opacity)
			return
		}
		var o outline
		o.stroke(corners(l.Shape), thick, true)
		r.paint(o, colour, opacity)
	}
	if l.State == display.Lit {
		line(l.Shape.Color, haloWidth, haloOpacity)
	}
	r.paint(body(), display.InkDark, 1)
	line(display.InkOutline, outlineWidth, 1)
	if opacity := glow(l); opacity > 0 {
		r.paint(body(), l.Shape.Color, opacity)
	}
}

func corners(s display.Shape) []point {
	out := make([]point, len(s.Points))
	for i, p := range s.Points {
		out[i] = point{p[0], p[1]}
	}
	return out
}
