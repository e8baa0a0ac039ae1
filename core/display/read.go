package display

import (
	"fmt"
	"math/bits"
	"slices"
	"strconv"
	"strings"

	"hemble/core/glyph"
)

// Describe tells in words what a sight shows: "on", "2.", rows of text in quotes.
func (t *Track) Describe(s State) string {
	out := ""
	switch t.Geometry.Form {
	case FormText:
		rows := t.Rows(s)
		for i, r := range rows {
			rows[i] = strings.TrimRight(r, " ")
		}
		out = quoteRows(rows) + t.nameless(s) + t.cursor(s)
	case FormGroup:
		out = t.group(s)
	case FormPixels:
		out = t.pixels(s)
	case FormLines:
		if out = "nothing yet"; s.Line != "" {
			out = strconv.Quote(s.Line)
		}
	case FormSound:
		if out = "silent"; s.Pitch > 0 {
			out = fmt.Sprintf("%dHz", s.Pitch)
		}
	case FormLamp:
		out = [...]string{"off", "on", "dim"}[s.Lights[0]]
	case FormBar:
		out = bar(s.Lights)
	case FormColour:
		out = Colour(s)
	case FormMatrix:
		out = strings.Join(t.MatrixRows(s), "/")
	default:
		out = t.digits(s, glyph.Display.String)
	}
	if s.Flicker {
		out += " (flickering)"
	}
	return out
}

// Alike tells whether two sights of the track look the same.
func (t *Track) Alike(a, b State) bool {
	switch t.Geometry.Form {
	case FormDigits:
		return a.Lights.Bits() == b.Lights.Bits() && a.Flicker == b.Flicker
	case FormText:
		return slices.EqualFunc(a.Cells, b.Cells, t.alike) && a.Flicker == b.Flicker && t.cursor(a) == t.cursor(b)
	}
	return t.Describe(a) == t.Describe(b)
}

// Short is Describe for narrow places.
func (t *Track) Short(s State) string {
	switch t.Geometry.Form {
	case FormDigits:
		if len(s.Lights) == len(glyph.Segments) && s.Lights.Bits() != 0 {
			return glyph.Pattern(s.Lights.Bits()).Symbol()
		}
	case FormMatrix:
		return fmt.Sprintf("%d of %d lit (%s)", bits.OnesCount64(s.Lights.Bits()), len(s.Lights), glyph.HexRows(t.MatrixRows(s)))
	case FormBar:
		if n := bits.OnesCount64(s.Lights.Bits()); s.Lights.Bits() == 1<<n-1 {
			return fmt.Sprintf("%d of %d", n, len(s.Lights))
		}
	}
	return t.Describe(s)
}

func quoteRows(rows []string) string {
	blank := true
	for i, r := range rows {
		blank = blank && strings.TrimSpace(r) == ""
		rows[i] = `"` + r + `"`
	}
	if blank {
		return "blank"
	}
	return strings.Join(rows, " / ")
}

// digits tells the digits, with the colon in its place.
func (t *Track) digits(s State, tell func(glyph.Display) string) string {
	d := glyph.Digits(s.Lights.Bits(), min(8, t.Geometry.Digits()))
	if t.Geometry.Colon == 0 || s.Lights[8*len(d)] != Lit {
		return tell(d)
	}
	return `"` + d[:t.Geometry.Colon].Symbols() + ":" + d[t.Geometry.Colon:].Symbols() + `"`
}

// bar draws a row of lights.
func bar(l Lights) string {
	var b strings.Builder
	for _, s := range l {
		b.WriteRune([...]rune{'○', '●', '◌'}[s])
	}
	return b.String()
}

// MatrixRows draws the rows of a matrix, # for a lit dot.
func (t *Track) MatrixRows(s State) []string {
	var rows []string
	for i, x := range t.Geometry.Shapes {
		for x.Digit >= len(rows) {
			rows = append(rows, "")
		}
		rows[x.Digit] += [...]string{".", "#", "+"}[s.Lights[i]]
	}
	return rows
}

// colours are the mixtures of a red, a green and a blue light that people have a word for, in thousandths.
var colours = []struct {
	name    string
	r, g, b int
}{
	{"red", 1000, 0, 0}, {"orange", 1000, 350, 0}, {"yellow", 1000, 1000, 0}, {"green", 0, 1000, 0}, {"cyan", 0, 1000, 1000},
	{"blue", 0, 0, 1000}, {"violet", 400, 0, 1000}, {"magenta", 1000, 0, 1000}, {"white", 1000, 1000, 1000},
}

// ColourNames lists them.
func ColourNames() (out []string) {
	for _, c := range colours {
		out = append(out, c.name)
	}
	return append(out, "off")
}

// ColourLevels gives the three levels of a colour by name, in thousandths.
func ColourLevels(name string) (levels [3]int, ok bool) {
	for _, c := range colours {
		if c.name == name {
			return [3]int{c.r, c.g, c.b}, true
		}
	}
	return levels, name == "off"
}

// Colour names the mixture of a colour lamp: the nearest of colours, brightness left aside.
func Colour(s State) string {
	most := max(s.Levels[0], s.Levels[1], s.Levels[2])
	if most == 0 {
		return "off"
	}
	best, least := "", 1<<40
	for _, c := range colours {
		off := 0
		for i, want := range []int{c.r, c.g, c.b} {
			d := s.Levels[i]*1000/most - want
			off += d * d
		}
		if off < least {
			best, least = c.name, off
		}
	}
	return best
}

// Rows gives the text of a character display as a person reads it: a custom character by the letter that the exercise has for
// it, or that the ROM draws alike; '▢' stands for any other and '░' for one that is washed out.
func (t *Track) Rows(s State) []string {
	g := t.Geometry.Grid
	rows := make([]string, 0, g.Rows)
	for r := 0; r < g.Rows; r++ {
		var b strings.Builder
		for c := 0; c < g.Columns; c++ {
			b.WriteRune(t.letter(s.Cells[r*g.Columns+c]))
		}
		rows = append(rows, b.String())
	}
	return rows
}

// Nameless stands for a custom character that the exercise has no letter for.
const Nameless = '▢'

func (t *Track) letter(c Cell) rune {
	switch {
	case c&WashedOut != 0:
		return '░'
	case c < CustomCell:
		return glyph.Rune(byte(c))
	case c == AnyCustom:
		return Nameless
	}
	dots := t.Dots(c)
	for _, one := range t.Geometry.Grid.Characters {
		if one.Dots == dots {
			return []rune(one.Letter)[0]
		}
	}
	if code, ok := glyph.Drawn(dots); ok {
		return glyph.Rune(code)
	}
	return Nameless
}

// Cell gives the cell that shows a letter on a character display; ok is false where none does.
func (g *Grid) Cell(letter rune) (c Cell, ok bool) {
	for i, one := range g.Characters {
		if one.Letter == string(letter) {
			return NamedCell + Cell(i), true
		}
	}
	if letter == Nameless {
		return AnyCustom, true
	}
	code, ok := glyph.Code(letter)
	return Cell(code), ok
}

// alike tells whether two cells look the same; what is washed out reads as nothing in particular.
func (t *Track) alike(a, b Cell) bool {
	x := t.letter(a)
	return x == t.letter(b) && (x != Nameless || a == b)
}

// nameless tells which custom characters without a letter there are, where the track has several: to a person they differ.
func (t *Track) nameless(s State) string {
	if len(t.Custom) < 2 {
		return ""
	}
	var words []string
	for _, c := range s.Cells {
		if c >= CustomCell && c != AnyCustom && t.letter(c) == Nameless {
			words = append(words, strconv.Itoa(int(c-CustomCell)+1))
		}
	}
	if words == nil {
		return ""
	}
	return fmt.Sprintf(" (%c %s of %d)", Nameless, strings.Join(words, " "), len(t.Custom))
}

// cursor tells where the cursor is, where that is looked at.
func (t *Track) cursor(s State) string {
	switch c := s.Cursor; {
	case !t.Geometry.Grid.Cursor:
		return ""
	case c == nil:
		return " without a cursor"
	default:
		return " with " + c.In(*t.Geometry.Grid)
	}
}

// In tells in words where a cursor stands, and whether it blinks.
func (c *Cursor) In(g Grid) string {
	what := "a cursor"
	if c.Block {
		what = "a blinking cursor"
	}
	return fmt.Sprintf("%s in row %d, column %d", what, c.Cell/g.Columns+1, c.Cell%g.Columns+1)
}

// pixels tells the text that can be read, or how much is lit.
func (t *Track) pixels(s State) string {
	b := t.Bitmap(s)
	lit := b.Count()
	if lit == 0 {
		return "blank"
	}
	if lines := b.Text(); len(lines) > 0 {
		return quoteRows(lines)
	}
	return fmt.Sprintf("a picture of %d pixels (%08x)", lit, b.Digest())
}

// Bitmap gives the pixels of a graphic display.
func (t *Track) Bitmap(s State) glyph.Bitmap {
	b := glyph.NewBitmap(t.Geometry.Pixels.Columns, t.Geometry.Pixels.Rows)
	for i, column := range s.Pixels {
		for y := 0; y < 8; y++ {
			if column>>y&1 == 1 {
				b.Set(i%b.Width, i/b.Width*8+y)
			}
		}
	}
	return b
}

// Dots gives the dots of a cell of this track.
func (t *Track) Dots(c Cell) [8]uint8 {
	c &^= WashedOut
	if i := int(c - NamedCell); c >= NamedCell && t.Geometry.Grid != nil && i < len(t.Geometry.Grid.Characters) {
		return t.Geometry.Grid.Characters[i].Dots
	}
	if i := int(c - CustomCell); c >= CustomCell {
		if i < len(t.Custom) {
			return t.Custom[i]
		}
		return [8]uint8{0x1f, 0x11, 0x11, 0x11, 0x11, 0x11, 0x1f}
	}
	return glyph.ROM(byte(c))
}
