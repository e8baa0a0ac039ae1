// Package analog has the parts that put a voltage on a net: a potentiometer, a source that follows a curve, and a
// thermistor in a divider.
package analog

import (
	"fmt"
	"math/big"
	"strings"

	"hemble/core/circuit"
	"hemble/core/part"
	"hemble/core/spec"
)

// Terminals of a potentiometer, in the order of Pins.
const (
	wiper = iota
	low
	high
)

func init() {
	part.Register(&part.Kind{
		Name:   "potentiometer",
		Also:   []string{"pot", "poti", "knob"},
		Title:  "Potentiometer",
		Doc:    "A voltage between those at its ends, by the position of the knob. `set` turns it to a percentage.",
		Source: "a linear 10 kΩ potentiometer, not loaded",
		Settings: []spec.Field{
			{Name: "position", Kind: spec.Percent, Default: "50%",
				Doc: "the knob's position at power-on, from the low end"},
		},
		Symbol: part.SymbolPotentiometer,
		Pins: []spec.Key{{Name: "wiper", Doc: "the moving contact"},
			{Name: "low", Doc: "the end at 0%; GND if not wired", Optional: true},
			{Name: "high", Doc: "the end at 100%; VCC if not wired", Optional: true}},
		Volts:    true,
		Measured: true,
		Scaled: &part.Scaled{Settings: turned, Cue: func(to string, n, d int64) string {
			at, err := percent(to)
			if err != nil {
				return to
			}
			return fmt.Sprintf("%s%%", new(big.Rat).Mul(times(at, n, d), big.NewRat(100, 1)).FloatString(4))
		}},
		Cues:    []string{part.Set},
		Value:   "position",
		Example: "dial: {part: potentiometer, position: 20%, pins: {wiper: <1>}}",
		CheckCue: func(_ part.Instance, c part.Cue) error {
			_, err := percent(c.To)
			return err
		},
		Controls: func(b part.Instance) []part.Control {
			at, _ := b.Settings.Get("position").Number.Float64()
			return []part.Control{part.Scale("turn to", 0, 100, 5, int(at*100), part.Unit("%"))}
		},
		New: func(b part.Instance, w part.Host) part.Part {
			return &potentiometer{world: w, supply: b.Supply, at: b.Settings.Get("position").Number,
				wired: [3]bool{true, b.Wired[low] != "", b.Wired[high] != ""}}
		},
	})
}

// times is n/d of a position, as far as the knob goes.
func times(at *big.Rat, n, d int64) *big.Rat {
	if at = new(big.Rat).Mul(at, big.NewRat(n, d)); at.Cmp(big.NewRat(1, 1)) > 0 {
		return big.NewRat(1, 1)
	}
	return at
}

// turned is the knob at n/d of its position.
func turned(b part.Instance, n, d int64) spec.Values {
	v := b.Settings.Get("position")
	v.Number = times(v.Number, n, d)
	v.Text = v.Number.RatString()
	return b.Settings.With("position", v)
}

// percent reads a percentage as a fraction of one.
func percent(text string) (*big.Rat, error) {
	r, ok := new(big.Rat).SetString(strings.TrimSpace(strings.TrimSuffix(text, "%")))
	if !ok || !strings.HasSuffix(text, "%") || len(text) > 20 || r.Sign() < 0 || r.Cmp(big.NewRat(100, 1)) > 0 {
		return nil, fmt.Errorf("a potentiometer is set `to:` a percentage, such as 75%%, not %q", text)
	}
	return r.Quo(r, big.NewRat(100, 1)), nil
}

type potentiometer struct {
	world  part.Host
	supply int64
	at     *big.Rat
	wired  [3]bool
}

func (p *potentiometer) end(terminal int, otherwise int64) int64 {
	if !p.wired[terminal] {
		return otherwise
	}
	return p.world.Net(terminal).Voltage(p.supply)
}

// Changed recomputes the wiper's voltage.
func (p *potentiometer) Changed(uint64) {
	from, to := p.end(low, 0), p.end(high, p.supply)
	v := new(big.Rat).Mul(p.at, big.NewRat(to-from, 1))
	microvolts := from + new(big.Int).Quo(v.Num(), v.Denom()).Int64()
	p.world.Drive(wiper, circuit.Voltage(microvolts, p.supply))
}

// Cue turns the knob.
func (p *potentiometer) Cue(c part.Cue) error {
	at, err := percent(c.To)
	if err != nil {
		return err
	}
	p.at = at
	p.Changed(0)
	return nil
}

// Wake does nothing: there are no timers.
func (p *potentiometer) Wake(int) {}
