package rp2040

import (
	"os"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/clock"
	"hemble/core/firmware"
	"hemble/core/machine"
)

// sends is what a program sends, and the machine that ran it.
func sends(t *testing.T, im *firmware.Image, c machine.Config) ([]string, *Machine) {
	t.Helper()
	var got []byte
	c.Watched, c.Bytes = []machine.Pin{}, func(b machine.Byte) { got = append(got, b.Value) }
	m := newMachine(c).(*Machine)
	require.NoError(t, m.Load(im))
	m.Run(100*clock.Millisecond, nil)
	return strings.Fields(string(got)), m
}

// Each slip in a program as compilers build it, and what it sends with the place meant otherwise.
func TestAlteredPrograms(t *testing.T) {
	im := compile(t, []string{"-Os"}, "testdata/slips.c")
	was, _ := sends(t, im, machine.Config{})
	require.Equal(t, []string{"1", "1", "1", "107", "4", "4", "10", "10", "22", "55", "1"}, was)
	hints := machine.Hints{Shifts: []int64{-41}, Wanted: []int64{33}, Ratios: [][2]int64{{3, 2}}}
	list := Chip.Alterations(im, hints)
	source, err := os.ReadFile("testdata/slips.c")
	require.NoError(t, err)
	lines := strings.Split(string(source), "\n")
	for _, c := range []struct {
		line, table string // a part of the line that the place is in, or the table
		slip        machine.Slip
		from, to    int64
		place       int // of what is sent
		want        string
	}{
		{"hundred > 99", "", machine.Number, 99, 100, 0, "0"},
		{"million == 1000000", "", machine.Number, 1000000, 1000001, 1, "0"},
		{"five < nine", "", machine.Reversed, 0, 0, 2, "0"},
		{"hundred + 7", "", machine.Number, 7, 33, 3, "133"},
		{"hundred + 7", "", machine.Sign, 0, 0, 3, "93"},
		{"nine - five", "", machine.Sign, 0, 0, 4, "14"},
		{"nine >> 1", "", machine.Shift, 0, 0, 5, "18"},
		{"bits |= ten", "", machine.Mask, 0, 0, 7, "8"},
		{"", "fixed", machine.Number, 22, 23, 8, "23"},
		{"", "fixed", machine.Neighbours, 11, 22, 8, "11"},
		{"", "copied", machine.Number, 55, 14, 9, "14"},
		{"five == 5", "", machine.Reversed, 0, 0, 10, "2"},
	} {
		var got []string
		for _, a := range list {
			there := c.table != "" && a.Table == c.table ||
				c.table == "" && a.Line.File == "slips.c" && strings.Contains(lines[a.Line.Line-1], c.line)
			if a.Slip != c.slip || !there || c.slip == machine.Number && (a.From != c.from || a.To != c.to) ||
				c.slip == machine.Neighbours && (a.From != c.from || a.To != c.to) {
				continue
			}
			if out, _ := sends(t, a.Change(im), machine.Config{}); len(out) == len(was) {
				got = append(got, out[c.place])
			}
		}
		assert.Contains(t, got, c.want, "%+v", c)
	}
}

// Noting down what is carried out changes nothing else.
func TestWhatIsCarriedOut(t *testing.T) {
	im := compile(t, []string{"-Os"}, "testdata/slips.c")
	was, _ := sends(t, im, machine.Config{})
	for _, c := range []machine.Config{{Cover: true}, {Cover: true, NoSkip: true}} {
		got, m := sends(t, im, c)
		assert.Equal(t, was, got)
		begun, ok := im.Symbol("main")
		require.True(t, ok)
		from := begun.Address &^ 1 // which tells Thumb code
		_, ok = m.Reached(from)
		assert.True(t, ok)
		never := 0
		for at := from; at < from+begun.Size; at += 2 {
			if _, ok := m.Reached(at); !ok {
				never++
			}
		}
		assert.Positive(t, never, "the other side of a condition, and what stands beside the code")
		assert.Equal(t, machine.Rounds(1), m.Rounds(from))
		m.Anew()
		m.Run(m.Now()+clock.Millisecond, nil)
		assert.Equal(t, machine.Rounds(1), m.Rounds(from), "it is not begun again")
	}
}
