package exercise_test

import (
	"encoding/json"
	"fmt"
	"os"
	"path/filepath"
	"reflect"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	_ "hemble/core/catalogue"
	"hemble/core/exercise"
	"hemble/core/judge"
	"hemble/core/machine"
	"hemble/core/part"
)

const good = `hemble: 1
name: gauge
title: A gauge
chip: {is: atmega328p, clock: 16MHz, supply: 5V}
bench:
  gauge: {part: seven-segment, common: anode, resistor: 270, pins: {a: PC0, b: PC1, c: PC2, d: PC3, e: PC4, f: PC5, g: PB2, common: VCC}}
  raise: {part: button, bounce: 4ms, pins: {1: PD7, 2: GND}}
trials:
  - name: one
    length: 5s
    cues:
      - {at: 900ms, press: raise, for: 120ms, as: first}
    expect:
      - {shows: gauge, frames: ["-", 2, 4], each: 700ms, marks: 6}
      - {reads: gauge, text: 2, after: {cue: first}, within: 250ms}
`

func TestGood(t *testing.T) {
	x, problems := exercise.Read("gauge.yaml", []byte(good))
	require.Empty(t, problems)
	assert.Equal(t, "7", x.Marks().RatString())
	assert.Equal(t, "GND", x.Part("raise").Wired[1])
	assert.Len(t, x.Trials[0].Expect, 2)
}

// Every mistake is told with its place, what was found and what was meant.
func TestProblems(t *testing.T) {
	for _, c := range []struct{ old, new, want string }{
		{"title:", "titel:", `gauge.yaml:3:1: unknown key "titel"; did you mean "title"?`},
		{"title: A gauge\n", "", `gauge.yaml:1:1: title is missing`},
		{"hemble: 1", "hemble: 2", `gauge.yaml:1:9: hemble: got "2"`},
		{"name: gauge", "name: My Gauge",
			`gauge.yaml:2:7: name: expected a name (lower-case letters, digits and hyphens, starting with a letter), got "My Gauge"`},
		{"atmega328p", "atmega328", `gauge.yaml:4:12: is: got "atmega328"; did you mean "atmega328p"?`},
		{"16MHz", "16", `gauge.yaml:4:31: "16" is not a frequency`},
		{"16MHz", "40MHz", `gauge.yaml:4:31: 40 MHz is no clock for this chip`},
		{"5V}", "9V}", `gauge.yaml:4:46: 9V is no supply`},
		{"seven-segment", "seven-segments",
			`gauge.yaml:6:17: no kind of part is called "seven-segments"; did you mean "seven-segment"?`},
		{"common: anode", "comon: anode", `gauge.yaml:6:32: unknown key "comon"; did you mean "common"?`},
		{"common: anode", "common: annode", `gauge.yaml:6:40: common: got "annode"; did you mean "anode"?`},
		{"resistor: 270", "resistor: much",
			`gauge.yaml:6:57: expected a resistance; write ohms, such as 270 or 4.7k, got "much"`},
		{"a: PC0", "a: PC9", `the ATmega328P has no pin "PC9"; did you mean`},
		{"a: PC0", "a: D13",
			`the ATmega328P has no pin "D13"; a board has D13 at PB5: write that, or chip: {is: atmega328p, board: numbered-20}`},
		{"is: atmega328p", "is: atmega328p, board: numbered-2", `did you mean "numbered-20"?`},
		{"a: PC0", "q: PC0", `a seven-segment has no pin "q"`},
		{"a: PC0, ", "", `pin "a" of "gauge" is not wired: segment a`},
		{"a: PC0", "a: PC6", `PC6 is the reset pin`},
		{"common: VCC", "common: GND", `the common anode is wired to GND: no segment can ever light`},
		{"  raise: {part", "  gauge: {part", `gauge.yaml:7:3: two parts are called "gauge"`},
		{"length: 5s", "length: 5", `gauge.yaml:10:13: "5" is not a time`},
		{"length: 5s", "length: 1h", `"1h" is not a time`},
		{"length: 5s", "length: 11min", `a trial runs for up to`},
		{"press: raise", "press: rise", `gauge.yaml:12:28: no part of the bench is called "rise"`},
		{"press: raise", "press: gauge", `"gauge" is a seven-segment, which takes no cues`},
		{"at: 900ms", "at: 9s", `the cue comes at 9 s, after the end of the trial (5 s)`},
		{"{shows: gauge", "{show: gauge", `no kind of expectation is called "show"; did you mean "shows"?`},
		{"{shows: gauge", "{shows: raise", `"raise" is a button and shows nothing`},
		{"{shows: gauge", "{shows: gage", `no part of the bench is called "gage"`},
		{`["-", 2, 4]`, `["-", 12, 4]`, `"12" has 2 symbols; the display has 1 digit`},
		{`["-", 2, 4]`, `["-", W, 4]`, `"W" is not what a seven-segment digit can show`},
		{"resistor: 270", "digits: 2", `several digits have pins digit1 to digit2, not one common pin`},
		{"common: VCC", "digit1: VCC", `pin "common" of a single digit is not wired`},
		{`["-", 2, 4]`, `["-", 2, 2]`, `frame 3 looks the same as the one before it`},
		{`["-", 2, 4]`, `"-"`, `frames: expected a list, such as [-]`},
		{`["-", 2, 4]`, `[]`, `no frames are given`},
		{`["-", 2, 4]`, `[{segments: [a, x]}]`, `segment: got "x"`},
		{`["-", 2, 4]`, `[{text: 1, rows: [a]}]`, `a frame has one of text, segments, bitmap, rows and one-of`},
		{"each: 700ms", "each: 4s", `the frames take 8 s up to the last one, and the trial lasts 5 s`},
		{"each: 700ms", "each: 0", `a frame lasts longer than nothing`},
		{"marks: 6", "marks: -6", `marks cannot be negative`},
		{"cue: first", "cue: fist", `no cue of this trial is called "fist"; did you mean "first"?`},
		{"after: {cue: first}", "at: 9s", `9 s is after the end of the trial`},
		{"after: {cue: first}, ", "", `reads takes one of at or after`},
		{"text: 2, ", "", `reads takes one of text, rows and pattern`},
		{"trials:", "trials: [", `gauge.yaml:10:11: not YAML`},
		{good, "", `the file is empty`},
		{good, "- 1\n- 2", `gauge.yaml:1:1: expected a mapping with hemble`},
		{"name: gauge", "name: gauge\nname: other", `"name" appears twice`},
	} {
		text := strings.Replace(good, c.old, c.new, 1)
		x, problems := exercise.Read("gauge.yaml", []byte(text))
		assert.Nil(t, x, "%s", c.new)
		message := ""
		if err := exercise.Error(problems); assert.Error(t, err, "%s → %s", c.old, c.new) {
			message = err.Error()
		}
		if strings.Contains(c.want, "not YAML") { // the parser chooses the line
			c.want = "not YAML"
		}
		assert.Contains(t, message, c.want, "%s → %s", c.old, c.new)
	}
}

// bench has all that the examples of expectations name.
const bench = `hemble: 1
name: gauge
title: A gauge
chip: {is: atmega328p, clock: 16MHz, supply: 5V}
bench:
  gauge: {part: seven-segment, common: anode, pins: {a: PC0, b: PC1, c: PC2, d: PC3, e: PC4, f: PC5, g: PB2, common: VCC}}
  die: {part: seven-segment, common: cathode, pins: {a: PC0, b: PC1, c: PC2, d: PC3, e: PC4, f: PC5, g: PB2, common: GND}}
  count: {part: seven-segment, digits: 4, common: cathode, select: transistor, pins: {a: PD0, b: PD1, c: PD2, d: PD3, e: PD4, f: PD5, g: PD6, digit1: PB0, digit2: PB1, digit3: PB2, digit4: PB3}}
  word: {part: seven-segment, digits: 4, common: cathode, select: transistor, pins: {a: PD0, b: PD1, c: PD2, d: PD3, e: PD4, f: PD5, g: PD6, digit1: PB0, digit2: PB1, digit3: PB2, digit4: PB3}}
  red: {part: lamp, pins: {anode: PB0, cathode: GND}}
  green: {part: lamp, pins: {anode: PB1, cathode: GND}}
  alarm: {part: lamp, pins: {anode: PB3, cathode: GND}}
  horn: {part: buzzer, pins: {plus: PB4, minus: GND}}
  log: {part: terminal, pins: {rx: PD1, tx: PD0}}
  level: {part: voltage, volts: 1V, pins: {out: PC0}}
  roll: {part: button, pins: {1: PD7, 2: GND}}
trials:
  - name: one
    length: 10s
    cues:
      - {at: 900ms, press: roll, as: first}
      - {at: 2s, set: level, to: 1V, as: low}
      - {at: 3s, set: level, to: 4V, as: high}
      - {at: 4s, set: level, to: 5V, as: flood}
    expect: [%s]
`

// The examples that parts and expectations declare are valid, and so is the demo course.
func TestExamples(t *testing.T) {
	for _, chip := range machine.Chips() {
		for _, k := range part.Kinds() {
			text := "hemble: 1\nname: x\ntitle: x\nchip: {is: " + chip.Name +
				"}\nbench:\n  lamp-for-it: {part: lamp, pins: {anode: net-of-it, cathode: GND}}\n  driven: {part: square-wave, pins: {out: net-of-it}}\n  " +
				strings.ReplaceAll(exercise.Example(k, chip), "\n",
					"\n  ") + "\ntrials: [{name: x, length: 1s, expect: [{reads: lamp-for-it, text: on, at: end}]}]\n"
			_, problems := exercise.Read(k.Name, []byte(text))
			assert.Empty(t, problems, "%s on the %s", k.Name, chip.Title)
		}
	}
	for _, k := range judge.Kinds() {
		text := fmt.Sprintf(bench, k.Example)
		_, problems := exercise.Read(k.Name, []byte(text))
		assert.Empty(t, problems, k.Name)
	}
	_, problems := exercise.Read(exercise.AnyOf,
		[]byte(strings.Replace(bench, "[%s]", "\n      - "+strings.ReplaceAll(exercise.AnyOfExample, "\n",
			"\n        "), 1)))
	assert.Empty(t, problems)
	course, err := filepath.Glob("../../demo/course/*/exercise.yaml")
	require.NoError(t, err)
	require.Len(t, course, 29)
	for _, path := range course {
		text, err := os.ReadFile(path)
		require.NoError(t, err)
		_, problems := exercise.Read(path, text)
		assert.Empty(t, problems)
	}
}

// The committed reference is what the declarations say.
func TestReferenceIsCurrent(t *testing.T) {
	committed, err := os.ReadFile("../../docs/exercise-reference.md")
	require.NoError(t, err)
	assert.Equal(t, exercise.Reference(), string(committed), "run `make docs`")
	schema, err := json.Marshal(exercise.Schema())
	require.NoError(t, err)
	kept, err := os.ReadFile("../../docs/exercise.schema.json")
	require.NoError(t, err)
	var is, was any
	require.NoError(t, json.Unmarshal(schema, &is))
	require.NoError(t, json.Unmarshal(kept, &was))
	assert.True(t, reflect.DeepEqual(is, was), "docs/exercise.schema.json is not current: run `make docs`")
	for _, word := range []string{"seven-segment", "shows", "tolerance", "supply"} {
		assert.Contains(t, string(schema), `"`+word+`"`)
	}
}

func FuzzRead(f *testing.F) {
	f.Add([]byte(good))
	f.Add([]byte("hemble: &a [*a]"))
	f.Fuzz(func(t *testing.T, text []byte) {
		x, problems := exercise.Read("x", text)
		if x == nil && exercise.Error(problems) == nil {
			t.Fatal("refused without a reason")
		}
	})
}

// A board's names of the pins are beside the chip's own.
func TestBoards(t *testing.T) {
	text := strings.Replace(strings.Replace(good, "is: atmega328p", "is: atmega328p, board: numbered-20", 1), "a: PC0",
		"a: D13", 1)
	x, problems := exercise.Read("x", []byte(strings.Replace(text, "b: PC1", "b: A1", 1)))
	require.NotNil(t, x, "%v", problems)
	gauge := x.Part("gauge")
	assert.Equal(t, []string{"PB5", "PC1"},
		[]string{gauge.Wired[gauge.Kind.Terminal("a")], gauge.Wired[gauge.Kind.Terminal("b")]})
	for name, want := range map[string]string{"D0": "PD0", "D7": "PD7", "D8": "PB0", "D14": "PC0", "A5": "PC5",
		"PB3": "PB3", "VCC": "VCC"} {
		assert.Equal(t, want, x.Board.Pin(name))
	}
}

// Errors name the word that was meant, are at the value, and bring no others behind them that follow from it.
func TestErrorsNameWhatWasMeant(t *testing.T) {
	_, problems := exercise.Read("x", []byte(`hemble: 1
name: x
title: x
chip: {is: atmega328p}
bench:
  gauge: {part: 7-segment, common: anode, pins: {a: PC0}}
  red: {part: LED, pins: {anode: PB0, cathode: GND}}
  green: {part: lamp, pins: {anode: PB1, cathode: GND}}
  key: {part: button, pins: {1: PD7, 2: GND}}
trials:
  - name: x
    length: 5s
    cues: [{at: 1s, press: kye, as: p1}]
    expect:
      - {reads: gauge, text: 2, after: p1}
      - {shows: gren, frames: [on, off]}
      - {together: red, shows: on, while: gauge, is: 5}
`))
	var got []string
	for _, p := range problems {
		got = append(got, p.Error())
	}
	assert.Equal(t, []string{
		`x:6:17: no kind of part is called "7-segment"; did you mean "seven-segment"?`,
		`x:7:15: no kind of part is called "LED"; did you mean "lamp"?`,
		`x:13:28: no part of the bench is called "kye"; did you mean "key"?`,
		`x:15:40: expected a mapping with cue, from, got "p1": write {cue: p1}`,
		`x:16:17: no part of the bench is called "gren"; did you mean "green"?`,
	}, got)
}
