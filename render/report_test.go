package render

import (
	"bytes"
	"encoding/json"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/circuit"
	"hemble/core/clock"
	"hemble/core/display"
	"hemble/core/display/characters"
	"hemble/core/display/digits"
	"hemble/core/display/lamp"
	"hemble/core/judge"
	"hemble/core/machine"
	"hemble/core/sheet"
)

const ms = clock.Millisecond

var digitTrack = &display.Track{Display: "gauge",
	Geometry: display.Geometry{TypeName: digits.Form, Shapes: make([]display.Shape, 8)}}

func digit(states string) *display.State {
	var l display.Lights
	if err := l.UnmarshalText([]byte(states)); err != nil {
		panic(err)
	}
	return &display.State{Lights: l, Levels: make([]int, len(l))}
}

func TestDigitArt(t *testing.T) {
	assert.Equal(t, strings.Split("  ━━   \n    ┃  \n  ━━   \n ┃     \n  ━━   ", "\n"),
		Art(digitTrack, *digit("11011010")))
	assert.Equal(t, strings.Split("       \n │  ┃  \n  ──   \n    ┃  \n     ● ", "\n"),
		Art(digitTrack, *digit("01100221")), "dim segments are light strokes")
	two := Art(&display.Track{Geometry: display.Geometry{TypeName: digits.Form, Shapes: make([]display.Shape, 16)}},
		*digit("0110000011111110"))
	assert.Equal(t, "         ━━   ", two[0], "digits stand side by side")
	assert.Equal(t, []string{"   ●   "},
		Art(&display.Track{Geometry: display.Geometry{TypeName: lamp.Form, Shapes: make([]display.Shape, 1)}},
			*digit("1")))
}

func TestScreenArt(t *testing.T) {
	track := &display.Track{Geometry: display.Geometry{TypeName: characters.Form,
		Grid: &display.Grid{Columns: 4, Rows: 2}}}
	s := display.State{Cells: []display.Cell{'A', 'b', ' ', display.CustomCell, 0xdf, 0x5c, 'x' | display.WashedOut,
		' '}, Cursor: &display.Cursor{Cell: 2}}
	assert.Equal(t, []string{"┌────┐", "│Ab_▢│", "│°¥░ │", "└────┘"}, Art(track, s))
	s.Cursor = &display.Cursor{Cell: 7, Block: true}
	assert.Equal(t, "│°¥░▒│", Art(track, s)[2])
	assert.Equal(t, `"Ab ▢" / "°¥░"`, track.Describe(s))
}

func TestStripShowsWhatDiffers(t *testing.T) {
	lanes := []judge.Pair{
		{Operation: judge.Right, Expected: &judge.Span{To: 700 * ms, Text: "-", State: digit("00000010")},
			Seen: &judge.Span{To: 702 * ms, Text: "-", State: digit("00000010")}},
		{Operation: judge.Wrong, Expected: &judge.Span{From: 702 * ms, To: 1402 * ms, Text: "2",
			State: digit("11011010")},
			Seen: &judge.Span{From: 702 * ms, To: 1400 * ms, Text: "E", State: digit("10011110")}},
		{Operation: judge.Missing, Expected: &judge.Span{From: 1402 * ms, To: 2102 * ms, Text: "4",
			State: digit("01100110")}},
		{Operation: judge.Extra, Seen: &judge.Span{From: 1400 * ms, To: 1500 * ms, Text: "8",
			State: digit("11111110")}},
		{Operation: judge.Mistimed, Expected: &judge.Span{From: 1500 * ms, To: 2200 * ms, Text: "6",
			State: digit("10111110")}, Seen: &judge.Span{From: 1500 * ms, To: 3500 * ms, Text: "6",
			State: digit("10111110")}},
	}
	out := Strip(Style{Width: 100}, digitTrack, lanes)
	assert.Contains(t, out, "  from     0.000 s    0.702 s    1.402 s    1.400 s    1.500 s")
	assert.Contains(t, out, "  for      ✓ 702 ms   ✗ 698 ms   ✗          + 100 ms   ≈ 2 s")
	assert.Contains(t, out, "  for                 700 ms     700 ms                700 ms")
	assert.Contains(t, out, "  expected")
	narrow := Strip(Style{Width: 40}, digitTrack, lanes)
	assert.Equal(t, 3, strings.Count(narrow, "  from"), "a narrow terminal takes more rows")
	for _, line := range strings.Split(narrow, "\n") {
		assert.LessOrEqual(t, len([]rune(line)), 40)
	}
	coloured := Strip(Style{Width: 100, Colour: true}, digitTrack, lanes)
	assert.Contains(t, coloured, "\x1b[31m✗ 698 ms")
	assert.NotContains(t, out, "\x1b")
	assert.Equal(t, "", Strip(Style{Width: 80}, digitTrack, []judge.Pair{}))
}

func TestLongStripsAreCut(t *testing.T) {
	track := *digitTrack
	for i := 0; i < 100; i++ {
		track.Frames = append(track.Frames, display.Frame{From: clock.Time(i) * ms, To: clock.Time(i+1) * ms,
			State: *digit("00000010")})
	}
	assert.Contains(t, Strip(Style{Width: 100}, &track, nil), "… and 40 more frames")
}

func marked() *sheet.Sheet {
	half, two := sheet.Marks{}, sheet.Marks{}
	_ = json.Unmarshal([]byte("0.5"), &half)
	_ = json.Unmarshal([]byte("2"), &two)
	return &sheet.Sheet{Title: "A gauge", Firmware: "x.hex", Marks: half, Of: two,
		Trials: []sheet.Trial{{Name: "one", Length: 3 * clock.Second, Marks: half, Of: two,
			Verdicts: []sheet.Verdict{{Expectation: "gauge shows 1 2", Kind: "shows", Marks: half, Of: two,
				Verdict: judge.Verdict{Outcome: judge.Partly, Display: "gauge",
					Evidence: []string{"1 of 2 frames right"},
					First:    &judge.Difference{At: 700 * ms, Expected: "2", Seen: "E"}}}}}},
		Findings: []sheet.Finding{{Code: "x", Text: "PD7 floats", Trial: "one", Evidence: []string{"at 0.001 s"}}}}
}

func TestSheetText(t *testing.T) {
	s := marked()
	out := Sheet(Style{Width: 80}, s, nil)
	for _, want := range []string{"A gauge · x.hex", "0.5 / 2", "≈ gauge shows 1 2", "1 of 2 frames right",
		"first difference at 0.700 s: expected 2, saw E", "· PD7 floats", "one: at 0.001 s"} {
		assert.Contains(t, out, want)
	}
	assert.Equal(t, "≈ x.hex      0.5 / 2   met 0 · partly 1 · missed 0   gauge 0.700 s: 2 → E",
		Row(Style{Width: 100}, s, 8))
	s.Trials[0].Stop = &machine.Stop{Text: "ran off flash"}
	assert.Equal(t, "ran off flash", s.First())
	s.Failed = "the file is empty"
	assert.Contains(t, Sheet(Style{Width: 80}, s, nil), "✗ the file is empty")
	assert.Contains(t, Row(Style{Width: 100}, s, 8), "✗ x.hex")
	assert.Equal(t, "the file is empty", s.First())
}

func TestVCD(t *testing.T) {
	chip := &machine.Chip{Name: "chip", Pins: []machine.PinInfo{{Name: "PB0"}, {}, {Name: "PB2"}}}
	var out bytes.Buffer
	v := NewPinVCD(&out, chip)
	v.Drive(62500, []machine.Change{{Pin: 0, Drive: circuit.DrivenHigh}, {Pin: 2, Drive: circuit.PulledUp}},
		machine.Place{})
	v.Drive(62500, []machine.Change{{Pin: 2, Drive: circuit.DrivenLow}}, machine.Place{})
	v.Drive(125000, []machine.Change{{Pin: 0, Drive: circuit.Released}}, machine.Place{})
	require.NoError(t, v.Close(clock.Second))
	text := out.String()
	assert.Contains(t, text, "$scope module chip $end\n$var wire 1 ! PB0 $end\n$var wire 1 # PB2 $end\n$upscope $end")
	assert.Contains(t, text, "#62500\n1!\n1#\n0#\n#125000\nz!\n#1000000000000\n")
	failing := NewPinVCD(brokenWriter{}, chip)
	assert.Error(t, failing.Close(1), "a full disk is told")
}

type brokenWriter struct{}

func (brokenWriter) Write([]byte) (int, error) { return 0, bytes.ErrTooLarge }
