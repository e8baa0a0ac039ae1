package render

import (
	"bytes"
	"image"
	"image/color"
	"image/draw"
	"image/png"
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	_ "hemble/core/catalogue"
	"hemble/core/display"
	"hemble/core/exercise"
	"hemble/core/reel"
)

// painted is how much of white paper of 100 by 100 units is black, in units of area.
func painted(scale float64, do func(raster)) float64 {
	side := int(100 * scale)
	img := image.NewRGBA(image.Rect(0, 0, side, side))
	draw.Draw(img, img.Bounds(), image.White, image.Point{}, draw.Src)
	do(raster{img: img, scale: scale})
	sum := 0.0
	for i := 0; i < len(img.Pix); i += 4 {
		sum += 1 - float64(img.Pix[i])/255
	}
	return sum / scale / scale
}

func TestPaint(t *testing.T) {
	const black = "#000000"
	square := []point{{20, 20}, {60, 20}, {60, 60}, {20, 60}}
	for name, c := range map[string]struct {
		area float64
		do   func(raster)
	}{
		"a rectangle": {800,
			func(r raster) { o := outline{}; o.rect(10, 10, 40, 20); r.paint(o, black, 1) }},
		"half through": {400,
			func(r raster) { o := outline{}; o.rect(10, 10, 40, 20); r.paint(o, black, 0.5) }},
		"at another place and scale": {200,
			func(r raster) { o := outline{}; o.rect(10, 10, 40, 20); r.at(30, 30, 0.5).paint(o, black, 1) }},
		"a disc": {math.Pi * 400,
			func(r raster) { o := outline{}; o.disc(50, 50, 20); r.paint(o, black, 1) }},
		"with a hole": {math.Pi * 300,
			func(r raster) { o := outline{}; o.disc(50, 50, 20); o.disc(50, 50, -10); r.paint(o, black, 1) }},
		"overlaps are no thicker": {1200,
			func(r raster) { o := outline{}; o.rect(10, 10, 40, 20); o.rect(30, 10, 40, 20); r.paint(o, black, 1) }},
		"round corners": {1600 - (4-math.Pi)*25,
			func(r raster) { o := outline{}; o.panel(10, 10, 40, 40, 5); r.paint(o, black, 1) }},
		"an open line": {2*40*4 + 4*4*(math.Pi/4)/4 + 2*2/4.0,
			func(r raster) { o := outline{}; o.stroke(square[:3], 4, false); r.paint(o, black, 1) }},
		"a closed line": {4*40*4 + math.Pi*4 - 4*4,
			func(r raster) { o := outline{}; o.stroke(square, 4, true); r.paint(o, black, 1) }},
		"beyond the edge": {200,
			func(r raster) { o := outline{}; o.rect(90, 50, 40, 20); r.paint(o, black, 1) }},
		"nothing": {0, func(r raster) { r.paint(outline{}, black, 1) }},
		"squares": {3 * 4 * 4, func(r raster) {
			r.item(display.Squares{X: 10, Y: 10, Scale: 2, Side: 2, At: [][2]int{{0, 0}, {5, 0}, {0, 5}}, Fill: black,
				Opacity: 1})
		}},
		"a ring": {math.Pi * 2 * 20 * 2, func(r raster) {
			r.item(display.Disc{Circle: display.Circle{X: 50, Y: 50, R: 20}, Stroke: black, Thick: 2})
		}},
		"words are for those who write": {0,
			func(r raster) { r.item(display.Words{X: 10, Y: 10, Size: 20, Text: "no", Fill: black}) }},
	} {
		t.Run(name, func(t *testing.T) {
			for _, scale := range []float64{1, 3} {
				assert.InDelta(t, c.area, painted(scale, c.do), 2+c.area/100)
			}
		})
	}
}

// Whatever display lights up, an image of it shows its colour.
func TestEveryDisplayIsPainted(t *testing.T) {
	displays, err := exercise.Examples()
	require.NoError(t, err)
	for _, p := range displays {
		t.Run(p.Name, func(t *testing.T) {
			track := display.Track{Display: p.Name, Geometry: p.Kind.Geometry(*p)}
			lit := track.Geometry.Type().Sample(track.Geometry, display.Lit)
			colours := map[color.RGBA]bool{}
			for _, item := range track.Geometry.Type().Draw(&track, lit) {
				switch x := item.(type) {
				case display.Squares:
					if x.Opacity == 1 && len(x.At) > 0 {
						colours[ink(x.Fill)] = true
					}
				case display.Words:
					colours[ink(x.Fill)] = true
				}
			}
			track.Frames = []display.Frame{{To: 1, State: lit}}
			var b bytes.Buffer
			require.NoError(t, Still(&reel.Reel{Tracks: []display.Track{track}}, 0).PNG(&b, 2))
			img, err := png.Decode(&b)
			require.NoError(t, err)
			for y := range img.Bounds().Dy() {
				for x := range img.Bounds().Dx() {
					delete(colours, color.RGBAModel.Convert(img.At(x, y)).(color.RGBA))
				}
			}
			assert.Empty(t, colours, "not on the image")
		})
	}
}
