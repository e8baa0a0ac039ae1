package characters

import (
	"fmt"
	"math/bits"
	"slices"

	"hemble/core/display"
	"hemble/core/finding"
)

// wide has all dots of a row of a character.
const wide = 0x1f

// turns are the ways in which a character of one's own comes out otherwise than it was drawn, each with what it makes
// of the dots.
var turns = []struct {
	how string
	of  func([8]uint8) [8]uint8
}{
	{"mirrored: the bits of its rows are in reverse order",
		byRows(func(a *[8]uint8, i int) uint8 { return mirrored(a[i]) })},
	{"upside down: its rows are in reverse order", byRows(func(a *[8]uint8, i int) uint8 { return row(a, 7-i) })},
	{"upside down: its rows are in reverse order", byRows(func(a *[8]uint8, i int) uint8 { return row(a, 6-i) })},
	{"turned by a half", byRows(func(a *[8]uint8, i int) uint8 { return mirrored(row(a, 7-i)) })},
	{"turned by a half", byRows(func(a *[8]uint8, i int) uint8 { return mirrored(row(a, 6-i)) })},
	{"inverted: its dots are lit and dark the other way round",
		byRows(func(a *[8]uint8, i int) uint8 { return ^a[i] })},
	{"shifted to the left", byRows(func(a *[8]uint8, i int) uint8 { return a[i] << 1 })},
	{"shifted to the right", byRows(func(a *[8]uint8, i int) uint8 { return a[i] >> 1 })},
	{"shifted down", byRows(func(a *[8]uint8, i int) uint8 { return row(a, i-1) })},
	{"shifted up", byRows(func(a *[8]uint8, i int) uint8 { return row(a, i+1) })},
}

func byRows(f func(a *[8]uint8, i int) uint8) func([8]uint8) [8]uint8 {
	return func(a [8]uint8) (out [8]uint8) {
		for i := range out {
			out[i] = f(&a, i) & wide
		}
		return out
	}
}

func row(a *[8]uint8, i int) uint8 {
	if i < 0 || i > 7 {
		return 0
	}
	return a[i]
}

func mirrored(v uint8) uint8 { return bits.Reverse8(v) >> 3 }

// redrawnGlyph is the mistake of a character of one's own that comes out otherwise than it was drawn.
var redrawnGlyph = &display.Mistake{
	Entry: finding.Entry{Code: "glyph", Price: finding.Form,
		Doc: "a custom character is mirrored, upside down, inverted or shifted, or some of its dots are wrong"},
	Once: true,
	Sizes: func(c *display.Case) (out []display.Size) {
		add := func(i int, drawn [8]uint8, how string) {
			meant := c.Geometry.Grid.Characters[i]
			if slices.ContainsFunc(c.Geometry.Grid.Characters, func(x display.Character) bool {
				return x.Dots == drawn // as it is meant, or another one
			}) {
				return
			}
			out = append(out, display.Size{Text: fmt.Sprintf("The character %s of %s is %s.", meant.Letter, c.Name, how),
				State: func(t *display.Track, s display.State) display.State {
					return changed(func(cells []display.Cell) []display.Cell {
						mended := make([]display.Cell, len(cells))
						for k, cell := range cells {
							mended[k] = cell
							if cell >= display.CustomCell && cell&display.WashedOut == 0 && Dots(t, cell) == drawn {
								mended[k] = display.NamedCell + display.Cell(i)
							}
						}
						return mended
					})(t, s)
				}})
		}
		for i, meant := range c.Geometry.Grid.Characters {
			for _, turn := range turns {
				if drawn := turn.of(meant.Dots); drawnBy(c, drawn) {
					add(i, drawn, turn.how)
				}
			}
			tried := map[[8]uint8]bool{}
			for _, t := range c.Tracks {
				for _, drawn := range t.Custom {
					if !tried[drawn] && slips(c.Geometry, meant.Dots, drawn) {
						tried[drawn] = true
						add(i, drawn, fmt.Sprintf("drawn otherwise: %s of it", display.Plural(apart(meant.Dots, drawn), "dot")))
					}
				}
			}
			if drawn, ok := instead(c, i); ok && !tried[drawn] {
				add(i, drawn, "not there: in its place is a character of another number, or one that was never drawn")
			}
		}
		return out
	},
}

// instead is the custom character that always stands where one is meant.
func instead(c *display.Case, i int) (drawn [8]uint8, ok bool) {
	for _, p := range c.Pairs {
		for k, cell := range p.Want.Cells {
			if cell != display.NamedCell+display.Cell(i) {
				continue
			}
			seen := p.Seen.Cells[k]
			if seen < display.CustomCell || seen&display.WashedOut != 0 || ok && Dots(p.On, seen) != drawn {
				return drawn, false
			}
			drawn, ok = Dots(p.On, seen), true
		}
	}
	return drawn, ok
}

// apart is in how many dots two characters differ.
func apart(a, b [8]uint8) (n int) {
	for i := range a {
		n += bits.OnesCount8((a[i] ^ b[i]) & wide)
	}
	return n
}

// slips reports whether a character that was drawn is one that was meant but for a few dots, and none of the others
// that the display is to show.
func slips(g display.Geometry, meant, drawn [8]uint8) bool {
	const most = 6 // of 40
	for _, other := range g.Grid.Characters {
		if other.Dots != meant && apart(other.Dots, drawn) <= apart(meant, drawn) {
			return false
		}
	}
	n := apart(meant, drawn)
	return n > 0 && n <= most && 2*n <= apart(meant, [8]uint8{})
}

// drawnBy reports whether a run drew a character.
func drawnBy(c *display.Case, dots [8]uint8) bool {
	for _, t := range c.Tracks {
		for _, drawn := range t.Custom {
			if drawn == dots {
				return true
			}
		}
	}
	return false
}
