package display

import (
	"slices"
	"sort"
	"strings"

	"hemble/core/clock"
	"hemble/core/machine"
)

// Track is what one display showed.
type Track struct {
	Display  string     `json:"display"`
	Kind     string     `json:"kind"`
	Geometry Geometry   `json:"geometry"`
	Frames   []Frame    `json:"frames"`
	Custom   [][8]uint8 `json:"custom,omitempty"` // custom characters, named by Cells from CustomCell on
	Quality  *Quality   `json:"quality,omitempty"`
	Of       []string   `json:"of,omitempty"` // of a group: the displays that it is made of
}

// Same reports whether two tracks of a display show the same to the last edge, whatever brought it about.
func (t *Track) Same(o *Track) bool {
	return t.Display == o.Display && slices.Equal(t.Custom, o.Custom) &&
		(t.Quality == o.Quality || t.Quality != nil && o.Quality != nil && *t.Quality == *o.Quality) &&
		slices.EqualFunc(t.Frames, o.Frames, func(a, b Frame) bool {
			return a.From == b.From && a.To == b.To && a.Text == b.Text && a.State.Same(&b.State) &&
				slices.Equal(a.Stages, b.Stages)
		})
}

// Quality is how well a scanned display was driven.
type Quality struct {
	Refresh float64 `json:"refresh,omitempty"` // of the scan in Hz, the mean over the run; 0 for none
	// the dimmest digit's brightness in percent of the brightest's, at worst
	Evenness int `json:"evenness,omitempty"`
	Ghost    int `json:"ghost,omitempty"` // strength of ghosts in percent of the pattern they are the tail of
}

// Frame is a stable state with its start and end; From and To are those of the edges that caused
// it. At is the program point of the edge that completed it.
type Frame struct {
	From  clock.Time     `json:"from"`
	To    clock.Time     `json:"to"`
	Text  string         `json:"text"` // what it shows, in words
	State State          `json:"state"`
	At    *machine.Place `json:"at,omitempty"`

	Stages []Stage `json:"stages,omitempty"` // of a terminal's line: what it read when it paused, in order
}

// Stage is what a line read until a time, since the stage before or since it began.
type Stage struct {
	To   clock.Time `json:"to"`
	Line string     `json:"line"`
}

// Length is how long the frame lasted.
func (f Frame) Length() clock.Time { return f.To - f.From }

// At gives the frame that was there at a time, nil before the first.
func (t *Track) At(at clock.Time) *Frame {
	i := sort.Search(len(t.Frames), func(i int) bool { return t.Frames[i].From > at })
	if i == 0 {
		return nil
	}
	return &t.Frames[i-1]
}

// Describe tells in words what a state shows: "on", "2.", rows of text in quotes.
func (t *Track) Describe(s State) string {
	out := t.Geometry.Type().Describe(t, s)
	if s.Flicker {
		out += " (flickering)"
	}
	return out
}

// Short is Describe for narrow places.
func (t *Track) Short(s State) string {
	if out := t.Geometry.Type().Short(t, s); out != "" {
		return out
	}
	return t.Describe(s)
}

// Alike reports whether two states of the track look the same.
func (t *Track) Alike(a, b State) bool { return t.Geometry.Type().Alike(t, a, b) }

// SameWords is Alike for types whose states are told in full by their words.
func SameWords(t *Track, a, b State) bool { return t.Describe(a) == t.Describe(b) }

// Nothing reports whether a state is dark, or has no text.
func (t *Track) Nothing(s State) bool {
	worded, ok := As[Worded](t.Geometry)
	return s.Unlit() || ok && s.Lights == nil && strings.TrimSpace(strings.Join(worded.Texts(t, s), "")) == ""
}

// Called names a state so that two of them can be told apart.
func (t *Track) Called(s State) string {
	if s.Unlit() {
		return "nothing lit"
	}
	if spelt := t.Geometry.Type().Spell(t, s); len(spelt) > 1 {
		return strings.Trim(spelt[1], `"`)
	}
	return t.Short(s)
}
