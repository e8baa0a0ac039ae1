package judge_test

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/exercise"
	"hemble/core/judge"
)

const groupBench = `hemble: 1
name: x
title: x
chip: {is: atmega328p}
bench:
  tens: {part: seven-segment, common: cathode, pins: {a: PD0, b: PD1, c: PD2, d: PD3, e: PD4, f: PD5, g: PD6, common: GND}}
  ones: {part: seven-segment, common: cathode, pins: {a: PB0, b: PB1, c: PB2, d: PB3, e: PB4, f: PB5, g: PD7, common: GND}}
  green: {part: lamp, colour: green, pins: {anode: PC0, cathode: GND}}
  amber: {part: lamp, colour: amber, pins: {anode: PC1, cathode: GND}}
  red: {part: lamp, pins: {anode: PC2, cathode: GND}}
  roll: {part: button, pins: {1: PC3, 2: GND}}
  board: {part: lcd-two-wire, size: 16x2, pins: {sda: PC4, scl: PC5}}
groups:
  count: [tens, ones]
  phase: [green, amber, red]
  all: [ones, red]
trials: [{name: x, length: 10s, cues: [{at: 2s, press: roll, as: first}], expect: [%s]}]
`

// Displays that are read as one: digits as a number, lamps as a phase.
func TestGroups(t *testing.T) {
	for _, c := range []struct{ expect, seen, share, first string }{
		{"{counts: count, from: 8, to: 11, each: 1s, limit: stays}",
			"tens _@2000 1@8000|ones 8@1000 9@1000 0@1000 1@7000", "1", ""},
		{"{counts: count, from: 8, to: 11, each: 1s, limit: stays}",
			"tens _@2010 1@7990|ones 8@1000 9@1000 0@1000 1@7000", "1", ""}, // one after the other
		{"{counts: count, from: 8, to: 11, each: 1s, limit: stays}",
			"tens _@2500 1@7500|ones 8@1000 9@1000 0@1000 1@7000", "5/8", `" 0"`},
		{"{counts: count, from: 8, to: 11, as: padded, limit: stays}",
			"tens 0@2000 1@8000|ones 8@1000 9@1000 0@1000 1@7000", "1", ""},
		{"{reads: count, text: 11, at: end}", "tens _@2000 1@8000|ones 8@2000 1@8000", "1", ""},
		{"{never: count, frame: 18}", "tens _@2000 1@8000|ones 8@2010 1@7990", "1", ""}, // a mixture of 10 ms
		{"{shows: phase, frames: [green, green + amber, {green: off, amber: off, red: on, for: any}], each: 2s}",
			"green on@4000 off@6000|amber off@2000 on@2000 off@6000|red off@4000 on@6000", "1", ""},
		{"{shows: phase, frames: [{text: green, for: 4s}, {text: green + amber, for: 2s}, {text: off, for: any}]}",
			"green on@6000 off@4000|amber off@4000 on@2000 off@4000|red off@10000", "1", ""},
		{"{shows: phase, frames: [green, green amber, red], each: 2s, repeats: yes}",
			"green on@4000 off@6000|amber off@2000 on@2000 off@6000|red off@4000 on@6000", "27/50", "red for 6 s"},
		{"{shows: phase, frames: [{green: on, amber: any, red: off}, red]}",
			// one frame, whatever amber does
			"green on@4000 off@6000|amber off@1000 on@2000 off@7000|red off@4000 on@6000", "1", ""},
		{"{shows: phase, frames: [{green: on, amber: any, red: off, for: 4s}, {green: off, amber: off, red: on, for: any}], start: power}",
			"green on@4000 off@6000|amber off@1000 on@2000 off@7000|red off@4000 on@6000", "1", ""},
		{"{always: phase, frame: off}", "green off@10000|amber off@10000|red off@10000", "1", ""},
		{"{always: phase, frame: off}", "green off@10000|amber off@5000 on@5000|red off@10000", "0", "amber for 5 s"},
		{"{reads: phase, text: {one-of: [{green: on, amber: off, red: off}, amber]}, at: 1s}",
			"green off@10000|amber on@10000|red off@10000", "1", ""},
		{"{together: red, shows: on, while: count, is: 10}",
			"tens _@5000 1@5000|ones 9@5000 0@5000|red off@5050 on@4950", "1", ""},
		{"{together: phase, shows: red, while: roll, within: 20ms}",
			"green on@2000 off@100 on@5900 off@100 on@1900|amber off@10000|red off@2005 on@100 off@5900 on@95 off@1900",
			"1", ""},
		{"{shows: all, frames: [{ones: 3, red: off}, {ones: 4, red: on}]}", "ones 3@5000 4@5000|red off@5000 on@5000",
			"1", ""},
		{"{shows: all, frames: [{ones: 3, red: off}, {ones: 4, red: on}]}", "ones 3@5000 4@5000|red off@10000", "1/2",
			"ones 4"},
		{"{blinks: phase, period: 1s, times: 4}",
			"green" + strings.Repeat(" on@500 off@500", 10) + "|amber off@10000|red off@10000", "1", ""},
	} {
		x, problems := exercise.Read("x", []byte(fmt.Sprintf(groupBench, c.expect)))
		require.Empty(t, problems, c.expect)
		r := reelOf(x, strings.Split(c.seen, "|")...)
		for _, g := range x.Groups {
			if made, ok := r.Gather(g.Group); ok {
				r.Tracks = append(r.Tracks, made)
			}
		}
		v := x.Trials[0].Expect[0].Judge(r)
		assert.Equal(t, c.share, v.Fraction.RatString(), "%s on %s: %v %v", c.expect, c.seen, v.Evidence, v.First)
		if c.first != "" && assert.NotNil(t, v.First, c.expect) {
			assert.Contains(t, v.First.Seen, c.first, c.expect)
		}
		assert.Equal(t, c.share == "1", v.Outcome == judge.Met, c.expect)
		for _, p := range v.Alignment {
			if p.Expected != nil && p.Expected.State != nil && p.Seen != nil {
				assert.Len(t, p.Expected.State.Lights, len(p.Seen.State.Lights), "all lights of the group, %s",
					c.expect)
			}
		}
	}
}

// What a group's frames cannot say is refused where it stands.
func TestBadGroups(t *testing.T) {
	for expect, want := range map[string]string{
		"{shows: phase, frames: [blue]}":                                             `"phase" has no lamp "blue"`,
		"{shows: phase, frames: [{green: on, red: off}]}":                            "does not say what amber shows",
		"{shows: phase, frames: [{green: any, amber: any, red: any}]}":               "says nothing",
		"{shows: phase, frames: [{green: on, amber: on, red: on, blue: on}]}":        `unknown key "blue"`,
		"{shows: phase, frames: [{green: dim, amber: on, red: on}]}":                 "not what a lamp can show",
		"{shows: phase, frames: [{green: {text: on, for: 1s}, amber: on, red: on}]}": "beside the members",
		"{shows: phase, frames: [green, {green: on, amber: off, red: off}]}":         "looks the same as the one before it",
		"{shows: phase, frames: [{text: green, red: on}]}":                           "not both",
		"{shows: phase, frames: [{text: blue, for: 1s}]}":                            `no lamp "blue"`,
		"{shows: all, frames: [{text: red}]}":                                        "ones of \"all\" is no lamp",
		"{shows: all, frames: [red]}":                                                "ones of \"all\" is no lamp",
		"{shows: count, frames: [100]}":                                              "the display has 2 digits",
		"{sounds: phase, pitch: 1kHz, for: 1s}":                                      "makes no sound",
	} {
		_, problems := exercise.Read("x", []byte(fmt.Sprintf(groupBench, expect)))
		if assert.NotEmpty(t, problems, expect) {
			assert.Contains(t, problems[0].Error(), want, expect)
		}
	}
	for groups, want := range map[string]string{
		"count: [tens]":        "two displays or more",
		"count: tens":          "two displays or more",
		"roll: [tens, ones]":   "is called \"roll\"",
		"count: [tens, tens]":  "twice",
		"count: [tens, oness]": `did you mean "ones"?`,
		"count: [tens, board]": "a group joins lamps, digits and bars",
		"count: [tens, roll]":  "a group joins lamps, digits and bars",
		"Count: [tens, ones]":  "cannot name a group",
		"[count]":              "a mapping from names",
	} {
		text := strings.Replace(fmt.Sprintf(groupBench, "{steady: red}"), "count: [tens, ones]", groups, 1)
		if groups[0] == '[' {
			text = strings.Replace(fmt.Sprintf(groupBench, "{steady: red}"),
				"groups:\n  count: [tens, ones]\n  phase: [green, amber, red]\n  all: [ones, red]", "groups: "+groups,
				1)
		}
		_, problems := exercise.Read("x", []byte(text))
		if assert.NotEmpty(t, problems, groups) {
			assert.Contains(t, problems[0].Error(), want, groups)
		}
	}
}
