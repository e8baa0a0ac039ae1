// Package tone is the display type of sound: a pitch.
package tone

import (
	"fmt"
	"strconv"
	"strings"

	"hemble/core/clock"
	"hemble/core/display"
	"hemble/core/finding"
	"hemble/core/spec"
	"hemble/core/vision"
)

// Form is the word for it in reels.
const Form display.TypeName = "sound"

func init() { display.Register(tone{}) }

type tone struct{ display.Plain }

func (tone) Name() display.TypeName { return Form }
func (tone) Traits() display.Traits { return display.Traits{Tone: true} }

func (tone) Dark(display.Geometry) display.State { return display.State{} }

func (tone) Watch(_ display.Geometry, b display.Bench) display.Observer { return vision.WatchTone(b) }

func (tone) Describe(_ *display.Track, s display.State) string {
	if s.Pitch == 0 {
		return "silent"
	}
	return fmt.Sprintf("%dHz", s.Pitch)
}

// Draw draws a sounder: with waves and its pitch while it sounds.
func (tone) Draw(t *display.Track, s display.State) display.Drawing {
	body := t.Geometry.Shapes[0]
	c := *body.Circle
	out := display.Drawing{
		display.Disc{Circle: c, Fill: display.InkDark, Stroke: display.InkOutline, Thick: 1},
		display.Disc{Circle: display.Circle{X: c.X, Y: c.Y, R: 4}, Fill: display.InkOutline},
	}
	if s.Pitch == 0 {
		return out
	}
	for _, r := range []float64{10, 15, 20} {
		out = append(out, display.Disc{Circle: display.Circle{X: c.X, Y: c.Y, R: r}, Stroke: body.Color, Thick: 1.5})
	}
	return append(out, display.Words{X: c.X, Y: t.Geometry.Height - 4, Size: 9, Centred: true, Fill: body.Color,
		Text: fmt.Sprintf("%d Hz", s.Pitch)})
}

func (tone) Sketch(t *display.Track, s display.State) []string {
	sign := "○"
	if s.Pitch > 0 {
		sign = "♪"
	}
	return []string{" " + sign + " " + t.Describe(s) + " "}
}

func (tone) Sample(_ display.Geometry, l display.Light) (s display.State) {
	if l == display.Lit {
		s.Pitch = 440
	}
	return s
}

func (tone) Read(w display.Written, ps *spec.Problems) display.Matcher {
	if w.Text == "silent" {
		return matcher{}
	}
	hz, err := clock.ParseRate(w.Text)
	if err != nil || hz < 20 || hz > 20_000 {
		ps.Add(w.Pos, "%q is not what can be heard; write a pitch of 20Hz to 20kHz, or silent", w.Text)
		return nil
	}
	return matcher{int64(hz)}
}

// matcher is a pitch, or silence.
type matcher struct{ hz int64 }

// tolerance is how far a pitch may be off: half a semitone.
const tolerance = 3 // percent

func (m matcher) Match(_ *display.Track, s display.State) (bool, int) {
	off := int64(s.Pitch) - m.hz
	if off*off*10_000 <= m.hz*m.hz*tolerance*tolerance {
		return true, 0
	}
	return false, 1000
}

func (m matcher) Ideal(display.Geometry) *display.State { return &display.State{Pitch: int(m.hz)} }
func (m matcher) Same(other display.Matcher) bool       { return m == other }

func (m matcher) String() string {
	if m.hz == 0 {
		return "silent"
	}
	return strconv.FormatInt(m.hz, 10) + "Hz"
}

func (tone) Symptoms() []*display.Symptom { return []*display.Symptom{display.NeverClears} }

func (tone) Mistakes() []*display.Mistake { return []*display.Mistake{octave} }

var octave = &display.Mistake{
	Entry: finding.Entry{Code: "pitch", Price: finding.Pace, Doc: "a tone is an octave too high or too low, or another one",
		Catch: "give `sounds` its pitch"},
	Sizes: func(c *display.Case) []display.Size {
		scaled := func(n, d int) func(*display.Track, display.State) display.State {
			return func(_ *display.Track, s display.State) display.State {
				s.Pitch = s.Pitch * n / d
				return s
			}
		}
		sizes := []display.Size{
			{Text: c.Name + " sounds an octave too low: its pin changes half as often as it should (twice per period).",
				Effect: "the tone is an octave too high", State: scaled(2, 1)},
			{Text: c.Name + " sounds an octave too high: its pin changes twice as often as it should.",
				Effect: "the tone is an octave too low", State: scaled(1, 2)},
		}
		wrong, _ := c.Instead()
		var words []string
		for _, p := range wrong {
			if p.Seen.Pitch == 0 || p.Want.Pitch == 0 { // that is none of pitch
				return sizes
			}
			words = append(words, fmt.Sprintf("%d Hz for %d Hz", p.Seen.Pitch, p.Want.Pitch))
		}
		if one, mended := c.Misstep(); len(wrong) == 0 && one != nil && one.Want.Pitch > 0 && one.Seen.Pitch > 0 {
			sizes = append(sizes, display.Size{Text: fmt.Sprintf("%s sounds another pitch than it should in one place: %d Hz for %d Hz.",
				c.Name, one.Seen.Pitch, one.Want.Pitch), Frames: mended})
		}
		if len(wrong) > 0 {
			sizes = append(sizes, display.Size{Text: fmt.Sprintf("%s sounds another pitch than it should, each time: %s.",
				c.Name, strings.Join(words, ", ")), State: c.Restored(wrong)})
		}
		return sizes
	},
}
