// Package lamp is the display type of a single light.
package lamp

import (
	"fmt"
	"strings"

	"hemble/core/clock"
	"hemble/core/display"
	"hemble/core/display/lights"
	"hemble/core/finding"
	"hemble/core/spec"
)

// Form is the word for it in reels.
const Form display.TypeName = "lamp"

func init() { display.Register(lamp{}) }

type lamp struct{ lights.Type }

func (lamp) Name() display.TypeName { return Form }
func (lamp) Traits() display.Traits { return display.Traits{Member: true, Single: true} }

// Geometry draws a round lamp, which is told by its colour's word.
func Geometry(colour, hex string) display.Geometry {
	return display.Geometry{TypeName: Form, Width: 60, Height: 60,
		Shapes: []display.Shape{{Name: colour, Color: hex, Circle: &display.Circle{X: 30, Y: 30, R: 22}}}}
}

func (lamp) Describe(_ *display.Track, s display.State) string {
	return [...]string{"off", "on", "dim"}[s.Lights[0]]
}

func (lamp) Read(w display.Written, ps *spec.Problems) display.Matcher {
	switch strings.ToLower(w.Text) {
	case "on", "yes", "true", "1":
		return Matcher(true)
	case "off", "no", "false", "0":
		return Matcher(false)
	}
	ps.Add(w.Pos, "%q is not what a lamp can show; write on or off", w.Text)
	return nil
}

// Matcher is a lamp on or off.
type Matcher bool

// Match takes a dim lamp for one that is off.
func (m Matcher) Match(_ *display.Track, s display.State) (bool, int) {
	if (s.Lights[0] == display.Lit) == bool(m) {
		return true, 0
	}
	return false, 1000
}

// Ideal is the lamp fully lit, or dark.
func (m Matcher) Ideal(display.Geometry) *display.State {
	pattern := uint64(0)
	if m {
		pattern = 1
	}
	s := display.Emissive(pattern, 1)
	return &s
}

// Same compares.
func (m Matcher) Same(other display.Matcher) bool { return m == other }

func (m Matcher) String() string {
	if m {
		return "on"
	}
	return "off"
}

func (lamp) Mistakes() []*display.Mistake { return []*display.Mistake{lights.Inverted} }

func (lamp) Symptoms() []*display.Symptom { return []*display.Symptom{goesDark, display.NeverClears} }

// begun is how long a lamp may be lit before the program has begun to drive it.
const begun = 500 * clock.Millisecond

var goesDark = &display.Symptom{
	Entry: finding.Entry{Code: "goes-dark", Doc: "a display goes dark and stays dark", Order: 4, Sure: true},
	Find: func(v *display.Sighting) (string, clock.Time, bool) {
		n := len(v.Frames)
		if n < 2 || !v.Frames[n-1].State.Unlit() || !v.Told {
			return "", 0, false
		}
		last := v.Frames[n-1].From
		for _, f := range v.Firsts {
			never := strings.HasPrefix(f.Seen, "off for ") && last <= begun
			if f.Seen != "off" && !never || f.At < last { // what is missing is no light, or was missing before
				return "", 0, false
			}
		}
		return fmt.Sprintf("%s goes dark at %s and stays dark.", v.Display, last), last, true
	},
}
