package diagnosis

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/clock"
	"hemble/core/display"
	"hemble/core/exercise"
	"hemble/core/finding"
	"hemble/core/judge"
	"hemble/core/reel"
)

const log = `
hemble: 1
name: log
title: Log
chip: {is: atmega328p, clock: 16MHz, supply: 5V}
bench:
  log: {part: terminal, baud: 9600, pins: {rx: PD1, tx: PD0}}
  sensor: {part: voltage, volts: 1V, pins: {out: PC2}}
trials:
  - name: a day
    length: 9s
    expect:
      - {says: log, lines: %s, marks: 10}
`

// said are the codes of the signs of a log with other lines than those that were expected.
func said(t *testing.T, signs []symptom, want, seen []string) (codes []finding.Code) {
	x, problems := exercise.Read("exercise.yaml", fmt.Appendf(nil, log, fmt.Sprintf("[%s]", quoted(want))))
	require.NotNil(t, x, "%v", problems)
	p := x.Part("log")
	track := display.Track{Display: "log", Geometry: p.Kind.Geometry(*p)}
	for i, line := range seen {
		at := clock.Time(i+1) * clock.Second
		track.Frames = append(track.Frames,
			display.Frame{From: at, To: at + clock.Second, State: display.State{Line: line}})
	}
	r := &reel.Reel{Trial: "a day", Length: 9 * clock.Second, Tracks: []display.Track{track}}
	all := []Seen{{Reel: r, Verdicts: []judge.Verdict{x.Trials[0].Expect[0].Judge(r)}}}
	for _, f := range symptoms(signs, x, all) {
		codes = append(codes, f.Code)
	}
	return codes
}

func quoted(list []string) (out string) {
	for _, s := range list {
		out += fmt.Sprintf("%q, ", s)
	}
	return out
}

// Words and numbers that are wrong in the same way wherever they stand; what is wrong in several ways tells nothing.
func TestWritten(t *testing.T) {
	want := []string{"T=5.1", "T=12.0!", "T=21.4!", "T=9.9"}
	for _, c := range []struct {
		name string
		seen []string
		code finding.Code
	}{
		{"another word", []string{"T: 5.1", "T: 12.0!", "T: 21.4!", "T: 9.9"}, "word"},
		{"another word, once", []string{"T: 5.1", "T=12.0!", "T=21.4!", "T=9.9"}, ""},
		{"a word that is right elsewhere", []string{"T=5.1", "T=12.0", "T=21.4", "T=9.9"}, ""},
		{"two words", []string{"T: 5.1", "T: 12.0", "T: 21.4", "T: 9.9"}, ""},
		{"no point", []string{"T=51", "T=120!", "T=214!", "T=99"}, "point"},
		{"the point one place on", []string{"T=0.51", "T=1.20!", "T=2.14!", "T=0.99"}, "point"},
		{"Fahrenheit", []string{"T=41.2!", "T=53.6!", "T=70.5!", "T=49.8!"}, "scale"},
		{"twice as much", []string{"T=10.2!", "T=24.0!", "T=42.8!", "T=19.8!"}, "scale"},
		{"far too little", []string{"T=0.2", "T=0.4", "T=2.9", "T=0.1"}, "overflow"},
		{"a tenth", []string{"T=0.5", "T=1.2", "T=2.1", "T=0.9"}, "scale"},
		{"from behind", []string{"T=1.5", "T=0.21!", "T=4.12!", "T=9.9"}, "digits-order"},
		{"nothing", []string{"T=0.0", "T=0.0", "T=0.0", "T=0.0"}, ""},
		{"more numbers", []string{"T=5 1 1", "T=12 0 0!", "T=21 4 4!", "T=9 9 9"}, ""},
	} {
		codes := said(t, written, want, c.seen)
		if c.code == "" {
			assert.Empty(t, codes, c.name)
		} else {
			assert.Equal(t, []finding.Code{c.code}, codes, c.name)
		}
	}
	assert.Empty(t, said(t, written, want, want))

	assert.Equal(t, []finding.Code{"point"}, said(t, written, []string{"45.", "8"}, []string{"4.5", "8"}), "one is enough")
	assert.Empty(t, said(t, written, []string{"45.", "8"}, []string{"45", "8"}), "it may stand for something else")
	assert.Empty(t, said(t, written, []string{"45.", "8"}, []string{"4.5", "9"}), "something else is wrong")

	whole := []string{"45 %", "8 %", "24 %", "93 %"}
	assert.Equal(t, []finding.Code{"place-missing"}, said(t, written, whole, []string{"5 %", "8 %", "4 %", "3 %"}))
	assert.Equal(t, []finding.Code{"direction"}, said(t, written, whole, []string{"55 %", "92 %", "76 %", "6 %"}))
	assert.Equal(t, []finding.Code{"direction"},
		said(t, written, append(whole, "full"), []string{"55 %", "92 %", "76 %", "6 %", "full"}))
	assert.Empty(t, said(t, written, whole, []string{"5 %", "8 %", "24 %", "93 %"}), "one alone may be anything")

	// each number of a line for itself: grams, and jars
	want = []string{"0 g, 0", "412 g, 0", "508 g, 1", "566 g, 2"}
	assert.Equal(t, []finding.Code{"scale"}, said(t, written, want, []string{"0 g, 0", "206 g, 0", "254 g, 0", "283 g, 0"}))
	assert.Equal(t, []finding.Code{"overflow"}, said(t, written, want, []string{"0 g, 0", "28 g, 0", "59 g, 0", "54 g, 0"}))
	assert.Empty(t, said(t, written, want, []string{"0 g, 0", "412 g, 0", "508 g, 0", "566 g, 0"}))
}

// A line that another one comes in place of is not left out.
func TestLines(t *testing.T) {
	want := []string{"gate ready", "shut", "what?", "open"}
	for _, c := range []struct {
		name string
		seen []string
		want []finding.Code
	}{
		{"another line", []string{"gate ready", "shut", "what?", "shut"}, []finding.Code{"words"}},
		{"a line is left out", []string{"gate ready", "what?", "open"}, []finding.Code{"step-missing"}},
		{"ended too soon", []string{"gate ", "ready", "sh", "ut", "what?", "open"}, []finding.Code{"line-ending-inside"}},
		{"one of them", []string{"gate ready", "sh", "ut", "what?", "open"}, []finding.Code{"words"}},
		{"two are wrong", []string{"gate ready", "open", "what?", "shut"}, nil},
	} {
		assert.Equal(t, c.want, said(t, sequences, want, c.seen), c.name)
	}
}
