// Package graphic is the display type of a grid of pixels, each on or off.
package graphic

import (
	"fmt"
	"slices"
	"strings"

	"hemble/core/clock"
	"hemble/core/display"
	"hemble/core/finding"
	"hemble/core/glyph"
	"hemble/core/vision"
)

// Form is the word for it in reels.
const Form display.TypeName = "pixels"

func init() { display.Register(graphic{}) }

type graphic struct{ display.Plain }

func (graphic) Name() display.TypeName { return Form }

func (graphic) Dark(g display.Geometry) display.State {
	return display.State{Pixels: make([]byte, g.Pixels.Columns*g.Pixels.Rows/8)}
}

// Watch knows cells of eight pixels that shine by themselves.
func (graphic) Watch(g display.Geometry, b display.Bench) display.Observer {
	return vision.WatchLCD(b, g.Pixels.Columns*g.Pixels.Rows/8, vision.EmissiveResponse, true)
}

// bitmap gives the pixels of a state.
func bitmap(g display.Geometry, s display.State) glyph.Bitmap {
	return glyph.FromPages(g.Pixels.Columns, g.Pixels.Rows, s.Pixels)
}

// Describe tells the text that can be read, or how much is lit.
func (graphic) Describe(t *display.Track, s display.State) string {
	b := bitmap(t.Geometry, s)
	lit := b.Count()
	if lit == 0 {
		return "blank"
	}
	if lines := b.Text(); len(lines) > 0 {
		return display.Rows(lines)
	}
	return fmt.Sprintf("a picture of %d pixels (%08x)", lit, b.Digest())
}

// Draw draws square pixels, as bright as they shine.
func (graphic) Draw(t *display.Track, s display.State) display.Drawing {
	const size, edge = 4, 20
	var at [][2]int
	b := bitmap(t.Geometry, s)
	for y := 0; y < b.Height; y++ {
		for x := 0; x < b.Width; x++ {
			if b.At(x, y) {
				at = append(at, [2]int{edge + x*size, edge + y*size})
			}
		}
	}
	level := 255
	if len(s.Levels) > 0 {
		level = s.Levels[0]
	}
	return display.Drawing{
		display.Panel{Width: t.Geometry.Width, Height: t.Geometry.Height, Round: 4, Fill: "#05080a", Stroke: "#2c3a3a"},
		display.Squares{Scale: 1, Side: 3.4, At: at, Fill: t.Geometry.Pixels.Ink,
			Opacity: 0.35 + 0.65*float64(level)/255},
	}
}

// Sketch draws two by four pixels to a character, in Braille patterns (Unicode U+2800 to U+28FF).
func (graphic) Sketch(t *display.Track, s display.State) []string {
	b := bitmap(t.Geometry, s)
	edge := strings.Repeat("─", b.Width/2)
	out := []string{"┌" + edge + "┐"}
	for y := 0; y < b.Height; y += 4 {
		var row strings.Builder
		for x := 0; x < b.Width; x += 2 {
			r := rune(0x2800)
			for i, at := range [8][2]int{{0, 0}, {0, 1}, {0, 2}, {1, 0}, {1, 1}, {1, 2}, {0, 3}, {1, 3}} {
				if b.At(x+at[0], y+at[1]) {
					r |= 1 << i
				}
			}
			row.WriteRune(r)
		}
		out = append(out, "│"+row.String()+"│")
	}
	return append(out, "└"+edge+"┘")
}

func (graphic) Sample(g display.Geometry, l display.Light) (s display.State) {
	b := glyph.NewBitmap(g.Pixels.Columns, g.Pixels.Rows)
	s.Levels = []int{255}
	if l == display.Dim {
		s.Levels[0] = 20
	}
	if l != display.Dark {
		b.Draw("Wherry", 2, 2, 2)
		b.Draw("Lock 3: open", 2, 20, 1)
	}
	s.Pixels = b.Pages()
	return s
}

// Spell writes the text that can be read.
func (graphic) Spell(t *display.Track, s display.State) []string {
	if lines := bitmap(t.Geometry, s).Text(); len(lines) > 0 {
		return []string{"{rows: [" + display.QuotedList(lines) + "]}"}
	}
	return nil
}

// Texts are the lines that can be read.
func (graphic) Texts(t *display.Track, s display.State) []string { return bitmap(t.Geometry, s).Text() }

// Rows are the lines that can be read, with as many empty ones behind them as the display has room for.
func (graphic) Rows(t *display.Track, s display.State) []string {
	rows := make([]string, t.Geometry.Pixels.Rows/8)
	copy(rows, bitmap(t.Geometry, s).Text())
	return rows
}

// WithRows draws other lines, one below the other.
func (x graphic) WithRows(t *display.Track, s display.State, rows []string) display.State {
	if slices.Equal(rows, x.Rows(t, s)) {
		return s
	}
	s.Pixels = (&text{rows}).Ideal(t.Geometry).Pixels
	return s
}

func (x graphic) ReadNumber(t *display.Track, s display.State, nth int) (n int, ok bool) {
	return display.NumberIn(x.Rows(t, s), nth)
}

func (x graphic) WriteNumber(t *display.Track, s display.State, nth, n int) display.State {
	return x.WithRows(t, s, display.Renumbered(x.Rows(t, s), nth, n))
}

// Figures is 0: a number is as wide as it is.
func (graphic) Figures(display.Geometry) int { return 0 }

// Fit leaves a number as it is written.
func (graphic) Fit(_ display.Geometry, text string) string { return text }

// Size is that of its pixels.
func (graphic) Size(g display.Geometry) (columns, rows int) { return g.Pixels.Columns, g.Pixels.Rows }

// Part has fewer pixels.
func (graphic) Part(g display.Geometry, r display.Region) display.Geometry {
	pixels := *g.Pixels
	pixels.Columns, pixels.Rows = r.Wide, r.High
	g.Pixels = &pixels
	return g
}

// Cut has the pixels of the part, on whole pages of eight rows.
func (graphic) Cut(t *display.Track, s display.State, r display.Region) display.State {
	whole, b := bitmap(t.Geometry, s), glyph.NewBitmap(r.Wide, (r.High+7)/8*8)
	for y := range r.High {
		for x := range r.Wide {
			if whole.At(r.X+x, r.Y+y) {
				b.Set(x, y)
			}
		}
	}
	return display.State{Flicker: s.Flicker, Uneven: s.Uneven, Pixels: b.Pages(), Levels: s.Levels}
}

// Widen leaves all other pixels dark.
func (x graphic) Widen(g display.Geometry, s display.State, r display.Region) display.State {
	b, small := glyph.NewBitmap(g.Pixels.Columns, g.Pixels.Rows), bitmap(x.Part(g, r), s)
	for y := range r.High {
		for x := range r.Wide {
			if small.At(x, y) {
				b.Set(r.X+x, r.Y+y)
			}
		}
	}
	return display.State{Pixels: b.Pages()}
}

func (graphic) Mistakes() []*display.Mistake {
	return append([]*display.Mistake{turned, inverted, startLine, misdrawn, display.Reworded, display.OneWord},
		display.TextForms...)
}

var startLine = &display.Mistake{
	Entry: finding.Entry{Code: "start-line", Price: finding.Wiring,
		Doc:   "a picture begins in another row than the first, and what is moved out below comes back above",
		Catch: "expect a picture, which has its place, in place of its text alone"},
	Sizes: func(c *display.Case) (out []display.Size) {
		rows := c.Geometry.Pixels.Rows
		by := []int{8, rows - 8, rows / 2}
		if c.Judged {
			by = rolled(c)
		}
		for _, n := range by {
			out = append(out, display.Size{
				Text: fmt.Sprintf("The picture of %s begins %d rows too low: its start line, or the page that it is written to, is wrong.",
					c.Name, n),
				State: func(t *display.Track, s display.State) display.State {
					if s.Pixels != nil {
						s.Pixels = roll(bitmap(t.Geometry, s), n).Pages()
					}
					return s
				}})
		}
		return out
	},
}

// roll moves a picture up by some rows, round its end.
func roll(from glyph.Bitmap, by int) glyph.Bitmap {
	to := glyph.NewBitmap(from.Width, from.Height)
	for y := range from.Height {
		for x := range from.Width {
			if from.At(x, (y+by)%from.Height) {
				to.Set(x, y)
			}
		}
	}
	return to
}

// rolled is by how many rows the first wrong picture must move up to be the one that was wanted; none where it never
// is. Text takes time to read: it is moved by whole pages, and only where all of its lines are there.
func rolled(c *display.Case) []int {
	for _, p := range c.Pairs {
		if !p.Wrong || p.Seen.Pixels == nil || p.Want.Pixels == nil {
			continue
		}
		seen := bitmap(c.Geometry, p.Seen)
		moved := p.Seen
		for by := 1; by < seen.Height; by++ {
			if moved.Pixels = roll(seen, by).Pages(); slices.Equal(moved.Pixels, p.Want.Pixels) {
				return []int{by}
			}
		}
		lines, want := seen.Text(), bitmap(c.Geometry, p.Want).Text()
		slices.Sort(lines)
		slices.Sort(want)
		if len(lines) < 2 || !slices.Equal(lines, want) {
			return nil
		}
		for by := 8; by < seen.Height; by += 8 {
			if moved.Pixels = roll(seen, by).Pages(); p.On.Alike(moved, p.Want) {
				return []int{by}
			}
		}
		return nil
	}
	return nil
}

var turned = &display.Mistake{
	Entry: finding.Entry{Code: "turned", Price: finding.Wiring, Doc: "a picture is upside down or mirrored"},
	Sizes: func(c *display.Case) (out []display.Size) {
		for _, turn := range display.Turns {
			if turn.Square {
				continue
			}
			out = append(out,
				display.Size{Text: fmt.Sprintf(turn.Text, c.Name),
					State: func(t *display.Track, seen display.State) display.State {
						if seen.Pixels == nil { // it is off
							return seen
						}
						from := bitmap(t.Geometry, seen)
						to := glyph.NewBitmap(from.Width, from.Height)
						for y := range from.Height {
							for x := range from.Width {
								if !from.At(x, y) {
									continue
								}
								at, down := turn.To(x, y, from.Width, from.Height)
								to.Set(at, down)
							}
						}
						seen.Pixels = to.Pages()
						return seen
					}})
		}
		return out
	},
}

func (graphic) Symptoms() []*display.Symptom { return []*display.Symptom{notCleared} }

var notCleared = &display.Symptom{
	Entry: finding.Entry{Code: "not-cleared", Doc: "the display shows what its memory held at power-on",
		Order: 15, Sure: true},
	Find: func(v *display.Sighting) (string, clock.Time, bool) {
		for _, f := range v.Frames { // chance lights about half of the pixels, text and drawings a few
			if n := len(f.State.Pixels) * 8; n > 0 && f.Length() > 100*clock.Millisecond {
				lit := bitmap(v.Geometry, f.State).Count()
				return fmt.Sprintf("%s shows what its memory held at power-on: clear the memory before switching the display on.",
					v.Display), f.From, lit*3 > n && lit*3 < 2*n
			}
		}
		return "", 0, false
	},
}
