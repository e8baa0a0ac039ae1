package judge_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/clock"
	"hemble/core/exercise"
	"hemble/core/judge"
	"hemble/core/reel"
)

// The example of every kind of expectation, as the reference has it, is met by a run that does what it says.
func TestExamples(t *testing.T) {
	right := map[string]string{
		"always":     "green off@10000",
		"answers":    "gauge _@2100 2@3900 8@4000",
		"blinks":     "red off@2000" + strings.Repeat(" on@500 off@500", 8),
		"counts":     "count 8@1000 9@1000 10@1000 11@1000 12@6000",
		"draws-from": "die _@2100 3@1000 1@2000 6@1000 2@3900",
		"fits":       "red on@10000",
		"glows":      "red" + strings.Repeat(" on@500 off@500", 10),
		"never":      "gauge 1@10000",
		"reads":      "gauge _@2100 2@7900",
		"safe":       "red on@10000",
		"says":       "log gate_open@2000 level_7_cm@8000",
		"scrolls":    "word ____@300 H@300 HE@300 HEL@300 HELL@300 ELLO@300 LLO_@300 LO_b@300 O_bo@300 _boA@300 boAt@300 oAtS@300 AtS_@300 tS__@300 S___@300 ____@5500",
		"shows":      "gauge -@700 2@700 4@700 6@700 8@7200",
		"sounds":     "horn silent@6010 880Hz@500 silent@3490",
		"steady":     "count 12@10000",
		"together":   "alarm off@4100 on@2000 off@3900",
		"writes":     "red on@10000",
	}
	for _, k := range judge.Kinds() {
		t.Run(k.Name, func(t *testing.T) {
			seen, ok := right[k.Name]
			require.True(t, ok, "every kind has a run for its example")
			x, problems := exercise.Read("x", []byte(`hemble: 1
name: x
title: x
chip: {is: atmega328p}
bench:
  gauge: {part: seven-segment, common: anode, pins: {a: PC0, b: PC1, c: PC2, d: PC3, e: PC4, f: PC5, g: PB2, common: VCC}}
  die: {part: seven-segment, common: anode, pins: {a: PC0, b: PC1, c: PC2, d: PC3, e: PC4, f: PC5, g: PB2, common: VCC}}
  count: {part: seven-segment, digits: 4, common: cathode, pins: {a: PD0, b: PD1, c: PD2, d: PD3, e: PD4, f: PD5, g: PD6, digit1: PB0, digit2: PB1, digit3: PB2, digit4: PB3}}
  word: {part: seven-segment, digits: 4, common: cathode, pins: {a: PD0, b: PD1, c: PD2, d: PD3, e: PD4, f: PD5, g: PD6, digit1: PB0, digit2: PB1, digit3: PB2, digit4: PB3}}
  red: {part: lamp, pins: {anode: PB0, cathode: GND}}
  green: {part: lamp, pins: {anode: PB5, cathode: GND}}
  alarm: {part: lamp, pins: {anode: PB1, cathode: GND}}
  horn: {part: buzzer, pins: {plus: PB4, minus: GND}}
  log: {part: terminal, pins: {rx: PD1, tx: PD0}}
  level: {part: voltage, volts: 1V, pins: {out: PC0}}
  roll: {part: button, pins: {1: PD7, 2: GND}}
trials:
  - name: x
    length: 10s
    cues:
      - {at: 2s, press: roll, as: first}
      - {at: 3s, press: roll, as: low}
      - {at: 4s, set: level, to: 4V, as: rises}
      - {at: 5s, press: roll}
      - {at: 6s, set: level, to: 1V, as: flood}
      - {at: 6s, press: roll, as: high}
    expect: [`+k.Example+"]\n"))
			require.NotNil(t, x, "%v", problems)
			r := reelOf(x, seen)
			r.Cues = nil
			for _, c := range x.Trials[0].Cues {
				r.Cues = append(r.Cues, reel.Fired{Name: c.Name, Verb: c.Verb, Part: c.Part, To: c.To, Start: c.At,
					End: c.At + c.Moves()})
			}
			r.Counters.Writes = 7
			if k.Name == "answers" {
				r.Tracks[0].Frames[1].From, r.Tracks[0].Frames[0].To = 2150*clock.Millisecond, 2150*clock.Millisecond
			}
			v := x.Trials[0].Expect[0].Judge(r)
			assert.Equal(t, judge.Met, v.Outcome, "%s: %v %+v", k.Example, v.Evidence, v.First)
		})
	}
}
