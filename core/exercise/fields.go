package exercise

import (
	"hemble/core/judge"
	"hemble/core/machine"
	"hemble/core/part"
	"hemble/core/spec"
)

// noChip is a bench without a microcontroller.
const noChip = "none"

func chipNames() (out []string) {
	for _, c := range machine.Chips() {
		out = append(out, c.Name)
	}
	return out
}

func partNames() (out []string) {
	for _, k := range part.Kinds() {
		out = append(out, k.Name)
	}
	return out
}

// fields are those of the file.
func fields() []spec.Field {
	return []spec.Field{
		{Name: "hemble", Kind: spec.Choice, Choices: []string{"1"}, Required: true, Doc: "the version of this format"},
		{Name: "name", Kind: spec.Name, Required: true, Doc: "the exercise's short name, in addresses and commands"},
		{Name: "title", Kind: spec.Text, Required: true, Doc: "the exercise's title"},
		{Name: "brief", Kind: spec.Text, Doc: "what students are told"},
		{Name: "chip", Kind: spec.Mapping, Required: true, Doc: "the microcontroller", Fields: []spec.Field{
			{Name: "is", Kind: spec.Choice, Choices: append(chipNames(), noChip), Required: true, Doc: "the chip's part number, or `none` for a bench whose parts drive each other"},
			{Name: "clock", Kind: spec.Rate, Default: "16MHz", Doc: "its oscillator"},
			{Name: "supply", Kind: spec.Volts, Default: "5V", Doc: "the board's supply"},
		}},
		{Name: "rounding", Kind: spec.Decimal, Default: "0.5", Doc: "marks are rounded, once and at the end, half up to a multiple of this"},
		{Name: "bench", Kind: spec.Any, Required: true, Doc: "the parts by name, each a mapping with its `part`, its settings and its `pins`"},
		{Name: "trials", Kind: spec.List, Of: &spec.Field{Name: "trial", Kind: spec.Mapping, Fields: trialFields()}, Required: true, Doc: "the runs"},
	}
}

func trialFields() []spec.Field {
	return []spec.Field{
		{Name: "name", Kind: spec.Text, Required: true, Doc: "what the trial is called on the mark sheet"},
		{Name: "length", Kind: spec.Duration, Required: true, Doc: "how long it runs, from power-on"},
		{Name: "seed", Kind: spec.Int, Min: 0, Max: 1 << 31, Default: "1", Doc: "of everything random: bounce, floating inputs, memory at power-on"},
		{Name: "cues", Kind: spec.List, Of: &spec.Field{Name: "cue", Kind: spec.Mapping, Fields: cueFields()}, Doc: "timed inputs"},
		{Name: "expect", Kind: spec.List, Of: &spec.Field{Name: "expectation", Kind: spec.Any}, Required: true, Doc: "what must be seen, each a mapping with the kind of expectation as its first key"},
	}
}

func cueFields() []spec.Field {
	return []spec.Field{
		{Name: "at", Kind: spec.Duration, Required: true, Doc: "when, since power-on"},
		{Name: part.Press, Kind: spec.Name, Doc: "the button, keypad or encoder to press, for as long as `for` says"},
		{Name: part.Hold, Kind: spec.Name, Doc: "what to press and not to let go"},
		{Name: part.Release, Kind: spec.Name, Doc: "what to let go"},
		{Name: part.Turn, Kind: spec.Name, Doc: "the encoder to turn, `by` so many detents"},
		{Name: part.Set, Kind: spec.Name, Doc: "the part to set, `to` a value"},
		{Name: part.Type, Kind: spec.Name, Doc: "the terminal to type `text` at"},
		{Name: "for", Kind: spec.Duration, Default: "100ms", Doc: "how long a press is held; how long a turn takes for each detent"},
		{Name: "by", Kind: spec.Int, Min: -1000, Max: 1000, Default: "1", Doc: "detents of a turn, clockwise positive"},
		{Name: "to", Kind: spec.Text, Doc: "the value to set: on or off, a voltage, a percentage, a temperature, as the part takes it"},
		{Name: "text", Kind: spec.Text, Doc: "what to type; \\n for the Enter key"},
		{Name: "key", Kind: spec.Text, Doc: "which key of a keypad"},
		{Name: "as", Kind: spec.Name, Doc: "a name for expectations to refer to"},
	}
}

// marksField goes with every expectation.
var marksField = spec.Field{Name: "marks", Kind: spec.Decimal, Default: "1", Doc: "what it is worth"}

// partFields are those of a part of one kind.
func partFields(k *part.Kind) []spec.Field {
	return append([]spec.Field{
		{Name: "part", Kind: spec.Choice, Choices: partNames(), Required: true, Doc: "the kind of part"},
		{Name: "pins", Kind: spec.Dict, Keys: k.Pins, Required: true, Doc: "what each terminal is wired to: a pin of the chip, VCC, GND, or a net of your own naming that joins parts to each other"},
	}, k.Settings...)
}

// expectationFields are those of an expectation of one kind.
func expectationFields(k *judge.Kind) []spec.Field {
	return append([]spec.Field{{Name: k.Name, Kind: spec.Name, Required: true, Doc: "the display"}}, append(k.Fields, marksField)...)
}
