package similarity_test

import (
	"os"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/build"
	"hemble/core/firmware"
	"hemble/core/machine"
	"hemble/core/machine/rtl"
	"hemble/core/similarity"
	"hemble/demo"
	"hemble/demo/checks"
)

// A design that was copied is found, whatever its signals are called and its numbers are; what two people wrote for the
// same task shares little.
func TestACopiedDesignIsFound(t *testing.T) {
	source, err := os.ReadFile("../../course/tide-seconds/source/ames-one-block.v")
	require.NoError(t, err)
	pins, err := os.ReadFile("../../course/tide-seconds/source/board.xdc")
	require.NoError(t, err)
	copied := strings.NewReplacer("wait_second", "pause", "scan", "turn", "ones", "d0", "tens", "d1", "hundreds", "d2",
		"thousands", "d3", "shown", "value", "99_999_999", "49_999_999", "[16:15]", "[15:14]").Replace(string(source))
	clocked, decoded := strings.Index(copied, "  always @(posedge"), strings.Index(copied, "  always @*")
	end := strings.Index(copied, "endmodule")
	copied = copied[:clocked] + copied[decoded:end] + copied[clocked:decoded] + copied[end:] // the other way round
	s := &build.Source{}
	require.NoError(t, s.Add("mine.v", []byte(copied)))
	require.NoError(t, s.Add("board.xdc", pins))
	built, err := checks.Builder(t).Build(t.Context(), s, build.Target{Chip: rtl.Chip, Clock: 100_000_000,
		ClockPin: "E3"})
	require.NoError(t, err)
	require.False(t, built.Failed(), "%v", built.Messages)

	chip, err := machine.Find("fpga")
	require.NoError(t, err)
	var all []*firmware.Image
	for _, name := range []string{"ames-one-block", "haq-modules", "varga-process"} {
		_, data, err := demo.Pick("tide-seconds", name)
		require.NoError(t, err)
		im, err := firmware.Read(data, chip.Firmware)
		require.NoError(t, err)
		all = append(all, im)
	}
	im, err := firmware.Read(built.ELF, chip.Firmware)
	require.NoError(t, err)
	all = append(all, im)
	shared := map[[2]int]int{}
	for _, m := range similarity.Find(chip, all, nil) {
		assert.NotNil(t, m.Sites[0].Line)
		for i, a := range m.Sites {
			for _, b := range m.Sites[i+1:] {
				shared[[2]int{a.Program, b.Program}] += m.Instructions
			}
		}
	}
	t.Log(shared)
	assert.Greater(t, shared[[2]int{0, 3}], 24)
	for pair, n := range shared {
		assert.True(t, pair == [2]int{0, 3} || n < shared[[2]int{0, 3}]/2, "%v share %d cells", pair, n)
	}
	assert.Empty(t, similarity.Find(chip, all, all[:1]), "what all were given shows nothing")
}
