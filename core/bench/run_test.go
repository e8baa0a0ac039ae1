package bench_test

import (
	"context"
	"encoding/json"
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/bench"
	"hemble/core/circuit"
	"hemble/core/clock"
	"hemble/core/display"
	"hemble/core/exercise"
	"hemble/core/firmware"
	"hemble/core/machine"
	"hemble/core/reel"
)

const ms = clock.Millisecond

// run puts words of program on a bench and runs it for 500 ms.
func run(t *testing.T, parts, cues string, words ...uint16) *reel.Reel {
	t.Helper()
	x, problems := exercise.Read("x", []byte(fmt.Sprintf(`hemble: 1
name: x
title: x
chip: {is: atmega328p}
bench:
  red: {part: lamp, pins: {anode: PB0, cathode: GND}}
%s
trials: [{name: x, length: 500ms, cues: [%s], expect: [{reads: red, text: on, at: end}]}]
`, parts, cues)))
	require.Empty(t, problems)
	var data []byte
	for _, w := range words {
		data = append(data, byte(w), byte(w>>8))
	}
	r, err := bench.Run(t.Context(), x, &x.Trials[0], &firmware.Image{Flash: []firmware.Segment{{Data: data}}})
	require.NoError(t, err)
	return r
}

func notes(r *reel.Reel) string {
	var out []string
	for _, n := range r.Notes {
		out = append(out, n.Code+": "+n.Text)
	}
	return strings.Join(out, "\n")
}

// Instructions used below: sbi/cbi of DDRB (0x04), PORTB (0x05), PORTD (0x0b), PIND (0x09).
const (
	sbiDDRB0  = 0x9a20
	sbiPORTB0 = 0x9a28
	cbiPORTB0 = 0x9828
	sbiPORTD7 = 0x9a5f
	sbicPIND7 = 0x994f
	sbisPIND7 = 0x9b4f
	self      = 0xcfff
)

func TestLampFollowsPin(t *testing.T) {
	r := run(t, "", "", sbiDDRB0, sbiPORTB0, self)
	require.Len(t, r.Tracks, 1)
	require.Len(t, r.Tracks[0].Frames, 1)
	f := r.Tracks[0].Frames[0]
	assert.Equal(t, "on", f.Text)
	assert.Equal(t, 250*clock.Nanosecond, f.From, "two instructions of two cycles: to the edge")
	assert.Equal(t, 500*ms, f.To)
	assert.Equal(t, uint32(2), f.At.PC, "and the instruction that made it")
	assert.Empty(t, r.Notes)
	assert.Nil(t, r.Stop)
}

// The button's contact pulls the pin low against its pull-up; the lamp follows the pin.
func TestButtonReachesThePin(t *testing.T) {
	// pull-up on; loop: sbic PIND,7; cbi PORTB,0; sbis PIND,7; sbi PORTB,0; rjmp loop
	r := run(t, "  key: {part: button, bounce: 0, pins: {1: PD7, 2: GND}}",
		"{at: 100ms, press: key, for: 150ms, as: one}",
		sbiDDRB0, sbiPORTD7, sbicPIND7, cbiPORTB0, sbisPIND7, sbiPORTB0, 0xcffb)
	frames := r.Tracks[0].Frames
	require.Len(t, frames, 3)
	assert.Equal(t, []string{"off", "on", "off"}, []string{frames[0].Text, frames[1].Text, frames[2].Text})
	assert.InDelta(t, float64(100*ms), float64(frames[1].From), float64(2*clock.Microsecond))
	assert.InDelta(t, float64(250*ms), float64(frames[2].From), float64(2*clock.Microsecond))
	require.Len(t, r.Cues, 1)
	assert.Equal(t, "one", r.Cues[0].Name)
	assert.InDelta(t, float64(100*ms), float64(r.Cues[0].Start), float64(clock.Microsecond))
	assert.Empty(t, r.Notes)
}

// A button to the supply with a resistor to ground: no pull-up of the chip, and nothing floats.
func TestPullDown(t *testing.T) {
	// loop: sbic PIND,7; sbi PORTB,0; sbis PIND,7; cbi PORTB,0; rjmp loop
	r := run(t, "  key: {part: button, bounce: 0, pins: {1: PD7, 2: VCC}}\n  pull: {part: resistor, ohms: 10k, pins: {1: PD7, 2: GND}}",
		"{at: 100ms, press: key, for: 150ms}", sbiDDRB0, sbicPIND7, sbiPORTB0, sbisPIND7, cbiPORTB0, 0xcffb)
	frames := r.Tracks[0].Frames
	require.Len(t, frames, 3)
	assert.Equal(t, []string{"off", "on", "off"}, []string{frames[0].Text, frames[1].Text, frames[2].Text})
	assert.Empty(t, r.Notes)
}

// A resistor in series: with a lamp that has none of its own, with a button, and two that divide.
func TestResistorInSeries(t *testing.T) {
	x, problems := exercise.Read("x", []byte(`hemble: 1
name: x
title: x
chip: {is: none}
bench:
  lead: {part: resistor, ohms: 220, pins: {1: VCC, 2: lit}}
  alone: {part: lamp, resistor: 0, pins: {anode: lit, cathode: GND}}
  whole: {part: lamp, resistor: 220, pins: {anode: VCC, cathode: GND}}
  key: {part: button, bounce: 0, pins: {1: far, 2: VCC}}
  series: {part: resistor, ohms: 1k, pins: {1: far, 2: near}}
  down: {part: resistor, ohms: 10k, pins: {1: near, 2: GND}}
  pressed: {part: lamp, resistor: 270, pins: {anode: near, cathode: GND}}
trials: [{name: x, length: 2s, cues: [{at: 500ms, press: key, for: 500ms}], expect: [{reads: alone, text: on, at: end}]}]
`))
	require.Empty(t, problems)
	r, err := bench.Run(t.Context(), x, &x.Trials[0], nil)
	require.NoError(t, err)
	require.Len(t, r.Track("alone").Frames, 1)
	assert.Equal(t, r.Track("whole").Frames[0].State.Levels, r.Track("alone").Frames[0].State.Levels,
		"wherever the resistor stands")
	frames := r.Track("pressed").Frames
	require.Len(t, frames, 3)
	assert.Equal(t, []string{"off", "on", "off"}, []string{frames[0].Text, frames[1].Text, frames[2].Text})
}

func TestFloatingPinIsTold(t *testing.T) {
	r := run(t, "  key: {part: button, pins: {1: PD7, 2: GND}}", "", sbiDDRB0, sbicPIND7, 0x0000, 0xcffd)
	assert.Contains(t, notes(r), "floating-PD7: PD7 was read while nothing drove it")
}

// A button to ground on a pin that is driven high: two drivers against each other.
func TestContention(t *testing.T) {
	// sbi DDRB,0; sbi PORTB,0; sbi DDRD,7; sbi PORTD,7
	r := run(t, "  key: {part: button, bounce: 0, pins: {1: PD7, 2: PD6}}", "{at: 100ms, press: key, for: 50ms}",
		sbiDDRB0, sbiPORTB0, 0x9a57, sbiPORTD7, 0x9a56, self)
	assert.Contains(t, notes(r), "was driven high and low at the same time for 50 ms")
}

// Nothing depends on anything but the inputs.
func TestSameSeedSameReel(t *testing.T) {
	once := func() string {
		r := run(t, "  key: {part: button, bounce: 4ms, pins: {1: PD7, 2: GND}}", "{at: 100ms, press: key, for: 150ms}",
			sbiDDRB0, sbicPIND7, cbiPORTB0, sbisPIND7, sbiPORTB0, 0xcffb)
		text, err := json.Marshal(r)
		require.NoError(t, err)
		return string(text)
	}
	assert.Equal(t, once(), once())
}

// A program that stops leaves its displays as they are to the end.
func TestStopFreezes(t *testing.T) {
	r := run(t, "", "", sbiDDRB0, sbiPORTB0, 0x0001)
	require.NotNil(t, r.Stop)
	assert.Equal(t, machine.IllegalOpcode, r.Stop.Reason)
	require.Len(t, r.Tracks[0].Frames, 1)
	assert.Equal(t, 500*ms, r.Tracks[0].Frames[0].To)
}

func TestCancelled(t *testing.T) {
	ctx, cancel := context.WithCancel(t.Context())
	cancel()
	x, _ := exercise.Read("x",
		[]byte("hemble: 1\nname: x\ntitle: x\nchip: {is: atmega328p}\nbench: {red: {part: lamp, pins: {anode: PB0, cathode: GND}}}\ntrials: [{name: x, length: 1s, expect: [{reads: red, text: on, at: end}]}]"))
	_, err := bench.Run(ctx, x, &x.Trials[0], &firmware.Image{Flash: []firmware.Segment{{Data: []byte{0xff, 0xcf}}}})
	assert.ErrorIs(t, err, context.Canceled)
}

// What the terminal would have shown is kept, up to a bound.
func TestSerialIsKept(t *testing.T) {
	// ldi r16,8; sts UCSR0B,r16; ldi r16,'H'; sts UDR0,r16; rjmp .-2
	r := run(t, "", "", 0xe008, 0x9300, 0x00c1, 0xe408, 0x9300, 0x00c6, self)
	assert.Equal(t, "H", r.Serial)
	// the same, sending for ever at 1 Mbaud: ...; lds r17,UCSR0A; sbrs r17,5; rjmp back; sts UDR0; rjmp
	r = run(t, "", "", 0xe008, 0x9300, 0x00c1, 0xe408, 0x9110, 0x00c0, 0xff15, 0xcffc, 0x9300, 0x00c6, 0xcff9)
	assert.InDelta(t, 50_000, len(r.Serial), 2, "half a second at 1 Mbaud is 50 000 bytes")
	assert.LessOrEqual(t, len(r.Serial), reel.MaxSerial)
}

// A lamp without its resistor draws what its pin does not bear; for a moment that is nothing to tell.
func TestCurrentsOverLimits(t *testing.T) {
	r := run(t, "  bare: {part: lamp, resistor: 0, pins: {anode: PB1, cathode: GND}}", "", 0x9a21, 0x9a29, self)
	assert.Contains(t, notes(r),
		"current-PB1: PB1 gave 128 mA for 500 ms; the ATmega328P is rated for 40 mA there: is a resistor missing?")
	assert.NotContains(t, notes(r), "current-PB0")
	r = run(t, "  bare: {part: lamp, resistor: 0, pins: {anode: PB1, cathode: GND}}", "", 0x9a21, 0x9a29, 0x9829, self)
	assert.Empty(t, notes(r))
	// Eight segments of 20 mA each at one pin.
	r = run(t, "  gauge: {part: seven-segment, common: cathode, resistor: 100, pins: {a: VCC, b: VCC, c: VCC, d: VCC, e: VCC, f: VCC, g: VCC, common: PB1}}", "", 0x9a21, self)
	assert.Contains(t, notes(r), "PB1 took")
}

// A bench without a chip: a square wave clocks a counter whose digit counts.
func TestWithoutAChip(t *testing.T) {
	x, problems := exercise.Read("x", []byte(`hemble: 1
name: x
title: x
chip: {is: none}
bench:
  wave: {part: square-wave, frequency: 10Hz, pins: {out: clock}}
  counter: {part: cd4026, pins: {clk: clock, rst: GND, a: a, b: b, c: c, d: d, e: e, f: f, g: g}}
  digit: {part: seven-segment, common: cathode, resistor: 0, pins: {a: a, b: b, c: c, d: d, e: e, f: f, g: g, common: GND}}
trials: [{name: x, length: 2s, expect: [{reads: digit, text: 0, at: end}]}]
`))
	require.Empty(t, problems)
	r, err := bench.Run(t.Context(), x, &x.Trials[0], nil)
	require.NoError(t, err)
	frames := r.Track("digit").Frames
	require.Len(t, frames, 20)
	for i := 1; i < len(frames)-1; i++ {
		assert.Equal(t, 100*ms, frames[i].Length())
	}
}

// A run can go on step by step, with cues that nobody planned, and is the same as one in a go.
func TestStepByStep(t *testing.T) {
	x, problems := exercise.Read("x", []byte(`hemble: 1
name: x
title: x
chip: {is: none}
bench:
  knob: {part: switch, bounce: 0, pins: {common: line, on: VCC}}
  red: {part: lamp, pins: {anode: line, cathode: GND}}
trials: [{name: x, length: 2s, cues: [{at: 1s, set: knob, to: on}], expect: [{reads: red, text: on, at: end}]}]
`))
	require.Empty(t, problems)
	planned, err := bench.Run(t.Context(), x, &x.Trials[0], nil)
	require.NoError(t, err)
	free := x.Trials[0]
	free.Cues = nil
	b, err := bench.New(x, &free, nil, bench.Options{})
	require.NoError(t, err)
	require.NoError(t, b.Advance(t.Context(), 1*clock.Second))
	assert.Equal(t, "off", b.Live()[0].Frames[0].Text)
	b.Cue(x.Trials[0].Cues[0])
	require.NoError(t, b.Advance(t.Context(), 1300*ms))
	assert.Equal(t, "on", b.Live()[0].Frames[0].Text)
	require.NoError(t, b.Advance(t.Context(), 5*clock.Second))
	assert.Equal(t, planned, b.Finish())
}

// A button between PC6 and ground is the reset button: the program starts over, the lamp goes dark until it
// has.
func TestResetButton(t *testing.T) {
	r := run(t, "  restart: {part: button, bounce: 0, pins: {1: PC6, 2: GND}}",
		"{at: 100ms, press: restart, for: 150ms}", sbiDDRB0, sbiPORTB0, self)
	frames := r.Tracks[0].Frames
	require.Len(t, frames, 3)
	assert.Equal(t, []string{"on", "off", "on"}, []string{frames[0].Text, frames[1].Text, frames[2].Text})
	assert.InDelta(t, float64(100*ms), float64(frames[1].From), float64(clock.Microsecond))
	assert.InDelta(t, float64(250*ms), float64(frames[2].From), float64(clock.Microsecond))
}

// A reel is as large for a minute of scanning as for a second: it grows with what is seen.
func TestReelsAreSmall(t *testing.T) {
	x, im := withDisplays(t)
	size := func(length clock.Time) (int, int64) {
		trial := x.Trials[0]
		trial.Length = length
		r, err := bench.Run(t.Context(), x, &trial, im)
		require.NoError(t, err)
		// the LCD shows something new each time; the digits do too, so only quality is left of them
		r.Log, r.Tracks[1].Frames = nil, nil
		edges := r.Counters.Edges
		r.Tracks[0].Frames = r.Tracks[0].Frames[:1]
		text, err := json.Marshal(r)
		require.NoError(t, err)
		return len(text), edges
	}
	short, few := size(clock.Second)
	long, many := size(5 * clock.Second)
	assert.Greater(t, many, 4*few)
	assert.InDelta(t, short, long, 1500)
}

// watched keeps what a watcher is told.
type watched struct {
	nets    map[string]int
	lights  int
	cells   int
	moments int
}

func (w *watched) Net(name string, _ circuit.Drive, _ bool) { w.nets[name]++ }
func (w *watched) Light(int, int, int64)                    { w.lights++ }
func (w *watched) Cell(int, int, display.Cell)              { w.cells++ }
func (w *watched) Settled(clock.Time, machine.Place)        { w.moments++ }

// Watching changes nothing.
func TestWatching(t *testing.T) {
	x, im := withDisplays(t)
	trial := x.Trials[0]
	trial.Length = clock.Second
	plain, err := bench.Run(t.Context(), x, &trial, im)
	require.NoError(t, err)
	w := &watched{nets: map[string]int{}}
	b, err := bench.New(x, &trial, im, bench.Options{Watcher: w})
	require.NoError(t, err)
	require.NoError(t, b.Advance(t.Context(), trial.Length))
	assert.Equal(t, plain, b.Finish())
	assert.Greater(t, w.nets["PC0"], 200)
	assert.Greater(t, w.lights, 2000)
	assert.Greater(t, w.cells, 15)
	assert.Greater(t, w.moments, 1000)
}
