// Package characters is the display type of a grid of characters, each of five by eight dots.
package characters

import (
	"fmt"
	"slices"
	"strconv"
	"strings"

	"hemble/core/display"
	"hemble/core/glyph"
	"hemble/core/vision"
)

// Form is the word for it in reels.
const Form display.TypeName = "text"

func init() { display.Register(characters{}) }

type characters struct{ display.Plain }

func (characters) Name() display.TypeName { return Form }
func (characters) Traits() display.Traits { return display.Traits{Unseen: "it shows nothing"} }

func (characters) Dark(g display.Geometry) display.State {
	return display.State{Cells: slices.Repeat([]display.Cell{' '}, g.Grid.Columns*g.Grid.Rows)}
}

// Watch knows how slowly liquid crystals follow.
func (characters) Watch(g display.Geometry, b display.Bench) display.Observer {
	return vision.WatchLCD(b, g.Grid.Columns*g.Grid.Rows, vision.LCDResponse, false)
}

// Describe tells the rows, the custom characters that have no letter, and the cursor where that is looked at.
func (characters) Describe(t *display.Track, s display.State) string {
	rows := Rows(t, s)
	for i, r := range rows {
		rows[i] = strings.TrimRight(r, " ")
	}
	return display.Rows(rows) + nameless(t, s) + cursor(t.Geometry.Grid, s)
}

// Alike compares cell by cell: custom characters without a letter are told apart by their dots.
func (characters) Alike(t *display.Track, a, b display.State) bool {
	same := func(x, y display.Cell) bool {
		r := letter(t, x)
		return r == letter(t, y) && (r != display.Nameless || x == y)
	}
	return slices.EqualFunc(a.Cells, b.Cells, same) && a.Flicker == b.Flicker &&
		cursor(t.Geometry.Grid, a) == cursor(t.Geometry.Grid, b)
}

// Rows gives the text as a person reads it: a custom character by the letter that the exercise has for it, or that the
// ROM draws alike; '▢' stands for any other and '░' for one that is washed out.
func Rows(t *display.Track, s display.State) []string {
	g := t.Geometry.Grid
	rows := make([]string, 0, g.Rows)
	for r := 0; r < g.Rows; r++ {
		var b strings.Builder
		for c := 0; c < g.Columns; c++ {
			b.WriteRune(letter(t, s.Cells[r*g.Columns+c]))
		}
		rows = append(rows, b.String())
	}
	return rows
}

func letter(t *display.Track, c display.Cell) rune {
	switch {
	case c&display.WashedOut != 0:
		return '░'
	case c < display.CustomCell:
		return glyph.Rune(byte(c))
	case c == display.AnyCustom:
		return display.Nameless
	}
	dots := Dots(t, c)
	for _, one := range t.Geometry.Grid.Characters {
		if one.Dots == dots {
			return []rune(one.Letter)[0]
		}
	}
	if code, ok := glyph.Drawn(dots); ok {
		return glyph.Rune(code)
	}
	return display.Nameless
}

// Dots gives the dots of a cell, row by row, the leftmost in bit 4.
func Dots(t *display.Track, c display.Cell) [8]uint8 {
	c &^= display.WashedOut
	if i := int(c - display.NamedCell); c >= display.NamedCell && t.Geometry.Grid != nil &&
		i < len(t.Geometry.Grid.Characters) {
		return t.Geometry.Grid.Characters[i].Dots
	}
	if i := int(c - display.CustomCell); c >= display.CustomCell {
		if i < len(t.Custom) {
			return t.Custom[i]
		}
		return [8]uint8{0x1f, 0x11, 0x11, 0x11, 0x11, 0x11, 0x1f}
	}
	return glyph.ROM(byte(c))
}

// nameless returns which custom characters without a letter there are, where the track has several: to a person they
// differ.
func nameless(t *display.Track, s display.State) string {
	if len(t.Custom) < 2 {
		return ""
	}
	var words []string
	for _, c := range s.Cells {
		if c >= display.CustomCell && c != display.AnyCustom && letter(t, c) == display.Nameless {
			words = append(words, strconv.Itoa(int(c-display.CustomCell)+1))
		}
	}
	if words == nil {
		return ""
	}
	return fmt.Sprintf(" (%c %s of %d)", display.Nameless, strings.Join(words, " "), len(t.Custom))
}

// cursor returns where the cursor is, where that is looked at.
func cursor(g *display.Grid, s display.State) string {
	c := s.Cursor
	switch {
	case !g.Cursor:
		return ""
	case c == nil:
		return " without a cursor"
	}
	what := "a cursor"
	if c.Block {
		what = "a blinking cursor"
	}
	return fmt.Sprintf(" with %s in row %d, column %d", what, c.Cell/g.Columns+1, c.Cell%g.Columns+1)
}

// Attend makes the cursor a part of what is compared where a frame has it: frames that differ by their cursor alone are
// then different ones.
func (characters) Attend() display.Attention {
	return display.Attention{Key: keyCursor.Name, With: func(g display.Geometry) display.Geometry {
		grid := *g.Grid
		grid.Cursor = true
		g.Grid = &grid
		return g
	}}
}

// Spell writes the rows, up to the last one that has text.
func (characters) Spell(t *display.Track, s display.State) []string {
	rows := Rows(t, s)
	for i := range rows {
		rows[i] = strings.TrimRight(rows[i], " ")
	}
	for len(rows) > 1 && rows[len(rows)-1] == "" {
		rows = rows[:len(rows)-1]
	}
	return []string{"{rows: [" + display.QuotedList(rows) + "]}"}
}

// Texts are the rows without the spaces behind them.
func (characters) Texts(t *display.Track, s display.State) []string {
	rows := Rows(t, s)
	for i := range rows {
		rows[i] = strings.TrimRight(rows[i], " ")
	}
	return rows
}

func (characters) Rows(t *display.Track, s display.State) []string { return Rows(t, s) }

// WithRows puts text into a state. A character that is the same as before keeps its cell.
func (characters) WithRows(t *display.Track, s display.State, rows []string) display.State {
	before, g := Rows(t, s), t.Geometry.Grid
	cells := slices.Clone(s.Cells)
	for r, row := range rows {
		was := []rune(before[r])
		for c, x := range []rune(row) {
			if x == was[c] {
				continue
			}
			cell, ok := g.Cell(x)
			if !ok {
				cell = display.AnyCustom
			}
			cells[r*g.Columns+c] = cell
		}
	}
	s.Cells = cells
	return s
}

// Places is the width of a row.
func (characters) Places(g display.Geometry) int { return g.Grid.Columns }

func (characters) ReadNumber(t *display.Track, s display.State, nth int) (int, bool) {
	return display.NumberIn(Rows(t, s), nth)
}

func (c characters) WriteNumber(t *display.Track, s display.State, nth, n int) display.State {
	rows := display.Renumbered(Rows(t, s), nth, n)
	for r := range rows {
		row := []rune(rows[r] + strings.Repeat(" ", t.Geometry.Grid.Columns))
		rows[r] = string(row[:t.Geometry.Grid.Columns])
	}
	return c.WithRows(t, s, rows)
}

func (characters) Figures(display.Geometry) int { return 0 }

func (characters) Fit(_ display.Geometry, text string) string { return text }

// Size is that of its grid.
func (characters) Size(g display.Geometry) (columns, rows int) { return g.Grid.Columns, g.Grid.Rows }

// Part is a smaller grid.
func (characters) Part(g display.Geometry, r display.Region) display.Geometry {
	grid := *g.Grid
	grid.Columns, grid.Rows = r.Wide, r.High
	g.Grid = &grid
	return g
}

// Cut has the cells of the part, and the cursor where it is within.
func (characters) Cut(t *display.Track, s display.State, r display.Region) display.State {
	out, columns := display.State{Flicker: s.Flicker, Uneven: s.Uneven}, t.Geometry.Grid.Columns
	for y := range r.High {
		at := (r.Y+y)*columns + r.X
		out.Cells = append(out.Cells, s.Cells[at:at+r.Wide]...)
	}
	if c := s.Cursor; c != nil {
		if x, y := c.Cell%columns-r.X, c.Cell/columns-r.Y; x >= 0 && x < r.Wide && y >= 0 && y < r.High {
			out.Cursor = &display.Cursor{Cell: y*r.Wide + x, Block: c.Block}
		}
	}
	return out
}

// Widen leaves the other cells blank.
func (c characters) Widen(g display.Geometry, s display.State, r display.Region) display.State {
	out, columns := c.Dark(g), g.Grid.Columns
	for i, cell := range s.Cells {
		out.Cells[(r.Y+i/r.Wide)*columns+r.X+i%r.Wide] = cell
	}
	if c := s.Cursor; c != nil {
		out.Cursor = &display.Cursor{Cell: (r.Y+c.Cell/r.Wide)*columns + r.X + c.Cell%r.Wide, Block: c.Block}
	}
	return out
}
