package reel

import (
	"strings"

	"hemble/core/glyph"
)

// Describe tells in words what a sight shows: "on", "2.", rows of text in quotes.
func (t *Track) Describe(s Sight) string {
	out := ""
	switch {
	case t.Look.Grid != nil:
		rows := t.Rows(s)
		blank := true
		for i, r := range rows {
			blank = blank && strings.TrimSpace(r) == ""
			rows[i] = `"` + strings.TrimRight(r, " ") + `"`
		}
		if out = strings.Join(rows, " / "); blank {
			out = "blank"
		}
	case len(s.Lights) == 1:
		out = [...]string{"off", "on", "dim"}[s.Lights[0]]
	default:
		out = glyph.Digits(s.Lights.Bits(), len(s.Lights)/len(glyph.Segments)).String()
	}
	if s.Flicker {
		out += " (flickering)"
	}
	return out
}

// Short is Describe for narrow places.
func (t *Track) Short(s Sight) string {
	switch {
	case t.Look.Grid != nil || len(s.Lights) == 1:
		return t.Describe(s)
	case s.Lights.Bits() == 0:
		return "blank"
	case len(s.Lights) == len(glyph.Segments):
		return glyph.Pattern(s.Lights.Bits()).Symbol()
	}
	return t.Describe(s)
}

// Rows gives the text of a character display as its ROM shows it: '▢' stands for a custom character
// and '░' for one that is washed out.
func (t *Track) Rows(s Sight) []string {
	g := t.Look.Grid
	rows := make([]string, 0, g.Rows)
	for r := 0; r < g.Rows; r++ {
		var b strings.Builder
		for c := 0; c < g.Columns; c++ {
			switch cell := s.Cells[r*g.Columns+c]; {
			case cell&WashedOut != 0:
				b.WriteRune('░')
			case cell >= CustomCell:
				b.WriteRune('▢')
			default:
				b.WriteRune(glyph.Rune(byte(cell)))
			}
		}
		rows = append(rows, b.String())
	}
	return rows
}

// Dots gives the dots of a cell of this track.
func (t *Track) Dots(c Cell) [8]uint8 {
	c &^= WashedOut
	if i := int(c - CustomCell); c >= CustomCell {
		if i < len(t.Custom) {
			return t.Custom[i]
		}
		return [8]uint8{0x1f, 0x11, 0x11, 0x11, 0x11, 0x11, 0x1f}
	}
	return glyph.ROM(byte(c))
}

// Track finds a display's track.
func (r *Reel) Track(display string) *Track {
	for i := range r.Tracks {
		if r.Tracks[i].Display == display {
			return &r.Tracks[i]
		}
	}
	return nil
}
