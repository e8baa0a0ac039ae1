package build

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/firmware"
	"hemble/core/machine/rtl"
	"hemble/core/netlist"
)

// A register is called too narrow where no value of it is the number, and not where only the other side has more bits;
// the netlist in which it is wider is kept beside, unless the ports would be others.
func TestTooNarrow(t *testing.T) {
	const body = `  parameter LIMIT = 49_999_999;
  localparam integer SAME = 49_999_999;
  parameter W = 3;
  reg [25:0] wide = 0; // as wide as it has to be
  reg [W-1:0] few = 0;
  reg [24:0] k = 0, j = 0;
  reg [0:3] s = 0;
  integer i = 0;
  always @(posedge clk) begin
    i <= i + 1;
    {wide, few, k, j, s} <= {wide, few, k, j, s} + 1;
    if (wide == LIMIT || wide == SAME || wide >= LIMIT - 1 || few == 4'd3 || s == i || s == 32'd9 || k == LIMIT / 2) q <= ~q;
`
	for _, c := range []struct {
		line string
		want []netlist.Narrow
	}{
		{"if (k == 49_999_999) q <= 0;", []netlist.Narrow{{Register: "k", Bits: 25, Needs: 26}}},
		{"if (j >= LIMIT) q <= 0;", []netlist.Narrow{{Register: "j", Bits: 25, Needs: 26}}},
		{"if (s == 100) q <= 0; if (s == 20) q <= 1;", []netlist.Narrow{{Register: "s", Bits: 4, Needs: 7}}},
		{"if (few == 8) q <= 0;", []netlist.Narrow{{Register: "few", Bits: 3, Needs: 4}}},
		{"if (k == 33_554_431 && s == 15) q <= 0;", nil},
	} {
		text := "module top(input clk, output reg q);\n" + body + "    " + c.line + "\n  end\nendmodule\n"
		r := synthesised(t, File{"a.v", []byte(text)}, File{"board.xdc", []byte(twoPins)})
		require.False(t, r.Failed(), said(r))
		im, err := firmware.Read(r.ELF, rtl.Chip.Firmware)
		require.NoError(t, err)
		assert.Equal(t, c.want, im.Design.Narrow, c.line)
		assert.Equal(t, len(c.want) > 0, strings.Contains(said(r), "it never gets there"), said(r))
		assert.Equal(t, len(c.want) > 0, widerBits(im.Design), c.line)
	}
	vhdl := "library ieee; use ieee.std_logic_1164.all; use ieee.numeric_std.all;\n" +
		"entity top is port (clk : in std_logic; q : out std_logic); end;\narchitecture a of top is\n" +
		"  signal n : unsigned(1 downto 0) := \"00\";\nbegin\n  process (clk) begin if rising_edge(clk) then n <= n + 1;\n" +
		"    if n = 3 then q <= '1'; end if; end if; end process;\nend;\n"
	r := synthesised(t, File{"a.vhd", []byte(vhdl)}, File{"board.xdc", []byte(twoPins)})
	require.False(t, r.Failed(), said(r))
	assert.NotContains(t, said(r), "never gets there")
}

// widerBits tells whether a design has a wider one, which has more bits in its registers.
func widerBits(d *netlist.Design) bool {
	if d.Wider == nil {
		return false
	}
	count := func(d *netlist.Design) (n int) {
		for i := range d.Cells {
			n += len(d.Cells[i].Ports["Q"])
		}
		return n
	}
	return count(d.Wider) > count(d)
}
