package analog

import (
	"fmt"
	"math/big"
	"strings"

	"hemble/core/circuit"
	"hemble/core/part"
	"hemble/core/spec"
)

func init() {
	part.Register(&part.Kind{
		Name:   "thermistor",
		Also:   []string{"ntc", "temperature-sensor"},
		Title:  "Thermistor in a divider",
		Doc:    "An NTC thermistor and a resistor in series between supply and ground; the voltage between them is the output. `set` changes its temperature, such as 25C.",
		Source: "the B-parameter equation R = R25·exp(B·(1/T − 1/298.15 K)), as data sheets of NTC thermistors give it",
		Settings: []spec.Field{
			{Name: "temperature", Kind: spec.Text, Default: "20C", Doc: "at power-on"},
			{Name: "r25", Kind: spec.Ohms, Default: "10k", Doc: "the thermistor's resistance at 25 °C"},
			{Name: "beta", Kind: spec.Int, Min: 2000, Max: 6000, Default: "3950", Doc: "its B parameter in kelvin"},
			{Name: "resistor", Kind: spec.Ohms, Default: "10k", Doc: "the other resistor"},
			{Name: "at", Kind: spec.Choice, Choices: []string{"ground", "supply"}, Default: "ground",
				Doc: "at which end the thermistor is"},
		},
		Symbol:   part.SymbolDivider,
		Pins:     []spec.Key{{Name: "out", Doc: "between the two resistors"}},
		Volts:    true,
		Measured: true,
		Cues:     []string{part.Set},
		Value:    "temperature",
		Example:  "room: {part: thermistor, temperature: 18C, pins: {out: <1>}}",
		Check: func(b part.Instance) (out []spec.Problem) {
			if _, err := Celsius(b.Settings.Text("temperature")); err != nil {
				out = append(out, spec.Problem{Text: err.Error()})
			}
			if b.Settings.Int("r25") == 0 || b.Settings.Int("resistor") == 0 {
				out = append(out, spec.Problem{Text: "a divider has two resistors above 0 ohms"})
			}
			return out
		},
		CheckCue: func(_ part.Instance, c part.Cue) error {
			_, err := Celsius(c.To)
			return err
		},
		Controls: func(b part.Instance) []part.Control {
			milli, _ := Celsius(b.Settings.Text("temperature"))
			return []part.Control{part.Scale("set to", -20, 60, 1, int(milli/1000), part.Unit("C"))}
		},
		New: func(b part.Instance, w part.Host) part.Part {
			t := &thermistor{world: w, supply: b.Supply, r25: float64(b.Settings.Int("r25")),
				beta:  float64(b.Settings.Int("beta")),
				other: float64(b.Settings.Int("resistor")), ground: b.Settings.Text("at") == "ground"}
			t.milli, _ = Celsius(b.Settings.Text("temperature"))
			return t
		},
	})
}

// Celsius reads a temperature of -40 to 125 °C in thousandths of a degree.
func Celsius(text string) (int64, error) {
	number := strings.TrimSuffix(strings.TrimSuffix(strings.TrimSpace(text), "C"), "°")
	r, ok := new(big.Rat).SetString(strings.TrimSpace(number))
	if !ok || number == text || len(text) > 20 || r.Cmp(big.NewRat(-40, 1)) < 0 || r.Cmp(big.NewRat(125, 1)) > 0 {
		return 0, fmt.Errorf("%q is not a temperature; write one of -40C to 125C, such as 21.5C", text)
	}
	r.Mul(r, big.NewRat(1000, 1))
	return new(big.Int).Quo(r.Num(), r.Denom()).Int64(), nil
}

type thermistor struct {
	world            part.Host
	supply           int64
	r25, beta, other float64
	ground           bool
	milli            int64 // thousandths of a degree Celsius
}

// exp is e to the x, from its series: with plain products and sums it has the same bits on every machine.
func exp(x float64) float64 {
	const halvings = 8
	x = float64(x / (1 << halvings))
	sum, term := 1.0, 1.0
	for i := 1; i < 16; i++ {
		term = float64(float64(term*x) / float64(i))
		sum = float64(sum + term)
	}
	for i := 0; i < halvings; i++ {
		sum = float64(sum * sum)
	}
	return sum
}

// ohms is the thermistor's resistance.
func (t *thermistor) ohms() float64 {
	kelvin := float64(t.milli)/1000 + 273.15
	return float64(t.r25 * exp(float64(t.beta*float64(float64(1/kelvin)-float64(1/298.15)))))
}

// Changed recomputes the voltage, to a tenth of a millivolt.
func (t *thermistor) Changed(uint64) {
	ntc := t.ohms()
	part := ntc
	if !t.ground {
		part = t.other
	}
	share := float64(part / float64(ntc+t.other))
	t.world.Drive(0, circuit.Voltage(int64(float64(share*float64(t.supply)))/100*100, t.supply))
}

// Cue changes the temperature.
func (t *thermistor) Cue(c part.Cue) error {
	milli, err := Celsius(c.To)
	if err != nil {
		return err
	}
	t.milli = milli
	t.Changed(0)
	return nil
}

// Wake does nothing: there are no timers.
func (t *thermistor) Wake(int) {}
