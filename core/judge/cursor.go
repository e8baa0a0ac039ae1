package judge

import (
	"fmt"
	"slices"

	"go.yaml.in/yaml/v3"

	"hemble/core/display"
	"hemble/core/part"
	"hemble/core/reel"
	"hemble/core/spec"
)

// cursorField is the cursor of a character display in a frame.
var cursorField = spec.Field{Name: "cursor", Kind: spec.Mapping, Doc: "the cursor of a character display, beside what it shows or by itself; where no frame of an expectation has it, cursors do not matter", Fields: []spec.Field{
	{Name: "shown", Kind: spec.Bool, Default: "yes", Doc: "whether there is one"},
	{Name: "row", Kind: spec.Int, Min: 1, Max: 4, Doc: "its row, counted from 1; any where it is not given"},
	{Name: "column", Kind: spec.Int, Min: 1, Max: 40, Doc: "its column; any where it is not given"},
	{Name: "blinking", Kind: spec.Bool, Doc: "a blinking block, or `no` for a line that stands still; either where it is not given"},
}}

// cursorWant is a cursor, beside a text.
type cursorWant struct {
	want             // the text; nil for any
	shown            bool
	row, column      int // from 0; -1 for any
	either, blinking bool
	columns          int
}

// readPlaced reads a frame of a character display that says which row it is about, or where the cursor is; rows are those it gives.
func readPlaced(m spec.Values, rows []string, v spec.Value, p *part.Built, strict bool, ps *spec.Problems) want {
	grid := p.Kind.Geometry(*p).Grid
	if grid == nil {
		ps.Add(v.Pos, "%q is no character display: it has neither rows of text nor a cursor", p.Name)
		return nil
	}
	var w want
	switch {
	case m.Has("row") && !m.Has("text"):
		ps.Add(m.At("row"), "row goes with the text that stands in it")
		return nil
	case m.Has("row") && int(m.Int("row")) > grid.Rows:
		ps.Add(m.At("row"), "%q has no row %d", p.Name, m.Int("row"))
		return nil
	case m.Has("text"):
		if w = readRows([]string{m.Text("text")}, m.Get("text"), grid, ps); w == nil {
			return nil
		}
		if m.Has("row") {
			w = &rowWant{row: int(m.Int("row")) - 1, text: w.(*rowsWant).rows[0]}
		}
	case m.Has("rows"):
		if w = readRows(rows, m.Get("rows"), grid, ps); w == nil {
			return nil
		}
	case m.Has("one-of"):
		if w = readAny(m.Get("one-of"), p, strict, ps); w == nil {
			return nil
		}
	case m.Has("segments") || m.Has("bitmap"):
		ps.Add(v.Pos, "%q is a character display, which shows text", p.Name)
		return nil
	}
	if !m.Has("cursor") {
		return w
	}
	c := m.Get("cursor").Map
	x := &cursorWant{want: w, shown: c.Bool("shown"), row: int(c.Int("row")) - 1, column: int(c.Int("column")) - 1, either: !c.Has("blinking"), blinking: c.Bool("blinking"), columns: grid.Columns}
	switch {
	case x.row >= grid.Rows || x.column >= grid.Columns:
		ps.Add(c.Pos, "%q has %s of %d characters: the cursor cannot stand there", p.Name, plural(grid.Rows, "row"), grid.Columns)
		return nil
	case !x.shown && (c.Has("row") || c.Has("column") || c.Has("blinking")):
		ps.Add(c.Pos, "a cursor that is not shown stands nowhere")
		return nil
	}
	return x
}

func (w *cursorWant) shows(t *display.Track, s display.State) (ok bool, off int) {
	ok = true
	if w.want != nil {
		ok, off = w.want.shows(t, s)
	}
	if !w.right(s.Cursor) {
		return false, min(1000, off+200)
	}
	return ok, off
}

func (w *cursorWant) right(c *display.Cursor) bool {
	if c == nil || !w.shown {
		return c == nil && !w.shown
	}
	return (w.row < 0 || c.Cell/w.columns == w.row) && (w.column < 0 || c.Cell%w.columns == w.column) && (w.either || c.Block == w.blinking)
}

func (w *cursorWant) sight(look display.Geometry) *display.State {
	if w.want == nil {
		return nil
	}
	s := w.want.sight(look)
	if s != nil && w.shown {
		s.Cursor = &display.Cursor{Cell: max(0, w.row)*w.columns + max(0, w.column), Block: w.blinking}
	}
	return s
}

func (w *cursorWant) same(other want) bool {
	o, ok := other.(*cursorWant)
	if !ok || w.shown != o.shown || w.row != o.row || w.column != o.column || w.either != o.either || w.blinking != o.blinking {
		return false
	}
	return w.want == nil && o.want == nil || w.want != nil && o.want != nil && w.want.same(o.want)
}

func (w *cursorWant) String() string {
	text := "any text"
	if w.want != nil {
		text = w.want.String()
	}
	if !w.shown {
		return text + " without a cursor"
	}
	text += " with a "
	if w.blinking {
		text += "blinking "
	}
	text += "cursor"
	switch {
	case w.row >= 0 && w.column >= 0:
		return text + fmt.Sprintf(" in row %d, column %d", w.row+1, w.column+1)
	case w.row >= 0:
		return text + fmt.Sprintf(" in row %d", w.row+1)
	case w.column >= 0:
		return text + fmt.Sprintf(" in column %d", w.column+1)
	}
	return text
}

// seesCursor makes a kind look at cursors where one of its frames has one: frames that differ by their cursor alone are then
// different ones.
func seesCursor(k *Kind) {
	build := k.Build
	k.Build = func(s Setting, v spec.Values, ps *spec.Problems) Expectation {
		e := build(s, v, ps)
		if e == nil || !mentions(v.Node, cursorField.Name) {
			return e
		}
		return &cursored{inner{e}}
	}
}

// mentions tells whether a mapping within some YAML has a key.
func mentions(n *yaml.Node, key string) bool {
	if n == nil {
		return false
	}
	for i, c := range n.Content {
		if n.Kind == yaml.MappingNode && i%2 == 0 && c.Value == key || mentions(c, key) {
			return true
		}
	}
	return false
}

// cursored judges an expectation with the cursors of character displays as part of what they show.
type cursored struct{ inner }

// Of and Cut are those of what is judged: all of the display where it is about all of it.
func (x *cursored) Of(whole *part.Built) *part.Built {
	if p, ok := x.Expectation.(Parted); ok {
		return p.Of(whole)
	}
	return whole
}

// Cut is what that showed.
func (x *cursored) Cut(whole *display.Track) *display.Track {
	if p, ok := x.Expectation.(Parted); ok {
		return p.Cut(whole)
	}
	return whole
}

// Judge makes cursors count.
func (x *cursored) Judge(r *reel.Reel) Verdict {
	seen := *r
	seen.Tracks = slices.Clone(r.Tracks)
	for i := range seen.Tracks {
		if t := &seen.Tracks[i]; t.Geometry.Grid != nil {
			grid := *t.Geometry.Grid
			grid.Cursor = true
			t.Geometry.Grid = &grid
		}
	}
	return x.Expectation.Judge(&seen)
}
