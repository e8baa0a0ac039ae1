package rtl

import (
	"fmt"
	"math/rand"
	"path/filepath"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/netlist"
)

// The designs of testdata do, half cycle by half cycle, what an independent simulator of the language does with their
// source, wherever that is defined: a register that nothing was configured with is x there, and 0 on a device.
func TestWrittenDesigns(t *testing.T) {
	const half = 3000 // of a period, so many
	dir := t.TempDir()
	for name, text := range modules(t) {
		t.Run(name, func(t *testing.T) {
			t.Parallel()
			d := synthesise(t, dir, name, text)
			random := rand.New(rand.NewSource(11))
			inputs, outputs := portsOf(d)
			var bench strings.Builder
			bench.WriteString("module bench;\n")
			connect := []string{}
			for _, p := range append(inputs, outputs...) {
				kind := map[bool]string{true: "reg", false: "wire"}[p.Input && !p.Output]
				fmt.Fprintf(&bench, "  %s [%d:0] %s;\n", kind, len(p.Bits)-1, p.Name)
				connect = append(connect, fmt.Sprintf(".%s(%s)", p.Name, p.Name))
			}
			fmt.Fprintf(&bench, "  top dut(%s);\n  initial begin\n    ", strings.Join(connect, ", "))
			p, err := compile(d)
			require.NoError(t, err)
			s := newState(p)
			given := map[string]uint64{}
			for _, in := range inputs {
				fmt.Fprintf(&bench, "%s = 0; ", in.Name)
			}
			// A simulator of the language takes x to 0 at the beginning for an edge; what is configured has none:
			// again.
			bench.WriteString("\n    #1 ")
			for _, m := range begins.FindAllStringSubmatch(text, -1) {
				fmt.Fprintf(&bench, "dut.%s = %s; ", m[1], m[2])
			}
			require.True(t, s.settle())
			var got []string
			for i := range half {
				bench.WriteString("\n    #1 ")
				for _, in := range inputs {
					if in.Name != "clk" && random.Intn(40) == 0 {
						given[in.Name] = random.Uint64() & ones(len(in.Bits))
						fmt.Fprintf(&bench, "%s = %d; ", in.Name, given[in.Name])
						s.put(in.Name, len(in.Bits), given[in.Name])
					}
				}
				require.True(t, s.settle())
				fmt.Fprintf(&bench, "#1 clk = %d; #1 $display(\"", 1-i&1)
				s.put("clk", 1, uint64(1-i&1))
				require.True(t, s.settle())
				line := ""
				for _, o := range outputs {
					bench.WriteString("%b ")
					line += fmt.Sprintf("%0*b ", len(o.Bits), s.output(o.Name))
				}
				bench.WriteString("\"")
				for _, o := range outputs {
					bench.WriteString(", " + o.Name)
				}
				bench.WriteString(");")
				got = append(got, line)
			}
			bench.WriteString("\n    $finish;\n  end\nendmodule\n")
			want := runElsewhere(t, filepath.Join(dir, name+".v"), bench.String())
			require.Len(t, want, len(got))
			compared, defined := 0, 0
			for i := range got {
				w := want[i]
				for k, c := range strings.TrimSpace(got[i]) {
					if compared++; w[k] == 'x' || w[k] == 'z' {
						continue
					}
					defined++
					if byte(c) != w[k] {
						require.Equal(t, w, strings.TrimSpace(got[i]), "half cycle %d", i)
					}
				}
			}
			assert.Greater(t, defined, compared/5, "much of it is defined there")
		})
	}
}

// begins are registers that the source gives a value.
var begins = regexp.MustCompile(`(?m)^  reg (?:signed )?(?:\[[^\]]+\] )?(\w+) = ([^;,]+);`)

// portsOf are the inputs of a design, and what can be looked at.
func portsOf(d *netlist.Design) (inputs, outputs []netlist.Port) {
	for _, p := range d.Ports {
		if p.Input && !p.Output {
			inputs = append(inputs, p)
		} else {
			outputs = append(outputs, p)
		}
	}
	return inputs, outputs
}
