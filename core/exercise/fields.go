package exercise

import (
	"math/big"
	"slices"
	"strings"

	"hemble/core/finding"
	"hemble/core/judge"
	"hemble/core/machine"
	"hemble/core/part"
	"hemble/core/spec"
)

// The kinds of work that can be submitted.
const (
	Firmware = "firmware" // HEX or ELF
	Source   = "source"   // a file, or a zip archive of some
	Capture  = "capture"  // VCD
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
	chip := []spec.Field{
		{Name: "is", Kind: spec.Choice, Choices: append(chipNames(), noChip), Required: true,
			Doc: "the chip's part number, or `none` for a bench without a chip, whose parts drive each other"},
		{Name: "board", Kind: spec.Choice, Choices: boardNames(),
			Doc: "a board whose pin names can be used besides the chip's own: " + boardTitles()},
		{Name: "clock", Kind: spec.Rate, Doc: "its oscillator (default: the chip's usual one)"},
		{Name: "clock-pin", Kind: spec.Text, Doc: "of an `fpga`: the pin that the oscillator is at (default: E3)"},
		{Name: "supply", Kind: spec.Volts, Default: "5V", Doc: "the board's supply"},
	}
	return []spec.Field{
		{Name: "hemble", Kind: spec.Choice, Choices: []string{"1"}, Required: true, Doc: "the version of this format"},
		{Name: "name", Kind: spec.Name, Required: true, Doc: "the exercise's short name, in addresses and commands"},
		{Name: "title", Kind: spec.Text, Required: true, Doc: "the exercise's title"},
		{Name: "brief", Kind: spec.Text, Doc: "the text for students"},
		{Name: "chip", Kind: spec.Mapping, Required: true, Doc: "the microcontroller", Fields: append(slices.Clip(chip), orFields(chip))},
		{Name: "marks", Kind: spec.Decimal, Doc: "the sum of all marks, checked if given"},
		{Name: "takes", Kind: spec.List,
			Of:  &spec.Field{Name: "kind", Kind: spec.Choice, Choices: []string{Firmware, Source, Capture}},
			Doc: "the kinds of submission accepted (default: `[firmware, source]`). A capture proves nothing: it is what its maker says a logic analyser recorded"},
		{Name: "rounding", Kind: spec.Decimal, Default: "0.5",
			Doc: "marks are rounded once, at the end, half up to a multiple of this"},
		{Name: "bench", Kind: spec.Any, Required: true,
			Doc: "the parts by name, each a mapping with its `part`, its settings and its `pins`; `include` reads parts from a shared file, or a list of files, by path relative to this one"},
		{Name: "groups", Kind: spec.Any,
			Doc: "groups of displays that are read as one and can be used like a display: each a list of lamps, digits or bars, from the left. Digits side by side are one number, as in `count: [tens, ones]`; a frame of other groups says what each member shows, `{green: on, amber: on, red: off}`, or names the lit lamps, `green + amber`, or `off`"},
		{Name: "characters", Kind: spec.Any,
			Doc: "custom characters of character displays: for each, a letter to use in texts and the rows of its dots, as `\"▲\": [\"..#..\", \".###.\", \"#####\"]`; `▢` stands for any custom character"},
		{Name: "vary", Kind: spec.Any,
			Doc: "values that differ between students, by name: each a list to choose from, or {from, to, step}. `${name}` inserts the value anywhere in the file, `${name + 8}` a sum in whole numbers; a value that is only a sum, such as `\"${name}+8\"`, is computed too"},
		{Name: "faults", Kind: spec.Choice, Choices: []string{"each", "once"}, Default: "once",
			Doc: "`once`: a mistake whose repair was tested costs its price, once, whatever it brought about; `each`: every expectation is marked by what was seen alone"},
		{Name: "prices", Kind: spec.Mapping, Fields: priceFields(),
			Doc: "what mistakes cost, in percent of the full marks of each expectation that they touched"},
		{Name: "deductions", Kind: spec.List, Doc: "marks taken off for findings",
			Of: &spec.Field{Name: "deduction", Kind: spec.Mapping, Fields: []spec.Field{
				{Name: "finding", Kind: spec.Text, Required: true,
					Doc: "the finding's code, or its first words: `floating` covers `floating-PC0`, `lcd-busy` covers that of any display"},
				{Name: "marks", Kind: spec.Decimal, Required: true, Doc: "marks deducted, once"},
			}}},
		{Name: "by-hand", Kind: spec.List, Doc: "marks that a person gives",
			Of: &spec.Field{Name: "row", Kind: spec.Mapping, Fields: []spec.Field{
				{Name: "what", Kind: spec.Text, Required: true, Doc: "what is marked"},
				{Name: "marks", Kind: spec.Decimal, Required: true, Doc: "its marks"},
				{Name: "notes", Kind: spec.Text, Doc: "notes for markers"},
			}}},
		{Name: "trials", Kind: spec.List, Of: &spec.Field{Name: "trial", Kind: spec.Mapping, Fields: trialFields()},
			Required: true, Doc: "the runs"},
	}
}

func trialFields() []spec.Field {
	return []spec.Field{
		{Name: "name", Kind: spec.Text, Required: true, Doc: "what the trial is called on the mark sheet"},
		{Name: "length", Kind: spec.Duration, Required: true, Doc: "how long it runs, from power-on"},
		{Name: "seed", Kind: spec.Int, Min: 0, Max: 1 << 31, Default: "1",
			Doc: "seed of everything random: bounce, floating inputs, memory at power-on"},
		{Name: "hidden", Kind: spec.Bool, Default: "no",
			Doc: "students only see that it exists and, once marks are released, its marks"},
		{Name: "at-most", Was: "most", Kind: spec.Decimal, Doc: "the most marks this trial gives, bonus included"},
		{Name: "notes", Kind: spec.Text, Doc: "notes for markers; students do not see them"},
		{Name: "cues", Kind: spec.List, Of: &spec.Field{Name: "cue", Kind: spec.Mapping, Fields: cueFields()},
			Doc: "timed inputs"},
		{Name: "expect", Kind: spec.List, Of: &spec.Field{Name: "expectation", Kind: spec.Any},
			Doc: "what must be seen, each a mapping with the kind of expectation as its first key"},
	}
}

func cueFields() []spec.Field {
	return []spec.Field{
		{Name: "at", Kind: spec.Duration, Doc: "when, since power-on"},
		{Name: "after", Kind: spec.Mapping, Doc: "in place of `at`: some time after another cue", Fields: []spec.Field{
			{Name: "cue", Kind: spec.Name, Required: true, Doc: "the name of an earlier cue"},
			{Name: "from", Kind: spec.Choice, Choices: []string{"start", "end"}, Default: "end",
				Doc: "the moment of that cue that time is counted from"},
			{Name: "by", Kind: spec.Duration, Default: "0", Doc: "how much later"},
		}},
		{Name: "when", Kind: spec.Mapping,
			Doc: "in place of `at`: as soon as a display shows a state, plus the sixth of a second that a person needs to notice",
			Fields: []spec.Field{
				{Name: "display", Kind: spec.Name, Required: true, Doc: "the display, or a terminal"},
				{Name: "shows", Kind: spec.Frame, Required: true, Doc: "the state, written as a frame of `shows`"},
				{Name: "within", Kind: spec.Duration,
					Doc: "the latest time, since power-on; after that the cue does not happen, and expectations that depend on it are not judged"},
			}},
		{Name: part.Press, Kind: spec.Name, Doc: "the button, keypad or encoder to press, for the time in `for`"},
		{Name: part.Hold, Kind: spec.Name, Doc: "what to press and hold"},
		{Name: part.Release, Kind: spec.Name, Doc: "what to release"},
		{Name: part.Turn, Kind: spec.Name, Doc: "the encoder to turn, `by` a number of detents"},
		{Name: part.Set, Kind: spec.Name, Doc: "the part to set, `to` a value"},
		{Name: part.Type, Kind: spec.Name, Doc: "the terminal to type `text` into"},
		{Name: "for", Kind: spec.Duration, Default: "100ms",
			Doc: "how long a press is held; how long a turn takes for each detent"},
		{Name: "by", Kind: spec.Int, Min: -1000, Max: 1000, Default: "1", Doc: "detents of a turn, clockwise positive"},
		{Name: "to", Kind: spec.Text,
			Doc: "the value to set: on or off, a voltage, a percentage, a temperature, depending on the part"},
		{Name: "text", Kind: spec.Text, Doc: "what to type; \\n for the Enter key"},
		{Name: "key", Kind: spec.Text, Doc: "which key of a keypad"},
		{Name: "as", Kind: spec.Name, Doc: "a name for expectations to refer to"},
	}
}

// marksFields go with every expectation.
var marksFields = []spec.Field{
	{Name: "marks", Kind: spec.Decimal, Default: "1", Doc: "its marks"},
	{Name: "bonus", Kind: spec.Bool, Default: "no", Doc: "its marks are a bonus on top of full marks"},
	{Name: "gate", Kind: spec.Bool, Default: "no", Doc: "if it is missed, the trial gives nothing"},
	{Name: "notes", Kind: spec.Text, Doc: "notes for markers; students do not see them"},
}

// MarkNames are the keys that go with every expectation, whatever its kind.
func MarkNames() []string { return spec.Names(marksFields) }

// AnyOf is the key of alternatives.
const AnyOf = "any-of"

// AnyOfExample is one for the documentation.
const AnyOfExample = `any-of:
  - {shows: gauge, frames: [2, 4]}
  - {shows: gauge, frames: [2, 3, 4]}
marks: 2`

// anyOfFields are those of alternatives.
func anyOfFields() []spec.Field {
	return append([]spec.Field{{Name: AnyOf, Kind: spec.List, Of: &spec.Field{Name: "expectation", Kind: spec.Any},
		Required: true, Doc: "expectations without marks; the best one counts"}},
		marksFields...)
}

// partFields are those of a part of one kind.
func partFields(k *part.Kind) []spec.Field {
	return append([]spec.Field{
		{Name: "part", Kind: spec.Choice, Choices: partNames(), Required: true, Doc: "the kind of part"},
		{Name: "pins", Kind: spec.Dict, Keys: k.Pins, Required: true,
			Doc: "what each terminal is connected to: a pin of the chip, VCC, GND, or a net with a name of your choice that joins parts"},
		{Name: "student-wiring", Was: "rewire", Kind: spec.Bool, Default: "no",
			Doc: "students may wire its pins differently, and submit a wiring file"},
	}, k.Settings...)
}

// subject returns what follows the name of an expectation.
func subject(k *judge.Kind) string {
	if k.Free {
		return "what it is about"
	}
	return "the display"
}

// expectationFields are those of an expectation of one kind, beside marksFields.
func expectationFields(k *judge.Kind) []spec.Field {
	return append([]spec.Field{{Name: k.Name, Kind: spec.Name, Required: true, Doc: subject(k)}}, k.Fields...)
}

func boardNames() (out []string) {
	for _, b := range machine.Boards("") {
		out = append(out, b.Name)
	}
	return out
}

func boardTitles() string {
	var out []string
	for _, b := range machine.Boards("") {
		out = append(out, "`"+b.Name+"` has "+b.Title)
	}
	return strings.Join(out, "; ")
}

// priceFields has one field for each sort of mistake.
func priceFields() (out []spec.Field) {
	for _, p := range finding.Prices {
		cost, _ := p.Usual()
		percent := new(big.Rat).Mul(cost, big.NewRat(100, 1))
		out = append(out, spec.Field{Name: string(p), Kind: spec.Percent, Default: percent.FloatString(0) + "%",
			Doc: priceDocs[p]})
	}
	return out
}

var priceDocs = map[finding.Price]string{
	finding.Form:       "the right value in another form: leading zeros, a colon, leftovers of a longer text",
	finding.Constant:   "a wrong constant: a start, a limit, a hold time, a word",
	finding.Pace:       "all times too long or too short by the same factor",
	finding.Single:     "one symbol, one step, one edge of a window",
	finding.Wiring:     "lines, polarity, order or direction",
	finding.Behaviour:  "bounce, both edges, something that never ends, a scan that is blocked",
	finding.Program:    "one place of the program, where nothing more is known of it than that it is wrong",
	finding.Unreadable: "nothing can be read until it is repaired: a wrong rate or address",
}
