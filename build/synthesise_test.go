package build

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/firmware"
	"hemble/core/machine/rtl"
	"hemble/core/netlist"
	"hemble/sandbox"
)

const twoPins = "set_property -dict { PACKAGE_PIN E3 IOSTANDARD LVCMOS33 } [get_ports clk]\n" +
	"set_property PACKAGE_PIN H17 [get_ports { q }] ; # a lamp\n"

// synthesised builds files for a device with its oscillator at E3.
func synthesised(t *testing.T, files ...File) *Result {
	t.Helper()
	b, err := New(Config{Cache: t.TempDir()})
	require.NoError(t, err)
	s := &Source{}
	for _, f := range files {
		require.NoError(t, s.Add(f.Path, f.Data))
	}
	r, err := b.Build(t.Context(), s, Target{Chip: rtl.Chip, Clock: 100_000_000, ClockPin: "E3"})
	require.NoError(t, err)
	return r
}

func said(r *Result) string {
	var b strings.Builder
	for _, m := range r.Messages {
		b.WriteString(m.String() + "\n")
	}
	return b.String()
}

const toggle = "module top(input clk, output reg q);\n  initial q = 0;\n  always @(posedge clk) q <= ~q;\nendmodule\n"

// A register of VHDL is called as its signal is, and begins where that is declared.
func TestSignalsKeepTheirNames(t *testing.T) {
	r := synthesised(t, File{"lock.vhd", []byte(
		"library ieee; use ieee.std_logic_1164.all; use ieee.numeric_std.all;\n" +
			"entity top is port (clk : in std_logic; q : out std_logic); end;\narchitecture a of top is\n" +
			"  signal boats : unsigned(3 downto 0) := \"0101\";\nbegin\n" +
			"  process (clk) begin if rising_edge(clk) then boats <= boats + 1; end if; end process;\n" +
			"  q <= boats(3);\nend;\n")}, File{"board.pcf", []byte("set_io clk E3\nset_io q H17\n")})
	require.False(t, r.Failed(), said(r))
	im, err := firmware.Read(r.ELF, rtl.Chip.Firmware)
	require.NoError(t, err)
	assert.NotContains(t, string(r.ELF), "vhdl.v")
	require.Len(t, im.Design.Begin, 1)
	begin := im.Design.Begin[0]
	assert.Equal(t, "boats", begin.Name)
	assert.Equal(t, inSource("lock.vhd:4"), fmt.Sprintf("%s:%d", begin.File, begin.Line))
}

func TestSynthesise(t *testing.T) {
	vhdl := "entity top is port (clk : in bit; q : out bit); end;\narchitecture a of top is signal s : bit := '0'; begin\n" +
		"  process (clk) begin if clk'event and clk = '1' then s <= not s; end if; end process;\n  q <= s;\nend;\n"
	for _, c := range []struct {
		name  string
		place string // of the register
		files []File
	}{
		{"verilog", "Top design.v:3", []File{{"Top design.v", []byte(toggle)}, {"board.xdc", []byte(twoPins)}}},
		{"modules and headers", "half.sv:2", []File{{"top.v", []byte("`include \"width.vh\"\nmodule top(input clk, output q);\n" +
			"  half h(.clk(clk), .q(q));\nendmodule\n")},
			{"half.sv", []byte("module half(input logic clk, output logic q = `START);\n  always_ff @(posedge clk) q <= !q;\nendmodule\n")},
			{"width.vh", []byte("`define START 0\n")}, {"board.xdc", []byte(twoPins)}}},
		{"vhdl", "Top $(x).vhd:3", []File{{"Top $(x).vhd", []byte(vhdl)}, {"board.pcf", []byte("set_io clk E3\nset_io -nowarn q H17\n")}}},
	} {
		t.Run(c.name, func(t *testing.T) {
			r := synthesised(t, c.files...)
			require.False(t, r.Failed(), said(r))
			assert.Empty(t, said(r))
			im, err := firmware.Read(r.ELF, rtl.Chip.Firmware)
			require.NoError(t, err)
			assert.Equal(t, map[string]string{"clk": "E3", "q": "H17"}, im.Design.Pins)
			for _, cell := range im.Design.Cells {
				if strings.Contains(cell.Type, "dff") {
					assert.Equal(t, inSource(c.place), fmt.Sprintf("%s:%d", cell.File, cell.Line))
				}
			}
		})
	}
}

// What a linter and the front ends say is told in plain words, with its place.
func TestSynthesiseMessages(t *testing.T) {
	for _, c := range []struct {
		name, file, text string
		failed           bool
		say              string
	}{
		{"no reg", "a.v", "module top(input clk, output q);\n  always @(posedge clk) q <= ~q;\nendmodule\n", true,
			"a.v:2:25: error: a wire is assigned in an always block: declare it as reg"},
		{"no semicolon", "a.v", "module top(input clk, output reg q);\n  always @(posedge clk) q <= ~q\nendmodule\n", true,
			"a.v:3:1: error: "},
		{"too narrow", "a.v", "module top(input clk, output reg q);\n  reg [1:0] n = 0;\n  always @(posedge clk) begin\n" +
			"    if (n == 5) q <= ~q;\n    n <= n + 1;\n  end\nendmodule\n", false,
			"a.v:4:11: warning: n has 2 bits and is compared with a number that needs 3: it never gets there"},
		{"incomplete", "a.v", "module top(input clk, output reg q);\n  reg [1:0] n = 0;\n  always @(posedge clk) n <= n + 1;\n" +
			"  always @* case (n)\n    0: q = 0;\n    1: q = 1;\n  endcase\nendmodule\n", false,
			"a.v:4:3: warning: q is not set in every case, and then keeps its old value: that makes a latch."},
		{"two drivers", "a.v", "module top(input clk, output q);\n  wire a = clk;\n  assign q = a;\n  assign q = ~a;\n" +
			"endmodule\n", true, "driven from several places"},
		{"no declaration", "a.vhd", "entity top is port (clk : in bit; q : out bit); end;\narchitecture a of top is begin\n" +
			"  q <= nothing;\nend;\n", true, `a.vhd:3:8: error: no declaration for "nothing"`},
		{"unknown module", "a.v", "module top(input clk, output q);\n  other o(clk, q);\nendmodule\n", true, "other"},
		{"C", "a.c", "int main(void) { return 0; }\n", true, "only Verilog (.v, .sv), VHDL (.vhd) and constraints"},
	} {
		t.Run(c.name, func(t *testing.T) {
			r := synthesised(t, File{c.file, []byte(c.text)}, File{"board.xdc", []byte(twoPins)})
			assert.Equal(t, c.failed, r.Failed(), said(r))
			assert.Contains(t, said(r), c.say)
			assert.NotContains(t, said(r), sandbox.Folder)
		})
	}
}

func TestConstraints(t *testing.T) {
	for _, c := range []struct {
		name, file, text string
		failed           bool
		say              string
	}{
		{"none", "notes.vh", "", true, "there is no constraints file (.xdc or .pcf): no pin is given for clk, q"},
		{"missing", "b.pcf", "set_io clk E3\n", true, "error: no pin is given for q"},
		{"unknown pin", "b.pcf", "set_io clk E3\nset_io q Z99\n", true,
			"b.pcf:2: error: port q is put at pin Z99, which the device has not"},
		{"unknown port", "b.pcf", "set_io clk E3\nset_io q H17\nset_io lamp H18\n", false,
			"b.pcf:3: warning: the design has no port lamp"},
		{"two at one", "b.pcf", "set_io clk E3\nset_io q E3\n", true, "b.pcf:2: error: ports clk and q are both at pin E3"},
		{"two pins", "b.pcf", "set_io clk E3\nset_io q H17\nset_io q H18\n", true,
			"b.pcf:3: error: port q is put at H18 here, and at H17 in line 2"},
		{"no clock", "b.pcf", "set_io clk E4\nset_io q H17\n", false,
			"warning: no input of the design is at E3, where the board's oscillator is"},
	} {
		t.Run(c.name, func(t *testing.T) {
			r := synthesised(t, File{"top.v", []byte(toggle)}, File{c.file, []byte(c.text)})
			assert.Equal(t, c.failed, r.Failed(), said(r))
			assert.Contains(t, said(r), c.say)
		})
	}
}

// Designs that mean harm end in a message, within the limits, and see nothing of the host.
func TestHostileDesigns(t *testing.T) {
	if testing.Short() {
		t.Skip("some of them take up to the limit")
	}
	for _, c := range []struct{ name, text string }{
		{"include of the host", "`include \"/etc/passwd\"\n" + toggle},
		{"memory from the host", "module top(input clk, output q);\n  reg [7:0] m [0:9];\n" +
			"  initial $readmemh(\"/etc/hostname\", m);\n  assign q = m[clk][0];\nendmodule\n"},
		{"include of itself", "`include \"a.v\"\n"},
		{"endless generate", "module top(input clk, output q);\n  genvar i;\n" +
			"  generate for (i = 0; i >= 0; i = i + 1) begin : g wire x; assign x = clk; end endgenerate\nendmodule\n"},
		{"wide", "module top(input clk, output q);\n  wire [2000000000:0] w = {2000000001{clk}};\n  assign q = ^w;\nendmodule\n"},
		{"large memory", "module top(input clk, output reg q);\n  reg [63:0] m [0:1073741823];\n  reg [29:0] n = 0;\n" +
			"  always @(posedge clk) begin n <= n + 1; m[n] <= n; q <= m[~n][3]; end\nendmodule\n"},
		{"a million cells", "module top(input clk, output q);\n  wire [1000000:0] w;\n  assign w[0] = clk;\n  genvar i;\n" +
			"  generate for (i = 0; i < 1000000; i = i + 1) begin : g assign w[i+1] = ~(w[i] & w[i/2]); end endgenerate\n" +
			"  assign q = w[1000000];\nendmodule\n"},
		{"a million cells in two loops", "module top(input clk, output q);\n  wire [1000000:0] w;\n  assign w[0] = clk;\n" +
			"  genvar i, j;\n  generate for (i = 0; i < 1000; i = i + 1) begin : g for (j = 0; j < 1000; j = j + 1) begin : h\n" +
			"    assign w[i*1000+j+1] = ~(w[i*1000+j] & w[i]); end end endgenerate\n  assign q = w[1000000];\nendmodule\n"},
		{"a memory of a gigabit", "module top(input clk, output reg q);\n  reg [63:0] m [0:16777215];\n  reg [23:0] n = 0;\n" +
			"  always @(posedge clk) begin n <= n + 1; m[n] <= n; q <= m[~n][3]; end\nendmodule\n"},
		{"a wide product", "module top(input clk, output reg q);\n  reg [59999:0] a = 3, b = 5;\n" +
			"  always @(posedge clk) begin a <= a * b; b <= b * a + 1; q <= ^a; end\nendmodule\n"},
		{"modules in themselves", "module top(input clk, output q);\n  top a(clk, q);\nendmodule\n"},
		{"commands", "module \\top;shell;touch /x (input clk, output q); assign q = clk; endmodule\n"},
		{"macros", "`define A 1\n`define B `A`A`A`A`A`A`A`A`A`A\n`define C `B`B`B`B`B`B`B`B`B`B\n`define D `C`C`C`C`C`C`C`C`C`C\n" +
			"`define E `D`D`D`D`D`D`D`D`D`D\n`define F `E`E`E`E`E`E`E`E`E`E\n`define G `F`F`F`F`F`F`F`F`F`F\n" +
			"module top(input clk, output q); localparam X = `G`G`G`G; assign q = clk; endmodule\n"},
		{"VHDL without end", "entity top is port (clk : in bit; q : out bit); end;\narchitecture a of top is\n" +
			"  signal w : bit_vector(0 to 100000000);\nbegin\n  w(0) <= clk;\n  g : for i in 1 to 100000000 generate w(i) <= not w(i - 1); " +
			"end generate;\n  q <= w(100000000);\nend;\n"},
		{"VHDL that reads the host", "use std.textio.all;\nentity top is port (clk : in bit; q : out bit); end;\n" +
			"architecture a of top is\n  impure function f return bit is\n    file x : text open read_mode is \"/etc/passwd\";\n" +
			"    variable l : line;\n  begin readline(x, l); report l.all; return '0'; end;\n  constant c : bit := f;\n" +
			"begin q <= c and clk; end;\n"},
		{"VHDL that recurs", "entity top is port (clk : in bit; q : out bit); end;\narchitecture a of top is\n" +
			"  function f(n : integer) return integer is begin return f(n + 1) + f(n + 2); end;\n  constant c : integer := f(1);\n" +
			"begin q <= clk when c > 0 else '0'; end;\n"},
	} {
		t.Run(c.name, func(t *testing.T) {
			name := "a.v"
			if strings.HasPrefix(c.name, "VHDL") {
				name = "a.vhd"
			}
			began := time.Now()
			r := synthesised(t, File{name, []byte(c.text)}, File{"board.xdc", []byte(twoPins)})
			assert.NotContains(t, said(r)+string(r.ELF), "root:")
			assert.Less(t, time.Since(began), 2*time.Minute, "the limits end it")
			if !r.Failed() {
				d, err := netlist.Read(r.ELF)
				require.NoError(t, err)
				assert.LessOrEqual(t, len(d.Cells), netlist.MaxCells)
				return
			}
			assert.NotEmpty(t, said(r))
		})
	}
}

// A loop of logic has no state to come to.
func TestLoopOfLogic(t *testing.T) {
	r := synthesised(t, File{"a.v", []byte("module top(input clk, output q);\n  wire a = ~(a & clk);\n  assign q = a;\nendmodule\n")},
		File{"board.xdc", []byte(twoPins)})
	assert.True(t, r.Failed())
	assert.Contains(t, said(r), "a.v:2: error: logic goes round in a circle here")
}
