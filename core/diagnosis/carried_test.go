package diagnosis

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"hemble/core/clock"
	"hemble/core/finding"
)

// A clock of which a number is not carried into the next one, or goes on beyond its round.
func TestCarried(t *testing.T) {
	at := func(s clock.Time, row2 string) shown { return shown{s * clock.Second, [2]string{"Lock", row2}} }
	const tick = `[{shows: sign, frames: [{rows: [Lock, "Time 09:59:58"]}, {rows: [Lock, "Time 09:59:59"]}, {rows: [Lock, "Time 10:00:00"]}, {rows: [Lock, "Time 10:00:01"]}], each: 1s, marks: 10}]`
	const night = `[{reads: sign, row: 2, text: "Time 23:58", at: 1s, marks: 2}, {reads: sign, row: 2, text: "Time 00:58", at: 5s, marks: 8}]`
	for _, c := range []struct {
		name, expect string
		states       []shown
		want         []finding.Code
		text         string
	}{
		{"nothing carried", tick, []shown{at(0, "Time 09:59:58"), at(1, "Time 09:59:59"), at(2, "Time 09:00:00"),
			at(3, "Time 09:00:01")}, []finding.Code{"carry"},
			`Nothing is carried on sign: after "Lock" / "Time 09:59:59" it shows "Lock" / "Time 09:00:00", where "Lock / Time 10:00:00" is expected.`},
		{"one hour too many", tick, []shown{at(0, "Time 09:59:58"), at(1, "Time 09:59:59"), at(2, "Time 11:00:00"),
			at(3, "Time 11:00:01")}, nil, ""},
		{"sixty seconds", tick, []shown{at(0, "Time 09:59:58"), at(1, "Time 09:59:59"), at(2, "Time 09:59:60"),
			at(3, "Time 10:00:00"), at(4, "Time 10:00:01")}, []finding.Code{"limit-round"},
			`sign goes on from "Lock" / "Time 09:59:59" to "Lock" / "Time 09:59:60": 60 stands where that number should begin again with 0.`},
		{"24 hours", night, []shown{at(0, "Time 23:58"), at(4, "Time 24:58")}, []finding.Code{"limit-round"},
			`sign goes on from "Lock" / "Time 23:58" to "Lock" / "Time 24:58": 24 stands where that number should begin again with 0.`},
		{"nothing before it", tick, []shown{at(2, "Time 09:00:00"), at(3, "Time 09:00:01")}, nil, ""},
		{"the minutes instead", night, []shown{at(0, "Time 23:58"), at(4, "Time 23:59")}, nil, ""},
	} {
		codes, texts := toldOf(t, carried, c.expect, c.states...)
		assert.Equal(t, c.want, codes, c.name)
		if c.text != "" && len(texts) == 1 {
			assert.Equal(t, c.text, texts[0], c.name)
		}
	}
}

// A number above 9 that is not carried to its next place, or from it, when it should be.
func TestTensForgotten(t *testing.T) {
	at := func(s clock.Time, number string) shown { return shown{s * clock.Second, [2]string{"Lock", number}} }
	const (
		down = `[{shows: sign, frames: [{rows: [Lock, "11"]}, {rows: [Lock, "10"]}, {rows: [Lock, " 9"]}], marks: 10}]`
		up   = `[{shows: sign, frames: [{rows: [Lock, "18"]}, {rows: [Lock, "19"]}, {rows: [Lock, "20"]}], marks: 10}]`
	)
	for _, c := range []struct {
		name, expect string
		states       []shown
		want         string
	}{
		{"down", down, []shown{at(0, "11"), at(1, "10"), at(2, "19")},
			"After 10 the number on sign is 19, where 9 is expected: nothing is taken from the next place."},
		{"up", up, []shown{at(0, "18"), at(1, "19"), at(2, "10")},
			"After 19 the number on sign is 10, where 20 is expected: nothing is carried to the next place."},
		{"another number", up, []shown{at(0, "18"), at(1, "19"), at(2, "11")}, ""},
		{"all of it", up, []shown{at(0, "18"), at(1, "19"), at(2, " 0")}, ""},
		{"wrong before", up, []shown{at(0, "17"), at(1, "19"), at(2, "10")}, ""},
	} {
		codes, texts := toldOf(t, sequences, c.expect, c.states...)
		if c.want != "" {
			assert.Contains(t, texts, c.want, c.name)
		} else {
			assert.NotContains(t, codes, finding.Code("carry"), c.name)
		}
	}
}
