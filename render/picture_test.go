package render_test

import (
	"bytes"
	"encoding/xml"
	"image/png"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	_ "hemble/core/catalogue"
	"hemble/core/clock"
	"hemble/core/display"
	"hemble/core/exercise"
	"hemble/core/reel"
	"hemble/core/sheet"
	"hemble/render"
)

// Every display there is, lit: the pictures of it are sound documents, and its light is on the paper.
func TestPictures(t *testing.T) {
	displays, err := exercise.Examples()
	require.NoError(t, err)
	r := &reel.Reel{Trial: "all of <them>", Length: 2 * clock.Second}
	for _, p := range displays {
		track := display.Track{Display: p.Name, Geometry: p.Kind.Geometry(*p)}
		for i, s := range render.Samples(&track) {
			track.Frames = append(track.Frames,
				display.Frame{From: clock.Time(i) * clock.Second / 2, To: clock.Time(i+1) * clock.Second / 2,
					Text: s.Name, State: s.State})
		}
		r.Tracks = append(r.Tracks, track)
	}
	for name, p := range map[string]*render.Picture{"film": render.Film(r, nil),
		"still":      render.Still(r, clock.Second/4),
		"with marks": render.Film(r, &sheet.Trial{Marks: sheet.NewMarks(nil), Of: sheet.NewMarks(nil)})} {
		require.NoError(t, xml.Unmarshal([]byte(p.SVG()), new(struct{})), name)
		var b bytes.Buffer
		require.NoError(t, p.PNG(&b, 0.4), name)
		img, err := png.Decode(&b)
		require.NoError(t, err)
		lit := 0
		for y := range img.Bounds().Dy() {
			for x := range img.Bounds().Dx() {
				if red, green, _, _ := img.At(x, y).RGBA(); red > 0xf000 && green < 0x6000 {
					lit++
				}
			}
		}
		assert.Greater(t, lit, 200, "%s: red light on the paper", name)
	}
	var small, large bytes.Buffer
	require.NoError(t, render.Still(r, 0).PNG(&small, 0.2))
	require.NoError(t, render.Still(r, 0).PNG(&large, 0.8))
	a, err := png.DecodeConfig(&small)
	require.NoError(t, err)
	b, err := png.DecodeConfig(&large)
	require.NoError(t, err)
	assert.InDelta(t, 4*a.Width, b.Width, 4)
	assert.NoError(t, render.Still(&reel.Reel{Trial: "nothing"}, 0).PNG(&small, 1), "a bench may have no display")
}
