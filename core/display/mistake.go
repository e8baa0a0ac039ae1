package display

import (
	"fmt"
	"slices"

	"hemble/core/clock"
	"hemble/core/finding"
)

// Mistake is a way in which programs get a display of some type wrong, as a change of what it showed: used one way it
// makes a faulty run of a right program, used the other way it repairs the run of a faulty one.
type Mistake struct {
	finding.Entry
	// Once tells that the change only repairs: what the mistake did cannot be undone in general, and is undone with the
	// help of what was expected.
	Once bool
	// Wiring tells that it is about lines and settings: where the display ever shows what is expected, it is not the
	// cause.
	Wiring bool
	// Sizes gives what is worth trying on a display: the usual sizes of the mistake, and where it was judged, those
	// that what was seen suggests. The changes of a mistake without Once come in pairs that undo each other.
	Sizes func(*Case) []Size
}

// Size is a mistake of one size. It has one of State and Frames.
type Size struct {
	Text   string // what is wrong with a program that this change repairs
	Effect string // what it makes of a right program; Text where it is empty
	Rare   bool   // it hardly occurs: it is not tried in search of what may hide another
	Given  int    // how many texts it takes from what was expected, each wherever it stands; 0 where that is not known
	// Throughout tells that with it nothing may be left that is wrong.
	Throughout bool
	State      func(*Track, State) State
	// Frames gives the changed frames of a track of one trial; those that are given stay as they are.
	Frames func(trial string, t *Track) []Frame
}

// Case is a display in all trials of a submission, or of a reference.
type Case struct {
	Named
	Tracks []*Track // of each trial
	Judged bool     // pairs are at hand
	Pairs  []Pair
	// Wired reports whether a terminal of the part is wired; known is false where it has no such terminal.
	Wired func(terminal string) (wired, known bool)
}

// Pair is an expected state beside the one that was seen in its place.
type Pair struct {
	Trial      string
	On         *Track     // where it was seen: custom characters are its own
	At         clock.Time // when the seen one began
	Used       clock.Time // when an input was used last before the wanted one was due; before 0 where none was
	Want, Seen State
	Wrong      bool // it was not what was wanted, whatever its time
	Cleared    bool // the display was told to clear itself since what was seen before it began
}

// Track is one without frames, to read states of the display by.
func (c *Case) Track() *Track { return &Track{Display: c.Name, Geometry: c.Geometry} }

// Parted reports whether a colon parts the digits: there is one, and where that is known, it is lit at some time, as
// expected or as seen. Many modules have a colon that plain numbers never light.
func (c *Case) Parted() bool {
	lit := func(s State) bool { n := len(s.Lights); return n > 0 && s.Lights[n-1] == Lit } // it comes last
	return c.Geometry.Colon > 0 && (!c.Judged || slices.ContainsFunc(c.Pairs, func(p Pair) bool {
		return lit(p.Want) || lit(p.Seen)
	}))
}

// Symptom is what a display looks like where a cause cannot be repaired.
type Symptom struct {
	finding.Entry
	// Find looks at one display in one trial; ok is false where the sign is not there.
	Find func(*Sighting) (text string, at clock.Time, ok bool)
}

// Sighting is one display in one trial in which it lost marks.
type Sighting struct {
	*Track
	Pairs   []Pair  // expected states beside those that were seen, extra ones too
	Asked   []State // all that was expected and can be drawn, seen or not
	Firsts  []First // where each expectation that was not met first differs; those that do not tell are left out
	Told    bool    // all of them tell
	Stays   bool    // it is to be lit up to the end
	Follows bool    // another display is wrong by then: what this one shows may follow from that
	// Noted reports whether the display itself reported something.
	Noted func(code string) bool
}

// First is the first place where a run and an expectation part.
type First struct {
	At   clock.Time
	Seen string
}

// Hexadecimal is a mistake of numbers, and of the places of digits.
var Hexadecimal = finding.Entry{Code: "hexadecimal", Price: finding.Constant, Vague: true,
	Doc:   "a number is shown in hexadecimal where a decimal one is expected, or the reverse",
	Catch: "show a number above 9"}

// NeverClears is the sign of what continues and does not go off again.
var NeverClears = &Symptom{
	Entry: finding.Entry{Code: "never-clears", Doc: "a lamp or a tone never goes off again", Order: 6, Sure: true, Seen: true},
	Find: func(v *Sighting) (string, clock.Time, bool) {
		n := len(v.Frames)
		if n < 2 || v.Frames[n-1].State.Unlit() || !v.Told || v.Follows || v.Stays {
			return "", 0, false
		}
		last := v.Frames[n-1].From
		for _, f := range v.Firsts {
			if f.At < last {
				return "", 0, false // it went wrong before
			}
		}
		return fmt.Sprintf("%s goes on at %s and never goes off again.", v.Display, last), last, true
	},
}

// Permutations are all orders of n things.
func Permutations(n int) (out [][]int) {
	if n == 0 {
		return [][]int{nil}
	}
	for _, p := range Permutations(n - 1) {
		for at := 0; at < n; at++ {
			out = append(out, slices.Insert(slices.Clone(p), at, n-1))
		}
	}
	return out
}
