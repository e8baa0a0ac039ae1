package diagnosis

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/clock"
	"hemble/core/display"
	"hemble/core/exercise"
	"hemble/core/judge"
	"hemble/core/part"
	"hemble/core/reel"
)

// What a terminal says to each line that was typed: too much, the same to all, or to one command something else.
func TestTyped(t *testing.T) {
	lines := []string{"?", "raise 2", "lower 1", "raise 3"}
	want := []string{"gate ready", "level 0", "level 2", "level 1", "level 4"}
	for _, c := range []struct {
		name string
		said [][]string // at power-on, and to each line
		text string
	}{
		{"other words", [][]string{{"gate ready"}, {"what?"}, {"level 2"}, {"level 1"}, {"level 4"}},
			`log answers "?" with "what?", where "level 0" is expected; all other commands are answered rightly.`},
		{"another number", [][]string{{"gate ready"}, {"level 0"}, {"level 2"}, {"level 3"}, {"level 4"}}, ""},
		{"once alone", [][]string{{"gate ready"}, {"level 0"}, {"what?"}, {"level 1"}, {"level 4"}}, ""},
		{"one line more", [][]string{{"gate ready"}, {"level 0"}, {"level 2", "level 0"}, {"level 5"}, {"level 8", "level 0"}},
			`log answers "raise 2" with one line too many: "level 2", and then "level 0".`},
		{"one line more, once", [][]string{{"gate ready"}, {"level 0"}, {"level 2", "level 0"}, {"level 5"}, {"level 4"}}, ""},
		{"the same to all", [][]string{{"gate ready"}, {"level 0"}, {"level 0"}, {"level 0"}, {"level 0"}},
			`log answers all that is typed as it answered "?", with "level 0": what was typed before is not cleared away, or nothing else is looked at.`},
		{"nothing to some", [][]string{{"gate ready"}, {"level 0"}, {}, {"level 0"}, {"level 0"}}, ""},
		{"another greeting", [][]string{{"ready"}, {"what?"}, {"level 2"}, {"level 1"}, {"level 4"}}, ""},
	} {
		x, problems := exercise.Read("exercise.yaml", fmt.Appendf(nil, log, fmt.Sprintf("[%s]", quoted(want))))
		require.NotNil(t, x, "%v", problems)
		track := display.Track{Display: "log", Geometry: x.Part("log").Kind.Geometry(*x.Part("log"))}
		r := &reel.Reel{Trial: "a day", Length: 9 * clock.Second}
		for i, said := range c.said {
			at := clock.Time(i) * clock.Second
			if i > 0 {
				cue := part.Cue{Verb: part.Type, Text: lines[i-1] + "\n"}
				r.Cues = append(r.Cues,
					reel.Fired{Verb: cue.Verb, Part: "log", Text: cue.Describe("log"), Start: at, End: at})
			}
			for k, line := range said {
				from := at + clock.Time(k+1)*10*clock.Millisecond
				track.Frames = append(track.Frames,
					display.Frame{From: from, To: from, State: display.State{Line: line}})
			}
		}
		r.Tracks = []display.Track{track}
		found := symptoms(typed, x, []Seen{{Reel: r, Verdicts: []judge.Verdict{x.Trials[0].Expect[0].Judge(r)}}})
		if c.text == "" {
			assert.Empty(t, found, c.name)
		} else if assert.Len(t, found, 1, c.name) {
			assert.Equal(t, c.text, found[0].Text, c.name)
		}
	}
}
