package judge

import (
	"fmt"
	"math/bits"
	"strconv"
	"strings"

	"hemble/core/clock"
	"hemble/core/display"
	"hemble/core/glyph"
	"hemble/core/spec"
)

// lit is the sight of lights that are fully lit or dark.
func lit(pattern uint64, n int) *display.State {
	s := &display.State{Lights: make(display.Lights, n), Levels: make([]int, n)}
	for i := range s.Lights {
		if pattern>>i&1 == 1 {
			s.Lights[i], s.Levels[i] = display.Lit, 255
		}
	}
	return s
}

// lightsWant is a pattern of lights: a bar or a matrix.
type lightsWant struct {
	pattern uint64
	n       int
	text    string
}

// readBar reads how many lights of a bar are lit from its first on, or which, as # and dots.
func readBar(text string, n int, v spec.Value, ps *spec.Problems) want {
	if count, err := strconv.Atoi(text); err == nil && count >= 0 && count <= n {
		return &lightsWant{1<<count - 1, n, text}
	}
	w := &lightsWant{n: n, text: text}
	for i, r := range text {
		switch {
		case r == '#':
			w.pattern |= 1 << i
		case r != '.':
			i = n
		}
		if i >= n {
			ps.Add(v.Pos, "%q is not what a bar of %d can show; write how many are lit, or a # or . for each", text, n)
			return nil
		}
	}
	return w
}

func (w *lightsWant) shows(_ *display.Track, s display.State) (bool, int) {
	off := bits.OnesCount64(s.Lights.Bits() ^ w.pattern)
	return off == 0, min(1000, off*3000/w.n)
}

func (w *lightsWant) sight(display.Geometry) *display.State { return lit(w.pattern, w.n) }

func (w *lightsWant) same(other want) bool {
	o, ok := other.(*lightsWant)
	return ok && o.pattern == w.pattern
}

func (w *lightsWant) String() string { return w.text }

// readBitmap reads a picture: all of a matrix, or a part of a graphic display.
func readBitmap(rows []string, v spec.Value, name string, look display.Geometry, ps *spec.Problems) want {
	picture, bad := glyph.ParseBitmap(rows)
	if bad != 0 {
		ps.Add(v.Pos, "%q is no dot; write # for lit and . for dark", bad)
		return nil
	}
	switch look.Form {
	case display.FormPixels:
		if picture.Width > look.Pixels.Columns || picture.Height > look.Pixels.Rows || picture.Count() == 0 {
			ps.Add(v.Pos, "a picture of %d×%d dots cannot stand on a display of %d×%d, or nothing of it is lit", picture.Width, picture.Height, look.Pixels.Columns, look.Pixels.Rows)
			return nil
		}
		const small = 16
		dots := fmt.Sprintf("%08x", picture.Digest())
		if picture.Width <= small && len(rows) <= small {
			dots = glyph.HexRows(squared(rows, picture.Width))
		}
		return &pictureWant{picture, fmt.Sprintf("a picture of %d×%d dots, %d of them lit (%s)", picture.Width, len(rows), picture.Count(), dots)}
	case display.FormMatrix:
		w := &lightsWant{n: len(look.Shapes)}
		column := map[int]int{}
		for i, s := range look.Shapes {
			if picture.At(column[s.Digit], s.Digit) {
				w.pattern |= 1 << i
			}
			column[s.Digit]++
		}
		if picture.Width > column[0] || picture.Height > len(column) {
			ps.Add(v.Pos, "a bitmap of %d×%d for a matrix of %d×%d", picture.Width, picture.Height, column[0], len(column))
			return nil
		}
		w.text = (&display.Track{Geometry: look}).Short(*lit(w.pattern, w.n))
		return w
	}
	ps.Add(v.Pos, "%q has no dots; a bitmap goes with a matrix or a graphic display", name)
	return nil
}

// squared makes rows equally long, what is not written being dark.
func squared(rows []string, width int) (out []string) {
	for _, r := range rows {
		out = append(out, r+strings.Repeat(".", max(0, width-len(r))))
	}
	return out
}

// pictureWant is a picture that stands anywhere on a graphic display.
type pictureWant struct {
	picture glyph.Bitmap
	text    string
}

func (w *pictureWant) shows(t *display.Track, s display.State) (bool, int) {
	if t.Bitmap(s).Find(w.picture) {
		return true, 0
	}
	return false, 1000
}

func (w *pictureWant) sight(look display.Geometry) *display.State {
	b := glyph.NewBitmap(look.Pixels.Columns, look.Pixels.Rows)
	for y := 0; y < w.picture.Height; y++ {
		for x := 0; x < w.picture.Width; x++ {
			if w.picture.At(x, y) {
				b.Set(x, y)
			}
		}
	}
	return &display.State{Pixels: b.Pages()}
}

func (w *pictureWant) same(other want) bool {
	o, ok := other.(*pictureWant)
	return ok && o.picture.Digest() == w.picture.Digest()
}

func (w *pictureWant) String() string { return w.text }

// linesWant is text on a graphic display, line by line, wherever it stands.
type linesWant struct{ lines []string }

func readLines(rows []string, v spec.Value, ps *spec.Problems) want {
	w := &linesWant{}
	for _, r := range rows {
		for _, c := range r {
			if c != '°' && (c < ' ' || c > '~') {
				ps.Add(v.Pos, "%q: text on a graphic display is read in the 5×7 font, which has no %q", r, c)
				return nil
			}
		}
		if r = strings.TrimSpace(r); r != "" {
			w.lines = append(w.lines, r)
		}
	}
	return w
}

func (w *linesWant) shows(t *display.Track, s display.State) (bool, int) {
	got := t.Bitmap(s).Text()
	wrong := max(len(got), len(w.lines))
	for i := range min(len(got), len(w.lines)) {
		if strings.Join(strings.Fields(got[i]), " ") == strings.Join(strings.Fields(w.lines[i]), " ") {
			wrong--
		}
	}
	return wrong == 0, wrong * 1000 / max(1, len(got), len(w.lines))
}

func (w *linesWant) sight(look display.Geometry) *display.State {
	b := glyph.NewBitmap(look.Pixels.Columns, look.Pixels.Rows)
	for i, line := range w.lines {
		b.Draw(line, 0, i*8, 1)
	}
	return &display.State{Pixels: b.Pages()}
}

func (w *linesWant) same(other want) bool {
	o, ok := other.(*linesWant)
	return ok && w.String() == o.String()
}

func (w *linesWant) String() string {
	if len(w.lines) == 0 {
		return "blank"
	}
	var out []string
	for _, l := range w.lines {
		out = append(out, strconv.Quote(l))
	}
	return strings.Join(out, " / ")
}

// colourWant is the colour of a lamp that mixes three.
type colourWant string

func readColour(text string, v spec.Value, ps *spec.Problems) want {
	if _, ok := display.ColourLevels(text); !ok {
		ps.Add(v.Pos, "%q is no colour of such a lamp%s", text, spec.Nearest(text, display.ColourNames()))
		return nil
	}
	return colourWant(text)
}

func (w colourWant) shows(_ *display.Track, s display.State) (bool, int) {
	if display.Colour(s) == string(w) {
		return true, 0
	}
	return false, 1000
}

func (w colourWant) sight(display.Geometry) *display.State {
	levels, _ := display.ColourLevels(string(w))
	s := lit(0, 3)
	for i, l := range levels {
		if l > 0 {
			s.Lights[i], s.Levels[i] = display.Lit, l*255/1000
		}
	}
	return s
}

func (w colourWant) same(other want) bool { return w == other }
func (w colourWant) String() string       { return string(w) }

// soundWant is a pitch, or silence.
type soundWant struct{ hz int64 }

// pitchTolerance is how far a pitch may be off: half a semitone.
const pitchTolerance = 3 // percent

func readSound(text string, v spec.Value, ps *spec.Problems) want {
	if text == "silent" {
		return soundWant{}
	}
	hz, err := clock.ParseRate(text)
	if err != nil || hz < 20 || hz > 20_000 {
		ps.Add(v.Pos, "%q is not what can be heard; write a pitch of 20Hz to 20kHz, or silent", text)
		return nil
	}
	return soundWant{int64(hz)}
}

func (w soundWant) shows(_ *display.Track, s display.State) (bool, int) {
	off := int64(s.Pitch) - w.hz
	if off*off*10_000 <= w.hz*w.hz*pitchTolerance*pitchTolerance {
		return true, 0
	}
	return false, 1000
}

func (w soundWant) sight(display.Geometry) *display.State { return &display.State{Pitch: int(w.hz)} }
func (w soundWant) same(other want) bool                  { return w == other }

func (w soundWant) String() string {
	if w.hz == 0 {
		return "silent"
	}
	return strconv.FormatInt(w.hz, 10) + "Hz"
}

// lineWant is a line of text on a terminal; spaces at its end do not count.
type lineWant string

func (w lineWant) shows(_ *display.Track, s display.State) (bool, int) {
	if strings.TrimRight(s.Line, " ") == string(w) {
		return true, 0
	}
	return false, 1000
}

func (w lineWant) sight(display.Geometry) *display.State { return &display.State{Line: string(w)} }
func (w lineWant) same(want) bool                        { return false } // each line is an event of its own
func (w lineWant) String() string                        { return strconv.Quote(string(w)) }
