package build

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"path"
	"regexp"
	"slices"
	"strings"
	"time"

	"hemble/core/machine/rtl"
	"hemble/core/netlist"
	"hemble/core/sheet"
	"hemble/sandbox"
)

// maxSynthesis bounds what takes a second: loops of a generate may have no end.
const maxSynthesis = 12 * time.Second

// checked are the passes, with what is wrong as an error.
const checked = rtl.Passes + " -assert"

var (
	linted   = regexp.MustCompile(`^%(Error|Warning)(?:-([A-Z0-9]+))?: (/\S[^:]*):(\d+):(\d+): (.*)$`)
	yosysSay = regexp.MustCompile(`^(?:(/[^:]+):(\d+): )?ERROR: (.*)$`)
	ghdlSay  = regexp.MustCompile(`^(/[^:]+):(\d+):(\d+):(error:|warning:)? ?(.*)$`)
	narrow   = regexp.MustCompile(`^Operator (?:EQ|NEQ|LT|LTE|GT|GTE)\w* expects (?:\d+ or )?(\d+) bits on the LHS, but LHS's VARREF '(\w+)' generates (\d+) bits`)
	quoted   = regexp.MustCompile(`'[^']*'`)
	inLoop   = regexp.MustCompile(`^ +cell \$\w+\$(/[^:]+):(\d+)\$\d+ `)
	drivers  = regexp.MustCompile(`multiple conflicting drivers for \S*?\\(\w+)`)
)

// plainly are a linter's warnings in words that a first-year reads; those that are not here are left out.
var plainly = map[string]string{
	"PROCASSWIRE": "a wire is assigned in an always block: declare it as reg",
	"MULTIDRIVEN": "this is driven from several places",
	"CMPCONST":    "a comparison always has the same result",
	"UNDRIVEN":    "nothing drives this",
	"IMPLICIT":    "this name is not declared",
	"PINMISSING":  "a port of the module is not connected",
	"CASEOVERLAP": "two branches of the case are for the same value",
}

// synthesise makes a netlist of Verilog or VHDL, and puts its ports on pins.
func (b *Builder) synthesise(ctx context.Context, with tools, s *Source, t Target) (*Result, error) {
	j := &job{builder: b, tools: with, plan: &planned{shown: map[string][]string{}}, target: t, script: newScript("")}
	var verilog, vhdl []File
	for _, f := range s.Files {
		j.plan.shown[f.Path] = strings.Split(string(f.Data), "\n")
		switch ext := strings.ToLower(path.Ext(f.Path)); ext {
		case ".v", ".sv":
			j.script.put(inSource(f.Path), f.Data)
			verilog = append(verilog, f)
		case ".vhd", ".vhdl":
			vhdl = append(vhdl, f)
		case ".vh", ".xdc", ".pcf":
			j.script.put(inSource(f.Path), f.Data)
		default:
			return &Result{Messages: []sheet.Message{{File: f.Path, Kind: "error",
				Text: "for programmable logic only Verilog (.v, .sv), VHDL (.vhd) and constraints (.xdc, .pcf) are taken"}}}, nil
		}
	}
	if len(verilog)+len(vhdl) == 0 {
		return &Result{Messages: []sheet.Message{{Kind: "error", Text: "there is no design (.v, .sv, .vhd)"}}}, nil
	}
	limits := b.limits
	limits.CPU, limits.Memory = min(limits.CPU, maxSynthesis), min(limits.Memory, 768<<20)
	r := &Result{}
	var made translated
	if len(vhdl) > 0 {
		top, all := topEntity(vhdl)
		if top == "" {
			return &Result{Messages: []sheet.Message{{Kind: "error", Text: fmt.Sprintf("none of the entities (%s) is the top: "+
				"each is used by another, or there is none", strings.Join(all, ", "))}}}, nil
		}
		var o *sandbox.Outcome
		var err error
		if made, o, err = j.translate(ctx, with.box, vhdl, top, limits); err != nil {
			return nil, err
		}
		if r.Messages = j.designMessages(o, vhdl); !o.OK {
			return unbuilt(r, o), nil
		}
	}
	o, err := with.box.Run(ctx, j.script.files, j.synthesis(verilog, made.verilog), limits)
	if err != nil {
		return nil, err
	}
	if r.Messages = append(r.Messages, j.designMessages(o, vhdl)...); !o.OK || slices.ContainsFunc(r.Messages, wrong) {
		r.Messages = j.tellNarrow(r.Messages)
		return unbuilt(r, o), nil
	}
	wider, err := j.widened(ctx, s, limits)
	if err != nil {
		return nil, err
	}
	r.Messages = j.tellNarrow(r.Messages)
	design, err := netlist.Numbered(ownNames(o.Output, vhdl), made.top, made.ports)
	if err != nil {
		r.Messages = append(r.Messages, sheet.Message{Kind: "error", Text: err.Error()})
		return r, nil
	}
	return j.place(r, design, wider, s), nil
}

// inBetween are places in what was made of VHDL, which its author does not have.
var inBetween = regexp.MustCompile(regexp.QuoteMeta(madeOf) + `:[0-9.]+-[0-9.]+`)

// ownNames has a netlist name the files of VHDL that it comes from as their author does.
func ownNames(made []byte, vhdl []File) []byte {
	for i, f := range vhdl {
		if name, err := json.Marshal(inSource(f.Path)); err == nil {
			made = bytes.ReplaceAll(made, fmt.Appendf(nil, "%s/%d.vhd:", unitFolder, i), append(name[1:len(name)-1], ':'))
		}
	}
	return inBetween.ReplaceAll(made, nil)
}

func wrong(m sheet.Message) bool { return m.Kind == "error" }

// unbuilt says why there is no design.
func unbuilt(r *Result, o *sandbox.Outcome) *Result {
	if !slices.ContainsFunc(r.Messages, wrong) {
		r.Messages = append(r.Messages, sheet.Message{Kind: "error", Text: "the design could not be built: " + last(o.Messages)})
	}
	return r
}

// synthesis is the script. No name that a student chose is in it.
func (j *job) synthesis(verilog []File, translated string) string {
	read, units := j.reads(verilog)
	lines := []string{"export VERILATOR_ROOT=/usr/share/verilator"}
	if len(units) > 0 {
		language := "1364-2005"
		if strings.Contains(read, "-sv") {
			language = "1800-2017"
		}
		lint := append([]string{"--lint-only", "--default-language", language, "-Wno-fatal", "-Wno-DECLFILENAME", "-Wno-MULTITOP",
			"-I" + sourceFolder}, units...)
		lines = append(lines, command("verilator_bin", lint)+" || bad=1")
	}
	if translated != "" {
		j.script.put(madeOf, []byte(translated))
		read += "read_verilog " + madeOf + "; "
	}
	return strings.Join(append(lines, "[ -z \"$bad\" ] || exit 1", netlisted(read, checked)), "\n") + "\n"
}

// reads puts units for files of Verilog into the script, and gives what reads them.
func (j *job) reads(verilog []File) (read string, units []string) {
	for i, f := range verilog {
		name := fmt.Sprintf("%s/%d%s", unitFolder, i, strings.ToLower(path.Ext(f.Path)))
		j.script.put(name, []byte("`include \""+inSource(f.Path)+"\"\n"))
		units = append(units, name)
		kind := ""
		if strings.HasSuffix(name, ".sv") {
			kind = "-sv "
		}
		read += "read_verilog " + kind + "-I" + sourceFolder + " " + name + "; "
	}
	return read, units
}

// netlisted makes a netlist of what is read, and prints it.
func netlisted(read, passes string) string {
	out := sandbox.Folder + "/design.json"
	return command("yosys", []string{"-q", "-p", read + passes + "; write_json " + out}) + " || exit 1\ncat " + out
}

// place puts the ports of a netlist on pins; wider is one in which registers are as wide as they should be, or nil.
func (j *job) place(r *Result, file, wider []byte, s *Source) *Result {
	fail := func(text string) *Result {
		r.Messages = append(r.Messages, sheet.Message{Kind: "error", Text: text})
		return r
	}
	module, err := netlist.Top(file)
	if err != nil {
		return fail(err.Error())
	}
	d, err := netlist.ReadModule(module)
	if err != nil {
		return fail(err.Error())
	}
	r.Messages = append(r.Messages, j.latches(d)...)
	c := readConstraints(s)
	placed := c.check(d, j.target)
	r.Messages = append(r.Messages, placed...)
	if slices.ContainsFunc(placed, wrong) {
		return r
	}
	design, err := netlist.Write(module, c.pins, c.pulls, j.tooNarrow(), j.alike(d, wider))
	if err != nil {
		return fail(err.Error())
	}
	r.ELF = design
	return r
}

// latches says where a design keeps what a first-year did not mean to keep.
func (j *job) latches(d *netlist.Design) (out []sheet.Message) {
	for i := range d.Cells {
		c := &d.Cells[i]
		if !strings.Contains(c.Type, "dlatch") {
			continue
		}
		m := sheet.Message{Kind: "warning", Line: c.Line, Column: c.Column, Text: fmt.Sprintf("%s is not set in every case, and then "+
			"keeps its old value: that makes a latch. Is a default or an else missing?", d.Name(c.Ports["Q"]))}
		m.File = strings.TrimPrefix(c.File, sourceFolder+"/")
		if lines := j.plan.shown[m.File]; m.Line > 0 && m.Line <= len(lines) {
			m.Code = short(strings.TrimRight(lines[m.Line-1], "\r"), maxCode)
		}
		if len(out) < maxMessages {
			out = append(out, m)
		}
	}
	return out
}

// designMessages are those of a run.
func (j *job) designMessages(o *sandbox.Outcome, vhdl []File) (out []sheet.Message) {
	add := func(file, line, column, kind, text string) {
		m := sheet.Message{Kind: kind, Text: short(strings.TrimSpace(text), maxText)}
		if file = strings.TrimPrefix(file, sourceFolder+"/"); !strings.HasPrefix(file, "/") {
			m.File = file
			_, _ = fmt.Sscan(line, &m.Line)
			_, _ = fmt.Sscan(column, &m.Column)
			if lines := j.plan.shown[file]; m.Line > 0 && m.Line <= len(lines) {
				m.Code = short(strings.TrimRight(lines[m.Line-1], "\r"), maxCode)
			}
		}
		if len(out) < maxMessages && !slices.ContainsFunc(out, func(x sheet.Message) bool { return x.String() == m.String() }) {
			out = append(out, m)
		}
	}
	if o.Stopped != "" {
		add("", "", "", "error", "building the design was stopped: it needed "+o.Stopped)
	}
	failed, circle := false, false
	told := map[string]bool{} // what is said of one name is said once
	for _, line := range strings.Split(o.Messages, "\n") {
		if m := linted.FindStringSubmatch(line); m != nil {
			plain, kind, text := plainly[m[2]], strings.ToLower(m[1]), m[6]
			switch {
			case strings.Contains(text, "multiple combinational drivers"):
				kind, text = "error", plain+" ("+text+")"
			case plain != "":
				if of := quoted.FindString(text); of != "" && told[m[2]+of] {
					continue
				} else {
					told[m[2]+of] = true
				}
				text = plain + " (" + text + ")"
			case narrow.MatchString(text):
				text = j.maybeNarrow(m[3], m[4], narrow.FindStringSubmatch(text))
			case kind == "warning" && m[2] != "SELRANGE":
				continue // a matter of taste
			}
			failed = failed || kind == "error"
			add(m[3], m[4], m[5], kind, text)
			continue
		}
		if m := yosysSay.FindStringSubmatch(line); m != nil && !failed {
			add(m[1], m[2], "", "error", m[3])
			continue
		}
		if m := drivers.FindStringSubmatch(line); m != nil {
			add("", "", "", "error", m[1]+" is driven from several places")
			failed = true
			continue
		}
		if circle = circle || strings.HasPrefix(line, "Warning: found logic loop in module"); circle {
			if m := inLoop.FindStringSubmatch(line); m != nil {
				add(m[1], m[2], "", "error", "logic goes round in a circle here, with no register in between: it never settles")
				circle, failed = false, true
			}
			continue
		}
		if m := ghdlSay.FindStringSubmatch(line); m != nil {
			var n int
			if _, err := fmt.Sscanf(m[1], unitFolder+"/%d.vhd", &n); err == nil && n < len(vhdl) {
				kind := "error"
				if m[4] == "warning:" {
					kind = "warning"
				}
				add(inSource(vhdl[n].Path), m[2], m[3], kind, m[5])
			}
		}
	}
	return out
}

// last is what the tools said last, or what it means.
func last(text string) string {
	lines := strings.Split(strings.TrimSpace(text), "\n")
	switch line := lines[len(lines)-1]; {
	case line == "Aborted" || strings.Contains(text, "bad_alloc"):
		return "it needs too much memory"
	case strings.Trim(line, "*") == "":
		return "the VHDL front end broke down over it: it is too large, or calls itself without end"
	default:
		return short(line, maxText)
	}
}
