package fault

import (
	"fmt"

	"hemble/core/finding"
	"hemble/core/machine"
)

// Mistakes in one place of the program itself, whatever they do: found by changing that place and running it again. A
// number whose part in it nobody names costs what the others cost, more than a limit or a start.

var (
	programNumber = &Fault{Entry: finding.Entry{Code: "program-number", Price: finding.Program, Whole: true,
		Doc: "a number in one line of the program is another one than it should be"}}
	programCondition = &Fault{Entry: finding.Entry{Code: "program-condition", Price: finding.Program, Whole: true,
		Doc: "a condition in one line of the program decides otherwise than it should"}}
	programOperation = &Fault{Entry: finding.Entry{Code: "program-operation", Price: finding.Program, Whole: true,
		Doc: "one line of the program does the opposite of what it should: plus for minus, left for right"}}
	programStep = &Fault{Entry: finding.Entry{Code: "program-step", Price: finding.Program, Whole: true,
		Doc: "one line of the program does what it should not do at all, lacks something, or stands in the wrong block"}}
)

func init() {
	for _, f := range []*Fault{programNumber, programCondition, programOperation, programStep} {
		f.Sizes = func(*Subject) []Size { return nil } // it is no transform of what a display shows: see Altered
		register(f)
	}
}

// slips are the faults that they are, in words.
var slips = map[machine.Slip]struct {
	fault *Fault
	text  string
}{
	machine.Inclusive:  {programCondition, "a comparison is off by its limit, as < and <= are"},
	machine.Reversed:   {programCondition, "a condition is the wrong way round"},
	machine.Regardless: {programCondition, "a condition should make no difference, always met or never"},
	machine.Sign:       {programOperation, "something is added that should be subtracted, or the reverse"},
	machine.Shift:      {programOperation, "bits move left that should move right, or the reverse"},
	machine.Level:      {programOperation, "a bit is set that should be cleared, or the reverse"},
	machine.Mask:       {programOperation, "bits are joined by & where | is needed, or the reverse"},
	machine.Inverted:   {programOperation, "bits are inverted that should stay as they are"},
	machine.Neighbours: {programOperation, "two neighbours are exchanged"},
	machine.Needless:   {programStep, "a value is set, or a function called, that should not be"},
	machine.Missing:    {programStep, "something is missing"},
	machine.Indented:   {programStep, "the line belongs to another block"},
}

// Altered is an alteration of a program as a fault and its repair.
func Altered(a machine.Alteration) (*Fault, Size) {
	slip, known := slips[a.Slip]
	slip.text += changedSo
	if !known {
		slip.fault, slip.text = programNumber, wrongNumber(a)
	}
	if a.Stands != "" || a.Meant != "" {
		slip.text = inWords(a)
	}
	where := fmt.Sprintf("In %s line %d", a.Line.File, a.Line.Line)
	switch {
	case a.Table != "" && a.Bytes == 1:
		where = fmt.Sprintf("In what “%s” begins with", a.Table)
	case a.Table != "" && a.Bytes <= variable:
		where = fmt.Sprintf("In what “%s” begins with, byte %d", a.Table, a.Element)
	case a.Table != "":
		where = fmt.Sprintf("In the table “%s”, byte %d", a.Table, a.Element)
	case a.Line.File == "":
		where = fmt.Sprintf("At program address 0x%04X", a.Address)
	case a.Places > 1:
		where += fmt.Sprintf(" and wherever the same number stands (%d places)", a.Places)
	case a.Behind:
		where = fmt.Sprintf("Behind line %d of %s", a.Line.Line, a.Line.File)
	case a.Around:
		where = fmt.Sprintf("In what begins at %s line %d", a.Line.File, a.Line.Line)
	}
	return slip.fault, Size{Text: where + ", " + slip.text + ".", Bench: mended(a.Change)}
}

// variable is how many bytes a variable has at most; what has more is a table.
const variable = 4

// changedSo ends what is told of a place that was changed.
const changedSo = ": with that changed, everything is as expected"

// inWords says it of a source that is known word by word.
func inWords(a machine.Alteration) string {
	switch {
	case a.Slip == machine.Indented && a.To > a.From:
		return fmt.Sprintf("“%s” belongs to the block before it, and stands outside", a.Stands) + changedSo
	case a.Slip == machine.Indented:
		return fmt.Sprintf("“%s” stands in the block before it, and belongs behind it", a.Stands) + changedSo
	case a.Stands == "":
		return fmt.Sprintf("“%s” is missing: with it everything is as expected", a.Meant)
	case a.Meant == "":
		return fmt.Sprintf("“%s” should not be there", a.Stands) + changedSo
	}
	return fmt.Sprintf("with “%s” in place of “%s” everything is as expected", a.Meant, a.Stands)
}

// wrongNumber says it of a number, as it is compiled: > 9 may be there as >= 10. Other numbers may do as well.
func wrongNumber(a machine.Alteration) string {
	switch a.To - a.From {
	case 1:
		return "a number is too small by 1" + changedSo
	case -1:
		return "a number is too large by 1" + changedSo
	}
	return fmt.Sprintf("with %d in place of the number %d everything is as expected", a.To, a.From)
}
