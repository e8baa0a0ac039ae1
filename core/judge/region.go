package judge

import (
	"fmt"
	"slices"

	"hemble/core/glyph"
	"hemble/core/part"
	"hemble/core/reel"
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
	look := p.Kind.Look(*p)
	columns, rows := 0, 0
	switch look.Form {
	case reel.FormText:
		columns, rows = look.Grid.Columns, look.Grid.Rows
	case reel.FormPixels:
		columns, rows = look.Pixels.Columns, look.Pixels.Rows
	case reel.FormDigits:
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
	look := g.look(p.Kind.Look(*p))
	kind.Look = func(part.Built) reel.Look { return look }
	out.Kind = &kind
	return &out
}

// look is the drawing of the part alone.
func (g region) look(l reel.Look) reel.Look {
	switch l.Form {
	case reel.FormText:
		grid := *l.Grid
		grid.Columns, grid.Rows = g.wide, g.high
		l.Grid = &grid
	case reel.FormPixels:
		pixels := *l.Pixels
		pixels.Columns, pixels.Rows = g.wide, g.high
		l.Pixels = &pixels
	default:
		var shapes []reel.Shape
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
func (g region) cut(t *reel.Track, s reel.Sight) reel.Sight {
	out := reel.Sight{Flicker: s.Flicker, Uneven: s.Uneven}
	switch t.Look.Form {
	case reel.FormText:
		for y := range g.high {
			at := (g.y+y)*t.Look.Grid.Columns + g.x
			out.Cells = append(out.Cells, s.Cells[at:at+g.wide]...)
		}
		if c := s.Cursor; c != nil {
			if x, y := c.Cell%t.Look.Grid.Columns-g.x, c.Cell/t.Look.Grid.Columns-g.y; x >= 0 && x < g.wide && y >= 0 && y < g.high {
				out.Cursor = &reel.Cursor{Cell: y*g.wide + x, Block: c.Block}
			}
		}
	case reel.FormPixels:
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

func (w *regionWant) shows(t *reel.Track, s reel.Sight) (bool, int) {
	return w.want.shows(&reel.Track{Display: t.Display, Look: w.look(t.Look), Custom: t.Custom}, w.cut(t, s))
}

func (w *regionWant) sight(look reel.Look) *reel.Sight {
	return w.widen(look, w.want.sight(w.look(look)))
}

// widen gives a sight of the part as one of the whole display, whose rest is blank; nil stays nil.
func (g region) widen(look reel.Look, inner *reel.Sight) *reel.Sight {
	if inner == nil {
		return nil
	}
	out := &reel.Sight{}
	switch look.Form {
	case reel.FormText:
		out.Cells = slices.Repeat([]reel.Cell{' '}, look.Grid.Columns*look.Grid.Rows)
		for i, c := range inner.Cells {
			out.Cells[(g.y+i/g.wide)*look.Grid.Columns+g.x+i%g.wide] = c
		}
		if c := inner.Cursor; c != nil {
			out.Cursor = &reel.Cursor{Cell: (g.y+c.Cell/g.wide)*look.Grid.Columns + g.x + c.Cell%g.wide, Block: c.Block}
		}
	case reel.FormPixels:
		b := glyph.NewBitmap(look.Pixels.Columns, look.Pixels.Rows)
		small := (&reel.Track{Look: g.look(look)}).Bitmap(*inner)
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
		out.Lights, out.Levels = make(reel.Lights, n), make([]int, n)
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
