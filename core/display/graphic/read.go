package graphic

import (
	"fmt"
	"strconv"
	"strings"

	"hemble/core/display"
	"hemble/core/glyph"
	"hemble/core/spec"
)

func (graphic) Keys() []display.Key { return []display.Key{display.KeyBitmap, display.KeyRows} }

// Read reads lines of text, or a picture that stands anywhere.
func (graphic) Read(w display.Written, ps *spec.Problems) display.Matcher {
	if w.Has(display.KeyBitmap.Name) {
		return readPicture(w, ps)
	}
	given := []string{w.Text}
	if w.Has(display.KeyRows.Name) {
		given = w.List(display.KeyRows.Name)
	}
	m := &text{}
	for _, r := range given {
		for _, c := range r {
			if c != '°' && (c < ' ' || c > '~') {
				ps.Add(w.Pos, "%q: text on a graphic display is read in the 5×7 font, which has no %q", r, c)
				return nil
			}
		}
		if r = strings.TrimSpace(r); r != "" {
			m.lines = append(m.lines, r)
		}
	}
	return m
}

// small is the size up to which a picture is told by its dots.
const small = 16

func readPicture(w display.Written, ps *spec.Problems) display.Matcher {
	drawn, ok := display.ReadBitmap(w, ps)
	if !ok {
		return nil
	}
	size := w.Geometry.Pixels
	if drawn.Width > size.Columns || drawn.Height > size.Rows || drawn.Count() == 0 {
		ps.Add(w.Pos, "a picture of %d×%d dots does not fit on a display of %d×%d, or none of its dots is lit",
			drawn.Width, drawn.Height, size.Columns, size.Rows)
		return nil
	}
	rows := w.List(display.KeyBitmap.Name)
	dots := fmt.Sprintf("%08x", drawn.Digest())
	if drawn.Width <= small && len(rows) <= small {
		for i, r := range rows { // what is not written is dark
			rows[i] = r + strings.Repeat(".", max(0, drawn.Width-len(r)))
		}
		dots = glyph.HexRows(rows)
	}
	return &picture{drawn, fmt.Sprintf("a picture of %d×%d dots, %d of them lit (%s)", drawn.Width, len(rows),
		drawn.Count(), dots)}
}

// picture is one that stands anywhere.
type picture struct {
	drawn glyph.Bitmap
	text  string
}

func (m *picture) Match(t *display.Track, s display.State) (bool, int) {
	if bitmap(t.Geometry, s).Find(m.drawn) {
		return true, 0
	}
	return false, 1000
}

func (m *picture) Ideal(g display.Geometry) *display.State {
	b := glyph.NewBitmap(g.Pixels.Columns, g.Pixels.Rows)
	for y := 0; y < m.drawn.Height; y++ {
		for x := 0; x < m.drawn.Width; x++ {
			if m.drawn.At(x, y) {
				b.Set(x, y)
			}
		}
	}
	return &display.State{Pixels: b.Pages()}
}

func (m *picture) Same(other display.Matcher) bool {
	o, ok := other.(*picture)
	return ok && o.drawn.Digest() == m.drawn.Digest()
}

func (m *picture) String() string { return m.text }

// text is read line by line, wherever it stands.
type text struct{ lines []string }

func (m *text) Match(t *display.Track, s display.State) (bool, int) {
	got := bitmap(t.Geometry, s).Text()
	wrong := max(len(got), len(m.lines))
	for i := range min(len(got), len(m.lines)) {
		if strings.Join(strings.Fields(got[i]), " ") == strings.Join(strings.Fields(m.lines[i]), " ") {
			wrong--
		}
	}
	return wrong == 0, wrong * 1000 / max(1, len(got), len(m.lines))
}

func (m *text) Ideal(g display.Geometry) *display.State {
	b := glyph.NewBitmap(g.Pixels.Columns, g.Pixels.Rows)
	for i, line := range m.lines {
		b.Draw(line, 0, i*8, 1)
	}
	return &display.State{Pixels: b.Pages()}
}

func (m *text) Same(other display.Matcher) bool {
	o, ok := other.(*text)
	return ok && m.String() == o.String()
}

func (m *text) String() string {
	if len(m.lines) == 0 {
		return "blank"
	}
	var out []string
	for _, l := range m.lines {
		out = append(out, strconv.Quote(l))
	}
	return strings.Join(out, " / ")
}
