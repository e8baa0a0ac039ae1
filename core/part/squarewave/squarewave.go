// Package squarewave is a source of a square wave.
package squarewave

import (
	"errors"

	"hemble/core/circuit"
	"hemble/core/clock"
	"hemble/core/part"
	"hemble/core/spec"
)

// highest is the highest frequency a source gives.
const highest = 1_000_000

func init() {
	part.Register(&part.Kind{
		Name:   "square-wave",
		Also:   []string{"clock", "oscillator", "generator"},
		Title:  "Square-wave source",
		Doc:    "A logic output that is high for a fraction of each period, from `start` on, and low before. `set` changes its frequency, or turns it `off`. With chip `none` it clocks counters and drivers by itself.",
		Source: "a function generator's logic output",
		Settings: []spec.Field{
			{Name: "frequency", Kind: spec.Rate, Default: "1Hz", Doc: "periods per second, up to 1 MHz"},
			{Name: "duty", Kind: spec.Percent, Default: "50%", Doc: "the fraction of a period that is high"},
			{Name: "start", Kind: spec.Duration, Default: "0", Doc: "when the first period begins"},
		},
		Symbol:   part.SymbolWave,
		Pins:     []spec.Key{{Name: "out", Doc: "the output"}},
		Cues:     []string{part.Set},
		Value:    "frequency",
		Measured: true,
		Example:  "boats: {part: square-wave, frequency: 2Hz, pins: {out: <1>}}",
		Check: func(b part.Instance) (out []spec.Problem) {
			if b.Settings.Get("frequency").Rate > highest {
				out = append(out, spec.Problem{Text: errTooFast.Error()})
			}
			return out
		},
		CheckCue: func(_ part.Instance, c part.Cue) error {
			_, err := frequency(c.To)
			return err
		},
		Controls: func(part.Instance) []part.Control {
			return []part.Control{{Label: "set to", Cue: part.Cue{Verb: part.Set},
				Values: []string{"off", "1Hz", "2Hz", "5Hz", "10Hz", "100Hz", "1kHz", "10kHz"}, At: 1}}
		},
		New: func(b part.Instance, w part.Host) part.Part {
			s := &source{world: w, rate: b.Settings.Get("frequency").Rate, start: b.Settings.Time("start")}
			duty := b.Settings.Get("duty").Number
			s.num, s.den = duty.Num().Int64(), duty.Denom().Int64()
			return s
		},
	})
}

// frequency reads a frequency, 0 for off.
func frequency(to string) (clock.Rate, error) {
	if to == "off" {
		return 0, nil
	}
	r, err := clock.ParseRate(to)
	if err == nil && r > highest {
		r, err = 0, errTooFast
	}
	return r, err
}

var errTooFast = errors.New("a square wave has a frequency of up to 1 MHz")

type source struct {
	world    part.Host
	rate     clock.Rate
	start    clock.Time // of the first period at this rate
	num, den int64      // the duty
	periods  int64      // begun since start
	high     bool
	begun    bool
}

// Changed begins at power-on.
func (s *source) Changed(uint64) {
	if s.begun {
		return
	}
	s.begun = true
	s.world.Drive(0, circuit.DrivenLow)
	if s.rate > 0 && s.num > 0 {
		s.world.After(0, s.start)
	}
}

// Wake is an edge. Edges are computed from the first one, so that nothing drifts.
func (s *source) Wake(int) {
	if s.rate == 0 { // switched off
		return
	}
	s.high = !s.high
	if s.high {
		s.periods++
	}
	s.world.Drive(0, circuit.Output(s.high))
	from, to := s.rate.At(s.periods-1), s.rate.At(s.periods)
	next := s.start + to
	if s.high {
		if s.num == s.den { // always high
			return
		}
		next = s.start + from + (to-from)*clock.Time(s.num)/clock.Time(s.den)
	}
	s.world.After(0, next-s.world.Now())
}

// Cue changes the frequency: a new first period begins at once.
func (s *source) Cue(c part.Cue) error {
	rate, err := frequency(c.To)
	if err != nil {
		return err
	}
	s.rate, s.start, s.periods, s.high = rate, s.world.Now(), 0, false
	s.world.Drive(0, circuit.DrivenLow)
	if s.num > 0 {
		s.world.After(0, 0)
	}
	return nil
}
