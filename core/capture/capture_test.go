package capture_test

import (
	"fmt"
	"io"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/capture"
	_ "hemble/core/catalogue"
	"hemble/core/clock"
	"hemble/core/machine"
)

func chip(t testing.TB) *machine.Chip {
	c, err := machine.Find("atmega328p")
	require.NoError(t, err)
	return c
}

// told writes down what a replay tells.
type told struct {
	chip *machine.Chip
	text string
}

func (l *told) Drive(t clock.Time, changes []machine.Change, _ machine.Place) clock.Time {
	for _, c := range changes {
		l.text += fmt.Sprintf("%s %s=%s; ", t, l.chip.Pins[c.Pin].Name, c.Drive.Level)
	}
	return clock.Never
}

const header = "$date today $end\n$timescale 1 us $end\n$scope module top $end\n$var wire 1 ! PB0 $end\n$var wire 1 \" lamp $end\n$var reg 8 # PORTD [7:0] $end\n$var real 64 r level $end\n$upscope $end\n$enddefinitions $end\n"

func TestTape(t *testing.T) {
	l := &told{chip: chip(t)}
	tape, err := capture.Open(strings.NewReader(header+
		"#0 $dumpvars 0! x\" b101 # $end\n#1500 1! r3.3 r\n#2000000 0! 1\"\n#2000000 bz #\n#9000000 1!\n"), l.chip,
		capture.Options{Names: map[string]string{"lamp": "PB1"}})
	require.NoError(t, err)
	pin := func(name string) machine.Pin { p, _ := l.chip.Pin(name); return p }
	assert.Equal(t, "high", tape.Drives(pin("PD2")).Level.String(), "the vector, filled up with 0")
	assert.Equal(t, "low", tape.Drives(pin("PD7")).Level.String())
	assert.True(t, tape.Has(pin("PB1")))
	assert.False(t, tape.Has(pin("PC0")))
	tape.Run(clock.Second, l)
	assert.Equal(t, "0.002 s PB0=high; ", l.text)
	l.text = ""
	tape.Run(3*clock.Second, l)
	assert.Contains(t, l.text, "2.000 s PB0=low; 2.000 s PB1=high; 2.000 s PD0=floating;")
	_, ended := tape.Ended()
	assert.False(t, ended)
	tape.Run(20*clock.Second, l)
	last, ended := tape.Ended()
	assert.True(t, ended)
	assert.Equal(t, 9*clock.Second, last)
	require.NoError(t, tape.Err())
	assert.Len(t, tape.Changes(pin("PB0")), 4)
}

// Power-on may come later than the capture begins; what was there before stands then.
func TestZero(t *testing.T) {
	l := &told{chip: chip(t)}
	tape, err := capture.Open(strings.NewReader(header+"#0 0!\n#500000 1!\n#3000000 0!\n"), l.chip,
		capture.Options{Zero: clock.Second})
	require.NoError(t, err)
	tape.Run(5*clock.Second, l)
	assert.Equal(t, "2.000 s PB0=low; ", l.text)
}

func TestBadCaptures(t *testing.T) {
	for text, want := range map[string]string{
		"":                     "$enddefinitions is missing",
		"hello":                "this is not a VCD file",
		"$timescale 1 us":      "ends within a section",
		"$timescale soon $end": "no time scale",
		"$enddefinitions $end": "the time scale is missing",
		"$var wire $end":       "a kind, a width, a code and a name",
		"$timescale 1ns $end $var wire 1 ! clk $end $enddefinitions $end": "no signal of the capture is called by a pin",
		header + "#x":                        "is no time",
		header + "#5 #4":                     "",
		header + "nonsense":                  "neither a time nor a value",
		header + "#0 b101":                   "a value without its signal",
		header + "#99999999999999999999":     "is no time",
		header + strings.Repeat("x", 10_000): "token too long",
	} {
		tape, err := capture.Open(strings.NewReader(text), chip(t), capture.Options{})
		if want == "" { // it shows while it plays
			require.NoError(t, err)
			tape.Run(clock.Second, &told{chip: chip(t)})
			assert.ErrorContains(t, tape.Err(), "time goes back")
			continue
		}
		assert.ErrorContains(t, err, want, "%.40q", text)
	}
	_, err := capture.Open(strings.NewReader(header), chip(t), capture.Options{Names: map[string]string{"lamp": "PX9"}})
	assert.ErrorContains(t, err, `no pin "PX9"`)
}

// counter counts changes.
type counter int

func (n *counter) Drive(clock.Time, []machine.Change, machine.Place) clock.Time {
	*n++
	return clock.Never
}

// long is a capture without end, of bounded memory.
type long struct{ n int }

func (l *long) Read(b []byte) (int, error) {
	if l.n == 0 {
		l.n++
		return copy(b, header), nil
	}
	if l.n > 2_000_000 {
		return 0, io.EOF
	}
	l.n++
	return copy(b, fmt.Sprintf("#%d %d!\n", l.n, l.n&1)), nil
}

func TestLongCapture(t *testing.T) {
	tape, err := capture.Open(&long{}, chip(t), capture.Options{})
	require.NoError(t, err)
	var n counter
	tape.Run(10*clock.Second, &n)
	assert.Equal(t, counter(2_000_000), n)
	require.NoError(t, tape.Err())
	assert.LessOrEqual(t, len(tape.Changes(0)), 100_000, "no more is kept of an input")
}

func FuzzVCD(f *testing.F) {
	f.Add(header + "#0 0!\n#5 1! b1x #\n")
	f.Add("$timescale 10ns $end $var wire 1 a PB0 $end $enddefinitions $end #0 1a")
	f.Fuzz(func(t *testing.T, text string) {
		c := chip(t)
		tape, err := capture.Open(strings.NewReader(text), c, capture.Options{})
		if err == nil {
			tape.Run(clock.Second, &told{chip: c})
		}
	})
}
