// Package display has what displays can show: how they are drawn, which states they have, and how a frame of an
// exercise file is compared. Each display type is a folder of its own below it.
package display

import (
	"hemble/core/clock"
	"hemble/core/glyph"
)

// TypeName is the word for a display type in reels.
type TypeName string

// Geometry says of which type a display is and how it is drawn: shapes with the light that fills each, a grid of
// character cells, or pixels. Terminal, SVG and console all draw from it.
type Geometry struct {
	TypeName TypeName `json:"type"`
	Width    float64  `json:"width"` // of the drawing, in tenths of a millimetre or so
	Height   float64  `json:"height"`
	Shapes   []Shape  `json:"shapes,omitempty"`
	Grid     *Grid    `json:"grid,omitempty"`
	Pixels   *Pixels  `json:"pixels,omitempty"`
	Colon    int      `json:"colon,omitempty"` // of digits: behind how many of them the colon stands; 0 for none

	Members []Member `json:"members,omitempty"` // of a group, in the order of their lights
}

// Lights is how many lights the display has; several shapes may belong to one.
func (g Geometry) Lights() (n int) {
	for _, s := range g.Shapes {
		n = max(n, s.Light+1)
	}
	return n
}

// Digits is how many digits a display of digits has.
func (g Geometry) Digits() int { return len(g.Shapes) / 8 }

// Pixels is a graphic display.
type Pixels struct {
	Columns int    `json:"columns"`
	Rows    int    `json:"rows"`
	Ink     string `json:"ink"` // colour of a lit pixel
}

// Shape is one light.
type Shape struct {
	Light  int          `json:"light"`
	Name   string       `json:"name"`            // segment name, or the colour's word for a lamp
	Digit  int          `json:"digit,omitempty"` // which digit it belongs to
	Color  string       `json:"color"`           // of the lit light, #rrggbb
	Points [][2]float64 `json:"points,omitempty"`
	Circle *Circle      `json:"circle,omitempty"`
}

// Circle is a round light.
type Circle struct {
	X float64 `json:"x"`
	Y float64 `json:"y"`
	R float64 `json:"r"`
}

// Grid is a character display.
type Grid struct {
	Columns int    `json:"columns"`
	Rows    int    `json:"rows"`
	Back    string `json:"back"` // colours of the backlight, the dots set and unset
	Ink     string `json:"ink"`
	Faint   string `json:"faint"`

	Characters []Character `json:"characters,omitempty"` // custom ones that the exercise has a name for
	Cursor     bool        `json:"-"`                    // the cursor is a part of what is compared and told
}

// Character is a custom character with the letter that stands for it in texts.
type Character struct {
	Letter string   `json:"letter"`
	Dots   [8]uint8 `json:"dots"` // row by row, the leftmost of five dots in bit 4
}

// Member is a display within the geometry of a group.
type Member struct {
	Name     string   `json:"name"`
	Geometry Geometry `json:"geometry"`
}

// GroupKind is what the track of a group has for its kind of part.
const GroupKind = "group"

// Nominal is the current in nA at which an LED of a lamp or segment counts as fully bright.
const Nominal = 10_000_000

// Mixture is how long a state between two others may last without being noticed: members that change together change
// one after the other, each by its own pins. The eye has the same time for mixtures within one display.
const Mixture = 25 * clock.Millisecond

// Nameless stands for a custom character that the exercise has no letter for.
const Nameless = '▢'

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
