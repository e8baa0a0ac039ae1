package fault

import (
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/clock"
	"hemble/core/display"
	"hemble/core/part"
	"hemble/core/reel"
)

// A count that runs on while a button is held is tried with presses as long as the time between two looks, however
// short, and without bounce; one that goes up by one with the usual short ones alone.
func TestHeldLengths(t *testing.T) {
	text := strings.ReplaceAll(timed, "part: button", "part: button, bounce: 4ms")
	for _, c := range []struct {
		shows   []int
		lengths int
		likely  clock.Time // from one look to the next
	}{{[]int{0, 10, 20, 30}, 5, 10 * clock.Millisecond}, {[]int{0, 99, 99, 99}, 5, clock.Millisecond},
		{[]int{0, 1, 2, 3}, 2, 0}, {[]int{0, 1, 2, 6}, 2, 0}} {
		s, x := counted(t, text, c.shows...)
		s.Part = x.Part("more")
		sizes := held(s)
		require.Len(t, sizes, c.lengths, "%v", c.shows)
		var tried []clock.Time
		for _, size := range sizes {
			changed := x.Clone()
			size.Bench(changed)
			press := changed.Trials[0].Cues[0].For
			tried = append(tried, press)
			assert.Equal(t, press <= longestBounce, changed.Part("more").Settings.Time("bounce") == 0, press)
		}
		assert.Equal(t, pressLengths, tried[len(tried)-len(pressLengths):])
		if c.likely > 0 {
			assert.Equal(t, c.likely, tried[0])
		}
		assert.NotZero(t, x.Trials[0].Cues[0].For, "the exercise stays as it is")
	}
}

// Where a display shows no number before a press, how soon it changes again while that lasts tells the time between two
// looks; what it shows afterwards is of another press.
func TestHeldFromBlank(t *testing.T) {
	for short, lengths := range map[clock.Time]int{30 * clock.Millisecond: 5, 90 * clock.Millisecond: 5,
		200 * clock.Millisecond: 2} {
		s, x := counted(t, strings.ReplaceAll(timed, "press: more,", "press: more, for: 120ms,"), -1, 2, 8, 8)
		s.Part = x.Part("more")
		frames := s.Reels[0].Tracks[0].Frames
		frames[1].To = frames[1].From + short
		frames[2].From = frames[1].To
		sizes := held(s)
		require.Len(t, sizes, lengths, "%s", short)
		if lengths > len(pressLengths) {
			changed := x.Clone()
			sizes[0].Bench(changed)
			assert.Equal(t, 20*clock.Millisecond, changed.Trials[0].Cues[0].For)
		}
	}
}

// What acts again while a press lasts is looked at, with shorter presses, when it would have been with those that the
// exercise has; a press that acts once may last that long on purpose.
func TestHeldIsLookedAtNoSooner(t *testing.T) {
	for _, c := range []struct {
		shows []int
		kept  bool
	}{{[]int{0, 10, 20, 30}, true}, {[]int{0, 1, 2, 3}, false}} {
		s, x := counted(t, timed, c.shows...)
		s.Part = x.Part("more")
		assert.Equal(t, c.kept, s.actsAgain(), "%v", c.shows)
		for _, size := range held(s) {
			if assert.Equal(t, c.kept, size.After != nil, "%v", c.shows); !c.kept {
				continue
			}
			shorter := *s.Reels[0]
			shorter.Cues = slices.Clone(shorter.Cues)
			for i := range shorter.Cues {
				shorter.Cues[i].End = shorter.Cues[i].Start + clock.Millisecond
			}
			assert.Equal(t, s.Reels[0].Cues, size.After(&shorter).Cues)
		}
	}
}

// What acts on both ends of presses is tried with presses that have one end each, and told what was done as it was; a
// press that changes nothing says nothing, and what changes once by each is something else.
func TestBothEdges(t *testing.T) {
	x := readExercise(t, strings.ReplaceAll(timed, "press: more,", "press: more, for: 500ms,"))
	seen := func(at ...clock.Time) *Subject {
		changes := []change{{0, display.Emissive(0, x.Part("count").Kind.Geometry(*x.Part("count")).Lights())}}
		for i, ms := range at {
			changes = append(changes, change{ms * clock.Millisecond,
				display.Emissive(uint64(i+1), len(changes[0].State.Lights))})
		}
		s := watched(x, "count", changes)
		s.Part = x.Part("more")
		return s
	}
	s := seen(1010, 1510, 2010, 2510)
	sizes := bothEdges(s)
	require.Len(t, sizes, 1)
	changed := x.Clone()
	sizes[0].Bench(changed)
	cues := changed.Trials[0].Cues
	require.Len(t, cues, 2)
	assert.Equal(t, []clock.Time{clock.Second, clock.Second, 3 * clock.Second, 4 * clock.Second},
		[]clock.Time{cues[0].At, cues[0].For, cues[1].At, cues[1].For})
	assert.Equal(t, s.Reels[0].Cues, sizes[0].After(&reel.Reel{Trial: s.Reels[0].Trial}).Cues)
	assert.Empty(t, bothEdges(seen(1010, 2010, 3010)))
	assert.Empty(t, bothEdges(seen(1510, 2510, 3510)))
}

// What happens only when a button is let go is tried with presses that end where they should begin, told as they were,
// and is not held for an input that is read the other way round.
func TestReleased(t *testing.T) {
	text := strings.ReplaceAll(timed, "press: more,", "press: more, for: 500ms,")
	s, x := counted(t, text, 0, 1, 2, 3)
	s.Part = x.Part("more")
	assert.Empty(t, released(s), "it follows as presses begin")
	for _, r := range s.Reels {
		for i := range r.Tracks[0].Frames {
			f := &r.Tracks[0].Frames[i]
			if i > 0 {
				f.From += 500 * clock.Millisecond
			}
			f.To += 500 * clock.Millisecond
		}
	}
	sizes := released(s)
	require.Len(t, sizes, 3)
	changed := x.Clone()
	sizes[0].Bench(changed)
	assert.Equal(t, clock.Second/2, changed.Trials[0].Cues[0].At)
	moved := *s.Reels[0]
	moved.Cues = nil
	assert.Equal(t, s.Reels[0].Cues, sizes[0].After(&moved).Cues)
	assert.Empty(t, buttonInverted(s))
}

// Bounce is likely where a number changes as a press begins and again as it ends, and not where it does so once.
func TestBounceIsLikely(t *testing.T) {
	text := strings.ReplaceAll(timed, "part: button", "part: button, bounce: 4ms")
	text = strings.ReplaceAll(text, "press: more,", "press: more, for: 500ms,")
	for _, again := range []bool{false, true} {
		s, x := counted(t, text, 0, 1, 2, 3)
		s.Part = x.Part("more")
		for _, r := range s.Reels {
			frames := r.Tracks[0].Frames
			frames[1].From = clock.Second + clock.Millisecond
			if frames[1].To = frames[1].From + clock.Second/2; again {
				frames[2].From = frames[1].To
			}
		}
		sizes := bounce(s)
		require.Len(t, sizes, 1)
		assert.Equal(t, again, sizes[0].Likely)
	}
}

// What an input lacks is told by its pins, and away from the rail that its contact joins it to.
func TestUnpulled(t *testing.T) {
	assert.Equal(t, "The pull-up of PC2 is missing", Unpulled(&part.Instance{Wired: []string{"PC2", "GND"}}, "PC2"))
	assert.Equal(t, "The pull-downs of PC0 and PC2 are missing",
		Unpulled(&part.Instance{Wired: []string{"PC0", "PC2", "VCC"}}, "PC0", "PC2"))
}
