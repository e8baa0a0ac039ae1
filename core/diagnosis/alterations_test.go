package diagnosis

import (
	"context"
	"math/big"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/clock"
	"hemble/core/display"
	"hemble/core/display/lamp"
	"hemble/core/exercise"
	"hemble/core/fault"
	"hemble/core/firmware"
	"hemble/core/judge"
	"hemble/core/machine"
	"hemble/core/reel"
)

// changing is a program that earns marks by the address that is changed in it.
type changing struct {
	runner
	list  []machine.Alteration
	marks map[uint32]int64 // in a whole run, of 10
	early map[uint32]bool  // right up to where the first difference was
	gains map[uint32]bool  // something is right that was not, behind that
	tried []uint32
}

const asItIs = 4 // marks of the program without a change

func (c *changing) change(address uint32, rare int, reached clock.Time) {
	c.list = append(c.list, machine.Alteration{Address: address, Rare: rare, Reached: reached,
		Change: func(*firmware.Image) *firmware.Image {
			return &firmware.Image{Flash: []firmware.Segment{{Address: address}}}
		}})
}

// at is the address that is changed on a bench.
func (c *changing) at(x *exercise.Exercise) uint32 { return x.Mended[0](nil).Flash[0].Address }

func (c *changing) Score(_ int, r *reel.Reel) *big.Rat { return big.NewRat(int64(r.Seed), 1) }

func (c *changing) Alterations(context.Context, *exercise.Exercise, int, machine.Hints) (*reel.Reel,
	[]machine.Alteration, error) {
	return sought(1), c.list, nil
}

func (c *changing) Attempt(_ context.Context, x *exercise.Exercise, _ int, _ int64, _ []Point) (*reel.Reel, int64,
	error) {
	at := c.at(x)
	c.tried = append(c.tried, at)
	switch {
	case c.early[at]:
		return sought(3), 10e6, nil
	case c.gains[at]:
		return sought(2), 10e6, nil
	}
	return sought(1), 10e6, nil
}

// sought is a run that earns so many marks, and has its lamp lit where that is more than one.
func sought(marks uint64) *reel.Reel {
	t := display.Track{Display: "lamp", Geometry: display.Geometry{TypeName: lamp.Form, Shapes: make([]display.Shape, 1)}}
	t.Frames = []display.Frame{{To: clock.Second, State: display.Emissive(marks>>1, 1)}}
	return &reel.Reel{Seed: marks, Length: clock.Second, Tracks: []display.Track{t}}
}

func (c *changing) Run(_ context.Context, x *exercise.Exercise, _ int, _ int64) (*reel.Reel, error) {
	return &reel.Reel{Seed: uint64(c.marks[c.at(x)])}, nil
}

// byMarks sees a difference after a second, where a run is as the program is.
type byMarks struct{}

func (byMarks) Judge(r *reel.Reel) judge.Verdict {
	if r.Seed > 2 {
		return judge.Verdict{Outcome: judge.Met}
	}
	return judge.Verdict{First: &judge.Difference{At: clock.Second}}
}

func changed(t *testing.T) (*search, *changing) {
	s, x, _ := benches(t)
	x.Trials = x.Trials[:1]
	x.Trials[0].Length, x.Trials[0].Expect = 10*clock.Second, []exercise.Expectation{{Marks: big.NewRat(10, 1),
		Expectation: byMarks{}}}
	wrong := judge.Verdict{Display: "lamp", First: &judge.Difference{At: clock.Second}}
	s.seen = []Seen{{Reel: &reel.Reel{Seed: asItIs}, Verdicts: []judge.Verdict{wrong}}}
	s.full, s.marks = big.NewRat(10, 1), big.NewRat(asItIs, 1)
	c := &changing{marks: map[uint32]int64{}, early: map[uint32]bool{}}
	s.repairer = c
	return s, c
}

func (s *search) alteredNow(t *testing.T) *candidate {
	t.Helper()
	c, err := s.altered([]*reel.Reel{s.seen[0].Reel}, [][]judge.Verdict{s.seen[0].Verdicts}, false)
	require.NoError(t, err)
	return c
}

func TestTheChangeThatMakesAllRight(t *testing.T) {
	s, c := changed(t)
	c.change(1, 1, 0)                           // seldom
	c.change(2, 0, 0)                           // of no use
	c.change(3, 0, 900*clock.Millisecond)       // carried out shortly before, but not enough
	c.change(4, 0, 2*clock.Second)              // too late to matter
	c.change(5, 0, 100*clock.Millisecond)       // this one
	c.change(6, 0, 100*clock.Millisecond)       // and this, which is not looked at any more
	c.early = map[uint32]bool{3: true, 5: true} // 1 and 2 are as wrong as before
	c.marks = map[uint32]int64{3: 9, 4: 10, 5: 10, 6: 10}
	got := s.alteredNow(t)
	require.NotNil(t, got)
	assert.Equal(t, uint32(5), got.by.PC)
	assert.Zero(t, got.marks.Cmp(s.full))
	assert.Equal(t, []uint32{3, 5}, c.tried, "what was carried out last comes first")
	assert.False(t, s.cutOff)
}

// Changes that leave the first difference where it is are run in full behind all others, those first that gain most.
func TestChangesThatOnlyGain(t *testing.T) {
	s, c := changed(t)
	c.change(1, 0, 0)
	c.change(2, 0, 0)
	c.gains, c.early = map[uint32]bool{1: true}, map[uint32]bool{2: true}
	c.marks = map[uint32]int64{1: 10, 2: 9}
	got := s.alteredNow(t)
	require.NotNil(t, got)
	assert.Equal(t, uint32(1), got.by.PC)
	assert.Equal(t, []uint32{1, 2}, c.tried)
}

func TestATableThatNobodyReads(t *testing.T) {
	s, c := changed(t)
	for range 2 {
		c.change(1, 0, 0) // changes nothing that is seen
		c.change(2, 0, 0)
		c.change(3, 0, 0)
	}
	c.list[0].Table, c.list[1].Table = "font", "font"
	c.early = map[uint32]bool{2: true}
	assert.Nil(t, s.alteredNow(t))
	assert.Equal(t, []uint32{1, 2, 3, 2, 3}, c.tried)
}

func TestChangesWithinAnEffort(t *testing.T) {
	s, c := changed(t)
	for a := range uint32(100) {
		c.change(a, 0, 0)
	}
	assert.Nil(t, s.alteredNow(t))
	assert.Len(t, c.tried, forAltered/10e6+1, "each takes a part")
	assert.True(t, s.cutOff)
}

func TestWhatIsSettled(t *testing.T) {
	s, _ := changed(t)
	s.x.Step = big.NewRat(1, 2)
	with := func(marks *big.Rat, code string) []candidate {
		i := slices.IndexFunc(fault.All(), func(f *fault.Fault) bool { return string(f.Code) == code })
		require.GreaterOrEqual(t, i, 0, code)
		return []candidate{{fault: fault.All()[i], marks: marks}}
	}
	assert.True(t, unseen(Finding{Code: "no-output"}), "a sign that leaves no doubt")
	assert.False(t, s.settled(nil))
	assert.True(t, s.settled(with(big.NewRat(10, 1), "count-offset")), "all is explained")
	assert.False(t, s.settled(with(big.NewRat(99, 10), "count-offset")), "many causes look like it")
	assert.True(t, s.settled(with(big.NewRat(9, 1), "segments-inverted")), "few causes but this one")
	assert.False(t, s.settled(with(big.NewRat(7, 1), "segments-inverted")), "it explains half")
	two := func(marks *big.Rat) []candidate {
		return append(with(big.NewRat(7, 1), "segments-inverted"), with(marks, "digits-order")...)
	}
	assert.True(t, s.settled(two(big.NewRat(99, 10))), "all, once it is rounded")
	assert.False(t, s.settled(two(big.NewRat(9, 1))), "two may be traces of one")
}

func TestHints(t *testing.T) {
	pair := func(want, seen string, meant, took clock.Time) judge.Pair {
		return judge.Pair{Operation: judge.Wrong, Expected: &judge.Span{Text: want, To: meant},
			Seen: &judge.Span{Text: seen, To: took}}
	}
	second := clock.Second
	h := hints([][]judge.Verdict{{{Alignment: []judge.Pair{
		{Operation: judge.Right, Expected: &judge.Span{Text: "1"}, Seen: &judge.Span{Text: "2"}},
		pair("10", "12", second, second),
		pair("Level 2.5 m", "Level 3.5 m", second, 2*second),
		pair("7", "1 of 2", second, second+second/100), // nobody knows which is which
		{Expected: &judge.Span{Text: "9"}},
	}}}})
	assert.Equal(t, machine.Hints{Shifts: []int64{-2, -10}, Wanted: []int64{10, 25},
		Pairs:  [][2]int64{{10, 12}, {25, 35}},
		Texts:  [][2]string{{"10", "12"}, {"Level 2.5 m", "Level 3.5 m"}, {"7", "1 of 2"}},
		Ratios: [][2]int64{{1000, 2000}}}, h)
	assert.Equal(t, []int64{3, 25, 7}, numerals("3 pumps: 2.5 m,7 of p4 x8"), "those of names are none")
}

// A difference shows where what is seen is no longer what is expected, not where that began.
func TestWhenADifferenceShows(t *testing.T) {
	second := clock.Second
	span := func(text string, from, to clock.Time) *judge.Span { return &judge.Span{Text: text, From: from, To: to} }
	first := func(at clock.Time, pairs ...judge.Pair) clock.Time {
		pairs = append([]judge.Pair{{Operation: judge.Right, Seen: span("off", 0, second)}}, pairs...)
		return shows(judge.Verdict{First: &judge.Difference{At: at}, Alignment: pairs})
	}
	late := judge.Pair{Operation: judge.Mistimed, Expected: span("on", 0, 3*second), Seen: span("on", second, 9*second)}
	assert.Equal(t, 4*second, first(second, late), "it should have ended")
	late.Seen = span("on", second, 2*second)
	assert.Equal(t, 2*second, first(second, late), "it ended")
	missing := judge.Pair{Operation: judge.Missing, Expected: span("on", second, 3*second)}
	assert.Equal(t, second, first(second, missing), "nothing came")
	next := judge.Pair{Operation: judge.Right, Seen: span("slow", 5*second, 6*second)}
	assert.Equal(t, 5*second, first(second, missing, next), "the next one came")
	assert.Equal(t, 4*second, first(second, missing, missing,
		judge.Pair{Operation: judge.Right, Seen: span("on", 2*second, 9*second)}), "the same for too long")
	assert.Equal(t, 7*second, first(7*second), "nobody knows better")
}

func TestPoints(t *testing.T) {
	second := clock.Second
	lamp := display.Track{Display: "lamp", Frames: []display.Frame{
		{From: 0, To: second}, {From: second, To: second + second/10}, {From: second + second/10, To: 4 * second}}}
	other := lamp // nobody knows what it should show
	other.Display = "other"
	at := func(before clock.Time) (out []clock.Time) {
		r := &reel.Reel{Tracks: []display.Track{lamp, other}}
		for _, p := range points(r, before, map[string]bool{"lamp": true}) {
			assert.Contains(t, p.States, "lamp")
			assert.NotContains(t, p.States, "other")
			out = append(out, p.At)
		}
		return out
	}
	assert.Empty(t, at(0))
	assert.Equal(t, []clock.Time{700 * clock.Millisecond}, at(2*second))
	assert.Equal(t, []clock.Time{700 * clock.Millisecond, 2750 * clock.Millisecond}, at(4*second))
}

// A run may be ended early where nothing has changed since the first difference.
func TestUnchanged(t *testing.T) {
	second := clock.Second
	r := &reel.Reel{Length: 4 * second, Tracks: []display.Track{{Display: "lamp", Frames: []display.Frame{
		{From: 0, To: second}, {From: second, To: 4 * second}}}}}
	p, ok := (&attempt{first: 2 * second}).unchanged(r)
	assert.True(t, ok)
	assert.True(t, p.Ends)
	assert.Equal(t, 2*second+dawdle, p.At)
	assert.Contains(t, p.States, "lamp")
	_, ok = (&attempt{first: second - dawdle/2}).unchanged(r)
	assert.False(t, ok, "it changes meanwhile")
	_, ok = (&attempt{first: 4*second - dawdle/2}).unchanged(r)
	assert.False(t, ok, "that is behind the end")
}
