package author_test

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/author"
	_ "hemble/core/catalogue"
	"hemble/core/exercise"
)

func TestCheck(t *testing.T) {
	for part, want := range map[string]string{
		"red: {part: lamp, resistor: 270, pins: {anode: PB0, cathode: GND}}": "",
		"red: {part: lamp, resistor: 0, pins: {anode: PB0, cathode: GND}}":   "x:6:40: warning: PB0 can carry 128 mA of red; the ATmega328P bears 40 mA at a pin: a resistor of 150 Ω keeps it to 20 mA",
		"red: {part: lamp, pins: {anode: GND, cathode: PB0}}":                "red can never light",
		"red: {part: lamp, pins: {anode: PB0, cathode: VCC}}":                "red can never light",
		"count: {part: seven-segment, digits: 2, common: cathode, resistor: 150, pins: {a: PD0, b: PD1, c: PD2, d: PD3, e: PD4, f: PD5, g: PD6, digit1: PB0, digit2: PB1}}":                     "a transistor for it would be right",
		"count: {part: seven-segment, digits: 2, common: cathode, select: transistor, resistor: 150, pins: {a: PD0, b: PD1, c: PD2, d: PD3, e: PD4, f: PD5, g: PD6, digit1: PB0, digit2: PB1}}": "",
		"red: {part: lamp, pins: {anode: PB0, cathode: GND}}\n  dial: {part: potentiometer, pins: {wiper: PC0}}":                                                                                "",
		"red: {part: lamp, pins: {anode: PB0, cathode: GND}}\n  dial: {part: potentiometer, pins: {wiper: VCC}}":                                                                                "dial gives its voltage to VCC, which is stronger",
		"red: {part: lamp, pins: {anode: PB0, cathode: GND}}\n  dial: {part: potentiometer, pins: {wiper: PC0}}\n  level: {part: voltage, volts: 1V, pins: {out: PC0}}":                         "dial and level both give a voltage to PC0",
		"red: {part: lamp, pins: {anode: PB0, cathode: GND}}\n  dial: {part: potentiometer, pins: {wiper: PC0}}\n  wave: {part: square-wave, frequency: 1Hz, pins: {out: PC0}}":                 "which wave decides, too",
		"key: {part: button, pins: {1: VCC, 2: GND}}\n  red: {part: lamp, pins: {anode: PB0, cathode: GND}}":                                                                                    "key joins VCC and GND",
	} {
		name := part[:3]
		if name != "red" {
			name = map[string]string{"cou": "count", "key": "red"}[name]
		}
		frame := map[string]string{"count": "12", "red": "on"}[name]
		x, problems := exercise.Read("x",
			[]byte(fmt.Sprintf("hemble: 1\nname: x\ntitle: x\nchip: {is: atmega328p}\nbench:\n  %s\ntrials: [{name: x, length: 1s, expect: [{reads: %s, text: %s, at: end}]}]\n",
				part, name, frame)))
		require.NotNil(t, x, "%v", problems)
		found := author.Check("x", x)
		if want == "" {
			assert.Empty(t, found, part)
		} else if assert.NotEmpty(t, found, part) {
			assert.Contains(t, found[0].Error(), want)
		}
	}
}

// Times that leave open which state is meant are told.
func TestCheckTiming(t *testing.T) {
	for expect, want := range map[string]string{
		"{shows: gauge, frames: [2, 4], each: 1s, tolerance: 50%}":               "x:10:1: warning: a tolerance of 50 % is met by a program that is twice as fast",
		"{shows: gauge, frames: [2, 4], each: 1s, tolerance: 30%, repeats: yes}": "",
		// no length is asked for
		"{shows: gauge, frames: [2, 4], tolerance: 90%}":                                                                                 "",
		"{reads: gauge, text: 2, after: {cue: first, from: start}, within: 900ms}":                                                       "second comes before that, at 1.500 s: it is ambiguous which of the two it answers",
		"{reads: gauge, text: 2, after: {cue: first, from: start}, within: 400ms}":                                                       "",
		"{answers: gauge, table: [{after: first, shows: 2}, {after: second, shows: 4}], within: 600ms}":                                  "second comes before that",
		"{answers: gauge, table: [{after: first, shows: 2}, {after: second, shows: 4}], within: 200ms}":                                  "",
		"{reads: gauge, text: 2, at: 3s}\n      - {reads: gauge, text: 4, at: 3400ms}":                                                   "gauge is looked at from 2.750 s to 3.250 s for 2, and from 3.150 s to 3.650 s for 4: the two overlap",
		"{reads: board, region: {columns: 4}, text: full, at: 3s}\n      - {reads: board, region: {column: 6}, text: low, at: 3s}":       "", // beside each other
		"{reads: board, row: 1, text: full, at: 3s}\n      - {reads: board, row: 2, text: low, at: 3s}":                                  "",
		"{reads: board, row: 1, text: full, at: 3s}\n      - {reads: board, region: {row: 1, rows: 2}, text: low, at: 3s}":               "the two overlap",
		"{reads: gauge, text: 2, at: 3s}\n      - {reads: gauge, text: 4, at: 3600ms}":                                                   "",
		"{reads: gauge, text: 2, at: 3s}\n      - {reads: gauge, text: 2, at: 3200ms}":                                                   "", // it is the same
		"{reads: gauge, text: 2, after: {cue: third, from: start}, within: 1s}":                                                          "", // its time is not in the file
		"{reads: gauge, text: 2, after: {cue: later, from: end}, within: 90ms}\n      - {reads: gauge, text: 3, at: 2700ms, within: 1s}": "the two overlap",
		"{shows: gauge, frames: [2, 4], each: 1s}":                                                                                       "the trial lasts about 2.8 s longer than the frames of gauge",
		"{shows: gauge, frames: [2, {text: 4, for: any}], each: 1s}":                                                                     "",
		"{shows: gauge, frames: [2, 4], each: 1s, extra: wrong}":                                                                         "",
		"{shows: gauge, frames: [2, 4], each: 2500ms}":                                                                                   "", // it fills the trial
		"{counts: gauge, from: 1, to: 3, each: 1s}":                                                                                      "`limit: wraps` where the count begins again",
		"{counts: gauge, from: 1, to: 3, each: 1s, limit: open}":                                                                         "",
		"{together: board, shows: {text: x, row: 1}, while: key, is: released}":                                                          "",
		"{reads: gauge, text: 2, at: 3s}\n    hidden: yes\n    seed: 2\n    at-most: 5":                                                  "",
	} {
		x, problems := exercise.Read("x", []byte(fmt.Sprintf(`hemble: 1
name: x
title: x
chip: {is: atmega328p}
bench: {gauge: {part: seven-segment, common: anode, pins: {a: PC0, b: PC1, c: PC2, d: PC3, e: PC4, f: PC5, g: PB2, common: VCC}}, board: {part: lcd, pins: {rs: PB0, rw: GND, e: PB1, d4: PD3, d5: PD4, d6: PD5, d7: PD6}}, key: {part: button, pins: {1: PD7, 2: GND}}}
trials:
  - name: x
    length: 5s
    expect:
      - %s
    cues:
      - {at: 1s, press: key, for: 100ms, as: first}
      - {at: 1500ms, press: key, for: 100ms, as: second}
      - {after: {cue: second, from: end, by: 1s}, press: key, for: 100ms, as: later}
      - {when: {display: gauge, shows: 8}, press: key, for: 100ms, as: third}
`, expect)))
		require.NotNil(t, x, "%v", problems)
		found := author.Check("x", x)
		if want == "" {
			assert.Empty(t, found, expect)
		} else if assert.NotEmpty(t, found, expect) {
			assert.Contains(t, found[0].Error(), want)
		}
	}
}

// A cue that follows another one so late that the trial is over never comes.
func TestCheckLateCue(t *testing.T) {
	x, problems := exercise.Read("x", []byte(`hemble: 1
name: x
title: x
chip: {is: atmega328p}
bench: {key: {part: button, pins: {1: PD7, 2: GND}}, red: {part: lamp, pins: {anode: PB0, cathode: GND}}}
trials:
  - name: x
    length: 5s
    cues:
      - {at: 1s, press: key, for: 100ms, as: first}
      - {after: {cue: first, from: end, by: 4s}, press: key, for: 100ms, as: late}
    expect:
      - {reads: red, text: on, at: end}
`))
	require.NotNil(t, x, "%v", problems)
	found := author.Check("x", x)
	require.Len(t, found, 1)
	assert.Equal(t, "x:11:1: warning: this cue would come at 5.100 s, when the trial is over (5 s): it never does",
		found[0].Error())
}

// Digits that are scanned, and ghosts that cost nothing.
func TestCheckClean(t *testing.T) {
	const bench = "count: {part: seven-segment, digits: 2, common: cathode, select: transistor, pins: {a: PD0, b: PD1, c: PD2, d: PD3, e: PD4, f: PD5, g: PD6, digit1: PB0, digit2: PB1}}\n  red: {part: lamp, pins: {anode: PC0, cathode: GND}}"
	for expect, want := range map[string]string{
		"{shows: count, frames: [12]}":                  "x:10:1: warning: ghosts on count cost no marks",
		"{shows: count, frames: [12], clean: 5%}":       "",
		"{shows: count, frames: [12]}, {steady: count}": "",
		"{shows: red, frames: [on]}":                    "",
		"{reads: count, text: 12, at: end}":             "",
	} {
		x, problems := exercise.Read("x",
			[]byte("hemble: 1\nname: x\ntitle: x\nchip: {is: atmega328p}\nbench:\n  "+bench+
				"\ntrials:\n  - {name: x, length: 1s, expect: [\n"+expect+"]}\n"))
		require.NotNil(t, x, "%v", problems)
		if found := author.Check("x", x); want == "" {
			assert.Empty(t, found, expect)
		} else if assert.Len(t, found, 1, expect) {
			assert.Contains(t, found[0].Error(), want)
		}
	}
}

// A deduction for what no finding is called is told.
func TestCheckDeductions(t *testing.T) {
	for finding, want := range map[string]string{
		"floating": "", "floating-PC0": "", "lcd-busy": "", "red lcd-busy": "", "time": "", "scan-slow": "",
		"asleep":    "",
		"floatng":   `x:3:24: warning: no finding is called "floatng", so that nothing is ever taken off for it; did you mean "floating"?`,
		"red ghost": "no finding is called",
	} {
		x, problems := exercise.Read("x",
			[]byte("hemble: 1\nname: x\ndeductions: [{finding: "+finding+
				", marks: 1}]\ntitle: x\nchip: {is: atmega328p}\nbench:\n  red: {part: lamp, pins: {anode: PB0, cathode: GND}}\ntrials: [{name: x, length: 1s, expect: [{reads: red, text: on, at: end, marks: 2}]}]\n"))
		require.NotNil(t, x, "%v", problems)
		if found := author.Check("x", x); want == "" {
			assert.Empty(t, found, finding)
		} else if assert.Len(t, found, 1, finding) {
			assert.Contains(t, found[0].Error(), want)
		}
	}
}
