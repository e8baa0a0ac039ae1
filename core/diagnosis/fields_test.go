package diagnosis

import (
	"fmt"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/clock"
	"hemble/core/display"
	"hemble/core/exercise"
	"hemble/core/finding"
	"hemble/core/judge"
	"hemble/core/part"
	"hemble/core/reel"
)

const sluice = `
hemble: 1
name: sluice
title: Sluice
chip: {is: atmega328p, clock: 16MHz, supply: 5V}
bench:
  sign: {part: lcd, pins: {rs: PB4, rw: GND, e: PB5, d4: PD4, d5: PD5, d6: PD6, d7: PD7}}
  hour: {part: button, pins: {1: PD2, 2: GND}}
trials:
  - name: a watch
    length: 9s
    cues:
      - {at: 4s, press: hour, for: 100ms, as: h}
      - {at: 8s, press: hour, for: 100ms, as: again}
    expect: %s
`

// shown is a text of two rows, from a time on.
type shown struct {
	from clock.Time
	rows [2]string
}

// told by some signs of a text display, which is as it should be where nothing else is expected.
func toldOf(t *testing.T, signs []symptom, expect string, states ...shown) (codes []finding.Code, texts []string) {
	return toldHolding(t, 100*clock.Millisecond, signs, expect, states...)
}

// toldHolding is the same with a first press that lasts for a while.
func toldHolding(t *testing.T, held clock.Time, signs []symptom, expect string, states ...shown) (
	codes []finding.Code, texts []string) {
	x, problems := exercise.Read("exercise.yaml", fmt.Appendf(nil, sluice, expect))
	require.NotNil(t, x, "%v", problems)
	p := x.Part("sign")
	track := display.Track{Display: "sign", Geometry: p.Kind.Geometry(*p)}
	lettered, ok := display.As[display.Lettered](track.Geometry)
	require.True(t, ok)
	r := &reel.Reel{Trial: "a watch", Length: 9 * clock.Second, Cues: []reel.Fired{
		{Name: "h", Verb: part.Press, Part: "hour", Text: "press hour", Start: 4 * clock.Second, End: 4*clock.Second + held},
		{Name: "again", Verb: part.Press, Part: "hour", Text: "press hour", Start: 8 * clock.Second, End: 8100 * clock.Millisecond}}}
	for i, s := range states {
		to := r.Length
		if i+1 < len(states) {
			to = states[i+1].from
		}
		rows := make([]string, 2)
		for y := range rows {
			rows[y] = fmt.Sprintf("%-16s", s.rows[y])
		}
		blank := display.State{Cells: make([]display.Cell, 32)}
		track.Frames = append(track.Frames,
			display.Frame{From: s.from, To: to, State: lettered.WithRows(&track, blank, rows)})
	}
	r.Tracks = []display.Track{track}
	seen := Seen{Reel: r}
	for _, e := range x.Trials[0].Expect {
		seen.Verdicts = append(seen.Verdicts, e.Judge(r))
	}
	require.True(t, slices.ContainsFunc(seen.Verdicts, func(v judge.Verdict) bool { return v.Outcome != judge.Met }))
	for _, f := range symptoms(signs, x, []Seen{seen}) {
		codes, texts = append(codes, f.Code), append(texts, f.Text)
	}
	return codes, texts
}

// Numbers and words that go wrong beside others that are right; where a number is wrong in other ways, nothing is told.
func TestFields(t *testing.T) {
	at := func(s float64, rows ...string) shown {
		return shown{clock.Time(s * float64(clock.Second)), [2]string{rows[0], append(rows, "")[1]}}
	}
	const behind = `[{reads: sign, rows: ["Lock", "Time 10:59:58"], after: {cue: h}, within: 400ms, marks: 10}]`
	const twice = `[{answers: sign, table: [{after: h, shows: {rows: ["Lock", "Time 10:59:58"]}}, {after: again, shows: {rows: ["Lock", "Time 12:59:58"]}}], within: 400ms, marks: 10}]`
	const before = `[{reads: sign, rows: ["Weir", "Time 09:59:58"], at: 3s, marks: 5}, ` +
		`{reads: sign, rows: ["Lock", "Time 10:59:58"], after: {cue: h}, within: 400ms, marks: 5}]`
	const warm = `[{reads: sign, row: 1, pattern: "Now 21\\.[4-6] C *", at: 2s, marks: 5}, {reads: sign, row: 1, pattern: "Now 30\\.[4-6] C *", at: 6s, marks: 5}]`
	const run = `[{reads: sign, row: 1, text: "Ran 2 s", at: 2500ms, marks: 5}, {reads: sign, row: 1, text: "Ran 3 s", at: 3500ms, marks: 5}]`
	const boats = `[{reads: sign, rows: ["Wherry Lock", "Boats  3"], at: 2s, marks: 5}, {reads: sign, rows: ["Wherry Lock", "Boats  4"], at: 6s, marks: 5}]`
	const named = `[{reads: sign, row: 1, text: "Wherry Lock", at: 1s, marks: 5}, {reads: sign, row: 2, text: "Boats  3", at: 2s, marks: 5}]`
	const sown = `[{reads: sign, row: 2, text: "8 days  22 C", at: 2s, marks: 5}, {reads: sign, row: 2, text: "9 days  12 C", at: 6s, marks: 5}]`
	for _, c := range []struct {
		name, expect string
		states       []shown
		want         []finding.Code
		text         string
	}{
		{"two numbers exchanged", sown, []shown{at(0, "Leek", "22 days  8 C"), at(5, "Leek", "12 days  9 C")}, []finding.Code{"texts-swapped"},
			`Two numbers on sign are exchanged: it shows "Leek / 22 days  8 C" where "Leek / 8 days  22 C" is expected, and so on.`},
		{"one of them twice", sown, []shown{at(0, "Leek", "22 days 22 C"), at(5, "Leek", "12 days 12 C")}, nil, ""},
		{"over the other row", sown, []shown{at(0, "8 days  22 Cds", ""), at(5, "9 days  12 Cds", "")}, []finding.Code{"row-overwritten"},
			`What belongs in row 2 of sign is written over row 1: "8 days  22 Cds", and row 2 stays empty.`},
		{"minutes for hours", behind, []shown{at(0, "Lock", "Time 09:59:58"), at(4.1, "Lock", "Time 09:00:58")},
			[]finding.Code{"sets-other"},
			`After the press of hour at 4.000 s, sign shows "Lock / Time 09:00:58" where "Lock / Time 10:59:58" is expected: another number is changed than the one that it is for.`},
		{"the same hour each time", twice, []shown{at(0, "Lock", "Time 09:59:58"), at(4.1, "Lock", "Time 00:59:58"), at(5, "Lock", "Time 11:59:58"),
			at(8.1, "Lock", "Time 00:59:58")}, []finding.Code{"sets-other"},
			`After the press of hour one number on sign is always the same, whatever it was: "Lock / Time 00:59:58" where "Lock / Time 10:59:58" is expected.`},
		{"now this hour, now that", twice, []shown{at(0, "Lock", "Time 09:59:58"), at(4.1, "Lock", "Time 00:59:58"), at(5, "Lock", "Time 11:59:58"),
			at(8.1, "Lock", "Time 03:59:58")}, nil, ""},
		{"two hours for one", behind, []shown{at(0, "Lock", "Time 09:59:58"), at(4.1, "Lock", "Time 11:59:58")}, nil, ""},
		{"one row stays", before, []shown{at(0, "Weir", "Time 09:59:58"), at(4.1, "Lock", "Time 09:59:58")}, []finding.Code{"goes-on"},
			`After the press of hour at 4.000 s, row 2 of sign still shows "Time 09:59:58" where "Time 10:59:58" is expected; the rest of it changes as it should.`},
		{"one row stays that was never right", behind, []shown{at(0, "Weir", "Time 09:59:58"), at(4.1, "Lock", "Time 09:59:58")},
			nil, ""},
		{"all stays", behind, []shown{at(0, "Lock", "Time 09:59:58")}, nil, ""},
		{"whole degrees", warm, []shown{at(0, "Now 21.0 C"), at(5, "Now 30.0 C")}, []finding.Code{"scale"},
			`sign shows "Now 21.0 C" where "Now 21.5 C" is expected, and so on: what is behind the point is always 0, the value is cut off to a whole number.`},
		{"other degrees", warm, []shown{at(0, "Now 22.0 C"), at(5, "Now 30.0 C")}, nil, ""},
		{"ten times as fast", run, []shown{at(0, "Ran 0 s"), at(0.5, "Ran 5 s"), at(1, "Ran 10 s"), at(1.5, "Ran 15 s"), at(2, "Ran 20 s"),
			at(2.6, "Ran 26 s"), at(3, "Ran 30 s")}, []finding.Code{"time"},
			`The number on sign goes on too fast: it shows "Ran 20 s" where "Ran 2 s" is expected, and so on in proportion.`},
		{"in no proportion", run, []shown{at(0, "Ran 0 s"), at(0.5, "Ran 5 s"), at(1, "Ran 10 s"), at(1.5, "Ran 15 s"), at(2, "Ran 20 s"),
			at(2.6, "Ran 26 s"), at(3, "Ran 90 s")}, nil, ""},
		{"a number in the other row", boats, []shown{at(0, "Wherry Lock    3", "Boats"), at(5, "Wherry Lock    4", "Boats")},
			[]finding.Code{"rows"},
			`Part of the text on sign stands in row 1, from column 16 on, where it should stand in row 2, from column 8 on: "3".`},
		{"another word", named, []shown{at(0, "Wherry Lock", "Barge  3")},
			[]finding.Code{"words"}, `sign shows another text than asked: "Barge  3" for "Boats  3".`},
		{"the end of the text before", named, []shown{at(0, "Wherry Lock", "Barges in"), at(1.5, "Wherry Lock", "Boats  3n")},
			[]finding.Code{"leftovers", "words"},
			`The end of a longer text remains on sign: "n" stayed behind "Boats  3". A shorter text must overwrite all of it.`},
		{"a text of another time", named, []shown{at(0, "Wherry Lock", "Wherry Lock")}, nil, ""},
		{"a number for a text", named, []shown{at(0, "Wherry Lock", "7")}, []finding.Code{"words"},
			`sign shows another text than asked: "7" for "Boats  3".`},
		{"another number", named, []shown{at(0, "Wherry Lock", "Boats  7")}, nil, ""},
	} {
		codes, texts := toldOf(t, fields, c.expect, c.states...)
		assert.Equal(t, c.want, codes, c.name)
		if c.text != "" && len(texts) == 1 {
			assert.Equal(t, c.text, texts[0], c.name)
		}
	}
}

// States that go on where another one should come, by itself, when an input is used, or again and again.
func TestGoesOn(t *testing.T) {
	at := func(ms int, row string) shown { return shown{clock.Time(ms) * clock.Millisecond, [2]string{row}} }
	const rests = `[{reads: sign, row: 1, text: "Boats 3", at: 1s, marks: 5}, {reads: sign, row: 1, text: "Lock shut", at: 3s, marks: 5}]`
	const ends = `[{shows: sign, row: 1, frames: [{text: "Open", for: 2s}, {text: "Shutting", for: 2s}, {text: "Shut", for: any}], tolerance: 10%, marks: 10}]`
	const blinks = `[{shows: sign, frames: [{text: "Lock", for: 1s}, {text: "", for: 1s}, {text: "Weir", for: 1s}, {text: "", for: 1s}, {text: "Quay", for: any}], marks: 10}]`
	for _, c := range []struct {
		name, expect string
		states       []shown
		want         []finding.Code
		text         string
	}{
		{"stays", rests, []shown{at(0, ""), at(500, "Boats 3")}, []finding.Code{"goes-on"},
			`sign shows "Boats 3" / "" from 0.500 s on, and still at 3.250 s, where "Lock shut" in row 1 is expected.`},
		{"was never right", rests, []shown{at(0, ""), at(500, "Boats 2")}, nil, ""},
		{"not ended by the press", ends, []shown{at(0, "Open"), at(2000, "Shutting"), at(6000, "Shut")}, []finding.Code{"goes-on"},
			`sign shows "Shutting" on and on after the press of hour at 4.000 s, which should end it: for 4 s in place of 2 s.`},
		{"never between", blinks, []shown{at(0, "Lock"), at(2000, "Weir"), at(4000, "Quay")}, []finding.Code{"step-missing"},
			`sign never shows "" / "", which should come 2 times between the others; they all come.`},
		{"once not between", blinks, []shown{at(0, "Lock"), at(1000, ""), at(2000, "Weir"), at(4000, "Quay")}, nil, ""},
		{"too long with no press", ends, []shown{at(0, "Open"), at(1000, "Shutting"), at(5500, "Shut")}, nil, ""},
	} {
		codes, texts := toldOf(t, []symptom{{finding.Entry{Code: "goes-on"}, outstays}, {finding.Entry{Code: "goes-on"}, notEnded},
			{finding.Entry{Code: "step-missing"}, neverBetween}}, c.expect, c.states...)
		assert.Equal(t, c.want, codes, c.name)
		if c.text != "" && len(texts) == 1 {
			assert.Equal(t, c.text, texts[0], c.name)
		}
	}
}

// A number that is shown where a dash should say that it is out of range; a dash for a number, or another wrong number
// beside it, tell nothing of that.
func TestNotCaught(t *testing.T) {
	const gauge = `
hemble: 1
name: gauge
title: Gauge
chip: {is: atmega328p, clock: 16MHz, supply: 5V}
bench:
  level: {part: seven-segment, common: cathode, pins: {a: PD0, b: PD1, c: PD2, d: PD3, e: PD4, f: PD5, g: PD6, common: GND}}
trials:
  - name: a day
    length: 4s
    expect:
      - {reads: level, text: "3", at: 1s, marks: 5}
      - {reads: level, text: "-", at: 3s, marks: 5}
`
	x, problems := exercise.Read("exercise.yaml", []byte(gauge))
	require.NotNil(t, x, "%v", problems)
	p := x.Part("level")
	for name, c := range map[string]struct {
		first, then uint64 // the segments that are lit: a is bit 0
		want        []finding.Code
	}{
		"a number, too large": {0x4f, 0x7f, []finding.Code{"limit"}},
		"a wrong number, too": {0x06, 0x7f, nil},
		"dark":                {0x4f, 0, nil},
		"a letter for a dash": {0x4f, 0x38, nil},
		"a dash for a number": {0x40, 0x40, nil},
	} {
		track := display.Track{Display: "level", Geometry: p.Kind.Geometry(*p)}
		for i, lit := range []uint64{c.first, c.then} {
			from := clock.Time(i) * 2 * clock.Second
			track.Frames = append(track.Frames, display.Frame{From: from, To: from + 2*clock.Second,
				State: display.Emissive(lit, track.Geometry.Lights())})
		}
		r := &reel.Reel{Trial: "a day", Length: 4 * clock.Second, Tracks: []display.Track{track}}
		seen := Seen{Reel: r}
		for _, e := range x.Trials[0].Expect {
			seen.Verdicts = append(seen.Verdicts, e.Judge(r))
		}
		var codes []finding.Code
		for _, f := range symptoms(fields, x, []Seen{seen}) {
			codes = append(codes, f.Code)
		}
		assert.Equal(t, c.want, codes, name)
	}
}

// What stands on a row of digits in place of something that is no number.
func TestOtherSymbols(t *testing.T) {
	const gauge = `
hemble: 1
name: gauge
title: Gauge
chip: {is: atmega328p, clock: 16MHz, supply: 5V}
bench:
  count: {part: tm1637, digits: 4, pins: {clk: PB0, dio: PB1}}
trials:
  - name: a watch
    length: 4s
    expect:
      - {shows: count, frames: ["   1", "----", "   2", "   3"], marks: 10}
`
	for _, c := range []struct {
		name   string
		second uint64 // shown in place of ----
		third  uint64 // and of 2
		want   []string
	}{
		{"one dash", 0x40, 0x5b, []string{`count shows "   -" where "----" is expected; the numbers are right.`}},
		{"a number, too", 0x40, 0x07, nil},
		{"nothing", 0, 0x5b, nil},
	} {
		x, problems := exercise.Read("exercise.yaml", []byte(gauge))
		require.NotNil(t, x, "%v", problems)
		p := x.Part("count")
		track := display.Track{Display: "count", Geometry: p.Kind.Geometry(*p)}
		for i, last := range []uint64{0x06, c.second, c.third, 0x4f} {
			track.Frames = append(track.Frames, display.Frame{From: clock.Time(i) * clock.Second,
				To: clock.Time(i+1) * clock.Second, State: display.Emissive(last<<24, track.Geometry.Lights())})
		}
		r := &reel.Reel{Trial: "a watch", Length: 4 * clock.Second, Tracks: []display.Track{track}}
		var texts []string
		for _, f := range symptoms([]symptom{{finding.Entry{Code: "words"}, otherSymbols}}, x,
			[]Seen{{Reel: r, Verdicts: []judge.Verdict{x.Trials[0].Expect[0].Judge(r)}}}) {
			texts = append(texts, f.Text)
		}
		assert.Equal(t, c.want, texts, c.name)
	}
}
