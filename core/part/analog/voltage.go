package analog

import (
	"fmt"
	"slices"

	"hemble/core/circuit"
	"hemble/core/clock"
	"hemble/core/part"
	"hemble/core/spec"
)

func init() {
	part.Register(&part.Kind{
		Name:   "voltage",
		Also:   []string{"analog", "sensor", "source"},
		Title:  "Voltage source",
		Doc:    "A voltage that follows a curve with straight lines between its points. `set` moves it to a voltage, where it stays.",
		Source: "an ideal source behind some kΩ, as a sensor has",
		Settings: []spec.Field{
			{Name: "volts", Kind: spec.Volts, Default: "0V", Doc: "at power-on"},
			{Name: "curve", Kind: spec.List, Of: &spec.Field{Name: "point", Kind: spec.Mapping, Fields: []spec.Field{
				{Name: "at", Kind: spec.Duration, Required: true, Doc: "since power-on"},
				{Name: "volts", Kind: spec.Volts, Required: true, Doc: "the voltage at that time"},
			}}, Doc: "points in the order of time"},
		},
		Symbol:   part.SymbolVoltage,
		Pins:     []spec.Key{{Name: "out", Doc: "the voltage"}},
		Volts:    true,
		Measured: true,
		Scaled: &part.Scaled{Settings: scaled, Cue: func(to string, n, d int64) string {
			v, err := volts(to)
			if err != nil {
				return to
			}
			v = v * n / d
			return fmt.Sprintf("%d.%06dV", v/1_000_000, v%1_000_000)
		}},
		Cues:    []string{part.Set},
		Value:   "volts",
		Example: "level: {part: voltage, volts: 1V, curve: [{at: 2s, volts: 1V}, {at: 5s, volts: 4V}], pins: {out: <1>}}",
		Check: func(b part.Instance) (out []spec.Problem) {
			last := clock.Time(-1)
			for _, p := range b.Settings.Get("curve").List {
				if p.Map.Time("at") <= last {
					out = append(out, spec.Problem{Text: "the points of a curve must be in order of time"})
				}
				last = p.Map.Time("at")
			}
			return out
		},
		CheckCue: func(_ part.Instance, c part.Cue) error {
			_, err := volts(c.To)
			return err
		},
		Controls: func(b part.Instance) []part.Control {
			return []part.Control{part.Scale("set to", 0, int(b.Supply/100_000), 1,
				int(b.Settings.Int("volts")/100_000), func(v int) string {
					return fmt.Sprintf("%d.%dV", v/10, v%10)
				})}
		},
		New: func(b part.Instance, w part.Host) part.Part {
			s := &source{world: w, supply: b.Supply, points: []point{{0, b.Settings.Int("volts")}}}
			for _, p := range b.Settings.Get("curve").List {
				s.points = append(s.points, point{p.Map.Time("at"), p.Map.Int("volts")})
			}
			return s
		},
	})
}

// scaled has all voltages times n/d, those of the curve, too.
func scaled(b part.Instance, n, d int64) spec.Values {
	times := func(v spec.Value) spec.Value {
		v.Int = v.Int * n / d
		v.Text = fmt.Sprintf("%duV", v.Int)
		return v
	}
	out := b.Settings.With("volts", times(b.Settings.Get("volts")))
	if out.Has("curve") {
		curve := out.Get("curve")
		curve.List = slices.Clone(curve.List)
		for i := range curve.List {
			m := curve.List[i].Map
			curve.List[i].Map = m.With("volts", times(m.Get("volts")))
		}
		out = out.With("curve", curve)
	}
	return out
}

// volts reads a voltage in µV.
func volts(to string) (int64, error) {
	v, err := spec.ParseVolts(to)
	if err != nil {
		return 0, fmt.Errorf("a source is set `to:` a voltage, such as 2.5V, not %q", to)
	}
	return v, nil
}

type point struct {
	at    clock.Time
	volts int64 // µV
}

// grain is how far a moving voltage goes in one step, in µV: half a step of a 10-bit converter at 5 V.
const grain = 2_500

type source struct {
	world  part.Host
	supply int64
	points []point // the first is past or present
	begun  bool
}

// Changed begins at power-on.
func (s *source) Changed(uint64) {
	if !s.begun {
		s.begun = true
		s.Wake(0)
	}
}

// Wake is the next step along the curve.
func (s *source) Wake(int) {
	now := s.world.Now()
	for len(s.points) > 1 && s.points[1].at <= now {
		s.points = s.points[1:]
	}
	here := s.points[0]
	if len(s.points) == 1 {
		s.world.Drive(0, circuit.Voltage(here.volts, s.supply))
		return
	}
	next := s.points[1]
	span, way := next.at-here.at, next.volts-here.volts
	volts := here.volts + int64(float64(way)*(float64(now-here.at)/float64(span)))
	s.world.Drive(0, circuit.Voltage(volts, s.supply))
	steps := max(1, max(way, -way)/grain)
	s.world.After(0, min(next.at-now, max(span/clock.Time(steps), 100*clock.Microsecond)))
}

// Cue leaves the curve for a voltage that stays.
func (s *source) Cue(c part.Cue) error {
	v, err := volts(c.To)
	if err != nil {
		return err
	}
	s.points = []point{{s.world.Now(), v}}
	s.Wake(0)
	return nil
}
