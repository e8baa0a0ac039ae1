package report

import (
	"bufio"
	"fmt"
	"io"

	"hemble/core/circuit"
	"hemble/core/clock"
	"hemble/core/machine"
)

// VCD writes pin activity as a value change dump (IEEE 1364-2005, clause 18). It is a
// machine.Listener. A pin is 0 or 1 when driven or pulled up, z when it drives nothing.
type VCD struct {
	out  *bufio.Writer
	chip *machine.Chip
	last clock.Time
	err  error
}

// NewVCD writes the header for a chip: one wire for each pin, in one scope for each port.
func NewVCD(w io.Writer, chip *machine.Chip) *VCD {
	v := &VCD{out: bufio.NewWriterSize(w, 1<<16), chip: chip, last: -1}
	v.printf("$version Hemble $end\n$timescale 1 ps $end\n$scope module %s $end\n", chip.Name)
	for i, p := range chip.Pins {
		if p.Name != "" {
			v.printf("$var wire 1 %s %s $end\n", v.code(i), p.Name)
		}
	}
	v.printf("$upscope $end\n$enddefinitions $end\n#0\n$dumpvars\n")
	for i, p := range chip.Pins {
		if p.Name != "" {
			v.printf("z%s\n", v.code(i))
		}
	}
	v.printf("$end\n")
	v.last = 0
	return v
}

func (v *VCD) printf(format string, args ...any) {
	if _, err := fmt.Fprintf(v.out, format, args...); err != nil && v.err == nil {
		v.err = err
	}
}

func (v *VCD) code(pin int) string { return string(rune('!' + pin)) }

// Drive writes changes.
func (v *VCD) Drive(t clock.Time, changes []machine.Change, _ machine.Place) clock.Time {
	if t != v.last {
		v.printf("#%d\n", int64(t))
		v.last = t
	}
	for _, c := range changes {
		value := "z"
		switch c.Drive.Level {
		case circuit.Low:
			value = "0"
		case circuit.High:
			value = "1"
		}
		v.printf("%s%s\n", value, v.code(int(c.Pin)))
	}
	return clock.Never
}

// Close writes the end of the run.
func (v *VCD) Close(end clock.Time) error {
	if end > v.last {
		v.printf("#%d\n", int64(end))
	}
	if err := v.out.Flush(); err != nil && v.err == nil {
		v.err = err
	}
	return v.err
}
