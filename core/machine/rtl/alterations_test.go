package rtl

import (
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/firmware"
	"hemble/core/machine"
	"hemble/core/netlist"
)

const slips = `module top(input clk, input rst, input [7:0] a, input [4:0] b, output [15:0] y);
  reg [3:0] count = 3;
  reg [3:0] shade = 0;
  always @(posedge clk) begin
    if (count == 9)
      count <= 0;
    else
      count <= count + 1;
    if (rst) shade <= 4'd7;
    else
      case (b)
        5'd1: shade <= 4'd2;
        5'd3: shade <= 4'd5;
        5'd4: shade <= 4'd6;
        default: shade <= 4'd1;
      endcase
  end
  wire far = a >= 5;
  wire low = a < 5 && count != 0;
  assign y = {~shade, count, 4'd0, 1'b0, rst, low, far};
endmodule
`

// Each slip in a design, and what it shows after ten periods with the place meant otherwise.
func TestAlterations(t *testing.T) {
	im := &firmware.Image{Design: synthesise(t, t.TempDir(), "slips", slips)}
	var steps []step
	for i := range 20 {
		steps = append(steps, step{a: 5, b: 3, clk: uint64(1 - i&1)})
	}
	shown := func(im *firmware.Image) string {
		lines := stepped(t, im.Design, []string{"y"}, steps)
		return lines[len(lines)-1]
	}
	require.Equal(t, "a301", shown(im))
	list := alterations(im, machine.Hints{Shifts: []int64{4}, Wanted: []int64{6}})
	lines := strings.Split(slips, "\n")
	for _, c := range []struct {
		line     string // a part of the line
		slip     machine.Slip
		from, to int64
		want     string
	}{
		{"reg [3:0] count = 3", machine.Number, 3, 4, "a401"},
		{"reg [3:0] count = 3", machine.Number, 3, 7, "a701"},
		{"if (count == 9)", machine.Number, 9, 10, "a201"},
		{"if (count == 9)", machine.Number, 9, 13, "ad01"},
		{"if (count == 9)", machine.Reversed, 0, 0, "a001"},
		{"count <= count + 1", machine.Number, 1, 2, "ac01"},
		{"count <= count + 1", machine.Sign, 0, 0, "a901"},
		{"a >= 5", machine.Inclusive, 0, 0, "a300"},
		{"a >= 5", machine.Number, 5, 6, "a300"},
		{"a >= 5", machine.Reversed, 0, 0, "a300"},
		{"a < 5", machine.Number, 5, 6, "a303"},
		{"a < 5", machine.Mask, 0, 0, "a303"},
		{"~shade", machine.Inverted, 0, 0, "5301"},
		{"case (b)", machine.Number, 5, 6, "9301"},
		{"case (b)", machine.Neighbours, 0, 0, "d301"},
		{"if (rst)", machine.Reversed, 0, 0, "8301"},
		{"if (rst)", machine.Number, 7, 8, "a301"},
	} {
		t.Run(c.line+" "+c.want, func(t *testing.T) {
			var got []string
			for _, a := range list {
				if a.Slip == c.slip && a.From == c.from && a.To == c.to &&
					strings.Contains(lines[a.Line.Line-1], c.line) {
					got = append(got, shown(a.Change(im)))
				}
			}
			assert.Contains(t, got, c.want)
		})
	}
	assert.Equal(t, "a301", shown(im), "the design itself stays as it is")
	assert.True(t, slices.ContainsFunc(list, func(a machine.Alteration) bool {
		return a.Table == "count" && a.From == 3 && a.To == 4
	}), "what a register begins with is told by its name")
}

// What is no design has nothing to change, and a change of one design is none of another.
func TestAlterationsOfOthers(t *testing.T) {
	assert.Empty(t, alterations(&firmware.Image{}, machine.Hints{}))
	a := &firmware.Image{Design: synthesise(t, t.TempDir(), "slips", slips)}
	b := &firmware.Image{Design: synthesise(t, t.TempDir(), "slips", slips)}
	for _, change := range alterations(a, machine.Hints{}) {
		assert.Same(t, b, change.Change(b))
		changed := change.Change(a)
		assert.NotSame(t, a, changed)
		assert.NotEqual(t, a.Hash(), changed.Hash())
	}
}

// A number that stands in very many places is changed in all of them, in no more time than that takes.
func TestOneNumberInManyPlaces(t *testing.T) {
	d := &netlist.Design{Cells: make([]netlist.Cell, netlist.MaxCells)}
	for i := range d.Cells {
		d.Cells[i] = netlist.Cell{Type: "$eq", Place: netlist.Place{File: "a.v", Line: 1 + i},
			Ports: map[string][]netlist.Bit{"A": {netlist.Bit(i)}, "B": constant(5, 3)}}
	}
	im := &firmware.Image{Design: d}
	l := &lister{design: d, stands: map[int64][]site{}}
	for l.cell = range d.Cells {
		l.operands()
	}
	l.out = nil
	l.everywhere()
	require.NotEmpty(t, l.out)
	all := l.out[0].Change(im).Design
	changed := 0
	for i := range all.Cells {
		if n, _ := value(all.Cells[i].Ports["B"]); n == l.out[0].To {
			changed++
		}
	}
	assert.Equal(t, len(l.stands[5]), changed)
	assert.Greater(t, changed, 1000)
	n, _ := value(d.Cells[0].Ports["B"])
	assert.EqualValues(t, 5, n, "the design itself stays as it is")
}

// Whatever the file of a design says: what is listed can be tried, and there is never too much of it.
func FuzzAlterations(f *testing.F) {
	courseDesigns(f)
	f.Fuzz(func(t *testing.T, data []byte) {
		d, err := netlist.Read(data)
		if err != nil {
			return
		}
		im := &firmware.Image{Design: d}
		list := alterations(im, machine.Hints{Shifts: []int64{3}, Wanted: []int64{70}, Ratios: [][2]int64{{3, 2}}})
		assert.LessOrEqual(t, len(list), machine.MostAltered)
		for i, a := range list {
			if i%29 == 0 {
				if p, err := compile(a.Change(im).Design); err == nil {
					newState(p).settle()
				}
			}
		}
	})
}
