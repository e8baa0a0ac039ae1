package rtl

import (
	"fmt"
	"math/rand"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strings"
	"sync/atomic"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/netlist"
)

// generator writes random designs: registers of many widths on both edges, with resets of both kinds, a memory, and
// logic between them of every operator.
type generator struct {
	*rand.Rand
	names  []string
	widths map[string]int
}

func (g *generator) name(n, width int, kind string) string {
	s := fmt.Sprintf("%s%d", kind, n)
	g.names, g.widths[s] = append(g.names, s), width
	return s
}

func (g *generator) number(width int) string {
	digits := ""
	for range width {
		digits += string(rune('0' + g.Intn(2)))
	}
	return fmt.Sprintf("%d'b%s", width, digits)
}

// expression is a random one, so many operators deep.
func (g *generator) expression(depth int) string {
	if depth == 0 || g.Intn(6) == 0 {
		if g.Intn(5) == 0 {
			return g.number(1 + g.Intn(12))
		}
		n := g.names[g.Intn(len(g.names))]
		if w := g.widths[n]; w > 1 && g.Intn(3) == 0 {
			high := g.Intn(w)
			return fmt.Sprintf("%s[%d:%d]", n, high, g.Intn(high+1))
		}
		return n
	}
	e := func() string { return g.expression(depth - 1) }
	switch g.Intn(13) {
	case 0:
		return "(" + []string{"~", "-", "!", "&", "|", "^", "~^"}[g.Intn(7)] + "(" + e() + "))"
	case 1, 2, 3:
		return "(" + e() + " " + []string{"+", "-", "*", "&", "|", "^", "~^"}[g.Intn(7)] + " " + e() + ")"
	case 4:
		return "(" + e() + " " + []string{"<", "<=", "==", "!=", ">", ">=", "&&", "||"}[g.Intn(8)] + " " + e() + ")"
	case 5:
		return "(" + e() + " " + []string{"<<", ">>", "<<<", ">>>"}[g.Intn(4)] + " (" + e() + " & 4'd15))"
	case 6:
		return "(" + e() + " " + []string{"/", "%"}[g.Intn(2)] + " (" + e() + " | 1'b1))"
	case 7, 8:
		return "(" + e() + " ? " + e() + " : " + e() + ")"
	case 9:
		return "{" + e() + ", " + e() + "}"
	case 10:
		return "($signed(" + e() + ") " + []string{"+", "-", "*", "<", ">=", "==", ">>>"}[g.Intn(7)] + " $signed(" + e() + "))"
	case 11:
		return "{2{" + e() + "}}"
	}
	return "mem[" + e() + " & 4'd15]"
}

// design writes one, with the names and widths of its outputs.
func design(seed int64) (text string, outputs []string) {
	g := &generator{Rand: rand.New(rand.NewSource(seed)), widths: map[string]int{}}
	g.names, g.widths = []string{"a", "b", "rst"}, map[string]int{"a": 8, "b": 5, "rst": 1}
	var declared, logic strings.Builder
	registers := 2 + g.Intn(5)
	for i := range registers {
		w := []int{1, 2, 3, 5, 8, 13, 16, 27, 33, 40, 70}[g.Intn(11)]
		fmt.Fprintf(&declared, "  reg [%d:0] %s = %s;\n", w-1, g.name(i, w, "r"), g.number(w))
	}
	declared.WriteString("  reg [6:0] mem [0:15];\n  integer i;\n  initial for (i = 0; i < 16; i = i + 1) mem[i] = i * 11;\n")
	wires := 1 + g.Intn(6)
	for i := range wires {
		w := 1 + g.Intn(30)
		e := g.expression(3)
		fmt.Fprintf(&logic, "  wire [%d:0] %s = %s;\n", w-1, g.name(i, w, "w"), e)
	}
	for i := range registers {
		edge := []string{"posedge clk", "posedge clk", "posedge clk", "negedge clk"}[g.Intn(4)]
		r := fmt.Sprintf("r%d", i)
		then := fmt.Sprintf("%s <= %s;", r, g.expression(3))
		switch g.Intn(4) {
		case 0:
			fmt.Fprintf(&logic, "  always @(%s or posedge rst) if (rst) %s <= %s; else %s\n", edge, r, g.number(5), then)
		case 1:
			fmt.Fprintf(&logic, "  always @(%s) if (rst) %s <= %s; else if (%s) %s\n", edge, r, g.number(5), g.expression(1), then)
		case 2:
			fmt.Fprintf(&logic, "  always @(%s) if (%s) %s\n", edge, g.expression(1), then)
		default:
			fmt.Fprintf(&logic, "  always @(%s) %s\n", edge, then)
		}
	}
	fmt.Fprintf(&logic, "  always @(posedge clk) if (%s) mem[%s & 4'd15] <= %s;\n", g.expression(1), g.expression(1), g.expression(2))
	var ports, assigns strings.Builder
	for i := range 4 {
		o := fmt.Sprintf("y%d", i)
		outputs = append(outputs, o)
		fmt.Fprintf(&ports, ", output [15:0] %s", o)
		fmt.Fprintf(&assigns, "  assign %s = %s;\n", o, g.expression(2))
	}
	return fmt.Sprintf("module top(input clk, input rst, input [7:0] a, input [4:0] b%s);\n%s%s%sendmodule\n", ports.String(),
		declared.String(), logic.String(), assigns.String()), outputs
}

// synthesise gives the netlist of Verilog, as the service makes it.
func synthesise(t testing.TB, dir, name, text string) *netlist.Design {
	t.Helper()
	source, out := filepath.Join(dir, name+".v"), filepath.Join(dir, name+".json")
	require.NoError(t, os.WriteFile(source, []byte(text), 0o600))
	said, err := exec.Command("yosys", "-q", "-p", "read_verilog "+source+"; "+Passes+"; write_json "+out+
		"; write_verilog -noattr "+filepath.Join(dir, name+"_netlist.v")).CombinedOutput()
	require.NoError(t, err, "%s\n%s", said, text)
	data, err := os.ReadFile(out)
	require.NoError(t, err)
	module, err := netlist.Top(data)
	require.NoError(t, err)
	d, err := netlist.ReadModule(module)
	require.NoError(t, err)
	return d
}

// cycles is how long designs are compared.
const cycles = 60

// configured are the values that registers and memories begin with, as yosys writes them.
var configured = regexp.MustCompile(`(?m)^\s*(?:reg (?:\[\d+:\d+\] )?)?(\w+(?:\[\d+\])?) = (\d+'h[0-9a-f]+);`)

// begun tells whether a reading port of a memory begins with a value.
func begun(t testing.TB, dir, name string) bool {
	text, err := os.ReadFile(filepath.Join(dir, name+"_netlist.v"))
	require.NoError(t, err)
	return strings.Contains(string(text), "\n  initial _")
}

// reference runs a design's netlist, written as Verilog, by iverilog and gives the outputs at each half cycle.
func reference(t *testing.T, dir, name string, outputs []string, steps []step) []string {
	t.Helper()
	var bench strings.Builder
	bench.WriteString("`timescale 1ns/1ns\nmodule bench;\n  reg clk = 0, rst = 0; reg [7:0] a = 0; reg [4:0] b = 0;\n")
	var connect, show, formats string
	for _, o := range outputs {
		fmt.Fprintf(&bench, "  wire [15:0] %s;\n", o)
		connect += ", ." + o + "(" + o + ")"
		formats += "%h "
		show += ", " + o
	}
	fmt.Fprintf(&bench, "  top dut(.clk(clk), .rst(rst), .a(a), .b(b)%s);\n  initial begin\n    #1;\n", connect)
	// A simulator of the language takes x to 0 at the beginning for an edge; what is configured has none: again.
	netlist, err := os.ReadFile(filepath.Join(dir, name+"_netlist.v"))
	require.NoError(t, err)
	for _, m := range configured.FindAllStringSubmatch(string(netlist), -1) {
		fmt.Fprintf(&bench, "    dut.%s = %s;\n", m[1], m[2])
	}
	bench.WriteString("    #1;\n")
	for _, s := range steps {
		fmt.Fprintf(&bench, "    a = %d; b = %d; rst = %d; #1 clk = %d; #1 $display(\"%s\"%s);\n", s.a, s.b, s.rst, s.clk, formats, show)
	}
	bench.WriteString("    $finish;\n  end\nendmodule\n")
	return runElsewhere(t, filepath.Join(dir, name+"_netlist.v"), bench.String())
}

// runElsewhere runs a bench around a design's file by the other simulator, and gives the lines it prints.
func runElsewhere(t *testing.T, design, bench string) (lines []string) {
	t.Helper()
	file, program := design+".bench.v", design+".vvp"
	require.NoError(t, os.WriteFile(file, []byte(bench), 0o600))
	said, err := exec.Command("iverilog", "-g2005-sv", "-o", program, file, design).CombinedOutput()
	require.NoError(t, err, "%s", said)
	out, err := exec.Command("vvp", "-n", program).Output()
	require.NoError(t, err)
	for _, l := range strings.Split(strings.TrimSpace(string(out)), "\n") {
		if !strings.Contains(l, "$finish") {
			lines = append(lines, strings.TrimSpace(l))
		}
	}
	return lines
}

// step is what is given to a design before half a cycle.
type step struct{ a, b, rst, clk uint64 }

func stepsOf(seed int64) (out []step) {
	random := rand.New(rand.NewSource(seed))
	for i := range 2 * cycles {
		s := step{uint64(random.Intn(256)), uint64(random.Intn(32)), 0, uint64(1 - i&1)}
		if random.Intn(12) == 0 {
			s.rst = 1
		}
		out = append(out, s)
	}
	return out
}

// put sets an input port.
func (s *state) put(port string, width int, v uint64) {
	for i := range width {
		name := port
		if width > 1 {
			name = fmt.Sprintf("%s[%d]", port, i)
		}
		if at, ok := s.inputs[name]; ok {
			s.set(at, v>>i&1 == 1)
		}
	}
}

// output gives an output port.
func (s *state) output(port string) uint64 {
	for _, p := range s.design.Ports {
		if p.Name == port {
			c := &compiler{program: s.program}
			o := c.operand(p.Bits, nil)
			return o.get(s.arena)
		}
	}
	return 0
}

func stepped(t testing.TB, d *netlist.Design, outputs []string, steps []step) (lines []string) {
	t.Helper()
	p, err := compile(d)
	require.NoError(t, err)
	s := newState(p)
	require.True(t, s.settle())
	for _, x := range steps {
		s.put("a", 8, x.a)
		s.put("b", 5, x.b)
		s.put("rst", 1, x.rst)
		require.True(t, s.settle())
		s.put("clk", 1, x.clk)
		require.True(t, s.settle())
		var all []string
		for _, o := range outputs {
			all = append(all, fmt.Sprintf("%04x", s.output(o)))
		}
		lines = append(lines, strings.Join(all, " "))
	}
	return lines
}

// Random designs do, half cycle by half cycle, what an independent simulator of the language does with their source.
func TestRandomDesigns(t *testing.T) {
	n := 360
	if testing.Short() {
		n = 30
	}
	dir := t.TempDir()
	var compared atomic.Int64
	t.Cleanup(func() { assert.Greater(t, compared.Load(), int64(n*5/6)) })
	for seed := range int64(n) {
		t.Run(fmt.Sprint(seed), func(t *testing.T) {
			t.Parallel()
			text, outputs := design(seed)
			name := fmt.Sprintf("d%d", seed)
			d := synthesise(t, dir, name, text)
			if begun(t, dir, name) {
				t.Skip("a reading port of a memory is configured, and the other simulator has read by it before")
			}
			compared.Add(1)
			steps := stepsOf(seed)
			want := reference(t, dir, name, outputs, steps)
			got := stepped(t, d, outputs, steps)
			for i := range got {
				if i < len(want) && strings.ContainsAny(want[i], "xzXZ") {
					return // undefined from there on: nothing that a board could be held to
				}
				require.Equal(t, want[i], got[i], "half cycle %d\n%s", i, text)
			}
		})
	}
}
