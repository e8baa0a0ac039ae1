// Package lines is the display type of a terminal: each line of text is a frame.
package lines

import (
	"strconv"
	"strings"

	"hemble/core/display"
	"hemble/core/spec"
	"hemble/core/vision"
)

// Form is the word for it in reels.
const Form display.TypeName = "lines"

func init() { display.Register(lines{}) }

type lines struct{ display.Plain }

func (lines) Name() display.TypeName { return Form }
func (lines) Traits() display.Traits { return display.Traits{Lines: true} }

func (lines) Dark(display.Geometry) display.State { return display.State{} }

func (lines) Watch(_ display.Geometry, b display.Bench) display.Observer {
	return vision.WatchTextLines(b)
}

func (lines) Describe(_ *display.Track, s display.State) string {
	if s.Line == "" {
		return "nothing yet"
	}
	return strconv.Quote(s.Line)
}

func (lines) Draw(_ *display.Track, s display.State) display.Drawing {
	return display.Drawing{display.Words{X: 12, Y: 38, Size: 22, Fill: "#cfe8d8", Text: s.Line}}
}

// sketched is how much of a line a film strip shows.
const sketched = 40

func (lines) Sketch(t *display.Track, s display.State) []string {
	word := t.Describe(s)
	return []string{" " + display.Fit(word, min(sketched, len([]rune(word)))) + " "}
}

func (lines) Sample(_ display.Geometry, l display.Light) (s display.State) {
	if l != display.Dark {
		s.Line = "gate open"
	}
	return s
}

func (lines) Read(w display.Written, _ *spec.Problems) display.Matcher {
	return Matcher(strings.TrimRight(w.Text, " "))
}

func (lines) Spell(_ *display.Track, s display.State) []string {
	if s.Line == "" {
		return nil
	}
	return []string{display.Quoted(s.Line)}
}

func (lines) Texts(_ *display.Track, s display.State) []string {
	return []string{strings.TrimRight(s.Line, " ")}
}

// Matcher is a line of text; spaces at its end do not count.
type Matcher string

// Match compares.
func (m Matcher) Match(_ *display.Track, s display.State) (bool, int) {
	if strings.TrimRight(s.Line, " ") == string(m) {
		return true, 0
	}
	return false, 1000
}

// Ideal is the line.
func (m Matcher) Ideal(display.Geometry) *display.State { return &display.State{Line: string(m)} }

// Same is never so: each line is an event of its own.
func (m Matcher) Same(display.Matcher) bool { return false }

func (m Matcher) String() string { return strconv.Quote(string(m)) }

func (lines) ReadNumber(_ *display.Track, s display.State, nth int) (n int, ok bool) {
	return display.NumberIn([]string{s.Line}, nth)
}

func (lines) WriteNumber(_ *display.Track, s display.State, nth, n int) display.State {
	s.Line = display.Renumbered([]string{s.Line}, nth, n)[0]
	return s
}

func (lines) Figures(display.Geometry) int { return 0 }

func (lines) Fit(_ display.Geometry, text string) string { return text }

func (lines) Rows(_ *display.Track, s display.State) []string { return []string{s.Line} }

func (lines) WithRows(_ *display.Track, s display.State, rows []string) display.State {
	s.Line = rows[0]
	return s
}

func (lines) Mistakes() []*display.Mistake {
	return append([]*display.Mistake{display.Reworded, display.OneWord}, display.TextForms...)
}
