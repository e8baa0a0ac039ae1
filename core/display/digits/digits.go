// Package digits is the display type of seven-segment digits: eight lights per digit, and optionally a colon.
package digits

import (
	"strings"

	"hemble/core/display"
	"hemble/core/display/lights"
	"hemble/core/glyph"
)

// Form is the word for it in reels. The Digit of a shape is its digit, from the left.
const Form display.TypeName = "digits"

func init() { display.Register(digits{}) }

type digits struct{ lights.Type }

func (digits) Name() display.TypeName { return Form }
func (digits) Traits() display.Traits { return display.Traits{Member: true} }

// per is how many lights a digit has: its segments and its point.
const per = len(glyph.Segments)

// Watch knows the segments of one digit as lit together.
func (digits) Watch(g display.Geometry, b display.Bench) display.Observer { return lights.InRows(g, b) }

// Sample leaves every other digit dim, and the middle segment of the others.
func (digits) Sample(g display.Geometry, l display.Light) display.State {
	return lights.Sample(g, l, func(x display.Shape) bool { return x.Light%per != 6 && x.Digit%2 == 0 })
}

// shown reads the digits of a state.
func shown(g display.Geometry, s display.State) glyph.Display {
	return glyph.Digits(s.Lights.Bits(), min(8, g.Digits()))
}

// Describe tells the digits, with the colon in its place.
func (digits) Describe(t *display.Track, s display.State) string {
	d := shown(t.Geometry, s)
	if at := t.Geometry.Colon; at > 0 && s.Lights[per*len(d)] == display.Lit {
		return `"` + d[:at].Symbols() + ":" + d[at:].Symbols() + `"`
	}
	return d.String()
}

// Short tells a single digit by its symbol.
func (digits) Short(_ *display.Track, s display.State) string {
	if len(s.Lights) == per && s.Lights.Bits() != 0 {
		return glyph.Pattern(s.Lights.Bits()).Symbol()
	}
	return ""
}

// Alike compares the lit segments.
func (digits) Alike(_ *display.Track, a, b display.State) bool {
	return a.Lights.Bits() == b.Lights.Bits() && a.Flicker == b.Flicker
}

// Sketch draws the digits side by side, five lines high, and the colon between them.
func (digits) Sketch(t *display.Track, s display.State) []string {
	out, l := make([]string, 5), s.Lights
	for d := 0; (d+1)*per <= len(l); d++ {
		if t.Geometry.Colon > 0 && d == t.Geometry.Colon {
			dot := [...]string{" ", "●", "◌"}[l[len(l)-1]]
			for i, line := range []string{" ", dot, " ", dot, " "} {
				out[i] += line
			}
		}
		for i, line := range sketch(l[d*per : (d+1)*per]) {
			out[i] += line
		}
	}
	return out
}

// sketch draws one digit. A dim segment is drawn with light strokes.
func sketch(l display.Lights) []string {
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

// Spell writes the symbols, as short as they can be, or the segments of a single digit.
func (digits) Spell(t *display.Track, s display.State) (out []string) {
	d := shown(t.Geometry, s)
	text := d.Symbols()
	if at := t.Geometry.Colon; at > 0 && len(text) >= at {
		parted := d[:at].Symbols() + ":" + d[at:].Symbols()
		out = append(out, display.Quoted(strings.TrimLeft(parted, " ")), display.Quoted(parted))
	}
	out = append(out, display.Quoted(strings.TrimLeft(text, " ")), display.Quoted(text))
	if len(d) == 1 {
		out = append(out, "{segments: ["+strings.Join(strings.Fields(d[0].Lit()), ", ")+"]}")
	}
	return out
}

// Texts are the symbols.
func (digits) Texts(t *display.Track, s display.State) []string {
	return []string{strings.TrimSpace(shown(t.Geometry, s).Symbols())}
}

// Places is how many symbols stand side by side.
func (digits) Places(g display.Geometry) int { return g.Digits() }

// Joins tells that digits side by side are one display, but for those with a colon of their own.
func (digits) Joins(g display.Geometry) bool { return g.Colon == 0 }

// Figures are its digits.
func (digits) Figures(g display.Geometry) int { return g.Digits() }

// Fit leaves the colon out where there is none.
func (digits) Fit(g display.Geometry, text string) string {
	if g.Colon == 0 {
		return strings.ReplaceAll(text, ":", "")
	}
	return text
}

// Size is that of its digits.
func (digits) Size(g display.Geometry) (columns, rows int) { return g.Digits(), 1 }

// Part has some of the digits, without the colon.
func (digits) Part(g display.Geometry, r display.Region) display.Geometry {
	var shapes []display.Shape
	for _, s := range g.Shapes {
		if s.Digit >= r.X && s.Digit < r.X+r.Wide && s.Light < per*g.Digits() {
			s.Digit -= r.X
			s.Light -= per * r.X
			shapes = append(shapes, s)
		}
	}
	g.Shapes, g.Colon = shapes, 0
	return g
}

// Cut has their lights.
func (digits) Cut(_ *display.Track, s display.State, r display.Region) display.State {
	from, to := per*r.X, per*(r.X+r.Wide)
	return display.State{Flicker: s.Flicker, Uneven: s.Uneven, Lights: s.Lights[from:to], Levels: s.Levels[from:to]}
}

// Widen leaves all others dark.
func (digits) Widen(g display.Geometry, s display.State, r display.Region) display.State {
	out := display.Emissive(0, g.Lights())
	copy(out.Lights[per*r.X:], s.Lights)
	copy(out.Levels[per*r.X:], s.Levels)
	return out
}

// pattern reads the segments of one digit.
func pattern(l display.Lights, digit int) (p glyph.Pattern) {
	for i, x := range l[digit*per : (digit+1)*per] {
		if x == display.Lit {
			p |= 1 << i
		}
	}
	return p
}

// put lights the segments of one digit.
func put(l display.Lights, digit int, p glyph.Pattern) {
	for i := range per {
		l[digit*per+i] = display.Light(p >> i & 1)
	}
}
