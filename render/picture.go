package render

import (
	"fmt"
	"html"
	"image"
	"image/color"
	"image/draw"
	"image/png"
	"io"
	"math"
	"slices"
	"strings"

	"golang.org/x/image/font"
	"golang.org/x/image/font/gofont/gomono"
	"golang.org/x/image/font/gofont/goregular"
	"golang.org/x/image/font/opentype"
	"golang.org/x/image/math/fixed"

	"hemble/core/clock"
	"hemble/core/display"
	"hemble/core/judge"
	"hemble/core/reel"
	"hemble/core/sheet"
)

// Picture is displays laid out on a sheet of paper with words beside them: it is written as SVG or as PNG.
type Picture struct {
	title         string
	width, height float64
	displays      []placed
	words         []word
	marks         []mark
}

// mark is the sign of a step, drawn: few fonts have it.
type mark struct {
	x, y         float64 // of its lower left corner
	sign, colour string
}

// signs are those of the steps as lines, from their lower left corner on, each from where its first point says.
var signs = map[string][][]point{
	"✓": {{{1, 5}, {4, 9}, {10, 1}}},
	"✗": {{{1, 9}, {9, 1}}, {{1, 1}, {9, 9}}},
	"+": {{{5, 9}, {5, 1}}, {{1, 5}, {9, 5}}},
	"≈": {wave(4), wave(8)},
	"·": {{{4, 5}, {6, 5}}},
}

// wave is a line that goes up and down once, around a height.
func wave(y float64) (out []point) {
	for i := range 17 {
		out = append(out, point{1 + float64(i)/2, y - 1.5*math.Sin(math.Pi*float64(i)/8)})
	}
	return out
}

// placed is a display in its well.
type placed struct {
	track       *display.Track
	state       display.State
	x, y, scale float64
}

// word is a text, its baseline at y.
type word struct {
	x, y, size float64
	text       string
	colour     string
	anchor     string // start, middle or end
	mono       bool
}

// Inks of pictures: those of the light page (docs/look.md).
const (
	paperInk = "#f4efe3"
	textInk  = "#1e2a2b"
	slateInk = "#4f5d5c"
	mossInk  = "#3d6b1f"
	amberInk = "#8a5a00"
	brickInk = "#a63a24"
)

var stepInk = map[judge.Operation]string{judge.Right: mossInk, judge.Mistimed: amberInk, judge.Near: amberInk,
	judge.Wrong:   brickInk,
	judge.Missing: brickInk, judge.Extra: brickInk, judge.Ignored: slateInk}

// Measures of pictures.
const (
	edge    = 24.0
	tall    = 110.0 // of a display, at most
	cellGap = 10.0
	across  = 1200.0
)

// Still draws all displays of a run as they were at one time.
func Still(r *reel.Reel, at clock.Time) *Picture {
	p := &Picture{title: fmt.Sprintf("%s at %s", r.Trial, at)}
	p.write(edge, edge+16, 18, "start", textInk, r.Trial)
	p.write(edge, edge+38, 14, "start", slateInk, "at "+at.String())
	x, y, row := edge, edge+56, 0.0
	for i := range r.Tracks {
		t := &r.Tracks[i]
		f := t.At(at)
		if f == nil || t.Of != nil { // a group is drawn by its members
			continue
		}
		w, h := wellOf(t, 2*tall)
		if x > edge && x+w > across-edge {
			x, y = edge, y+row+44
			row = 0
		}
		p.place(t, f.State, x, y, w)
		p.write(x, y+h+16, 13, "start", slateInk, t.Display+": "+f.Text)
		p.width = max(p.width, x+w+edge)
		x, row = x+w+cellGap*2, max(row, h)
	}
	p.width, p.height = max(p.width, 420), y+row+44
	return p
}

// Film draws what the displays of a trial showed, frame by frame: those that a verdict about a sequence is about with
// the marks of its steps, and under a frame that is not right what was expected. trial may be nil.
func Film(r *reel.Reel, trial *sheet.Trial) *Picture {
	p := &Picture{title: r.Trial, width: across}
	p.write(edge, edge+16, 18, "start", textInk, r.Trial)
	y := edge + 40
	if trial != nil {
		p.write(across-edge, edge+16, 15, "end", textInk, fmt.Sprintf("%s / %s", trial.Marks, trial.Of))
	}
	for i := range r.Tracks {
		if !withGroup(trial, r, i) {
			y = p.strip(&r.Tracks[i], alignmentOf(trial, &r.Tracks[i]), y)
		}
	}
	p.height = y
	return p
}

// withGroup reports whether a track is drawn with another one: a member with its group, where a sequence of that was
// expected, and else the group by its members.
func withGroup(trial *sheet.Trial, r *reel.Reel, i int) bool {
	t := &r.Tracks[i]
	if t.Of != nil {
		return alignmentOf(trial, t) == nil
	}
	return alignmentOf(trial, t) == nil && slices.ContainsFunc(r.Tracks, func(g display.Track) bool {
		return slices.Contains(g.Of, t.Display) && alignmentOf(trial, &g) != nil
	})
}

// alignmentOf gives the steps of the first sequence that a trial expects of a display.
func alignmentOf(trial *sheet.Trial, t *display.Track) []judge.Pair {
	if trial == nil {
		return nil
	}
	for _, v := range trial.Verdicts {
		if v.Display == t.Display && judge.IsSequence(v.Kind) {
			return v.Alignment
		}
	}
	return nil
}

// strip lays one display's frames in rows from a height on, and gives where it ends.
func (p *Picture) strip(t *display.Track, lanes []judge.Pair, y float64) float64 {
	p.write(edge, y+12, 14, "start", textInk, t.Display)
	y += 22
	if lanes == nil {
		for _, f := range t.Frames {
			s := f.State
			lanes = append(lanes, judge.Pair{Seen: &judge.Span{From: f.From, To: f.To, State: &s}})
		}
	}
	more := max(0, len(lanes)-maxCells)
	w, h := wellOf(t, tall)
	x, below := edge, 0.0
	for _, pair := range lanes[:len(lanes)-more] {
		if x > edge && x+w > across-edge {
			x, y = edge, y+h+below+44
			below = 0
		}
		if pair.Seen != nil {
			p.place(t, *pair.Seen.State, x, y, w)
			p.write(x, y+h+14, 11, "start", slateInk, pair.Seen.From.String())
			p.step(x, y+h+28, pair.Operation, (pair.Seen.To - pair.Seen.From).Brief())
		} else {
			p.write(x, y+h+14, 11, "start", slateInk, pair.Expected.From.String())
			p.step(x, y+h+28, pair.Operation, "missing")
		}
		if pair.Expected != nil && pair.Expected.State != nil && pair.Operation != judge.Right &&
			pair.Operation != judge.Mistimed {
			p.write(x, y+h+44, 11, "start", slateInk, "expected")
			p.place(t, *pair.Expected.State, x, y+h+50, w*0.7)
			below = h*0.7 + 28
		}
		x += w + cellGap
	}
	y += h + below + 44
	if more > 0 {
		p.write(edge, y, 12, "start", slateInk, "… and "+display.Plural(more, "more frame"))
		y += 20
	}
	return y
}

// step writes a few words with the mark of a step before them, where there is one.
func (p *Picture) step(x, y float64, step judge.Operation, text string) {
	colour := slateInk
	if own := stepInk[step]; own != "" {
		colour = own
		p.marks = append(p.marks, mark{x, y, Mark(step), colour})
		x += 14
	}
	p.write(x, y, 11, "start", colour, text)
}

// wellOf is the size of a display's well that is at most so high, and no wider than a page.
func wellOf(t *display.Track, high float64) (w, h float64) {
	w, h = t.Geometry.Width+2*wellMargin, t.Geometry.Height+2*wellMargin
	scale := min(high/h, (across-2*edge)/w)
	return w * scale, h * scale
}

func (p *Picture) place(t *display.Track, s display.State, x, y, w float64) {
	p.displays = append(p.displays, placed{t, s, x, y, w / (t.Geometry.Width + 2*wellMargin)})
}

func (p *Picture) write(x, y, size float64, anchor, colour, text string) {
	p.words = append(p.words, word{x: x, y: y, size: size, text: text, colour: colour, anchor: anchor})
}

// SVG writes the picture as a document of its own.
func (p *Picture) SVG() string {
	var b strings.Builder
	fmt.Fprintf(&b, `<rect width="%s" height="%s" fill="%s"/>`, number(p.width), number(p.height), paperInk)
	for _, d := range p.displays {
		fmt.Fprintf(&b, `<g transform="translate(%s %s) scale(%.4f)">%s</g>`, number(d.x), number(d.y), d.scale,
			well(d.track, d.state))
	}
	for _, m := range p.marks {
		fmt.Fprintf(&b, `<g transform="translate(%s %s)">%s</g>`, number(m.x), number(m.y-markSize), m.path())
	}
	for _, w := range p.words {
		fmt.Fprintf(&b, `<text x="%s" y="%s" font-size="%s" fill="%s" text-anchor="%s">%s</text>`, number(w.x),
			number(w.y), number(w.size), w.colour, w.anchor, html.EscapeString(w.text))
	}
	return fmt.Sprintf(`<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 %s %s" role="img" aria-label="%s" font-family="sans-serif">%s</svg>`+
		"\n", number(p.width), number(p.height), html.EscapeString(p.title), b.String())
}

// markSize is how high and wide a mark is, markLine how thick its lines are.
const (
	markSize = 10.0
	markLine = 1.6
)

func (m mark) path() string {
	var d strings.Builder
	for _, line := range signs[m.sign] {
		for i, p := range line {
			move := "L"
			if i == 0 {
				move = "M"
			}
			d.WriteString(move + number(p.x) + " " + number(p.y))
		}
	}
	return fmt.Sprintf(`<path d="%s" fill="none" stroke="%s" stroke-width="%g"/>`, d.String(), m.colour, markLine)
}

// inner are the words within displays, which a rasteriser of shapes leaves out.
func (p *Picture) inner() (out []word) {
	for _, d := range p.displays {
		for _, item := range d.track.Geometry.Type().Draw(d.track, d.state) {
			if x, ok := item.(display.Words); ok {
				anchor := "start"
				if x.Centred {
					anchor = "middle"
				}
				out = append(out, word{d.x + (x.X+wellMargin)*d.scale, d.y + (x.Y+wellMargin)*d.scale, x.Size * d.scale,
					x.Text, x.Fill, anchor, true})
			}
		}
	}
	return out
}

// PNG writes the picture as an image, that many dots for a unit: 2 is sharp on paper.
func (p *Picture) PNG(out io.Writer, scale float64) error {
	img := image.NewRGBA(image.Rect(0, 0, int(p.width*scale), int(p.height*scale)))
	draw.Draw(img, img.Bounds(), image.NewUniform(ink(paperInk)), image.Point{}, draw.Src)
	paper := raster{img: img, scale: scale}
	for _, d := range p.displays {
		g := d.track.Geometry
		well := paper.at(d.x, d.y, d.scale)
		well.item(display.Panel{Width: g.Width + 2*wellMargin, Height: g.Height + 2*wellMargin, Round: wellRound,
			Fill: wellColour})
		for _, item := range g.Type().Draw(d.track, d.state) {
			well.at(wellMargin, wellMargin, 1).item(item)
		}
	}
	for _, m := range p.marks {
		var o outline
		for _, line := range signs[m.sign] {
			o.stroke(line, markLine, false)
		}
		paper.at(m.x, m.y-markSize, 1).paint(o, m.colour, 1)
	}
	for _, x := range append(p.inner(), p.words...) {
		if err := letter(img, x, scale); err != nil {
			return err
		}
	}
	return png.Encode(out, img)
}

// ink reads a colour as #rrggbb.
func ink(text string) (c color.RGBA) {
	c.A = 255
	_, _ = fmt.Sscanf(text, "#%02x%02x%02x", &c.R, &c.G, &c.B) // they are all written here and in parts
	return c
}

// letter writes a word on an image.
func letter(img *image.RGBA, x word, scale float64) error {
	data := goregular.TTF
	if x.mono {
		data = gomono.TTF
	}
	parsed, err := opentype.Parse(data)
	if err != nil {
		return err
	}
	face, err := opentype.NewFace(parsed,
		&opentype.FaceOptions{Size: x.size * scale, DPI: 72, Hinting: font.HintingFull})
	if err != nil {
		return err
	}
	defer face.Close()
	d := font.Drawer{Dst: img, Src: image.NewUniform(ink(x.colour)), Face: face}
	left := x.x * scale
	switch wide := float64(d.MeasureString(x.text)) / 64; x.anchor {
	case "middle":
		left -= wide / 2
	case "end":
		left -= wide
	}
	d.Dot = fixed.Point26_6{X: fixed.Int26_6(left * 64), Y: fixed.Int26_6(x.y * scale * 64)}
	d.DrawString(x.text)
	return nil
}
