package build

import (
	"context"
	"fmt"
	"regexp"
	"strings"

	"hemble/core/netlist"
	"hemble/sandbox"
)

var (
	entities = regexp.MustCompile(`(?mi)^\s*entity\s+(\w+)\s+is\b`)
	uses     = regexp.MustCompile(`(?mi)(?:\bcomponent\s+(\w+)|\bentity\s+work\.(\w+))`)
	selected = regexp.MustCompile(`with (\w+) select (\w+) <=`)
	others   = regexp.MustCompile(`^\s*(.+) when others;$`)
	branch   = regexp.MustCompile(`^\s*\d+'b[01xz]+: (\w+) <= `)
	stored   = regexp.MustCompile(`^\s*reg (?:\[\d+:\d+\] )?(\w+);`)
	signal   = regexp.MustCompile(`^\s*(\w+) = (\w+); // \(isignal\)`)
	cameFrom = regexp.MustCompile(`^\s*/\* *` + unitFolder + `/(\d+)\.vhd:(\d+):\d+ *\*/$`)
)

// betweenOutputs stands between what ghdl writes in its two languages.
const betweenOutputs = "\n-- the same in VHDL --\n"

// topEntity is the entity that no other one uses; of several the last one.
func topEntity(files []File) (top string, all []string) {
	used := map[string]bool{}
	for _, f := range files {
		for _, m := range uses.FindAllSubmatch(f.Data, -1) {
			used[strings.ToLower(string(m[1])+string(m[2]))] = true
		}
		for _, m := range entities.FindAllSubmatch(f.Data, -1) {
			all = append(all, strings.ToLower(string(m[1])))
		}
	}
	for _, name := range all {
		if !used[name] {
			top = name
		}
	}
	return top, all
}

// translated is a design of VHDL in Verilog, and how its ports are numbered.
type translated struct {
	top     string
	verilog string
	ports   map[string]netlist.Range
}

// translate makes Verilog of VHDL, since yosys reads no other. The sandbox's outcome tells what went wrong.
func (j *job) translate(ctx context.Context, box *sandbox.Box, files []File, top string,
	limits sandbox.Limits) (translated, *sandbox.Outcome, error) {
	script := newScript("")
	args := []string{"--synth", "--std=08"}
	var units []string
	for i, f := range files {
		units = append(units, fmt.Sprintf("%s/%d.vhd", unitFolder, i))
		script.put(units[i], f.Data)
	}
	run := func(language string) string {
		all := append(append(append([]string{}, args...), "--out="+language), units...)
		return strings.TrimSuffix(command("ghdl-mcode", append(all, "-e", top)), " >&2") + " || exit 1\n"
	}
	text := run("verilog") + "printf '" + strings.ReplaceAll(betweenOutputs, "\n", `\n`) + "'\n" + run("vhdl")
	o, err := box.Run(ctx, script.files, text, limits)
	if err != nil || !o.OK {
		return translated{}, o, err
	}
	verilog, vhdl, _ := strings.Cut(string(o.Output), betweenOutputs)
	return translated{top, complete(verilog, defaults(vhdl)), portRanges(vhdl, top, files)}, o, nil
}

// defaults are what signals are "when others", by their names, as Verilog has it.
func defaults(vhdl string) map[string]string {
	out := map[string]string{}
	name := ""
	for line := range strings.Lines(vhdl) {
		if m := selected.FindStringSubmatch(line); m != nil {
			name = m[2]
		}
		if m := others.FindStringSubmatch(strings.TrimRight(line, "\r\n")); m != nil && name != "" {
			v := m[1]
			if digits := strings.Trim(v, `"'`); digits != v {
				v = fmt.Sprintf("%d'b%s", len(digits), strings.NewReplacer("X", "x", "U", "x", "-", "x", "W", "x",
					"Z", "z").Replace(digits))
			}
			out[name], name = v, ""
		}
	}
	return out
}

// madeOf is the Verilog that ghdl makes; places in it are nobody's.
const madeOf = unitFolder + "/vhdl.v"

// complete adds to ghdl's Verilog what it leaves out (release 2.0): the default of a case; and where in the source
// each statement, and each register's signal, comes from, which it has only in comments.
func complete(verilog string, defaults map[string]string) string {
	var b strings.Builder
	last, signals := "", signalLines(verilog)
	for line := range strings.Lines(verilog) {
		if m := cameFrom.FindStringSubmatch(strings.TrimRight(line, "\r\n")); m != nil {
			b.WriteString(lineOf(m))
			continue
		}
		if m := stored.FindStringSubmatch(line); m != nil && signals[m[1]] != "" {
			fmt.Fprintf(&b, "%s%s`line 1 \"%s\" 0\n", signals[m[1]], line, madeOf)
			continue
		}
		if m := branch.FindStringSubmatch(line); m != nil {
			last = m[1]
		}
		if strings.TrimSpace(line) == "endcase" {
			if v := defaults[last]; v != "" {
				fmt.Fprintf(&b, "default: %s <= %s;\n", last, v)
			}
			last = ""
		}
		b.WriteString(line)
	}
	return b.String()
}

// signalLines are directives with the places of the signals that registers are made of, by the registers' names.
func signalLines(verilog string) map[string]string {
	out, from := map[string]string{}, ""
	for line := range strings.Lines(verilog) {
		if m := cameFrom.FindStringSubmatch(strings.TrimRight(line, "\r\n")); m != nil {
			from = lineOf(m)
		}
		if m := signal.FindStringSubmatch(line); m != nil {
			out[m[2]] = from
		}
	}
	return out
}

// lineOf is the directive that says what a comment does.
func lineOf(comment []string) string {
	return fmt.Sprintf("`line %s \"%s/%s.vhd\" 0\n", comment[2], unitFolder, comment[1])
}
