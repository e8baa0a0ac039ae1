package build

import (
	"context"
	"encoding/json"
	"fmt"
	"path"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"hemble/core/netlist"
	"hemble/core/sheet"
	"hemble/sandbox"
)

// declared is how registers with a range are declared.
var declared = regexp.MustCompile(`\b(?:reg|logic)\b(?:\s+signed\b)?\s*\[\s*([^]:;]+?)\s*:\s*([^]:;]+?)\s*\]([^;]*)`)

// narrowed is a register that a linter found compared with something wider.
type narrowed struct {
	netlist.Narrow
	file string
	line int
}

// mark stands for a message of a register in a list, until it is known whether it is true.
func (n *narrowed) mark() string { return fmt.Sprintf("%s (%s:%d)", n.Register, n.file, n.line) }

// maybeNarrow keeps what a linter says of a comparison: register, its bits, how many the other side has.
func (j *job) maybeNarrow(file, line string, said []string) string {
	n := narrowed{file: strings.TrimPrefix(file, sourceFolder+"/")}
	n.Register = said[2]
	n.Bits, _ = strconv.Atoi(said[3])
	n.line, _ = strconv.Atoi(line)
	if len(n.Register) < 60 && len(j.narrow) < 20 {
		j.narrow = append(j.narrow, n)
	}
	return n.mark()
}

// tooNarrow are the registers that are.
func (j *job) tooNarrow() (out []netlist.Narrow) {
	for _, n := range j.narrow {
		at := slices.IndexFunc(out, func(o netlist.Narrow) bool { return o.Register == n.Register })
		switch {
		case n.Needs > 0 && at < 0:
			out = append(out, n.Narrow)
		case n.Needs > 0:
			out[at].Needs = max(out[at].Needs, n.Needs)
		}
	}
	return out
}

// tellNarrow puts words for what turned out to be true into a list, and takes the rest of it out.
func (j *job) tellNarrow(all []sheet.Message) (out []sheet.Message) {
	for _, m := range all {
		at := slices.IndexFunc(j.narrow, func(n narrowed) bool { return n.mark() == m.Text })
		if at >= 0 {
			n := &j.narrow[at]
			if n.Needs == 0 {
				continue
			}
			m.Text = fmt.Sprintf("%s has %d bits and is compared with a number that needs %d: it never gets there", n.Register,
				n.Bits, n.Needs)
		}
		out = append(out, m)
	}
	return out
}

// widened finds which registers are too narrow, by the netlist as it is before anything in it is left out, and then
// makes one of the same source in which they have the bits that they need: nil where that cannot be done. By it is
// tested whether they are what is wrong.
func (j *job) widened(ctx context.Context, s *Source, limits sandbox.Limits) ([]byte, error) {
	if len(j.narrow) == 0 {
		return nil, nil
	}
	made, err := j.rebuilt(ctx, s, "hierarchy -check -auto-top; proc -noopt; flatten", limits)
	if err != nil || made == nil {
		return nil, err
	}
	if d, _ := readTop(made); d != nil {
		for i := range j.narrow {
			j.narrow[i].measure(d)
		}
	}
	if len(j.tooNarrow()) == 0 {
		return nil, nil
	}
	return j.rebuilt(ctx, s, checked, limits)
}

// comparing are the cells that compare.
var comparing = []string{"$eq", "$ne", "$lt", "$le", "$gt", "$ge", "$eqx", "$nex"}

// measure finds how many bits a register needs for the constant that it is compared with; 0 where it has enough.
func (n *narrowed) measure(d *netlist.Design) {
	for i := range d.Cells {
		c := &d.Cells[i]
		here := c.Line == n.line && strings.TrimPrefix(c.File, sourceFolder+"/") == n.file
		if !here || !slices.Contains(comparing, c.Type) {
			continue
		}
		for _, sides := range [][2]string{{"A", "B"}, {"B", "A"}} {
			register, number := c.Ports[sides[0]], c.Ports[sides[1]]
			wires := 0
			for _, b := range register {
				if b >= 0 {
					wires++
				}
			}
			needs := 0
			for k, b := range number {
				if b >= 0 {
					needs = 0
					break
				}
				if b == netlist.One {
					needs = k + 1
				}
			}
			if wires == n.Bits && needs > n.Bits {
				n.Needs = max(n.Needs, needs)
			}
		}
	}
}

// rebuilt runs the front end on the source with registers as wide as they are known to have to be; nil where it fails.
func (j *job) rebuilt(ctx context.Context, s *Source, passes string, limits sandbox.Limits) ([]byte, error) {
	w := &job{builder: j.builder, tools: j.tools, plan: j.plan, target: j.target, script: newScript("")}
	var verilog []File
	for _, f := range s.Files {
		text := string(f.Data)
		for _, n := range j.tooNarrow() {
			here := func(o narrowed) bool { return o.file == f.Path && o.Register == n.Register }
			if slices.ContainsFunc(j.narrow, here) {
				text = widen(text, n)
			}
		}
		switch ext := strings.ToLower(path.Ext(f.Path)); ext {
		case ".v", ".sv":
			verilog = append(verilog, f)
		case ".vhd", ".vhdl":
			return nil, nil
		}
		w.script.put(inSource(f.Path), []byte(text))
	}
	read, _ := w.reads(verilog)
	o, err := j.tools.box.Run(ctx, w.script.files, netlisted(read, passes)+"\n", limits)
	if err != nil || !o.OK {
		return nil, err
	}
	return o.Output, nil
}

// widen gives a register the bits that it needs. What its range is computed from is left out of it.
func widen(text string, n netlist.Narrow) string {
	named := regexp.MustCompile(`\b` + regexp.QuoteMeta(n.Register) + `\b`)
	for _, m := range declared.FindAllStringSubmatchIndex(text, -1) {
		if !named.MatchString(text[m[6]:m[7]]) {
			continue
		}
		left, right := text[m[2]:m[3]], text[m[4]:m[5]]
		from, err1 := strconv.Atoi(left)
		to, err2 := strconv.Atoi(right)
		switch {
		case err1 == nil && err2 == nil && max(from-to, to-from)+1 != n.Bits: // another one of this name
			continue
		case err2 == nil && (err1 != nil || from >= to):
			left = strconv.Itoa(to + n.Needs - 1)
		case err1 == nil:
			right = strconv.Itoa(from + n.Needs - 1)
		default:
			continue
		}
		return text[:m[2]] + left + text[m[3]:m[4]] + right + text[m[5]:]
	}
	return text
}

// readTop reads what the front end wrote; nil where that cannot be read.
func readTop(file []byte) (*netlist.Design, json.RawMessage) {
	module, err := netlist.Top(file)
	if err != nil {
		return nil, nil
	}
	d, err := netlist.ReadModule(module)
	if err != nil {
		return nil, nil
	}
	return d, module
}

// alike is the module of a netlist whose ports are those of a design; nil for none.
func (j *job) alike(d *netlist.Design, file []byte) json.RawMessage {
	w, module := readTop(file)
	same := func(a, b netlist.Port) bool {
		return a.Name == b.Name && a.Input == b.Input && a.Output == b.Output && len(a.Bits) == len(b.Bits) &&
			a.From == b.From && a.Down == b.Down
	}
	if w == nil || !slices.EqualFunc(d.Ports, w.Ports, same) {
		return nil
	}
	return module
}
