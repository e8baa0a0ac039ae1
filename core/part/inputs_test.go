package part_test

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/circuit"
	"hemble/core/clock"
	"hemble/core/part"
	"hemble/core/part/parttest"
	"hemble/core/part/serial"
)

const us, ms = clock.Microsecond, clock.Millisecond

func cue(t *testing.T, w *parttest.World, c part.Cue) {
	t.Helper()
	require.NoError(t, w.Part.Cue(c))
}

func TestSwitch(t *testing.T) {
	w := parttest.New(t, "switch", "is: on, bounce: 3ms", 1)
	w.Part.Changed(0)
	assert.True(t, w.Closed[[2]int{0, 1}])
	assert.Len(t, w.Flips, 1, "no bounce at power-on")
	cue(t, w, part.Cue{Verb: part.Set, To: "off"})
	w.Pass(10 * ms)
	assert.Equal(t, []bool{false, true}, []bool{w.Closed[[2]int{0, 1}], w.Closed[[2]int{0, 2}]})
	assert.Greater(t, len(w.Flips), 3)
	flips := len(w.Flips)
	cue(t, w, part.Cue{Verb: part.Set, To: "off"})
	assert.Len(t, w.Flips, flips, "it is there already")
	assert.Error(t, w.Part.Cue(part.Cue{Verb: part.Set, To: "up"}))
}

// A bounce that is given comes edge by edge as it was written, on closing and on opening.
func TestGivenBounce(t *testing.T) {
	w := parttest.New(t, "button", "edges: [0.4ms, 1ms]", 7)
	cue(t, w, part.Cue{Verb: part.Hold})
	closed := []bool{w.Closed[[2]int{0, 1}]}
	for range 4 {
		w.Pass(300 * us)
		closed = append(closed, w.Closed[[2]int{0, 1}])
	}
	assert.Equal(t, []bool{true, true, false, false, true}, closed)
	cue(t, w, part.Cue{Verb: part.Release})
	w.Pass(10 * ms)
	assert.Len(t, w.Flips, 6)
	assert.False(t, w.Closed[[2]int{0, 1}])
	clean := parttest.New(t, "button", "bounce: 0, edges: [0.4ms, 1ms]", 7)
	cue(t, clean, part.Cue{Verb: part.Hold})
	clean.Pass(10 * ms)
	assert.Len(t, clean.Flips, 1, "a clean contact has none")
	for edges, want := range map[string]string{"[1ms]": "an even number", "[1ms, 1ms]": "increasing times",
		"[1ms, 200ms]": "up to 100 ms", "[0ms, 1ms]": "above 0"} {
		problems := parttest.New(t, "button", "edges: "+edges, 1).Problems()
		require.Len(t, problems, 1, edges)
		assert.Contains(t, problems[0].Text, want)
	}
}

// The quadrature code: clockwise A leads, counter-clockwise B does; a detent is a period.
func TestEncoder(t *testing.T) {
	codes := func(w *parttest.World, by int64) (out string) {
		cue(t, w, part.Cue{Verb: part.Turn, By: by, For: 40 * ms})
		for i := int64(0); i < 4*max(by, -by); i++ {
			out += map[bool]string{true: "A", false: "-"}[w.Closed[[2]int{0, 2}]] + map[bool]string{true: "B",
				false: "-"}[w.Closed[[2]int{1, 2}]] + " "
			w.Pass(10 * ms)
		}
		return out
	}
	w := parttest.New(t, "encoder", "bounce: 0", 1)
	assert.Equal(t, "A- AB -B -- A- AB -B -- ", codes(w, 2))
	assert.Equal(t, "-B AB A- -- ", codes(w, -1))
	half := parttest.New(t, "encoder", "bounce: 0, detent: half", 1)
	cue(t, half, part.Cue{Verb: part.Turn, By: 1, For: 40 * ms})
	half.Pass(100 * ms)
	assert.Equal(t, []bool{true, true}, []bool{half.Closed[[2]int{0, 2}], half.Closed[[2]int{1, 2}]}, "half a period")
	a, b := parttest.New(t, "encoder", "", 3), parttest.New(t, "encoder", "", 3)
	codes(a, 3)
	codes(b, 3)
	assert.Equal(t, a.Flips, b.Flips)
	assert.Greater(t, len(a.Flips), 12, "it bounces")
	cue(t, a, part.Cue{Verb: part.Press, For: 50 * ms})
	a.Pass(20 * ms)
	assert.True(t, a.Closed[[2]int{3, 4}])
	a.Pass(100 * ms)
	assert.False(t, a.Closed[[2]int{3, 4}])
}

func TestKeypad(t *testing.T) {
	w := parttest.New(t, "keypad", "bounce: 0", 1)
	for key, at := range map[string][2]int{"1": {0, 4}, "6": {1, 6}, "#": {3, 6}, "D": {3, 7}} {
		cue(t, w, part.Cue{Verb: part.Press, Key: key, For: 50 * ms})
		assert.True(t, w.Closed[at], key)
		w.Pass(60 * ms)
		assert.False(t, w.Closed[at], key)
	}
	assert.Error(t, w.Part.Cue(part.Cue{Verb: part.Press, Key: "E"}))
}

func TestPotentiometer(t *testing.T) {
	w := parttest.New(t, "potentiometer", "position: 20%", 1)
	w.Part.Changed(0)
	assert.Equal(t, circuit.Drive{Level: circuit.Low, Strength: circuit.Analog, Microvolts: 1_000_000}, w.Driven[0])
	cue(t, w, part.Cue{Verb: part.Set, To: "99.5%"})
	assert.Equal(t, int32(4_975_000), w.Driven[0].Microvolts)
	for _, bad := range []string{"", "50", "101%", "-1%", "x%"} {
		assert.Error(t, w.Part.Cue(part.Cue{Verb: part.Set, To: bad}), bad)
	}
}

func TestVoltageCurve(t *testing.T) {
	w := parttest.New(t, "voltage", "volts: 1V, curve: [{at: 10ms, volts: 1V}, {at: 20ms, volts: 3V}]", 1)
	w.Part.Changed(0)
	at := func() int { return int(w.Driven[0].Microvolts) }
	w.Pass(10 * ms)
	assert.Equal(t, 1_000_000, at())
	w.Pass(5 * ms)
	assert.InDelta(t, 2_000_000, at(), 25_000, "half-way")
	w.Pass(6 * ms)
	assert.Equal(t, 3_000_000, at())
	cue(t, w, part.Cue{Verb: part.Set, To: "4.2V"})
	w.Pass(clock.Second)
	assert.Equal(t, 4_200_000, at())
	cue(t, w, part.Cue{Verb: part.Set, To: "9V"})
	assert.Equal(t, 5_000_000, at(), "not above the supply")
	assert.Error(t, w.Part.Cue(part.Cue{Verb: part.Set, To: "much"}))
}

// The values of a common data sheet's table for B = 3950: 31.77 kΩ at 0 °C, 10 kΩ at 25 °C, 3.588 kΩ at 50 °C.
func TestThermistor(t *testing.T) {
	w := parttest.New(t, "thermistor", "temperature: 25C", 1)
	w.Part.Changed(0)
	assert.Equal(t, int32(2_500_000), w.Driven[0].Microvolts)
	for to, ohms := range map[string]float64{"0C": 33_620, "50C": 3_588, "10.5C": 19_460} {
		cue(t, w, part.Cue{Verb: part.Set, To: to})
		assert.InDelta(t, 5e6*ohms/(ohms+10_000), float64(w.Driven[0].Microvolts), 20_000, to)
	}
	w = parttest.New(t, "thermistor", "temperature: 50C, at: supply", 1)
	w.Part.Changed(0)
	assert.InDelta(t, 5e6*10/13.588, float64(w.Driven[0].Microvolts), 5_000)
}

// The protocol of the product manual, decoded as a program would.
func TestDHT11(t *testing.T) {
	ask := func(w *parttest.World, low clock.Time) (data []uint8) {
		w.Set("data", circuit.DrivenLow)
		w.Pass(low)
		w.Edges = nil
		w.Set("data", circuit.Released)
		w.Pass(10 * ms)
		if len(w.Edges) < 80 {
			return nil
		}
		assert.GreaterOrEqual(t, w.Edges[0].At, w.Time-10*ms+20*us)
		for i := 2; i+2 < len(w.Edges) && len(data) < 40; i += 2 { // low, high, low …
			assert.InDelta(t, float64(50*us), float64(w.Edges[i+1].At-w.Edges[i].At), float64(us))
			high := w.Edges[i+2].At - w.Edges[i+1].At
			data = append(data, map[bool]uint8{false: 0, true: 1}[high > 45*us])
		}
		var bytes []uint8
		for i := 0; i+8 <= len(data); i += 8 {
			v := uint8(0)
			for _, b := range data[i : i+8] {
				v = v<<1 | b
			}
			bytes = append(bytes, v)
		}
		return bytes
	}
	w := parttest.New(t, "dht11", "temperature: 21, humidity: 48", 1)
	w.Set("data", circuit.Released)
	w.Pass(500 * ms)
	assert.Nil(t, ask(w, 20*ms), "silent in its first second")
	w.Pass(600 * ms)
	assert.Equal(t, []uint8{48, 0, 21, 0, 69}, ask(w, 20*ms))
	assert.Nil(t, ask(w, 20*ms), "not again within a second")
	w.Pass(clock.Second)
	assert.Nil(t, ask(w, 10*ms), "18 ms wake it")
	cue(t, w, part.Cue{Verb: part.Set, To: "33C"})
	cue(t, w, part.Cue{Verb: part.Set, To: "70%"})
	assert.Equal(t, []uint8{70, 0, 33, 0, 103}, ask(w, 18*ms))
	assert.Equal(t, circuit.PulledUp, w.Driven[0], "the wire is free again")
	assert.Len(t, w.Notes, 3, "%v", w.Notes)
	for _, bad := range []string{"33", "60C", "10%", "x"} {
		assert.Error(t, w.Part.Cue(part.Cue{Verb: part.Set, To: bad}), bad)
	}
}

func TestSquareWave(t *testing.T) {
	w := parttest.New(t, "square-wave", "frequency: 3Hz, duty: 25%, start: 1s", 1)
	w.Part.Changed(0)
	w.Pass(11*clock.Second - 1)
	require.Len(t, w.Edges, 61, "low at power-on, and 30 periods")
	assert.Equal(t, clock.Second, w.Edges[1].At)
	assert.Equal(t, 10*clock.Second, w.Edges[1+2*27].At, "whole periods do not drift")
	assert.InDelta(t, float64(clock.Second)/12, float64(w.Edges[2].At-w.Edges[1].At), 2)
	cue(t, w, part.Cue{Verb: part.Set, To: "off"})
	n := len(w.Edges)
	w.Pass(clock.Second)
	assert.Len(t, w.Edges, n)
	cue(t, w, part.Cue{Verb: part.Set, To: "100Hz"})
	w.Pass(clock.Second - 1)
	assert.Len(t, w.Edges, n+200)
	assert.Error(t, w.Part.Cue(part.Cue{Verb: part.Set, To: "2MHz"}))
}

// send drives a line as a UART does.
func send(w *parttest.World, pin string, baud int64, text string) {
	bit := clock.Second / clock.Time(baud)
	for _, v := range []byte(text) {
		w.Set(pin, circuit.DrivenLow)
		w.Pass(bit)
		for i := 0; i < 8; i++ {
			w.Set(pin, circuit.Output(v>>i&1 == 1))
			w.Pass(bit)
		}
		w.Set(pin, circuit.DrivenHigh)
		w.Pass(bit)
	}
}

func TestTerminal(t *testing.T) {
	w := parttest.New(t, "terminal", "baud: 9600, enter: crlf", 1)
	w.Set("rx", circuit.DrivenHigh)
	send(w, "rx", 9600, "gate open\r\ngate\tshut\n\nlast")
	assert.Equal(t, []string{"gate open", "gate    shut", "last"}, w.Lines,
		"a line is there as its characters come, without its end")
	send(w, "rx", 9800, "\n2 % fast\n")
	assert.Equal(t, "2 % fast", w.Lines[3], "a UART bears some error")
	send(w, "rx", 4800, "half the rate\n")
	w.Pass(clock.Second)
	assert.NotContains(t, strings.Join(w.Lines, ""), "half")
	assert.Contains(t, strings.Join(w.Notes, ""), "serial-framing")

	w.Edges = nil
	cue(t, w, part.Cue{Verb: part.Type, Text: "U\n"})
	w.Pass(10 * ms)
	assert.Len(t, w.Edges, 10+6+6, "U alternates in every bit; then CR and LF")
	assert.Equal(t, clock.Second/9600, w.Edges[1].At-w.Edges[0].At)
}

// The rate at which bits come is measured by the shortest pulses, and told once where it is another one.
func TestSentRate(t *testing.T) {
	for _, c := range []struct {
		set, sent int64
		told      string
	}{
		{9600, 9600, ""}, {9600, 9800, ""}, {10_000, 10_000, ""}, {1_000_000, 1_000_000, ""}, {250_000, 250_000, ""},
		{9600, 19_200, "as at 19200 baud; 9600 is expected"}, {9600, 4800, "as at 4800 baud; 9600 is expected"},
		{115_200, 57_600, "as at 57600 baud; 115200 is expected"},
	} {
		for _, kind := range []string{"serial-lcd", "terminal"} {
			w := parttest.New(t, kind, fmt.Sprintf("baud: %d", c.set), 1)
			w.Set("rx", circuit.DrivenHigh)
			w.Pass(clock.Second)
			send(w, "rx", c.sent, "how fast is this, and this?")
			w.Pass(clock.Second)
			if notes := strings.Join(w.Notes, "\n"); c.told == "" {
				assert.NotContains(t, notes, "as at", "%s %v", kind, c)
			} else {
				assert.Equal(t, 1, strings.Count(notes, c.told), "%s %v: %s", kind, c, notes)
			}
		}
	}
	assert.Equal(t, int64(4800), serial.Sent("log: the shortest pulses are as at 4800 baud; 9600 is expected"))
	for _, other := range []string{"", "log", "log: ", "log: the shortest pulses are as at many baud", "4800 baud"} {
		assert.Zero(t, serial.Sent(other), other)
	}
	w := parttest.New(t, "serial-digits", "", 1)
	w.Set("rx", circuit.DrivenHigh)
	w.Pass(clock.Second)
	send(w, "rx", 9600, "12")
	assert.Empty(t, w.Notes)
	send(w, "rx", 9600, "\r\n")
	assert.Contains(t, strings.Join(w.Notes, ""), "an end of line, 0x0D")
}

// Control characters and the usual sequences act as on a terminal (ECMA-48); longer lines than its 120 columns go on
// below.
func TestTerminalControls(t *testing.T) {
	for text, want := range map[string][]string{
		"level 10\rlevel 9 ":             {"level 9 "},
		"level 10\r\x1b[Klevel 9":        {"level 9"},
		"abc\b\bX":                       {"aXc"},
		"abc\b \b":                       {"ab "},
		"a\tb\a\x00c":                    {"a       bc"},
		"\x1b[1;32mopen\x1b[0m":          {"open"},
		"old\x1b[2J\x1b[Hnew":            {"old", "new"},
		"abc\x1b[2D\x1b[1Kd":             {" dc"},
		"abc\x1b[2Kd":                    {"   d"},
		"abc\x1b[1Gx\x1b[5Cy":            {"xbc   y"},
		"\x1bXab\x1b[999999999Cz":        {"ab" + strings.Repeat(" ", 117) + "z"},
		"x\x1b[1;2;3;4;5;6;7;8;9;0mab":   {"x9;0mab"},
		strings.Repeat("0123456789", 13): {strings.Repeat("0123456789", 12), "0123456789"},
		"one\n\rtwo\r\nthree":            {"one", "two", "three"},
	} {
		w := parttest.New(t, "terminal", "baud: 1000000", 1)
		w.Set("rx", circuit.DrivenHigh)
		send(w, "rx", 1_000_000, text)
		assert.Equal(t, want, w.Lines, "%q", text)
	}
}

func TestSerialText(t *testing.T) {
	w := parttest.New(t, "serial-lcd", "warm-up: 100ms, commands: {clear: 0x01}", 1)
	w.Set("rx", circuit.DrivenHigh)
	row := func(from, n int) string {
		out := ""
		for i := from; i < from+n; i++ {
			if c := w.Cells[i]; c == 0 {
				out += " "
			} else {
				out += string(rune(c))
			}
		}
		return out
	}
	send(w, "rx", 9600, "early")
	assert.NotEqual(t, "early", row(0, 5), "garbled while it warms up")
	assert.Contains(t, w.Notes[0], "serial-warm-up")
	w.Pass(100 * ms)
	send(w, "rx", 9600, "\x1b\x01Wherry Lock notices: none\x1bP\x04-")
	assert.Equal(t, "Wher-y Lock noti", row(0, 16))
	assert.Equal(t, "ces: none", row(16, 9), "the second row follows the first")
	send(w, "rx", 9600, "\x1bF")
	assert.Equal(t, "                ", row(0, 16))
	send(w, "rx", 9600, "\x1bO\x1bB\x00")
	assert.Equal(t, "Wher-y", row(0, 6))
	assert.Zero(t, w.Back, "backlight off")
	send(w, "rx", 9600, "\x1bz")
	assert.Contains(t, w.Notes[len(w.Notes)-1], "no command 0x7A")
	assert.Contains(t, strings.Join(w.Logged, ";"), "go 04")
}

func TestSerialDigits(t *testing.T) {
	w := parttest.New(t, "serial-digits", "warm-up: 0, baud: 19200", 1)
	w.Set("rx", circuit.DrivenHigh)
	shown := func() (n int) {
		for i := 0; i < 32; i++ {
			if w.Lights[i] > 0 {
				n++
			}
		}
		return n
	}
	send(w, "rx", 19200, "18\x01 ")
	assert.Equal(t, 2+7+2, shown(), "1, 8, 1, blank")
	send(w, "rx", 19200, "\x1bD\x03")
	assert.Positive(t, w.Lights[7])
	assert.Positive(t, w.Lights[15])
	full := w.Lights[1]
	send(w, "rx", 19200, "\x1bB\x7f")
	assert.Equal(t, full*127/255, w.Lights[1])
	send(w, "rx", 19200, "\x1bC")
	assert.Zero(t, shown())
	send(w, "rx", 19200, "\x1bP\x038")
	assert.Equal(t, 7, shown())
	assert.Positive(t, w.Lights[24])
}

func TestBuzzer(t *testing.T) {
	w := parttest.New(t, "buzzer", "", 1)
	w.Set("minus", circuit.Ground, "plus", circuit.DrivenLow)
	for i := 0; i < 5; i++ {
		w.Pulse("plus")
	}
	assert.GreaterOrEqual(t, len(w.Pushes), 5)
	w.Set("plus", circuit.PulledUp)
	before := len(w.Pushes)
	w.Set("plus", circuit.PulledUp)
	assert.Len(t, w.Pushes, before, "a pull-up moves no membrane")
	w = parttest.New(t, "buzzer", "is: active, pitch: 2kHz", 1)
	w.Set("minus", circuit.DrivenLow, "plus", circuit.Supply)
	assert.Equal(t, 2000, w.Pitch)
	w.Set("minus", circuit.DrivenHigh)
	assert.Zero(t, w.Pitch)
}

// A contact that opens while pressed is closed at power-on, and bounces like one that closes.
func TestNormallyClosed(t *testing.T) {
	w := parttest.New(t, "button", "contact: normally-closed, bounce: 3ms", 1)
	w.Part.Changed(0)
	assert.True(t, w.Closed[[2]int{0, 1}])
	assert.Len(t, w.Flips, 1, "no bounce at power-on")
	cue(t, w, part.Cue{Verb: part.Press, For: 50 * ms})
	w.Pass(10 * ms)
	assert.False(t, w.Closed[[2]int{0, 1}])
	assert.Greater(t, len(w.Flips), 3)
	w.Pass(60 * ms)
	assert.True(t, w.Closed[[2]int{0, 1}], "it is let go")
}
