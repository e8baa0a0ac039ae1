package diagnosis

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/clock"
	"hemble/core/display"
	"hemble/core/exercise"
	"hemble/core/finding"
	"hemble/core/judge"
	"hemble/core/machine"
	"hemble/core/reel"
)

const counter = `
hemble: 1
name: counter
title: Counter
chip: {is: atmega328p, clock: 16MHz, supply: 5V}
bench:
  count: {part: seven-segment, digits: 1, common: cathode, resistor: 1k, pins: {a: PB0, b: PB1, c: PB2, d: PB3, e: PB4, f: PB5, g: PD0, common: GND}}
  more: {part: button, pins: {1: PD2, 2: GND}}
  less: {part: button, pins: {1: PD3, 2: GND}}
  anew: {part: button, pins: {1: PD4, 2: GND}}
trials:
  - name: up and down
    length: 6s
    cues:
      - {at: 1s, press: more, for: 100ms, as: m1}
      - {at: 2s, press: more, for: 100ms, as: m2}
      - {at: 3s, press: less, for: 100ms, as: l1}
      - {at: 4s, press: anew, for: 100ms, as: a1}
      - {at: 5s, press: more, for: 100ms, as: m3}
    expect:
      - {answers: count, table: [{after: m1, shows: "1"}, {after: m2, shows: "2"}, {after: l1, shows: "1"}, {after: a1, shows: "0"}, {after: m3, shows: "1"}], within: 300ms, marks: 10}
`

// counting is a program that counts what is pressed: what each button makes of a number.
type counting struct {
	runner
	x    *exercise.Exercise
	does map[string]func(int) int
	cost int64 // of a run
	runs int
}

func (c *counting) Run(_ context.Context, x *exercise.Exercise, trial int, _ int64) (*reel.Reel, error) {
	digits := []uint64{0x3f, 0x06, 0x5b, 0x4f, 0x66, 0x6d, 0x7d, 0x07, 0x7f, 0x6f}
	p := c.x.Part("count")
	track := display.Track{Display: "count", Geometry: p.Kind.Geometry(*p)}
	r := &reel.Reel{Length: x.Trials[trial].Length, Counters: machine.Counters{Instructions: c.cost}}
	c.runs++
	n, from := 0, clock.Time(0)
	show := func(to clock.Time) {
		track.Frames = append(track.Frames, display.Frame{From: from, To: to,
			State: display.Emissive(digits[n%10], track.Geometry.Lights())})
		from = to
	}
	for _, cue := range x.Trials[trial].Cues {
		r.Cues = append(r.Cues, reel.Fired{Name: cue.Name, Verb: cue.Verb, Part: cue.Part, Key: cue.Key,
			Text: cue.Describe(cue.Part), Start: cue.At, End: cue.At + cue.For})
		if does := c.does[cue.Part]; does != nil {
			if does(n)%10 != n%10 {
				show(cue.At + 10*clock.Millisecond)
			}
			n = does(n)
		}
	}
	show(r.Length)
	r.Tracks = []display.Track{track}
	return r, nil
}

// without gives the finding that leaving out an input brings.
func without(t *testing.T, does map[string]func(int) int) (code finding.Code, text string) {
	t.Helper()
	return (&counting{does: does}).search(t)
}

func (c *counting) search(t *testing.T) (code finding.Code, text string) {
	t.Helper()
	return c.searched(t, counter)
}

func (c *counting) searched(t *testing.T, yaml string) (code finding.Code, text string) {
	x, problems := exercise.Read("exercise.yaml", []byte(yaml))
	require.NotNil(t, x, "%v", problems)
	c.x = x
	r, err := c.Run(t.Context(), x, 0, 0)
	require.NoError(t, err)
	s := &search{ctx: t.Context(), x: x, repairer: c, seen: []Seen{{Reel: r}}}
	f, err := s.withoutInput([]*reel.Reel{r}, [][]judge.Verdict{{x.Trials[0].Expect[0].Judge(r)}})
	require.NoError(t, err)
	if f == nil {
		return "", ""
	}
	return f.Code, f.Text
}

func TestWhatFollowsAnInput(t *testing.T) {
	up := func(n int) int { return min(n+1, 9) }
	down := func(n int) int { return max(n-1, 0) }
	to := func(n int) func(int) int { return func(int) int { return n } }
	for _, c := range []struct {
		name             string
		more, less, anew func(int) int
		code             finding.Code
		text             string
	}{
		{"right", up, down, to(0), "", ""},
		{"one is ignored", up, down, nil, "ignored-key",
			"Nothing follows the press of anew at 4.000 s: all displays show the same without it, where something else is expected."},
		{"all are", nil, nil, nil, "", ""},
		{"one does what another does", up, up, to(0), "same-input",
			"less is used like more: with that in its place all displays show the same, up to 4.000 s at least."},
		{"one sets another number", up, down, to(4), "", ""},
		{"all do the same", up, up, up, "", ""},
	} {
		code, text := without(t, map[string]func(int) int{"more": c.more, "less": c.less, "anew": c.anew})
		assert.Equal(t, c.code, code, c.name)
		assert.Equal(t, c.text, text, c.name)
	}
}

func TestAnInputThatShouldDoNothing(t *testing.T) {
	kept := strings.NewReplacer("press: less", "press: more", `{after: l1, shows: "1"}`, `{after: l1, shows: "2"}`)
	up := func(n int) int { return n + 1 }
	to0 := func(int) int { return 0 }
	does := map[string]func(int) int{"more": up, "anew": to0}
	code, text := (&counting{does: does}).searched(t, kept.Replace(counter))
	assert.Equal(t, notIgnored.Code, code, "more should do nothing at 2")
	assert.Equal(t, "Without the press of more at 3.000 s all of that trial is as expected: it does something there that "+
		"it should not.", text)
	does["anew"] = func(int) int { return 5 }
	code, _ = (&counting{does: does}).searched(t, kept.Replace(counter))
	assert.Empty(t, code, "another input is wrong besides")
}

// Those before the first difference are left out first, the last one at the head, and then those behind it.
func TestNearInputs(t *testing.T) {
	x, problems := exercise.Read("exercise.yaml", []byte(counter))
	require.NotNil(t, x, "%v", problems)
	c := &counting{x: x}
	r, err := c.Run(t.Context(), x, 0, 0)
	require.NoError(t, err)
	s := &search{x: x}
	assert.Equal(t, []int{1, 0, 2, 3, 4}, s.near(0, r, 2500*clock.Millisecond))
	assert.Equal(t, []int{0, 1, 2, 3}, s.near(0, r, 0)[:4])
	assert.Equal(t, []int{4, 3, 2, 1}, s.near(0, r, 9*clock.Second))
}

func TestInputsWithinAnEffort(t *testing.T) {
	up := func(n int) int { return n + 1 }
	c := &counting{does: map[string]func(int) int{"more": up, "less": up}, cost: 2 * forAltered}
	code, _ := c.search(t)
	assert.Empty(t, code, "it would take a second run")
	assert.Equal(t, 2, c.runs, "with the one as it is")
	c.runs, c.cost = 0, forAltered/4
	code, _ = c.search(t)
	assert.Equal(t, finding.Code("same-input"), code)
}

func TestAnInputThatIsIgnoredSometimes(t *testing.T) {
	second := clock.Second
	p := &counting{does: map[string]func(int) int{"more": func(n int) int { return min(n+1, 1) }}}
	x, problems := exercise.Read("exercise.yaml", []byte(counter))
	require.NotNil(t, x, "%v", problems)
	p.x = x
	r, err := p.Run(t.Context(), x, 0, 0)
	require.NoError(t, err)
	verdict := func(o judge.Operation, from clock.Time) judge.Verdict {
		return judge.Verdict{Display: "count", Alignment: []judge.Pair{{Operation: o, Seen: &judge.Span{From: from}}}}
	}
	wrong := verdict(judge.Wrong, 2*second)
	u := suspect{cue: 1, verdict: &wrong} // the second press of more
	wrong.First = &judge.Difference{At: 2*second + second/5}
	assert.False(t, sometimes(r, u, []judge.Verdict{wrong}), "something was expected of this one")
	wrong.First.At = 6 * second
	assert.True(t, sometimes(r, u, []judge.Verdict{wrong}), "the first one did something, and nobody knows whether that was right")
	assert.False(t, sometimes(r, u, []judge.Verdict{wrong, verdict(judge.Right, second+second/10)}), "that was right")
	assert.False(t, sometimes(r, suspect{cue: 0, verdict: &wrong}, nil), "it is the first one")
}

// That nothing follows an input is said where it makes no difference. Where something was wrong before, it must make
// none as the first one either.
func TestWhatNothingFollows(t *testing.T) {
	x, problems := exercise.Read("exercise.yaml", []byte(counter))
	require.NotNil(t, x, "%v", problems)
	up := func(n int) int { return n + 1 }
	for _, c := range []struct {
		name  string
		anew  func(int) int
		wrong bool // before it
		note  string
		want  bool
	}{
		{"ignored", nil, false, "", true},
		{"answered", func(int) int { return 7 }, false, "", false},
		{"answered at first alone", func(n int) int { return max(n, 1) }, false, "", true},
		{"and something was wrong", func(n int) int { return max(n, 1) }, true, "", false},
		{"ignored, and something was wrong", nil, true, "", true},
		{"the display lost something", nil, false, "sign lcd-busy", false},
	} {
		p := &counting{x: x, does: map[string]func(int) int{"more": up, "less": up, "anew": c.anew}}
		r, err := p.Run(t.Context(), x, 0, 0)
		require.NoError(t, err)
		r.Notes = []machine.Note{{Code: c.note}}
		v := judge.Verdict{Display: "count"}
		if c.wrong {
			at := &judge.Span{From: 3 * clock.Second}
			v.Alignment = []judge.Pair{{Operation: judge.Wrong, Seen: at, Expected: at}}
		}
		s := &search{ctx: t.Context(), x: x, repairer: p, seen: []Seen{{Reel: r}}}
		told := []Finding{{Code: ignoredKey, At: 4 * clock.Second, Part: "count"}, {Code: "dark", Part: "count"}}
		left, err := s.unfollowed(told, []*reel.Reel{r}, [][]judge.Verdict{{v}})
		require.NoError(t, err)
		assert.Equal(t, c.want, len(left) == 2, c.name)
		assert.Equal(t, finding.Code("dark"), left[len(left)-1].Code)
	}
}

// Something is awaited of an input where the display was right before it and should be otherwise behind it.
func TestAwaited(t *testing.T) {
	second := clock.Second
	r := &reel.Reel{Length: 6 * second, Cues: []reel.Fired{{Start: second}, {Start: 3 * second}}}
	reads := func(o judge.Operation, at clock.Time) judge.Verdict {
		return judge.Verdict{Display: "sign", Alignment: []judge.Pair{{Operation: o, Expected: &judge.Span{From: at}}}}
	}
	for _, c := range []struct {
		wrong, right clock.Time
		want         bool
	}{{6 * second, 2 * second, true}, {6 * second, second / 2, false}, {2 * second, 2 * second, false}} {
		wrong := reads(judge.Wrong, c.wrong)
		all := []judge.Verdict{wrong, reads(judge.Right, c.right)}
		assert.Equal(t, c.want, awaited(r, suspect{cue: 1, verdict: &wrong}, all), "%v", c)
	}
}

// A lamp that goes on and off a dozen times while a button is held is seen to be on: something follows.
func TestDoneUnseen(t *testing.T) {
	done := func(edges int64) *reel.Reel {
		return &reel.Reel{Counters: machine.Counters{Edges: edges}, Length: clock.Second}
	}
	x, problems := exercise.Read("exercise.yaml", []byte(counter))
	require.NotNil(t, x, "%v", problems)
	lamps := &search{x: x}
	assert.True(t, lamps.sameDone(done(2), done(3)))
	assert.False(t, lamps.sameDone(done(2), done(10)))
	assert.True(t, lamps.sameDone(done(10_100), done(10_000)), "a scan goes on a little longer")
	x, problems = exercise.Read("exercise.yaml", fmt.Appendf(nil, sluice, `[{reads: sign, row: 1, text: "Lock", at: 1s, marks: 1}]`))
	require.NotNil(t, x, "%v", problems)
	assert.True(t, (&search{x: x}).sameDone(done(2), done(10)), "a display is sent what it shows")
}

// The program counts otherwise behind an input that should have set its number back.
func TestWhatIsNotSetBack(t *testing.T) {
	const after = 10 // in the number: anew was pressed
	code, text := without(t, map[string]func(int) int{
		"more": func(n int) int { return n + 1 + n/after },
		"less": func(n int) int { return n - 1 },
		"anew": func(n int) int { return n + after },
	})
	assert.Equal(t, finding.Code("not-reset"), code)
	assert.Equal(t,
		"After the press of anew at 4.000 s, count still shows 1 where 0 is expected: the program does something then, and does not set this back.",
		text)
}

// The number is shown before it is changed.
func TestOneUseBehind(t *testing.T) {
	const hidden = 10 // in the number: one more than is shown
	code, text := without(t, map[string]func(int) int{
		"more": func(n int) int {
			if n >= hidden {
				return n + 1
			}
			return n + hidden
		},
		"less": func(n int) int { return max(0, n%hidden-1) },
		"anew": func(int) int { return 0 },
	})
	assert.Equal(t, finding.Code("lag"), code)
	assert.Equal(t,
		"After the press of more at 1.000 s, count still shows 0, and 1 only after the next one: it is one use behind, as where a number is shown before it is changed.",
		text)
}

// What less does is shown when anew is pressed: without less, that shows something else.
func TestShownLater(t *testing.T) {
	const pending = 10 // in the number: less was pressed
	x, problems := exercise.Read("exercise.yaml", []byte(counter))
	require.NotNil(t, x, "%v", problems)
	for name, c := range map[string]struct {
		anew func(int) int
		want bool
	}{
		"it depends on less": {func(n int) int {
			if n >= pending {
				return 0
			}
			return n
		}, true},
		"it does the same without it": {func(int) int { return 0 }, false},
		"it shows another number":     {func(n int) int { return n/pending + 6 }, false},
	} {
		program := &counting{x: x, does: map[string]func(int) int{"anew": c.anew,
			"more": func(n int) int { return n + 1 }, "less": func(n int) int { return n + pending }}}
		r, err := program.Run(t.Context(), x, 0, 0)
		require.NoError(t, err)
		other := x.Clone()
		other.Trials[0].Cues = slices.Delete(other.Trials[0].Cues, 2, 3)
		without, err := program.Run(t.Context(), other, 0, 0)
		require.NoError(t, err)
		v := x.Trials[0].Expect[0].Judge(r)
		assert.Equal(t, c.want, shownLater(r, without, suspect{cue: 2, verdict: &v}, 2), name)
	}
}

func TestAnInputIsFoundByItsPlace(t *testing.T) {
	x, _ := exercise.Read("exercise.yaml", []byte(counter))
	cues := x.Trials[0].Cues
	for i := range cues {
		cues[i].Name = ""
	}
	var fired []reel.Fired
	for _, c := range cues {
		fired = append(fired, reel.Fired{Text: c.Describe(c.Part)})
	}
	for n := range fired {
		assert.Equal(t, n, cueOf(cues, fired, n))
	}
	fired[4].Text = "something else"
	assert.Equal(t, -1, cueOf(cues, fired, 4))
}
