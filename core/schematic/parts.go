package schematic

import (
	"fmt"
	"slices"
	"strings"

	"hemble/core/part"
	"hemble/core/spec"
)

// symbol draws a part by its own symbol, from a place on, within a column; high is the room that it takes.
type symbol struct {
	high float64
	draw func(d *Drawing, p *part.Instance, x, y float64)
}

// Where a level symbol begins and ends, counted from the left of its column, and how far below its name it stands.
const (
	from  = 84.0
	to    = column - 100
	below = 34.0
)

var symbols = map[part.Symbol]symbol{
	part.SymbolLamp: {54, func(d *Drawing, p *part.Instance, x, y float64) {
		y += below
		middle := x + (from+to)/2 + 26
		d.net(x+from, y, -1, p.Wired[0])
		if r := ohms(p, 0); r > 0 {
			d.resistor(x+from, middle-9, y, r)
		} else {
			d.stroke(x+from, y, middle-9, y)
		}
		d.stroke(middle-9, y-9, middle-9, y+9, middle+8, y, middle-9, y-9)
		d.stroke(middle+8, y-9, middle+8, y+9)
		d.arrow(middle+1, y-10, middle+8, y-18)
		d.arrow(middle+8, y-8, middle+15, y-16)
		d.stroke(middle+8, y, x+to, y)
		d.net(x+to, y, 1, p.Wired[1])
	}},
	part.SymbolButton: {54, func(d *Drawing, p *part.Instance, x, y float64) {
		y += below
		middle := x + (from+to)/2
		d.contact(x+from, x+to, y)
		d.stroke(middle-14, y-9, middle+14, y-9)
		d.stroke(middle, y-9, middle, y-17)
		d.stroke(middle-8, y-17, middle+8, y-17)
		d.net(x+from, y, -1, p.Wired[0])
		d.net(x+to, y, 1, p.Wired[1])
	}},
	part.SymbolSwitch: {66, func(d *Drawing, p *part.Instance, x, y float64) {
		y += below
		middle := x + (from+to)/2
		d.net(x+from, y+6, -1, p.Wired[0])
		d.stroke(x+from, y+6, middle-14, y+6)
		d.circle(middle-12, y+6, 2)
		d.stroke(middle-10, y+5, middle+13, y-6)
		for i, name := range []string{"on", "off"} {
			if wired := p.Wired[i+1]; wired != "" || i == 0 {
				level := y - 6 + 22*float64(i)
				d.circle(middle+14, level, 2)
				d.stroke(middle+16, level, x+to, level)
				d.text(middle+22, level-4, rolePin, AtStart, name)
				d.net(x+to, level, 1, wired)
			}
		}
	}},
	part.SymbolBuzzer: {58, func(d *Drawing, p *part.Instance, x, y float64) {
		y += below
		middle := x + (from+to)/2
		d.Strokes = append(d.Strokes, fmt.Sprintf("M%g %ga14 14 0 0 1 28 0Z", middle-14, y+2))
		d.stroke(x+from, y+14, middle-7, y+14, middle-7, y+2)
		d.stroke(middle+7, y+2, middle+7, y+14, x+to, y+14)
		d.text(middle-18, y+11, rolePin, AtMiddle, "+")
		d.net(x+from, y+14, -1, p.Wired[0])
		d.net(x+to, y+14, 1, p.Wired[1])
	}},
	part.SymbolResistor: {54, func(d *Drawing, p *part.Instance, x, y float64) {
		y += below
		d.net(x+from, y, -1, p.Wired[0])
		d.resistor(x+from, x+to, y, p.Settings.Int("ohms"))
		d.net(x+to, y, 1, p.Wired[1])
	}},
	part.SymbolPotentiometer: {66, func(d *Drawing, p *part.Instance, x, y float64) {
		y += below
		middle := x + (from+to)/2
		ends := [2]string{"GND", "VCC"} // where they are not wired
		for i := range ends {
			if w := p.Wired[1+i]; w != "" {
				ends[i] = w
			}
		}
		d.net(x+from, y+12, -1, ends[0])
		d.resistor(x+from, x+to, y+12, 0)
		d.net(x+to, y+12, 1, ends[1])
		d.stroke(x+to, y-10, middle, y-10)
		d.arrow(middle, y-10, middle, y+7)
		d.net(x+to, y-10, 1, p.Wired[0])
	}},
	part.SymbolDivider: {88, func(d *Drawing, p *part.Instance, x, y float64) {
		middle := x + from + 14
		warm, fixed := 0.0, 1.0 // which of the two is above
		if p.Settings.Text("at") == "ground" {
			warm, fixed = 1, 0
		}
		y += 28
		for i := range 2 {
			d.box(middle-5, y+6+30*float64(i), 10, 20)
		}
		d.stroke(middle, y, middle, y+6)
		d.stroke(middle, y+26, middle, y+36)
		d.stroke(middle, y+56, middle, y+60)
		d.stroke(middle-12, y+30*warm+28, middle-8, y+30*warm+28, middle+10, y+30*warm+4)
		d.text(middle+14, y+30*warm+20, roleValue, AtStart, "NTC "+Ohms(p.Settings.Int("r25")))
		d.text(middle+14, y+30*fixed+20, roleValue, AtStart, Ohms(p.Settings.Int("resistor")))
		d.net(middle-8, y, 1, "VCC")
		d.net(middle-8, y+60, 1, "GND")
		d.stroke(middle, y+31, x+to, y+31)
		d.net(x+to, y+31, 1, p.Wired[0])
	}},
	part.SymbolVoltage: {62, func(d *Drawing, p *part.Instance, x, y float64) { d.source(p, x, y, "V") }},
	part.SymbolWave:    {62, func(d *Drawing, p *part.Instance, x, y float64) { d.source(p, x, y, "") }},
}

// contact draws two ends that touch nothing.
func (d *Drawing) contact(x1, x2, y float64) {
	middle := (x1 + x2) / 2
	d.stroke(x1, y, middle-14, y)
	d.circle(middle-12, y, 2)
	d.circle(middle+12, y, 2)
	d.stroke(middle+14, y, x2, y)
}

// source draws a source from ground to its net; one without a letter gives a square wave.
func (d *Drawing) source(p *part.Instance, x, y float64, letter string) {
	y += below + 4
	middle := x + (from+to)/2
	d.net(x+from, y, -1, "GND")
	d.stroke(x+from, y, middle-14, y)
	d.circle(middle, y, 14)
	if letter == "" {
		d.stroke(middle-9, y+4, middle-5, y+4, middle-5, y-4, middle, y-4, middle, y+4, middle+5, y+4, middle+5, y-4,
			middle+9, y-4)
	}
	d.text(middle, y+4, roleNet, AtMiddle, letter)
	d.stroke(middle+14, y, x+to, y)
	d.net(x+to, y, 1, p.Wired[0])
}

// value says in a few words what a part is.
func value(p *part.Instance) string {
	words := []string{p.Kind.Title}
	for _, key := range []string{"colour", "common", "volts", "frequency", "address", "size"} {
		if p.Settings.Has(key) && p.Settings.Text(key) != "" {
			word := p.Settings.Text(key)
			if key == "common" {
				word = "common " + word
			}
			words = append(words, word)
		}
	}
	return strings.Join(words, ", ")
}

// size is how high a part stands.
func size(p *part.Instance) float64 {
	if s, ok := symbols[p.Kind.Symbol]; ok {
		return s.high
	}
	left, right := sides(p)
	return below + boxHigh(p, left, right) + 4
}

func (d *Drawing) part(p *part.Instance, x, y float64) {
	d.text(x+from-60, y+12, roleName, AtStart, p.Name)
	d.text(x+from-60+float64(len([]rune(p.Name)))*8.4+10, y+12, roleValue, AtStart, value(p))
	if s, ok := symbols[p.Kind.Symbol]; ok {
		s.draw(d, p, x, y)
		return
	}
	d.block(p, x, y+below-8)
}

// mostLeft is how many pins one side of a box takes before the other does.
const mostLeft = 12

// sides gives the terminals at the left and at the right of a box. What goes to the supply is at the right, and so
// does what continues to other parts where some comes from the chip.
func sides(p *part.Instance) (left, right []int) {
	chip := slices.ContainsFunc(p.Wired, func(w string) bool { return w != "" && !rail(w) && !spec.IsName(w) })
	for i, w := range p.Wired {
		switch {
		case w == "" && p.Kind.Pins[i].Optional:
		case rail(w) || len(left) == mostLeft || chip && spec.IsName(w):
			right = append(right, i)
		default:
			left = append(left, i)
		}
	}
	return left, right
}

func rail(net string) bool { return net == "VCC" || net == "GND" }

// boxHigh is how high a box is: with room for its pins and, of a display, for what it shows.
func boxHigh(p *part.Instance, left, right []int) float64 {
	high := float64(max(len(left), len(right), 2))*pitch + 6
	if p.Kind.Geometry != nil {
		high = max(high, 72)
	}
	return high
}

// block draws a part as a box with its pins, and its glass in the middle.
func (d *Drawing) block(p *part.Instance, x, y float64) {
	left, right := sides(p)
	const edge = from + 46
	wide := 96.0
	if p.Kind.Geometry != nil && len(right) == 0 {
		wide = 150 // there is room for its glass
	}
	high := boxHigh(p, left, right)
	d.box(x+edge, y, wide, high)
	for i, terminals := range [2][]int{left, right} {
		side, dir := x+edge, -1.0
		if i == 1 {
			side, dir = x+edge+wide, 1
		}
		for k, terminal := range terminals {
			level := y + 3 + float64(k)*pitch + pitch/2
			end := side + dir*46
			if i == 1 {
				end = side + dir*24
			}
			if r := ohms(p, terminal); r > 0 {
				end = side + dir*46
				d.resistor(min(side, end), max(side, end), level, r)
			} else {
				d.stroke(side, level, end, level)
			}
			d.text(side-4*dir, level+3.5, rolePin, anchor(-dir), p.Kind.Pins[terminal].Name)
			d.net(end, level, dir, p.Wired[terminal])
		}
	}
	// Beside the names of the pins, which are at the left alone where there is more room.
	room := wide - 58
	middle := x + edge + wide/2
	if len(right) == 0 {
		room, middle = wide-44, middle+14
	}
	d.glass(p, middle, y+high/2, room, high-16)
	if p.Kind.Function != "" {
		d.text(x+edge+wide/2, y+high/2+4, roleValue, AtMiddle, p.Kind.Function)
	}
}

// glass draws what is particular to a display, small, around a place, in so much room: the cells of a character
// display, the dots of a graphic one, the segments of digits as single lines, lights as circles.
func (d *Drawing) glass(p *part.Instance, x, y, wide, high float64) {
	if p.Kind.Geometry == nil {
		return
	}
	g := p.Kind.Geometry(*p)
	scale := min(wide/g.Width, high/g.Height)
	w, h := g.Width*scale, g.Height*scale
	left, top := x-w/2, y-h/2
	switch {
	case g.Grid != nil:
		d.box(left, top, w, h)
		d.cells(left, top, w, h, min(g.Grid.Columns, 8), g.Grid.Rows)
	case g.Pixels != nil:
		d.box(left, top, w, h)
		d.dots(left, top, w, h)
	}
	for _, s := range g.Shapes {
		switch {
		case s.Circle != nil:
			d.circle(left+s.Circle.X*scale, top+s.Circle.Y*scale, round(max(0.8, s.Circle.R*scale)))
		case len(s.Points) == 6: // a segment, between its two tips
			a, b := s.Points[0], s.Points[3]
			d.stroke(left+a[0]*scale, top+a[1]*scale, left+b[0]*scale, top+b[1]*scale)
		default:
			var points []float64
			for _, q := range slices.Concat(s.Points, s.Points[:1]) {
				points = append(points, left+q[0]*scale, top+q[1]*scale)
			}
			d.stroke(points...)
		}
	}
}

// cells draws the cells of a character display; of many columns only some.
func (d *Drawing) cells(x, y, w, h float64, columns, rows int) {
	const edge = 3.0
	cw, ch := (w-edge)/float64(columns), (h-edge)/float64(rows)
	for r := range rows {
		for c := range columns {
			d.box(x+edge+float64(c)*cw, y+edge+float64(r)*ch, cw-edge, ch-edge)
		}
	}
}

// dots draws a slope of dots, as a graphic display has many.
func (d *Drawing) dots(x, y, w, h float64) {
	const step = 6.0
	for c := 1; float64(c)*step < w-2; c++ {
		for r := 1; float64(r)*step < h-2; r++ {
			if float64(c)*step/w+float64(r)*step/h > 0.95 && (c+r)%2 == 0 {
				d.circle(x+float64(c)*step, y+float64(r)*step, 1)
			}
		}
	}
}
