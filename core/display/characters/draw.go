package characters

import (
	"strings"

	"hemble/core/display"
)

// A dot is eight units wide with a gap of one; characters are a gap apart.
const (
	dotSize   = 8
	dotPitch  = dotSize + 1
	cellWide  = 5*dotPitch + 4
	cellHigh  = 8*dotPitch + 8
	glassEdge = 12
)

// Draw draws real dots, those that are not set just visible.
func (characters) Draw(t *display.Track, s display.State) display.Drawing {
	g, look := t.Geometry.Grid, t.Geometry
	var set, washed, unset [][2]int
	for i := 0; i < g.Columns*g.Rows; i++ {
		cell := display.Cell(' ')
		if i < len(s.Cells) {
			cell = s.Cells[i]
		}
		dots := Dots(t, cell)
		cursor := s.Cursor != nil && s.Cursor.Cell == i
		for row := 0; row < 8; row++ {
			for column := 0; column < 5; column++ {
				to := &unset
				if dots[row]>>(4-column)&1 == 1 || cursor && (s.Cursor.Block || row == 7) {
					if to = &set; cell&display.WashedOut != 0 {
						to = &washed
					}
				}
				*to = append(*to, [2]int{i%g.Columns*cellWide + column*dotPitch, i/g.Columns*cellHigh + row*dotPitch})
			}
		}
	}
	wide, high := float64(g.Columns*cellWide-4), float64(g.Rows*cellHigh-8)
	scale := min((look.Width-60)/wide, (look.Height-50)/high)
	squares := func(at [][2]int, fill string, opacity float64) display.Squares {
		return display.Squares{X: (look.Width - wide*scale) / 2, Y: (look.Height - high*scale) / 2, Scale: scale,
			Side: dotSize, At: at, Fill: fill, Opacity: opacity}
	}
	return display.Drawing{
		display.Panel{Width: look.Width, Height: look.Height, Round: 6, Fill: "#20281a"},
		display.Panel{X: glassEdge, Y: glassEdge, Width: look.Width - 2*glassEdge, Height: look.Height - 2*glassEdge,
			Round: 4, Fill: g.Back},
		squares(unset, g.Faint, 1), squares(set, g.Ink, 1), squares(washed, g.Ink, 0.4),
	}
}

// Sketch draws the text in its frame, with the cursor where nothing else stands.
func (characters) Sketch(t *display.Track, s display.State) []string {
	g := t.Geometry.Grid
	edge := strings.Repeat("─", g.Columns)
	out := []string{"┌" + edge + "┐"}
	for r, row := range Rows(t, s) {
		if c := s.Cursor; c != nil && c.Cell/g.Columns == r {
			runes := []rune(row)
			if at := c.Cell % g.Columns; runes[at] == ' ' {
				if runes[at] = '_'; c.Block {
					runes[at] = '▒'
				}
			}
			row = string(runes)
		}
		out = append(out, "│"+row+"│")
	}
	return append(out, "└"+edge+"┘")
}

// Sample has text on all of it.
func (characters) Sample(g display.Geometry, l display.Light) (s display.State) {
	const text = "Wherry Lock 3.5\xdfC "
	for i := 0; i < g.Grid.Columns*g.Grid.Rows; i++ {
		cell := display.Cell(' ')
		if l != display.Dark {
			cell = display.Cell(text[i%len(text)])
		}
		if l == display.Dim && cell != ' ' {
			cell |= display.WashedOut
		}
		s.Cells = append(s.Cells, cell)
	}
	return s
}
