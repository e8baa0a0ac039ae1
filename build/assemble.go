package build

import (
	"bytes"
	"context"
	"fmt"
	"path"
	"regexp"
	"strings"
	"time"

	"hemble/core/sheet"
	"hemble/sandbox"
)

var (
	// sectioned tells assembler that a linker puts together: its code stands in sections.
	sectioned = regexp.MustCompile(`(?mi)^[^;\n]*\b(code|udata|udata_shr|udata_ovr|idata|extern|global)\b`)
	// chipHeader is a header of the assembler's own, however it is written.
	chipHeader = regexp.MustCompile(`(?mi)^\s*#?\s*include\s*[<"]?(p1[0-9a-z]+\.inc)`)
	// assembled is a message of the assembler or its linker.
	assembled = regexp.MustCompile(`^(?:(/[^:]+):(\d+):)?\s*(Error|Warning|error|warning):?(?:\[\d+\])?:?\s*(.*)$`)
)

// maxAssembly bounds what takes a part of a second: macros may have no end.
const maxAssembly = 5 * time.Second

// assemble makes a program of assembler for a chip whose assembler is no C compiler's. A program in one file without
// sections is assembled as it stands; then it is linked, too, which gives the lines of its source, and that is taken
// where the code is the same.
func (b *Builder) assemble(ctx context.Context, with tools, s *Source, t Target) (*Result, error) {
	p := &planned{shown: map[string][]string{}}
	var units []File
	linked := false
	aliases := map[string]bool{}
	j := &job{builder: b, tools: with, plan: p, target: t, script: newScript("")}
	for _, f := range s.Files {
		if ext := strings.ToLower(path.Ext(f.Path)); ext != assemblerExt && ext != ".s" && ext != ".inc" {
			return &Result{Messages: []sheet.Message{{File: f.Path, Kind: "error",
				Text: fmt.Sprintf("for the %s only assembler (.asm, .inc) is built here; submit the built program "+
					"(.hex) of a compiler", t.Chip.Title)}}}, nil
		}
		p.shown[f.Path] = strings.Split(string(f.Data), "\n")
		j.script.put(inSource(f.Path), f.Data)
		for _, m := range chipHeader.FindAllSubmatch(f.Data, -1) {
			if name := string(m[1]); name != strings.ToLower(name) {
				aliases[name] = true
			}
		}
		if !isHeader(f.Path) {
			units = append(units, f)
			linked = linked || sectioned.Match(f.Data)
		}
	}
	if len(units) == 0 {
		return &Result{Messages: []sheet.Message{{Kind: "error", Text: "there is no assembler file (.asm)"}}}, nil
	}
	for name := range aliases { // where names of files are the same in capitals, students write them so
		j.script.put(path.Join(supportFolder, name), []byte("\tinclude \""+strings.ToLower(name)+"\"\n"))
	}
	linked = linked || len(units) > 1
	limits := b.limits
	limits.CPU = min(limits.CPU, maxAssembly)
	o, err := with.box.Run(ctx, j.script.files, j.assembly(units, linked), limits)
	if err != nil {
		return nil, err
	}
	r := &Result{Messages: j.assemblerMessages(o)}
	if !o.OK {
		if len(r.Messages) == 0 {
			r.Messages = append(r.Messages, sheet.Message{Kind: "error", Text: "the assembler gave up without a message"})
		}
		return r, nil
	}
	r.ELF = o.Output
	r.Usage = usage(r.ELF, t.Chip.Firmware)
	return r, nil
}

// assembly is the script. No name that a student chose is in it.
func (j *job) assembly(units []File, linked bool) string {
	device := strings.TrimPrefix(j.target.Chip.Name, "pic")
	args := []string{"-p", device, "-w", "1", "-I", sourceFolder, "-I", supportFolder}
	lines := []string{"bad=0"}
	var objects []string
	for i, f := range units {
		name, object := fmt.Sprintf("%s/%d.asm", unitFolder, i), fmt.Sprintf("%s/%d.o", sandbox.Folder, i)
		j.script.put(name, []byte("\tinclude \""+inSource(f.Path)+"\"\n\tend\n"))
		objects = append(objects, object)
		lines = append(lines, command("gpasm", append(append([]string{"-c"}, args...), "-o", object, name))+" || bad=1")
	}
	link := command("gplink", append([]string{"-c", "-l", "-s", "/usr/share/gputils/lkr/" + device + "_g.lkr", "-o",
		sandbox.Folder + "/linked.hex"}, objects...))
	if linked {
		lines = append(lines, "[ $bad = 0 ] || exit 1", link+" || exit 1", "cat "+sandbox.Folder+"/linked.cof")
		return strings.Join(lines, "\n") + "\n"
	}
	plain := command("gpasm", append(args, "-o", sandbox.Folder+"/plain.hex", unitFolder+"/0.asm")) + " || exit 1"
	lines[1] = strings.TrimSuffix(lines[1], " >&2 || bad=1") + " >/dev/null 2>&1 || bad=1"
	link = strings.TrimSuffix(link, " >&2") + " >/dev/null 2>&1"
	return strings.Join([]string{plain, lines[0], lines[1], "[ $bad = 0 ] && " + link,
		`if [ "$(cat ` + sandbox.Folder + `/plain.hex)" = "$(cat ` + sandbox.Folder + `/linked.hex 2>/dev/null)" ]`,
		"then cat " + sandbox.Folder + "/linked.cof", "else cat " + sandbox.Folder + "/plain.hex", "fi"}, "\n") + "\n"
}

// processor is how source names the chip that it is for.
var processor = regexp.MustCompile(`(?mi)^\s*(?:list\s+[^;\n]*\bp\s*=\s*|processor\s+)(?:pic)?(\w+)`)

// named tells whether the source names no other chip than the exercise does.
func (j *job) named() bool {
	for _, lines := range j.plan.shown {
		for _, m := range processor.FindAllStringSubmatch(strings.Join(lines, "\n"), -1) {
			if !strings.EqualFold("pic"+m[1], j.target.Chip.Name) {
				return false
			}
		}
	}
	return true
}

// assemblerMessages are those of a run, in the form of a compiler's.
func (j *job) assemblerMessages(o *sandbox.Outcome) []sheet.Message {
	var text bytes.Buffer
	if o.Stopped != "" {
		text.WriteString(stopped(o))
	}
	for _, line := range strings.Split(o.Messages, "\n") {
		m := assembled.FindStringSubmatch(line)
		switch {
		case m == nil, strings.Contains(line, "Processor superseded") && j.named():
		case m[1] == "" || strings.HasPrefix(m[1], unitFolder+"/"):
			fmt.Fprintf(&text, "error: %s\n", m[4])
		default:
			fmt.Fprintf(&text, "%s:%s: %s: %s\n", m[1], m[2], strings.ToLower(m[3]), m[4])
		}
	}
	return parse(j.outside(text.String()), j.plan.shown)
}
