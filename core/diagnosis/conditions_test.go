package diagnosis

import (
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

const tub = `
hemble: 1
name: tub
title: Tub
chip: {is: atmega328p, clock: 16MHz, supply: 5V}
bench:
  count: {part: seven-segment, common: cathode, pins: {a: PD0, b: PD1, c: PD2, d: PD3, e: PD4, f: PD5, g: PD6, common: GND}}
  full: {part: lamp, colour: red, pins: {anode: PB4, cathode: GND}}
trials:
  - name: a day
    length: 9s
    expect:
      - {shows: count, frames: [3, 4, 5, 6, 7, 8, 9, 8], marks: 5}
      - {shows: full, frames: [{text: off, for: any}, {text: on, for: 1s}, {text: off, for: any}], marks: 5}
`

// filled are the signs of a tub that counts as it should, with its lamp lit in some seconds.
func filled(t *testing.T, signs []symptom, lit []bool) []Finding {
	x, problems := exercise.Read("exercise.yaml", []byte(tub))
	require.NotNil(t, x, "%v", problems)
	r := &reel.Reel{Trial: "a day", Length: 9 * clock.Second}
	count, full := x.Part("count"), x.Part("full")
	numbers := display.Track{Display: "count", Geometry: count.Kind.Geometry(*count)}
	lamp := display.Track{Display: "full", Geometry: full.Kind.Geometry(*full)}
	counting, _ := display.As[display.Counting](numbers.Geometry)
	for i, n := range []int{3, 4, 5, 6, 7, 8, 9, 8, 8} {
		from, to := clock.Time(i)*clock.Second, clock.Time(i+1)*clock.Second
		s := counting.WriteNumber(&numbers, display.Emissive(0, numbers.Geometry.Lights()), 0, n)
		add(&numbers, display.Frame{From: from, To: to, State: s})
		on := uint64(0)
		if i < len(lit) && lit[i] {
			on = 1
		}
		add(&lamp, display.Frame{From: from, To: to, State: display.Emissive(on, 1)})
	}
	r.Tracks = []display.Track{numbers, lamp}
	seen := Seen{Reel: r}
	for _, e := range x.Trials[0].Expect {
		seen.Verdicts = append(seen.Verdicts, e.Judge(r))
	}
	return symptoms(signs, x, []Seen{seen})
}

// A lamp that should go off when a number comes is told with that number; one that goes off at another time is not.
func TestOutlasts(t *testing.T) {
	found := filled(t, readings, []bool{6: true, 7: true})
	require.NotEmpty(t, found)
	assert.Equal(t, finding.Code("goes-on"), found[0].Code)
	assert.Equal(t, "full still shows on when count comes to 8 at 7.000 s, where it should end.", found[0].Text)
	assert.Empty(t, filled(t, readings, []bool{6: true, 8: false}))
}

// Words that stand for a number, up to another limit; what follows no limit, or is wrong everywhere, does not.
func TestWordsByNumber(t *testing.T) {
	edge := finding.Code("edge")
	want := []string{"T=5", "T=7", "T=8!", "T=12!", "T=21!", "T=9!"}
	assert.Equal(t, []finding.Code{edge}, said(t, conditions, want, []string{"T=5", "T=7", "T=8", "T=12!", "T=21!", "T=9"}))
	assert.Equal(t, []finding.Code{edge}, said(t, conditions, want, []string{"T=5", "T=7!", "T=8!", "T=12!", "T=21!", "T=9!"}))
	assert.Empty(t, said(t, conditions, want, []string{"T=5", "T=7", "T=8", "T=12", "T=21", "T=9"}), "it is never there")
	assert.Empty(t, said(t, conditions, want, []string{"T=5", "T=7", "T=8!", "T=12", "T=21!", "T=9!"}), "no limit")
	assert.Empty(t, said(t, conditions, want, []string{"T=5", "T=7", "T=9", "T=13!", "T=22!", "T=10!"}), "numbers, too")
}

// A lamp that is lit by a number that another display shows, but from another one on: told where the lamp would be
// right from some number on, and where no number does it, not.
func TestLitByNumber(t *testing.T) {
	for _, c := range []struct {
		name string
		lit  []bool // for each second
		want []finding.Code
		says string
	}{
		{"from 9 on, as it should be", []bool{6: true, 8: false}, nil, ""},
		{"from 8 on, up to the end", []bool{5: true, 6: true, 7: true, 8: true}, []finding.Code{"edge"},
			"full is lit from 8 on of what count shows, where it should be lit from 9 on."},
		{"from 6 on", []bool{3: true, 4: true, 5: true, 6: true, 7: true, 8: true}, []finding.Code{"edge"}, "from 6 on"},
		{"not by the number: at the first 8 alone", []bool{5: true, 6: true, 8: false}, nil, ""},
	} {
		var codes []finding.Code
		for _, f := range filled(t, all(), c.lit) {
			codes = append(codes, f.Code)
			assert.Contains(t, f.Text, c.says)
		}
		if c.want != nil || c.lit[6] && !c.lit[5] {
			assert.Equal(t, c.want, codes, c.name)
		} else {
			assert.NotContains(t, codes, finding.Code("edge"), c.name)
		}
	}
}

// add adds a frame to a track, or lengthens the last one where it shows the same.
func add(t *display.Track, f display.Frame) {
	if n := len(t.Frames); n > 0 && t.Alike(t.Frames[n-1].State, f.State) {
		t.Frames[n-1].To = f.To
		return
	}
	t.Frames = append(t.Frames, f)
}

const pump = `
hemble: 1
name: pump
title: Pump
chip: {is: atmega328p, clock: 16MHz, supply: 5V}
bench:
  drain: {part: lamp, colour: blue, pins: {anode: PB4, cathode: GND}}
  horn: {part: lamp, colour: red, pins: {anode: PB1, cathode: GND}}
trials:
  - name: rounds
    length: 8s
    expect:
      - {together: horn, shows: on, while: drain, is: on, marks: 10}
`

// A state that ends too soon, or begins too late, by the same part of each stretch that it should be there for.
func TestPartly(t *testing.T) {
	for _, c := range []struct {
		name string
		lit  string // for each quarter of a second
		want []finding.Code
	}{
		{"half of the time", "....##......##......##......##..", []finding.Code{"length"}},
		{"the second half", "......##......##......##......##", []finding.Code{"lag"}},
		{"as it should be", "....####....####....####....####", nil},
		{"once", "....####....####....##......####", nil},
		{"at other times, too", "##..##..##..##..##..##..##..##..", nil},
	} {
		x, problems := exercise.Read("exercise.yaml", []byte(pump))
		require.NotNil(t, x, "%v", problems)
		r := &reel.Reel{Trial: "rounds", Length: 8 * clock.Second}
		for _, name := range []string{"drain", "horn"} {
			p := x.Part(name)
			track := display.Track{Display: name, Geometry: p.Kind.Geometry(*p)}
			for i := range len(c.lit) {
				on := uint64(i / 4 % 2)
				if name == "horn" {
					on = map[byte]uint64{'#': 1}[c.lit[i]]
				}
				at := clock.Time(i) * clock.Second / 4
				add(&track, display.Frame{From: at, To: at + clock.Second/4, State: display.Emissive(on, 1)})
			}
			r.Tracks = append(r.Tracks, track)
		}
		var codes []finding.Code
		seen := Seen{Reel: r, Verdicts: []judge.Verdict{x.Trials[0].Expect[0].Judge(r)}}
		for _, f := range symptoms(conditions, x, []Seen{seen}) {
			codes = append(codes, f.Code)
			assert.Contains(t, f.Text, "horn shows on for a part of the time only while drain shows on, each time: it ", c.name)
		}
		assert.Equal(t, c.want, codes, c.name)
	}
}

const dimmed = `
hemble: 1
name: dimmed
title: Dimmed
chip: {is: atmega328p, clock: 16MHz, supply: 5V}
bench:
  lamp: {part: lamp, colour: red, pins: {anode: PB1, cathode: GND}}
trials:
  - name: an evening
    length: 4s
    expect:
      - {glows: lamp, level: 20%, from: 0s, to: 1s, marks: 2}
      - {glows: lamp, level: 50%, from: 1s, to: 2s, marks: 3}
      - {glows: lamp, level: 0%, from: 2s, to: 3s, marks: 2}
      - {glows: lamp, level: 80%, from: 3s, to: 4s, marks: 3}
`

// How bright a lamp is that should be dimmed: what has a rule is told.
func TestGlows(t *testing.T) {
	for _, c := range []struct {
		name  string
		glows []int // in percent, for each second
		want  []finding.Code
	}{
		{"as it should be", []int{20, 50, 0, 80}, nil},
		{"the other way round", []int{80, 50, 100, 20}, []finding.Code{"lamp-inverted"}},
		{"not at all", []int{100, 100, 0, 100}, []finding.Code{"glow"}},
		{"by 0.4", []int{8, 20, 0, 32}, []finding.Code{"glow"}},
		{"in no proportion", []int{8, 40, 0, 32}, nil},
		{"one of them", []int{20, 35, 0, 80}, []finding.Code{"glow-one"}},
		{"one as another", []int{20, 80, 0, 80}, nil},
		{"lit when it should be dark, too", []int{100, 100, 100, 100}, nil},
	} {
		x, problems := exercise.Read("exercise.yaml", []byte(dimmed))
		require.NotNil(t, x, "%v", problems)
		p := x.Part("lamp")
		track := display.Track{Display: "lamp", Geometry: p.Kind.Geometry(*p)}
		for i, percent := range c.glows {
			s := display.Emissive(min(1, uint64(percent)), 1)
			s.Levels[0] = percent * 255 / 100
			track.Frames = append(track.Frames, display.Frame{From: clock.Time(i) * clock.Second,
				To: clock.Time(i+1) * clock.Second, State: s})
		}
		r := &reel.Reel{Trial: "an evening", Length: 4 * clock.Second, Tracks: []display.Track{track}}
		seen := Seen{Reel: r}
		for _, e := range x.Trials[0].Expect {
			seen.Verdicts = append(seen.Verdicts, e.Judge(r))
		}
		var codes []finding.Code
		for _, f := range symptoms(conditions, x, []Seen{seen}) {
			codes = append(codes, f.Code)
		}
		assert.Equal(t, c.want, codes, c.name)
	}
}
