package build

import (
	"encoding/json"
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/firmware"
	"hemble/core/machine/rtl"
	"hemble/core/netlist"
)

// A port of VHDL is numbered as its author has it, upwards too, whatever its type.
func TestPortsKeepTheirNumbers(t *testing.T) {
	names := []string{"clk", "sel[0]", "sel[1]", "lo[9]", "lo[8]", "seg[0]", "seg[1]", "seg[2]", "led[1]", "led[2]", "led[3]",
		"Bar[0]", "Bar[1]", "Bar[2]"}
	pins := []string{"E3", "J15", "L16", "M13", "R15", "H17", "K15", "J13", "N14", "R18", "V17", "U17", "U16", "V16"}
	var pcf strings.Builder
	for i, name := range names {
		fmt.Fprintf(&pcf, "set_io %s %s\n", name, pins[i])
	}
	r := synthesised(t, File{"board.vhd", []byte(
		"library ieee; use ieee.std_logic_1164.all;\n" +
			"package widths is constant n : natural := 3; subtype bar_t is std_logic_vector(0 to 2);\n" +
			"  type lamps_t is array (1 to n) of std_logic; end;\n" +
			"library ieee; use ieee.std_logic_1164.all; use work.widths.all;\n" +
			"entity top is port (clk : in std_logic; sel : in std_logic_vector(0 to 1);\n" +
			"  lo : in std_logic_vector(9 downto 8); seg : out std_logic_vector(0 to n - 1); led : out lamps_t;\n" +
			"  Bar : out bar_t); end;\narchitecture a of top is begin\n" +
			"  seg <= \"100\"; led <= \"001\"; Bar <= (sel(0), lo(9), clk);\nend;\n")},
		File{"board.pcf", []byte(pcf.String())})
	require.False(t, r.Failed(), said(r))
	im, err := firmware.Read(r.ELF, rtl.Chip.Firmware)
	require.NoError(t, err)
	bits := map[string]netlist.Bit{}
	for _, p := range im.Design.Ports {
		for i, b := range p.Bits {
			bits[p.Bit(i)] = b
		}
	}
	assert.Len(t, bits, len(names))
	assert.Equal(t, []netlist.Bit{netlist.One, netlist.Zero, netlist.Zero}, []netlist.Bit{bits["seg[0]"], bits["seg[1]"],
		bits["seg[2]"]})
	assert.Equal(t, []netlist.Bit{netlist.Zero, netlist.Zero, netlist.One}, []netlist.Bit{bits["led[1]"], bits["led[2]"],
		bits["led[3]"]})
	assert.Equal(t, []netlist.Bit{bits["sel[0]"], bits["lo[9]"], bits["clk"]}, []netlist.Bit{bits["Bar[0]"], bits["Bar[1]"],
		bits["Bar[2]"]})
}

// What an entity says of a port comes back as the numbers of its bits, whatever else stands in the file.
func FuzzPortRanges(f *testing.F) {
	f.Add("seg", int16(0), uint8(6), true, "")
	f.Add("an", int16(8), uint8(1), false, "entity top is\n  port (\n    an: out bit_vector (3 to 4)\n")
	f.Fuzz(func(t *testing.T, name string, from int16, more uint8, up bool, before string) {
		low, bits := int(from), int(more%64)+2
		left, right, word := low+bits-1, low, "downto"
		if up {
			left, right, word = low, low+bits-1, "to"
		}
		vhdl := fmt.Sprintf("%s\nentity top is\n  port (\n    %s: out std_logic_vector (%d %s %d)\n  );\nend;\n", before, name, left,
			word, right)
		ranges := portRanges(vhdl, "top", []File{{"a.vhd", []byte(before)}})
		if strings.Trim(name, "abcdefghijklmnopqrstuvwxyz") != "" || name == "" {
			return
		}
		require.Contains(t, ranges, name)
		wires := make([]int, bits)
		for i := range wires {
			wires[i] = i + 2
		}
		file, err := json.Marshal(map[string]any{"modules": map[string]any{"top": map[string]any{
			"ports": map[string]any{name: map[string]any{"direction": "output", "bits": wires}}}}})
		require.NoError(t, err)
		file, err = netlist.Numbered(file, "top", ranges)
		require.NoError(t, err)
		module, err := netlist.Top(file)
		require.NoError(t, err)
		d, err := netlist.ReadModule(module)
		require.NoError(t, err)
		p := d.Ports[0]
		assert.Equal(t, fmt.Sprintf("%s[%d]", name, left), p.Bit(bits-1), "yosys has the leftmost bit last")
		assert.Equal(t, fmt.Sprintf("%s[%d]", name, right), p.Bit(0))
	})
}

// What ghdl writes stays as it is but for what it left out: every line of it is there still, in order.
func FuzzComplete(f *testing.F) {
	f.Add("  reg q;\n  /* unit/0.vhd:4:10 */\n  q = d; // (isignal)\n  case (x)\n    2'b00: q <= 1'b0;\n  endcase\n",
		"  with x select q <=\n    '1' when \"00\",\n    '0' when others;\n")
	f.Fuzz(func(t *testing.T, verilog, vhdl string) {
		made := strings.Split(complete(verilog, defaults(vhdl)), "\n")
		for line := range strings.Lines(verilog) {
			line = strings.TrimSuffix(line, "\n")
			if cameFrom.MatchString(strings.TrimRight(line, "\r")) {
				continue
			}
			for len(made) > 0 && made[0] != line {
				made = made[1:]
			}
			require.NotEmpty(t, made, "%q is lost", line)
			made = made[1:]
		}
	})
}
