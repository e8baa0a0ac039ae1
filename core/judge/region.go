package judge

import (
	"fmt"
	"slices"

	"hemble/core/display"
	"hemble/core/glyph"
	"hemble/core/part"
	"hemble/core/spec"
)

// regionField names a part of a display.
var regionField = spec.Field{Name: "region", Kind: spec.Mapping, Doc: "look at this part of the display only: in characters, in digits, or in dots of a graphic display, counted from 1", Fields: []spec.Field{
	{Name: "row", Kind: spec.Int, Min: 1, Max: 128, Default: "1", Doc: "its first row"},
	{Name: "column", Kind: spec.Int, Min: 1, Max: 256, Default: "1", Doc: "its first column"},
	{Name: "rows", Kind: spec.Int, Min: 1, Max: 128, Default: "1", Doc: "how many rows"},
	{Name: "columns", Kind: spec.Int, Min: 1, Max: 256, Doc: "how many columns; all the others of the row where it is not given"},
}}

// region is a part of a display, from 0.
type region struct{ x, y, wide, high int }

// readRegion reads one; ok is false where the display has no such part.
func readRegion(v spec.Values, p *part.Built, ps *spec.Problems) (g region, ok bool) {
	look := p.Kind.Geometry(*p)
	columns, rows := 0, 0
	switch look.Form {
	case display.FormText:
		columns, rows = look.Grid.Columns, look.Grid.Rows
	case display.FormPixels:
		columns, rows = look.Pixels.Columns, look.Pixels.Rows
	case display.FormDigits:
		columns, rows = look.Digits(), 1
	default:
		ps.Add(v.Pos, "%q has no regions; they go with characters, digits and graphic displays", p.Name)
		return g, false
	}
	g = region{int(v.Int("column")) - 1, int(v.Int("row")) - 1, int(v.Int("columns")), int(v.Int("rows"))}
	if !v.Has("columns") {
		g.wide = columns - g.x
	}
	if g.wide < 1 || g.x+g.wide > columns || g.y+g.high > rows {
		ps.Add(v.Pos, "%q is %d columns wide and %s high: this region leads out of it", p.Name, columns, plural(rows, "row"))
		return g, false
	}
	return g, true
}

// of is the part as a display of its own, for reading what is wanted there.
func (g region) of(p *part.Built) *part.Built {
	kind, out := *p.Kind, *p
	look := g.look(p.Kind.Geometry(*p))
	kind.Geometry = func(part.Built) display.Geometry { return look }
	out.Kind = &kind
	return &out
}

// look is the drawing of the part alone.
func (g region) look(l display.Geometry) display.Geometry {
	switch l.Form {
	case display.FormText:
		grid := *l.Grid
		grid.Columns, grid.Rows = g.wide, g.high
		l.Grid = &grid
	case display.FormPixels:
		pixels := *l.Pixels
		pixels.Columns, pixels.Rows = g.wide, g.high
		l.Pixels = &pixels
	default:
		var shapes []display.Shape
		for _, s := range l.Shapes {
			if s.Digit >= g.x && s.Digit < g.x+g.wide && s.Light < 8*l.Digits() {
				s.Digit -= g.x
				s.Light -= 8 * g.x
				shapes = append(shapes, s)
			}
		}
		l.Shapes, l.Colon = shapes, 0
	}
	return l
}

// cut gives the part of a sight.
func (g region) cut(t *display.Track, s display.State) display.State {
	out := display.State{Flicker: s.Flicker, Uneven: s.Uneven}
	switch t.Geometry.Form {
	case display.FormText:
		for y := range g.high {
			at := (g.y+y)*t.Geometry.Grid.Columns + g.x
			out.Cells = append(out.Cells, s.Cells[at:at+g.wide]...)
		}
		if c := s.Cursor; c != nil {
			if x, y := c.Cell%t.Geometry.Grid.Columns-g.x, c.Cell/t.Geometry.Grid.Columns-g.y; x >= 0 && x < g.wide && y >= 0 && y < g.high {
				out.Cursor = &display.Cursor{Cell: y*g.wide + x, Block: c.Block}
			}
		}
	case display.FormPixels:
		whole, b := t.Bitmap(s), glyph.NewBitmap(g.wide, (g.high+7)/8*8)
		for y := range g.high {
			for x := range g.wide {
				if whole.At(g.x+x, g.y+y) {
					b.Set(x, y)
				}
			}
		}
		out.Pixels, out.Levels = b.Pages(), s.Levels
	default:
		from, to := 8*g.x, 8*(g.x+g.wide)
		out.Lights, out.Levels = s.Lights[from:to], s.Levels[from:to]
	}
	return out
}

// regionWant is a part of a display, whatever the rest shows.
type regionWant struct {
	region
	want
}

func (w *regionWant) shows(t *display.Track, s display.State) (bool, int) {
	return w.want.shows(&display.Track{Display: t.Display, Geometry: w.look(t.Geometry), Custom: t.Custom}, w.cut(t, s))
}

func (w *regionWant) sight(look display.Geometry) *display.State {
	return w.widen(look, w.want.sight(w.look(look)))
}

// widen gives a sight of the part as one of the whole display, whose rest is blank; nil stays nil.
func (g region) widen(look display.Geometry, inner *display.State) *display.State {
	if inner == nil {
		return nil
	}
	out := &display.State{}
	switch look.Form {
	case display.FormText:
		out.Cells = slices.Repeat([]display.Cell{' '}, look.Grid.Columns*look.Grid.Rows)
		for i, c := range inner.Cells {
			out.Cells[(g.y+i/g.wide)*look.Grid.Columns+g.x+i%g.wide] = c
		}
		if c := inner.Cursor; c != nil {
			out.Cursor = &display.Cursor{Cell: (g.y+c.Cell/g.wide)*look.Grid.Columns + g.x + c.Cell%g.wide, Block: c.Block}
		}
	case display.FormPixels:
		b := glyph.NewBitmap(look.Pixels.Columns, look.Pixels.Rows)
		small := (&display.Track{Geometry: g.look(look)}).Bitmap(*inner)
		for y := range g.high {
			for x := range g.wide {
				if small.At(x, y) {
					b.Set(g.x+x, g.y+y)
				}
			}
		}
		out.Pixels = b.Pages()
	default:
		n := look.Lights()
		out.Lights, out.Levels = make(display.Lights, n), make([]int, n)
		copy(out.Lights[8*g.x:], inner.Lights)
		copy(out.Levels[8*g.x:], inner.Levels)
	}
	return out
}

func (w *regionWant) same(want) bool { return false }

func (w *regionWant) String() string { return fmt.Sprintf("%s in %s", w.want, w.region) }

func (g region) String() string {
	where := fmt.Sprintf("columns %d to %d", g.x+1, g.x+g.wide)
	if g.wide == 1 {
		where = fmt.Sprintf("column %d", g.x+1)
	}
	if g.high > 1 {
		where = fmt.Sprintf("rows %d to %d, ", g.y+1, g.y+g.high) + where
	} else if g.y > 0 {
		where = fmt.Sprintf("row %d, ", g.y+1) + where
	}
	return where
}
