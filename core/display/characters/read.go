package characters

import (
	"fmt"
	"slices"
	"strings"

	"hemble/core/display"
	"hemble/core/spec"
)

const neither = "%q is no character display: it has neither rows of text nor a cursor"

var (
	keyRow = display.Key{Field: spec.Field{Name: "row", Kind: spec.Int, Min: 1, Max: 4,
		Doc: "with `text`: the row of a character display, counted from 1; the other rows are ignored"},
		Refused: neither, Beside: true}
	keyCursor = display.Key{Field: spec.Field{Name: "cursor", Kind: spec.Mapping,
		Doc: "the cursor of a character display, with its text or alone; if no frame of an expectation has one, cursors are ignored",
		Fields: []spec.Field{
			{Name: "shown", Kind: spec.Bool, Default: "yes", Doc: "whether there is one"},
			{Name: "row", Kind: spec.Int, Min: 1, Max: 4, Doc: "its row, counted from 1 (default: any)"},
			{Name: "column", Kind: spec.Int, Min: 1, Max: 40, Doc: "its column (default: any)"},
			{Name: "blinking", Kind: spec.Bool,
				Doc: "a blinking block, or `no` for a steady line (default: either)"},
		}}, Refused: neither, Beside: true, Alone: true}
)

func (characters) Keys() []display.Key { return []display.Key{display.KeyRows, keyRow, keyCursor} }

// Read reads a text for the first row, the text of all rows or of one, perhaps with where the cursor is.
func (characters) Read(w display.Written, ps *spec.Problems) display.Matcher {
	grid := w.Geometry.Grid
	var m display.Matcher
	switch {
	case w.Has(keyRow.Name) && !w.Has("text"):
		ps.Add(w.Map.At(keyRow.Name), "`row` needs the text of that row")
		return nil
	case w.Has(keyRow.Name) && int(w.Map.Int(keyRow.Name)) > grid.Rows:
		ps.Add(w.Map.At(keyRow.Name), "%q has no row %d", w.Name, w.Map.Int(keyRow.Name))
		return nil
	case w.Has("one-of"):
		m = display.ReadAny(w.Map.Get("one-of"), w.Named, w.Strict, ps)
	case w.Has(display.KeyRows.Name):
		m = readRows(w.List(display.KeyRows.Name), w.Map.At(display.KeyRows.Name), grid, ps)
	case w.Has("text"):
		m = readRows([]string{w.Text}, w.Map.At("text"), grid, ps)
	case !w.Has(keyCursor.Name):
		m = readRows([]string{w.Text}, w.Pos, grid, ps)
	}
	switch x := m.(type) {
	case nil:
		if !w.Has(keyCursor.Name) || w.Has("one-of") || w.Has("text") || w.Has(display.KeyRows.Name) {
			return nil
		}
	case *rows:
		if w.Has(keyRow.Name) {
			m = x.Row(int(w.Map.Int(keyRow.Name)) - 1)
		}
	}
	if !w.Has(keyCursor.Name) {
		return m
	}
	return readCursor(m, w, ps)
}

// rows is the text of all rows; those that are not given are blank.
type rows struct {
	rows []string // padded to the width
}

// readRows reads them; nil where the display cannot show them.
func readRows(given []string, at spec.Pos, g *display.Grid, ps *spec.Problems) display.Matcher {
	if len(given) > g.Rows {
		ps.Add(at, "%d rows for a display of %d", len(given), g.Rows)
		return nil
	}
	m := &rows{}
	for i := 0; i < g.Rows; i++ {
		row := ""
		if i < len(given) {
			row = given[i]
		}
		n := len([]rune(row))
		if n > g.Columns {
			ps.Add(at, "%q has %d characters; a row of this display has %d", row, n, g.Columns)
			return nil
		}
		for _, r := range row {
			if _, ok := g.Cell(r); !ok {
				ps.Add(at, "%q: the display's character ROM cannot show %q; write what it shows, ▢ for any custom character, or draw this one under `characters`", row, r)
				return nil
			}
		}
		m.rows = append(m.rows, row+strings.Repeat(" ", g.Columns-n))
	}
	return m
}

func (m *rows) Match(t *display.Track, s display.State) (bool, int) {
	wrong, all := 0, 0
	for i, row := range Rows(t, s) {
		n, k := misread(t, s, i, row, m.rows[i])
		wrong += n
		all += k
	}
	return wrong == 0, min(1000, wrong*2000/all)
}

// misread counts the characters of a row that are not those that were wanted; any custom character will do for a
// nameless one.
func misread(t *display.Track, s display.State, i int, row, wanted string) (wrong, all int) {
	want := []rune(wanted)
	for k, r := range []rune(row) {
		all++
		cell := s.Cells[i*t.Geometry.Grid.Columns+k]
		custom := cell >= display.CustomCell && cell&display.WashedOut == 0
		if r != want[k] && !(want[k] == display.Nameless && custom) {
			wrong++
		}
	}
	return wrong, all
}

func (m *rows) Ideal(g display.Geometry) *display.State {
	s := &display.State{}
	for _, row := range m.rows {
		for _, r := range row {
			cell, _ := g.Grid.Cell(r)
			s.Cells = append(s.Cells, cell)
		}
	}
	return s
}

func (m *rows) Same(other display.Matcher) bool {
	o, ok := other.(*rows)
	return ok && m.String() == o.String()
}

func (m *rows) String() string {
	var out []string
	for _, r := range m.rows {
		out = append(out, fmt.Sprintf("%q", strings.TrimRight(r, " ")))
	}
	return strings.Join(out, " / ")
}

// Row is the first row's text as that of one row, whatever the others show; nil where the display has no such row.
func (m *rows) Row(row int) display.Matcher {
	if row >= len(m.rows) {
		return nil
	}
	return &oneRow{row: row, text: m.rows[0]}
}

// oneRow is the text of one row, whatever the others show.
type oneRow struct {
	row  int
	text string // padded to the width
}

func (m *oneRow) Match(t *display.Track, s display.State) (bool, int) {
	wrong, _ := misread(t, s, m.row, Rows(t, s)[m.row], m.text)
	return wrong == 0, 500
}

func (m *oneRow) Ideal(g display.Geometry) *display.State {
	all := &rows{slices.Repeat([]string{strings.Repeat(" ", g.Grid.Columns)}, g.Grid.Rows)}
	all.rows[m.row] = m.text
	return all.Ideal(g)
}

func (m *oneRow) Same(other display.Matcher) bool {
	o, ok := other.(*oneRow)
	return ok && *o == *m
}

func (m *oneRow) Partial() bool           { return true }
func (m *oneRow) Within() *display.Region { return display.WholeRow(m.row) }

func (m *oneRow) String() string {
	return fmt.Sprintf("%q in row %d", strings.TrimRight(m.text, " "), m.row+1)
}

// withCursor is a cursor, beside a text.
type withCursor struct {
	text             display.Matcher // nil for any
	shown            bool
	row, column      int // from 0; -1 for any
	either, blinking bool
	columns          int
}

func readCursor(text display.Matcher, w display.Written, ps *spec.Problems) display.Matcher {
	c, grid := w.Map.Get(keyCursor.Name).Map, w.Geometry.Grid
	m := &withCursor{text: text, shown: c.Bool("shown"), row: int(c.Int("row")) - 1, column: int(c.Int("column")) - 1,
		either: !c.Has("blinking"), blinking: c.Bool("blinking"), columns: grid.Columns}
	switch {
	case m.row >= grid.Rows || m.column >= grid.Columns:
		ps.Add(c.Pos, "%q has %s of %d characters: the cursor cannot be there", w.Name,
			display.Plural(grid.Rows, "row"), grid.Columns)
		return nil
	case !m.shown && (c.Has("row") || c.Has("column") || c.Has("blinking")):
		ps.Add(c.Pos, "a cursor that is not shown has no position")
		return nil
	}
	return m
}

func (m *withCursor) Match(t *display.Track, s display.State) (ok bool, off int) {
	ok = true
	if m.text != nil {
		ok, off = m.text.Match(t, s)
	}
	if !m.right(s.Cursor) {
		return false, min(1000, off+200)
	}
	return ok, off
}

func (m *withCursor) right(c *display.Cursor) bool {
	if c == nil || !m.shown {
		return c == nil && !m.shown
	}
	return (m.row < 0 || c.Cell/m.columns == m.row) && (m.column < 0 || c.Cell%m.columns == m.column) &&
		(m.either || c.Block == m.blinking)
}

func (m *withCursor) Ideal(g display.Geometry) *display.State {
	if m.text == nil {
		return nil
	}
	s := m.text.Ideal(g)
	if s != nil && m.shown {
		s.Cursor = &display.Cursor{Cell: max(0, m.row)*m.columns + max(0, m.column), Block: m.blinking}
	}
	return s
}

func (m *withCursor) Same(other display.Matcher) bool {
	o, ok := other.(*withCursor)
	if !ok || m.shown != o.shown || m.row != o.row || m.column != o.column || m.either != o.either ||
		m.blinking != o.blinking {
		return false
	}
	return m.text == nil && o.text == nil || m.text != nil && o.text != nil && m.text.Same(o.text)
}

// Partial is so where any text will do.
func (m *withCursor) Partial() bool { return m.text == nil || display.IsPartial(m.text) }

func (m *withCursor) String() string {
	text := "any text"
	if m.text != nil {
		text = m.text.String()
	}
	if !m.shown {
		return text + " without a cursor"
	}
	text += " with a "
	if m.blinking {
		text += "blinking "
	}
	text += "cursor"
	switch {
	case m.row >= 0 && m.column >= 0:
		return text + fmt.Sprintf(" in row %d, column %d", m.row+1, m.column+1)
	case m.row >= 0:
		return text + fmt.Sprintf(" in row %d", m.row+1)
	case m.column >= 0:
		return text + fmt.Sprintf(" in column %d", m.column+1)
	}
	return text
}
