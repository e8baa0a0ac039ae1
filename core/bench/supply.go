package bench

import "hemble/core/circuit"

// inputs are the levels that a part at a supply of its own makes of what it is given. Between what is low for sure and
// what is high for sure its data sheet promises nothing: an input stays as it was.
type inputs struct {
	low, high int64           // µV
	logic     []bool          // by terminal
	was       []circuit.Level // by terminal
}

func newInputs(f *instance) *inputs {
	k := f.of.Kind
	if k.Input == nil || f.of.Supply == f.bench.exercise.Supply {
		return nil
	}
	in := &inputs{logic: make([]bool, len(k.Pins)), was: make([]circuit.Level, len(k.Pins))}
	in.low, in.high = k.Input.Bounds(f.of.Supply)
	for i, p := range k.Pins {
		in.logic[i] = k.Input.Is(p.Name)
	}
	return in
}

// read gives what a terminal makes of its net.
func (f *instance) read(terminal int) circuit.Drive {
	n, in := f.terminals[terminal], f.inputs
	d := n.Drive
	if !in.logic[terminal] || d.Strength == circuit.None || d.Strength == circuit.Rail {
		return d
	}
	volts := d.Voltage(n.Supply)
	if own := n.Of(f.index[terminal]); d.Level == circuit.High && own.Level == circuit.High &&
		own.Strength == d.Strength {
		volts = f.of.Supply // it has pulled the net there itself
	}
	switch {
	case volts >= in.high:
		d.Level = circuit.High
	case volts <= in.low:
		d.Level = circuit.Low
	default:
		d.Level = in.was[terminal]
		f.bench.note("level-"+f.of.Name, "%s at %s is given %s at its %s: low is at most %s there, high at least %s; what "+
			"it makes of that is not sure, and here it stays as it was", f.of.Name, circuit.Volts(f.of.Supply), circuit.Volts(volts),
			f.of.Kind.Pins[terminal].Name, circuit.Volts(in.low), circuit.Volts(in.high))
	}
	in.was[terminal] = d.Level
	return d
}

// tooMuch tells of a part that puts more on a pin of the chip than that bears.
func (f *instance) tooMuch(terminal int, d circuit.Drive) {
	n, chip := f.terminals[terminal], f.bench.exercise.Chip
	if chip == nil || d.Level != circuit.High || d.Strength == circuit.None || len(n.pins) == 0 {
		return
	}
	most := f.bench.exercise.Supply + chip.Electric.Over
	if f.of.Supply > most {
		name := chip.Pins[n.pins[0]].Name
		f.bench.note("volts-"+name, "%s puts %s on %s; a pin of the %s bears %s", f.of.Name, circuit.Volts(f.of.Supply), name,
			chip.Title, circuit.Volts(most))
	}
}
