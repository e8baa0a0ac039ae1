package characters

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/clock"
	"hemble/core/display"
	"hemble/core/finding"
)

// showing is a state of a display of one row of 16 characters.
func showing(text string) display.State {
	s := display.State{}
	for _, r := range fmt.Sprintf("%-16s", text) {
		s.Cells = append(s.Cells, display.Cell(r))
	}
	return s
}

func board() *display.Track {
	return &display.Track{Display: "board",
		Geometry: display.Geometry{TypeName: Form, Grid: &display.Grid{Columns: 16, Rows: 1}}}
}

// repaired gives what the mistake of a code makes of a text, as a rule that it found in what was seen for what was
// wanted; "" where it found none.
func repaired(t *testing.T, code finding.Code, seen, want, text string) string {
	track := board()
	c := &display.Case{Named: display.Named{Name: "board", Geometry: track.Geometry}, Judged: true,
		Tracks: []*display.Track{track},
		Pairs:  []display.Pair{{On: track, Want: showing(want), Seen: showing(seen), Wrong: true}}}
	for _, m := range (characters{}).Mistakes() {
		if m.Code != code {
			continue
		}
		if sizes := m.Sizes(c); len(sizes) > 0 {
			return Rows(track, sizes[0].State(track, showing(text)))[0]
		}
	}
	return ""
}

// Mistakes of form within a text are rules: found in one state, they hold for another.
func TestForms(t *testing.T) {
	for _, c := range []struct {
		code                    finding.Code
		seen, want, text, makes string
	}{
		{"leading-zeros", "open 1:5", "open 1:05", "shut 2:9 now", "shut 2:09 now   "},
		{"plain-seconds", "open 65 s", "open 1:05 s", "open 130 s", "open 2:10 s     "},
		{"plain-seconds", "left 1:65", "left 1:05", "left 2:34", "left 2:14       "},
		{"texts-swapped", "min 9 max 3", "min 3 max 9", "min 12 max 4", "min 4 max 12    "},
		{"cut", "Wherry Lo", "Wherry Lock", "Wherry Lo", "Wherry Lock     "},
		{"leading-zeros", "open 1:5", "open 1:50", "open 1:5", ""},
		{"leading-zeros", "Sum: 007", "Sum:   7", "Sum: 070", "Sum:  70        "},
		{"leading-zeros", "Sum: 000", "Sum: 0", "Sum: 012", "Sum: 12         "},
		{"leading-zeros", "No   7 of 9", "No 007 of 009", "No  12 of 3", "No 012 of 003   "},
		{"leading-zeros", "lock 7.5", "lock 07.5", "lock 8.5", "lock 08.5       "},
		{"plain-seconds", "open 65", "open 65 s", "open 65", ""},
		{"texts-swapped", "min 9 max 3", "min 9 max 4", "min 9 max 3", ""},
		{"cut", "Wherry", "Wherry Lock", "Wherry", ""},
	} {
		assert.Equal(t, c.makes, repaired(t, c.code, c.seen, c.want, c.text), "%s: %s for %s", c.code, c.seen, c.want)
	}
}

// What is cut may be more than the end of a word, where several texts end in the same column. What a longer text leaves
// behind was there before.
func TestEnds(t *testing.T) {
	track := board()
	track.Frames = []display.Frame{{From: 0, To: clock.Second, State: showing("8 days    2")},
		{From: clock.Second, To: 2 * clock.Second, State: showing("14 days   1")}}
	pair := func(want string, frame int, used clock.Time) display.Pair {
		return display.Pair{On: track, At: track.Frames[frame].From, Used: used, Want: showing(want),
			Seen: track.Frames[frame].State, Wrong: true}
	}
	sizes := func(code finding.Code, pairs ...display.Pair) []display.Size {
		c := &display.Case{Named: display.Named{Name: "board", Geometry: track.Geometry}, Judged: true,
			Tracks: []*display.Track{track}, Pairs: pairs}
		for _, m := range (characters{}).Mistakes() {
			if m.Code == code {
				return m.Sizes(c)
			}
		}
		return nil
	}
	both := sizes("cut", pair("8 days    22 C", 0, -1), pair("14 days   18 C", 1, -1))
	require.Len(t, both, 1)
	assert.Equal(t, "14 days   18 C  ", Rows(track, both[0].State(track, showing("14 days   1")))[0])
	assert.Empty(t, sizes("cut", pair("8 days    22 C", 0, -1)), "another text may be meant")

	assert.Empty(t, sizes("leftovers", pair("14 days", 1, clock.Second)), "it came with the last input")
	assert.Len(t, sizes("leftovers", pair("14 days", 1, 3*clock.Second/2)), 1, "it stood before the last input")
	track.Frames[0].State = showing("9 days    1")
	kept := pair("14 days", 1, clock.Second)
	assert.Len(t, sizes("leftovers", kept), 1, "it stood there before")
	kept.Cleared = true
	assert.Empty(t, sizes("leftovers", kept), "what was cleared is not left over")

	// a longer text that is meant elsewhere goes where it is not
	full := showing("14 days   1")
	track.Frames = []display.Frame{{To: clock.Second, State: full},
		{From: clock.Second, To: 2 * clock.Second, State: full}}
	right := pair("14 days   1", 0, -1)
	right.Wrong = false
	mended := sizes("leftovers", right, pair("14 days", 1, 3*clock.Second/2))
	require.Len(t, mended, 1)
	frames := mended[0].Frames("", track)
	assert.Equal(t, "14 days   1     ", Rows(track, frames[0].State)[0])
	assert.Equal(t, "14 days         ", Rows(track, frames[1].State)[0])
}

// A row that never changes, and that another one stands in the place of, is put back, and what is left of it goes.
func TestOverwritten(t *testing.T) {
	track := board()
	track.Geometry.Grid.Rows = 2
	state := func(rows ...string) (s display.State) {
		for _, r := range rows {
			s.Cells = append(s.Cells, showing(r).Cells...)
		}
		return s
	}
	sizes := func(seen ...display.State) []display.Size {
		c := &display.Case{Named: display.Named{Name: "board", Geometry: track.Geometry}, Judged: true,
			Tracks: []*display.Track{track}}
		for i, want := range []display.State{state("Locks of Farrow", "open 1"), state("Locks of Farrow", "open 12")} {
			c.Pairs = append(c.Pairs, display.Pair{On: track, Want: want, Seen: seen[i], Wrong: true})
		}
		for _, m := range (characters{}).Mistakes() {
			if all := m.Sizes(c); m.Code == "row-overwritten" && len(all) > 0 {
				return all
			}
		}
		return nil
	}
	found := sizes(state("open 1of Farrow", ""), state("open 12f Farrow", ""))
	require.Len(t, found, 1)
	assert.Equal(t, []string{"Locks of Farrow ", "open 3          "},
		Rows(track, found[0].State(track, state("open 3of Farrow", ""))))
	assert.Len(t, sizes(state("open 1", ""), state("open 12", "")), 1, "it is never written")
	assert.Empty(t, sizes(state("Locks of Farrow", ""), state("Locks of Farrow", "")))
	assert.Empty(t, sizes(state("open 1", "open 1"), state("open 12", "open 12")))
}

// A display that is empty for a moment before each text is one that is cleared first; the text before stands until the
// next one comes.
func TestClearedFirst(t *testing.T) {
	track := board()
	at := clock.Time(0)
	for _, text := range []string{"one", "", "two", "", "three"} {
		length := clock.Second
		if text == "" {
			length = 100 * clock.Millisecond
		}
		track.Frames = append(track.Frames, display.Frame{State: showing(text), From: at, To: at + length})
		at += length
	}
	c := &display.Case{Named: display.Named{Name: "board", Geometry: track.Geometry}, Judged: true,
		Tracks: []*display.Track{track}}
	sizes := washedOut.Sizes(c)
	require.Len(t, sizes, 1)
	got := sizes[0].Frames("", track)
	require.Len(t, got, 3)
	assert.Equal(t, 1100*clock.Millisecond, got[0].Length())
	assert.Equal(t, track.Frames[4].From, got[2].From)
	track.Frames = track.Frames[:3]
	assert.Empty(t, washedOut.Sizes(c), "once may be meant")
}
