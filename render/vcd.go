package render

import (
	"bufio"
	"fmt"
	"io"
	"strconv"

	"hemble/core/circuit"
	"hemble/core/clock"
	"hemble/core/display"
	"hemble/core/machine"
	"hemble/core/part"
)

// vcd writes a value change dump (IEEE 1364-2005, clause 18) with a timescale of a picosecond.
type vcd struct {
	out  *bufio.Writer
	last clock.Time
	err  error
}

func newVCD(w io.Writer) vcd {
	return vcd{out: bufio.NewWriterSize(w, 1<<16), last: -1}
}

func (v *vcd) printf(format string, args ...any) {
	if _, err := fmt.Fprintf(v.out, format, args...); err != nil && v.err == nil {
		v.err = err
	}
}

// code is the identifier of a signal: printable characters, as many as it takes.
func code(signal int) string {
	const first, n = '!', '~' - '!' + 1
	out := ""
	for {
		out += string(rune(first + signal%n))
		if signal /= n; signal == 0 {
			return out
		}
		signal--
	}
}

func (v *vcd) at(t clock.Time) {
	if t != v.last {
		v.printf("#%d\n", int64(t))
		v.last = t
	}
}

// level is the character of a level: a net is 0 or 1 when driven or pulled, z when nothing drives it, x when
// strong drivers work against each other.
func level(l circuit.Level, contended bool) string {
	if contended {
		return "x"
	}
	return [...]string{"0", "1", "z"}[l]
}

// Close writes the end of the run.
func (v *vcd) Close(end clock.Time) error {
	if end > v.last {
		v.printf("#%d\n", int64(end))
	}
	if err := v.out.Flush(); err != nil && v.err == nil {
		v.err = err
	}
	return v.err
}

// PinVCD writes what the pins of a bare chip do. It is a machine.Listener.
type PinVCD struct{ vcd }

// NewPinVCD writes the header for a chip: one wire for each pin.
func NewPinVCD(w io.Writer, chip *machine.Chip) *PinVCD {
	v := &PinVCD{newVCD(w)}
	v.printf("$version Hemble $end\n$timescale 1 ps $end\n$scope module %s $end\n", chip.Name)
	for i, p := range chip.Pins {
		if p.Name != "" {
			v.printf("$var wire 1 %s %s $end\n", code(i), p.Name)
		}
	}
	v.printf("$upscope $end\n$enddefinitions $end\n#0\n$dumpvars\n")
	for i, p := range chip.Pins {
		if p.Name != "" {
			v.printf("z%s\n", code(i))
		}
	}
	v.printf("$end\n")
	v.last = 0
	return v
}

// Drive writes changes.
func (v *PinVCD) Drive(t clock.Time, changes []machine.Change, _ machine.Place) clock.Time {
	v.at(t)
	for _, c := range changes {
		v.printf("%s%s\n", level(c.Drive.Level, false), code(int(c.Pin)))
	}
	return clock.Never
}

// NetVCD writes what the nets of a bench do. It is a bench.Watcher.
type NetVCD struct {
	vcd
	nets   map[string]int // signal of each net
	volts  map[string]int // signal of its voltage, where a part puts one on it
	buffer []byte         // changes since the last moment
	supply int64
}

// NewNetVCD writes the header for a bench: a scope for its nets, by their names, and one for each part, in
// which its pins are the same signals by the part's own names.
func NewNetVCD(w io.Writer, name string, parts []*part.Instance) *NetVCD {
	v := &NetVCD{vcd: newVCD(w), nets: map[string]int{}, volts: map[string]int{}}
	v.printf("$version Hemble $end\n$timescale 1 ps $end\n$scope module %s $end\n$scope module nets $end\n", name)
	signals := 0
	for _, p := range parts {
		v.supply = p.Supply
		for _, net := range p.Wired {
			if _, known := v.nets[net]; !known && net != "" {
				v.nets[net] = signals
				v.printf("$var wire 1 %s %s $end\n", code(signals), net)
				signals++
			}
			if _, known := v.volts[net]; p.Kind.Volts && !known && net != "" && net != "VCC" && net != "GND" {
				v.volts[net] = signals
				v.printf("$var real 64 %s %s_volts $end\n", code(signals), net)
				signals++
			}
		}
	}
	v.printf("$upscope $end\n")
	for _, p := range parts {
		v.printf("$scope module %s $end\n", p.Name)
		for i, net := range p.Wired {
			if net != "" {
				v.printf("$var wire 1 %s %s $end\n", code(v.nets[net]), p.Kind.Pins[i].Name)
			}
		}
		v.printf("$upscope $end\n")
	}
	v.printf("$upscope $end\n$enddefinitions $end\n")
	return v
}

// Net writes a change.
func (v *NetVCD) Net(name string, d circuit.Drive, contended bool) {
	v.buffer = append(v.buffer, level(d.Level, contended)...)
	v.buffer = append(append(v.buffer, code(v.nets[name])...), '\n')
	if signal, ok := v.volts[name]; ok {
		v.buffer = append(v.buffer, 'r')
		v.buffer = strconv.AppendFloat(v.buffer, float64(d.Voltage(v.supply))/1e6, 'f', -1, 64)
		v.buffer = append(append(append(v.buffer, ' '), code(signal)...), '\n')
	}
}

// Light, Cell: displays are no nets.
func (v *NetVCD) Light(int, int, int64)       {}
func (v *NetVCD) Cell(int, int, display.Cell) {}

// Settled writes what changed at a moment.
func (v *NetVCD) Settled(t clock.Time, _ machine.Place) {
	if len(v.buffer) == 0 {
		return
	}
	v.at(t)
	if _, err := v.out.Write(v.buffer); err != nil && v.err == nil {
		v.err = err
	}
	v.buffer = v.buffer[:0]
}
