package judge_test

import (
	"fmt"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/clock"
	"hemble/core/display"
	"hemble/core/exercise"
	"hemble/core/judge"
	"hemble/core/machine"
	"hemble/core/reel"
)

// bench is one with a display of each sort that expectations are about, and cues at 2, 4, 6 and 8 s of ten.
const bench = `hemble: 1
name: x
title: x
chip: {is: atmega328p}
bench:
  gauge: {part: seven-segment, common: anode, pins: {a: PC0, b: PC1, c: PC2, d: PC3, e: PC4, f: PC5, g: PB2, common: VCC}}
  count: {part: seven-segment, digits: 4, common: cathode, select: transistor, pins: {a: PD0, b: PD1, c: PD2, d: PD3, e: PD4, f: PD5, g: PD6, digit1: PB0, digit2: PB1, digit3: PB2, digit4: PB3}}
  red: {part: lamp, pins: {anode: PB0, cathode: GND}}
  green: {part: lamp, pins: {anode: PB1, cathode: GND}}
  horn: {part: buzzer, pins: {plus: PB4, minus: GND}}
  log: {part: terminal, pins: {rx: PD1, tx: PD0}}
  level: {part: voltage, volts: 1V, pins: {out: PC0}}
  roll: {part: button, pins: {1: PD7, 2: GND}}
trials:
  - name: x
    length: 10s
    cues:
      - {at: 2s, press: roll, as: first}
      - {at: 4s, set: level, to: 4V, as: rises}
      - {at: 6s, set: level, to: 1V, as: falls}
      - {at: 8s, press: roll, as: second}
    expect: [%s]
`

func readBench(t *testing.T, expect string) *exercise.Exercise {
	x, problems := exercise.Read("x", []byte(fmt.Sprintf(bench, expect)))
	require.Empty(t, problems, expect)
	return x
}

// reelOf makes one of tracks such as "red on:500 off:500"; _ stands for a blank, ~ before a text for flickering. What
// has no track shows nothing all the time.
func reelOf(x *exercise.Exercise, tracks ...string) *reel.Reel {
	const s = clock.Second
	r := &reel.Reel{Length: 10 * s, Program: &reel.Program{Flash: 1000, RAM: -1}, Counters: machine.Counters{Writes: 7},
		Cues: []reel.Fired{
			{Name: "first", Verb: "press", Part: "roll", Start: 2 * s, End: 2*s + 100*ms},
			{Name: "rises", Verb: "set", Part: "level", To: "4V", Start: 4 * s, End: 4 * s},
			{Name: "falls", Verb: "set", Part: "level", To: "1V", Start: 6 * s, End: 6 * s},
			{Name: "second", Verb: "press", Part: "roll", Start: 8 * s, End: 8*s + 100*ms}}}
	for _, text := range tracks {
		words := strings.Fields(text)
		p := x.Part(words[0])
		t := display.Track{Display: p.Name, Geometry: p.Kind.Geometry(*p)}
		at := clock.Time(0)
		for _, w := range words[1:] {
			shown, length, _ := strings.Cut(w, "@")
			shown, flicker := strings.CutPrefix(shown, "~")
			var n int
			fmt.Sscan(length, &n)
			state := judge.SightOf(strings.ReplaceAll(shown, "_", " "), p)
			state.Flicker = flicker
			t.Frames = append(t.Frames, display.Frame{From: at, To: at + clock.Time(n)*ms, State: state})
			at += clock.Time(n) * ms
		}
		r.Tracks = append(r.Tracks, t)
	}
	return r
}

// The worked cases of docs/marking.md, one kind of expectation after the other.
func TestKinds(t *testing.T) {
	blink := "red" + strings.Repeat(" on@500 off@500", 10)
	for _, c := range []struct{ expect, seen, share, first string }{
		{"{steady: count}", "count 12@10000", "1", ""},
		{"{steady: count}", "count 12@9950 ~12@50", "1", ""}, // too short to tell
		{"{steady: count}", "count 12@5000 ~13@5000", "0", "it flickers"},
		// the start-up is no fault
		{"{shows: gauge, frames: [1, 2, {text: 3, for: any}], each: 1s}", "gauge _@60 1@940 2@1000 3@8000", "1", ""},
		{"{shows: gauge, frames: [1, 2, {text: 3, for: any}], each: 1s, start: power, within: 200ms}",
			"gauge _@149 1@851 2@1000 3@8000", "1", ""},
		{"{shows: gauge, frames: [1, 2, {text: 3, for: any}], each: 1s}", "gauge _@400 1@600 2@1000 3@8000", "17/20",
			"1 for 600 ms"},
		{"{shows: gauge, frames: [1, 2, {text: 3, for: any}], each: 1s}", "gauge _@60 1@1000 2@940 3@8000", "197/200",
			"2 for 940 ms"},
		{"{steady: count, to: 4s}", "count 12@5000 ~13@5000", "1", ""},
		{"{steady: count}", "count ____@10000", "0", "it never lights"},
		{"{steady: gauge}", "gauge _@10000", "0", "it never lights"},
		{"{steady: count}", "count " + strings.Repeat("1___@62 _2__@62 __3_@62 ___4@64 ", 40), "0",
			"light up one after another"},
		{"{steady: count}", "count " + strings.Repeat("1___@250 _2__@250 __3_@250 ___4@250 ", 10), "0",
			"light up one after another"},
		{"{steady: count}", "count " + strings.Repeat("1234@50 ____@50 ", 100), "0",
			"it goes on and off 10 times per second"},
		{"{steady: gauge}", "gauge " + strings.Repeat("3@40 _@60 ", 100), "0", "it goes on and off"},
		{"{steady: gauge}", "gauge " + strings.Repeat("3@500 _@500 ", 10), "1", ""},      // it blinks
		{"{steady: count}", "count " + strings.Repeat("1234@50 1235@50 ", 100), "1", ""}, // a stopwatch
		{"{steady: count}", "count 1___@2000 12__@2000 123_@2000 1234@4000", "1", ""},
		{"{blinks: red, period: 1s, lit: 50%}", blink, "1", ""},
		{"{blinks: red, period: 2s}", blink, "0", "again after 1 s"},
		{"{blinks: red, period: 1s, lit: 20%}", blink, "1/2", "lit for 500 ms"},
		{"{blinks: red, period: 1s, times: 3}", "red on@500 off@9500", "0", "it did not blink"},
		{"{blinks: red, period: 1s, times: 4}", "red off@1000 on@500 off@500 on@500 off@500 on@500 off@6500", "1/2",
			""},
		{"{glows: red, level: 100%}", "red on@10000", "1", ""},
		{"{glows: red, level: 50%}", blink, "1", ""},
		{"{glows: red, level: 80%}", blink, "0", "50 % on average"},
		{"{never: gauge, frame: 9}", "gauge 1@5000 2@5000", "1", ""},
		{"{never: gauge, frame: 2}", "gauge 1@5000 2@5000", "0", "2 for 5 s"},
		{"{never: gauge, frame: 2, to: 5s}", "gauge 1@5000 2@5000", "1", ""},
		{"{never: gauge, frame: 2}", "gauge 1@5000 2@50 1@4950", "1", ""},
		{"{always: red, frame: on, from: 1s}", "red off@500 on@9500", "1", ""},
		{"{always: red, frame: on}", "red off@500 on@9500", "0", "off for 500 ms"},
		{`{says: log, lines: ["ready", "/level [0-9]+/"]}`, "log ready@1000 other@1000 level_7@8000", "1", ""},
		{`{says: log, lines: ["ready", "/level [0-9]+/"]}`, "log level_7@1000 ready@9000", "1/2", ""},
		{`{says: log, lines: [Ready, "/level [0-9]+/"]}`, "log ready@1000 level_7@9000", "4/5", "ready"},
		{`{says: log, lines: [Ready, "/level [0-9]+/"], strict: yes}`, "log ready@1000 level_7@9000", "1/2", ""},
		{`{says: log, lines: [ready, done, off], extra: wrong}`, "log ready@1000 other@1000 done@3000 off@5000", "2/3", ""},
		{`{says: log, lines: [ready, done, off], extra: wrong}`, "log ready@1000 other@1000 off@7000", "2/3", ""},
		{`{says: log, lines: [ready, done, off], extra: wrong}`, "log x@500 ready@500 done@1000 off@1000 y@7000", "1/3",
			""},
		{`{says: log, lines: [ready], extra: wrong}`, "log x@500 y@500 z@500 ready@8500", "0", ""},
		{`{says: log, lines: [ready, done, off], extra: ignore}`, "log x@500 ready@500 done@1000 off@8000", "1", ""},
		{`{says: log, lines: [Ready, ready]}`, "log ready@1000 ready@9000", "1/2", ""},
		{`{says: log, lines: ["done"], after: {cue: first}, within: 1s}`, "log done@1000 x@1500 done@7500", "1", ""},
		{`{says: log, lines: ["done"], after: {cue: first}, within: 100ms}`, "log done@1000 x@1500 done@7500", "0",
			"no such line"},
		{"{sounds: horn, pitch: 880Hz, for: 1s}", "horn silent@2000 880Hz@1500 silent@6500", "1", ""},
		{"{sounds: horn, pitch: 440Hz, for: 1s}", "horn silent@2000 880Hz@1500 silent@6500", "0", "880 Hz for 1.5 s"},
		{"{sounds: horn, pitch: 880Hz, for: 2s}", "horn silent@2000 880Hz@1500 silent@6500", "1/2", "880 Hz for 1.5 s"},
		{"{sounds: horn, after: {cue: rises}}", "horn silent@2000 880Hz@1500 silent@6500", "0", "silent"},
		{"{counts: count, from: 8, to: 10, each: 1s, limit: open}", "count 8@1000 9@1000 10@8000", "9/10", "for 8 s"},
		// A trial that outlasts its frames, where nothing says what comes then, takes nothing off for it.
		{"{counts: count, from: 8, to: 10, each: 1s}", "count 8@1000 9@1000 10@8000", "1", ""},
		{"{counts: count, from: 8, to: 10, each: 1s}", "count 8@1000 9@1000 10@1000 8@1000 9@1000 10@5000", "1", ""},
		{"{counts: count, from: 8, to: 10, each: 1s}", "count 8@1000 9@1000 10@100 8@1000 9@6900", "9/10",
			"for 100 ms"},
		{"{shows: gauge, frames: [1, 2], each: 1s, start: power}", "gauge 1@1000 2@1000 1@1000 2@1000 1@6000", "1", ""},
		{"{shows: gauge, frames: [1, 2], each: 1s, start: power, extra: wrong}", "gauge 1@1000 2@1000 3@8000", "1/2",
			"3"},
		// two too many, behind: from power-on it begins at the front
		{"{shows: gauge, frames: [1, 2], start: power}", "gauge 1@1000 2@1000 1@1000 2@7000", "0", "1"},
		{"{shows: gauge, frames: [1, 2], each: 1s, start: power, repeats: yes}",
			"gauge 1@1000 2@1000 1@1000 2@1000 1@1000 2@1000 1@1000 2@1000 1@1000 2@1000", "1", ""},
		{"{counts: count, from: 8, to: 10, each: 1s, limit: stays}", "count 8@1000 9@1000 10@8000", "1", ""},
		{"{counts: count, from: 8, to: 10, limit: stays}", "count 8@1000 9@1000 10@1000 11@7000", "2/3", "11"},
		{"{counts: count, from: 8, to: 10, as: padded}", "count 0008@1000 0009@1000 0010@8000", "1", ""},
		{"{counts: count, from: 59, to: 61, as: mm:ss}", "count 0059@1000 0100@1000 0101@8000", "1", ""},
		{"{counts: count, from: 59, to: 61, as: m:ss}", "count _059@1000 _100@1000 _101@8000", "1", ""},
		{"{counts: gauge, from: 14, to: 10, by: 2, as: hex}", "gauge E@1000 C@1000 A@8000", "1", ""},
		{"{counts: gauge, from: 2, to: 0, limit: wraps}", "gauge 2@1000 1@1000 0@1000 2@7000", "1", ""},
		{"{counts: gauge, from: 2, to: 0, limit: wraps}", "gauge 2@1000 1@1000 0@1000 2@1000 1@1000 0@1000 2@4000", "1",
			""},
		{"{counts: gauge, from: 2, to: 0, limit: wraps, each: 1s}",
			"gauge 2@1000 1@1000 0@1000 2@1000 1@1000 0@1000 2@1000 1@1000 0@1000 2@1000", "1", ""},
		{"{counts: gauge, from: 2, to: 0, limit: wraps, each: 1s}",
			"gauge 2@1000 1@1000 0@1000 2@1000 1@1000 0@1000 2@1000 1@1000 9@1000 2@1000", "93/100", "9"},
		{"{counts: gauge, from: 2, to: 0, limit: wraps}", "gauge 2@1000 1@1000 0@1000 9@7000", "3/4", "9"},
		{`{scrolls: count, text: "AbCdE", enters: filled, each: 1s}`, "count AbCd@2000 bCdE@8000", "1", ""},
		{`{scrolls: count, text: "AbCdE", enters: filled, towards: right}`, "count AbCd@2000 bCdE@8000", "1/2", ""},
		{`{scrolls: count, text: "Ab", each: 1s}`, "count _@500 A@1000 Ab@1000 Ab_@1000 Ab__@1000 b___@1000 _@4500",
			"1", ""},
		{"{draws-from: gauge, set: [1, 2, 3], each: roll, different: 2}", "gauge _@2050 3@6000 1@1950", "1", ""},
		{"{draws-from: gauge, set: [1, 2, 3], each: roll, different: 2}", "gauge _@2050 3@7950", "1/2", "1"},
		{"{draws-from: gauge, set: [1, 2, 3], each: roll, different: 2}", "gauge _@2050 3@6000 7@1950", "1/4", "7"},
		{"{answers: gauge, table: [{after: rises, shows: 4}, {after: falls, shows: 1}]}", "gauge 1@4100 4@2000 1@3900",
			"1", ""},
		{"{answers: gauge, table: [{after: rises, shows: 4}, {after: falls, shows: 1}]}", "gauge 1@4900 4@5100", "0",
			"1"},
		{"{together: red, shows: on, while: level, above: 3V}", "red off@4100 on@2000 off@3900", "1", ""},
		{"{together: red, shows: on, while: level, above: 3V}", "red off@4100 on@5900", "39/62", "never"},
		{"{together: red, shows: on, while: level, above: 3V, outside: any}", "red off@4100 on@5900", "1", ""},
		{"{together: red, shows: on, while: gauge, is: 5}", "gauge 1@5000 5@5000|red off@5000 on@5000", "1", ""},
		{"{together: red, shows: on, while: gauge, is: 5, within: 0}", "gauge 1@5000 5@5000|red on@5000 off@5000", "0",
			"on for 5 s"},
		// A display that is late by three times what is given has half of the marks, one that is a little late a part
		// of the others.
		{"{together: red, shows: on, while: gauge, is: 5}", "gauge 1@5000 5@5000|red off@5090 on@4910", "1", ""},
		{"{together: red, shows: on, while: gauge, is: 5}", "gauge 1@5000 5@5000|red off@5200 on@4800", "73/98",
			"200 ms late"},
		{"{together: red, shows: on, while: gauge, is: 5}", "gauge 1@5000 5@5000|red off@5300 on@4700", "24/49",
			"300 ms late"},
		{"{together: red, shows: on, while: gauge, is: 5}", "gauge 1@5000 5@5000|red off@4700 on@5300", "97/200",
			"on for 300 ms"},
		{"{together: red, shows: on, while: gauge, is: 5}", "gauge 1@5000 5@5000|red on@10000", "1/4", "on for 5 s"},
		{"{together: red, shows: on, while: gauge, is: 5}", "gauge 1@5000 5@5000|red off@10000", "1/4", "never"},
		{"{together: red, shows: on, while: gauge, is: 5}", "gauge 1@5000 5@5000|red off@5000 on@1000 off@4000",
			"97/245", "for a part of the time only"},
		{"{together: red, shows: on, while: gauge, is: {one-of: [5, 6]}}",
			"gauge 1@2000 5@3000 6@5000|red off@2000 on@8000", "1", ""},
		{"{together: red, shows: on, while: level, is: 4V}", "red off@4100 on@2000 off@3900", "1", ""},
		{"{together: red, shows: on, while: level, is: 4.0V}", "red off@4100 on@2000 off@3900", "1", ""},
		{"{together: red, shows: on, while: level, above: 3V, from: 5s, to: 7s}", "red off@4100 on@2000 off@3900", "1",
			""},
		{"{together: red, shows: on, while: roll, within: 20ms}", "red off@2010 on@100 off@5900 on@90 off@1900", "1",
			""},
		{"{together: red, shows: off, while: roll, is: pressed, within: 20ms}",
			"red on@2010 off@100 on@5900 off@90 on@1900", "1", ""},
		{"{together: red, shows: on, while: roll, is: released, within: 20ms}",
			"red on@2010 off@100 on@5900 off@90 on@1900", "1", ""},
		{"{together: count, region: {columns: 1}, shows: 7, while: roll, within: 20ms}",
			"count ____@2010 7123@100 ____@5900 7456@90 ____@1900", "1", ""},
		{"{shows: gauge, frames: [{one-of: [1, 2]}, 3]}", "gauge 2@5000 3@5000", "1", ""},
		{"{shows: gauge, frames: [{one-of: [1, 2]}, 3]}", "gauge 4@5000 3@5000", "1/2", "4"},
		{"{shows: gauge, frames: [{one-of: [1, 2], for: 1s}, {text: 3, for: any}]}", "gauge 2@1000 3@9000", "1", ""},
		{`{reads: count, pattern: "1[0-9]", at: end}`, "count 17@10000", "1", ""},
		{`{reads: count, pattern: "1[0-9]", at: end}`, "count 27@10000", "0", "27"},
		{`{reads: log, pattern: "level [0-9]+ cm", at: 5s}`, "log level_102_cm@10000", "1", ""},
		{"{safe: bench}", "red on@10000", "1", ""},
		{"{writes: eeprom, at-most: 7}", "red on@10000", "1", ""},
		{"{writes: eeprom, at-most: 6}", "red on@10000", "0", "7 bytes"},
		{"{writes: eeprom, at-least: 8, at-most: 20}", "red on@10000", "0", "7 bytes"},
		{"{fits: flash, at-most: 1000}", "red on@10000", "1", ""},
		{"{fits: flash, at-most: 999}", "red on@10000", "0", "1000 bytes"},
		{"{any-of: [{shows: gauge, frames: [1, 2]}, {shows: gauge, frames: [3, 4]}]}", "gauge 3@5000 4@5000", "1", ""},
		{"{any-of: [{shows: gauge, frames: [1, 2]}, {shows: gauge, frames: [3, 4]}]}", "gauge 3@5000 5@5000", "1/2",
			"5"},
	} {
		x := readBench(t, c.expect)
		v := x.Trials[0].Expect[0].Judge(reelOf(x, strings.Split(c.seen, "|")...))
		assert.Equal(t, c.share, v.Fraction.RatString(), "%s on %s: %v", c.expect, c.seen, v.Evidence)
		if c.first != "" && assert.NotNil(t, v.First, c.expect) {
			assert.Contains(t, v.First.Seen, c.first, c.expect)
		}
		assert.Equal(t, c.share == "1", v.Outcome == judge.Met, c.expect)
	}
}

// What never happened is not judged, and tells so.
func TestNotJudged(t *testing.T) {
	for expect, seen := range map[string]string{
		"{fits: ram, at-most: 100}":                                     "red on@10000",
		"{together: red, shows: on, while: gauge, is: 5}":               "gauge 1@10000|red on@10000",
		`{says: log, lines: [x], after: {cue: first}}`:                  "log x@10000",
		"{sounds: horn, after: {cue: first}}":                           "horn silent@10000",
		"{draws-from: gauge, set: [1, 2], each: roll}":                  "gauge 1@10000",
		"{any-of: [{fits: ram, at-most: 9}, {fits: ram, at-most: 10}]}": "red on@10000",
	} {
		x := readBench(t, expect)
		r := reelOf(x, strings.Split(seen, "|")...)
		r.Cues = nil
		v := x.Trials[0].Expect[0].Judge(r)
		assert.Equal(t, judge.NotJudged, v.Outcome, expect)
		assert.Equal(t, 0, v.Fraction.Sign(), expect)
	}
}

// An answer to a cue that never came, as in a run that ends before it, is missing at the end, not from the start.
func TestAnswersAfterTheEnd(t *testing.T) {
	x := readBench(t, "{answers: gauge, table: [{after: rises, shows: 4}, {after: falls, shows: 1}]}")
	r := reelOf(x, "gauge 1@10000")
	r.Cues = nil
	v := x.Trials[0].Expect[0].Judge(r)
	assert.Equal(t, judge.Missed, v.Outcome)
	assert.Equal(t, r.Length, v.First.At)
	assert.Equal(t, "the cue never came", v.First.Seen)
}

func TestSafeAndScan(t *testing.T) {
	x := readBench(t, "{safe: bench}, {steady: count, refresh: 100Hz}")
	r := reelOf(x, "count 1@10000")
	r.Notes = []machine.Note{{Code: "current-PB0", Text: "PB0 gave 60 mA"},
		{Code: "floating-PD7", Text: "read while nothing drove it"}}
	r.Tracks[0].Quality = &display.Quality{Refresh: 50, Evenness: 100, Ghost: 5}
	v := x.Trials[0].Expect[0].Judge(r)
	assert.Equal(t, judge.Missed, v.Outcome)
	assert.Equal(t, []string{"PB0 gave 60 mA"}, v.Evidence)
	v = x.Trials[0].Expect[1].Judge(r)
	assert.Equal(t, judge.Missed, v.Outcome)
	assert.Contains(t, v.First.Seen, "50.0 Hz")
}

// Ghosts cost what a clean display is worth, where they are strong enough to be seen.
func TestClean(t *testing.T) {
	for _, c := range []struct {
		expect, seen, share string
		ghost               int
	}{
		{"{shows: count, frames: [1, 2]}", "count 1@5000 2@5000", "1", 80},
		{"{shows: count, frames: [1, 2], clean: 20%}", "count 1@5000 2@5000", "4/5", 11},
		{"{shows: count, frames: [1, 2], clean: 20%}", "count 1@5000 2@5000", "1", 10},
		{"{shows: count, frames: [1, 2], clean: 20%}", "count 1@5000 3@5000", "2/5", 40},
		{"{counts: count, from: 1, to: 2, clean: 100%}", "count 1@5000 2@5000", "0", 40},
	} {
		x := readBench(t, c.expect)
		r := reelOf(x, c.seen)
		r.Tracks[slices.IndexFunc(r.Tracks,
			func(t display.Track) bool { return t.Display == "count" })].Quality = &display.Quality{Refresh: 80,
			Evenness: 100, Ghost: c.ghost}
		v := x.Trials[0].Expect[0].Judge(r)
		assert.Equal(t, c.share, v.Fraction.RatString(), c.expect)
		if ghosts := fmt.Sprintf("ghosts of %d %%", c.ghost); c.share == "4/5" {
			assert.Contains(t, v.First.Seen, ghosts)
			assert.Contains(t, v.Evidence[1], ghosts)
		}
	}
}

// What no run could meet, or cannot be read, is refused where it stands.
func TestBadExpectations(t *testing.T) {
	for expect, want := range map[string]string{
		"{steady: gauge, from: 10s}":                                        "is not before the end of the trial",
		"{steady: gauge, from: 5s, to: 4s}":                                 "the window ends at 4 s",
		"{steady: roll}":                                                    "shows nothing; name a display",
		"{blinks: red, period: 20ms}":                                       "looks steady",
		"{blinks: red, period: 3s, times: 5}":                               "take longer than",
		"{glows: log, level: 50%}":                                          "no lights of its own",
		"{never: gauge, frame: W}":                                          "not what a seven-segment digit can show",
		"{says: red, lines: [x]}":                                           "takes no lines of text",
		`{says: log, lines: ["/[/"]}`:                                       "no regular expression",
		`{says: log, lines: []}`:                                            "no lines are given",
		"{says: log, lines: [x], after: {cue: frist}}":                      `did you mean "first"?`,
		"{sounds: red}":                                                     "makes no sound",
		"{counts: count, from: 1, to: 4, by: 2}":                            "steps of 2 from 1 do not come to 4",
		"{counts: count, from: 1, to: 1}":                                   "at least two numbers",
		"{counts: count, from: 0, to: 99999}":                               "at most 10000",
		"{counts: gauge, from: 8, to: 12}":                                  "the display has 1 digit",
		"{scrolls: red, text: hello}":                                       "nothing can scroll",
		`{scrolls: count, text: "Ab", enters: filled}`:                      "fits on the display",
		"{draws-from: gauge, set: [1, 2], each: rol}":                       "no part of the bench",
		"{draws-from: gauge, set: [1, 2], each: roll, different: 3}":        "cannot give 3",
		"{answers: gauge, table: [{after: nothing, shows: 1}]}":             "no cue of this trial",
		"{together: red, shows: on, while: roll, is: 1}":                    "is no state of a button: write pressed or released",
		"{together: red, shows: on, while: roll, above: 1}":                 "which has no value",
		"{together: red, shows: on, while: gauge}":                          "`is` says what \"gauge\" shows",
		"{together: red, shows: on, while: level, is: high}":                "can never be at that",
		"{together: red, shows: on, while: level, is: 2V}":                  "level is never 2V in this trial",
		"{together: red, shows: on, while: level, is: {rows: [x]}}":         "is no display: write one value",
		"{together: red, shows: on, while: level, above: 3V, slack: 200ms}": "\"slack\" is called \"within\" now",
		"{together: red, shows: on, while: level}":                          "one of is, above or below",
		"{together: red, shows: on, while: level, above: high}":             "is not a number",
		"{shows: gauge, frames: [{one-of: [1]}, 2]}":                        "two frames or more",
		"{shows: gauge, frames: [{one-of: [{text: 1, for: 1s}, 2]}, 2]}":    "beside `one-of`",
		"{reads: red, pattern: on, at: end}":                                "shows no text",
		"{reads: log, pattern: '[', at: end}":                               "no regular expression",
		"{reads: log, pattern: x, row: 2, at: end}":                         "has no row 2",
		"{safe: gauge}":                           "write safe: bench",
		"{fits: disk, at-most: 1}":                "neither flash nor ram",
		"{any-of: [{shows: gauge, frames: [1]}]}": "two expectations or more",
		"{any-of: [{shows: gauge, frames: [1], marks: 2}, {steady: gauge}]}": `"marks"`,
	} {
		_, problems := exercise.Read("x", []byte(fmt.Sprintf(bench, expect)))
		if assert.NotEmpty(t, problems, expect) {
			assert.Contains(t, problems[0].Error(), want, expect)
		}
	}
}
