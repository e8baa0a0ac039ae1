package similarity_test

import (
	"os"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"hemble/core/firmware"
	"hemble/core/machine/scripted"
	"hemble/core/script"
	"hemble/core/similarity"
)

// scriptOf is a script of one file.
func scriptOf(t *testing.T, name, text string) *firmware.Image {
	data, err := script.Write(name, map[string]string{name: text})
	require.NoError(t, err)
	im, err := firmware.Read(data, scripted.Linux.Firmware)
	require.NoError(t, err)
	return im
}

// A script that was copied is found, whatever its variables, numbers, comments and layout are; what two people wrote
// for the same task shares little.
func TestACopiedScriptIsFound(t *testing.T) {
	for _, c := range []struct {
		folder, original, other string
		renamed                 []string
		comment                 string
	}{
		{"ferry-bell", "birch-events.py", "abbott-asks.py",
			[]string{"key", "button_nr", "state", "how_it_is", "    ", "  ", "0.5", "0.25", "def ", "\n# mine!\ndef "}, "# by me alone\n"},
		{"crane-lamps", "noble-table.c", "rudge-clock.c",
			[]string{"lamp", "light_no", "\n\t", "\n      /* so */ ", "200", "300"}, "// by me alone\n"},
	} {
		read := func(name string) string {
			text, err := os.ReadFile("../../course/" + c.folder + "/source/" + name)
			require.NoError(t, err)
			return string(text)
		}
		ending := c.original[strings.LastIndex(c.original, "."):]
		copied := c.comment + strings.NewReplacer(c.renamed...).Replace(read(c.original))
		all := []*firmware.Image{scriptOf(t, "main"+ending, read(c.original)), scriptOf(t, "other"+ending, read(c.other)),
			scriptOf(t, "mine"+ending, copied)}
		shared := map[[2]int]int{}
		for _, m := range similarity.Find(scripted.Linux, all, nil) {
			require.NotNil(t, m.Sites[0].Line)
			for i, a := range m.Sites {
				for _, b := range m.Sites[i+1:] {
					shared[[2]int{a.Program, b.Program}] += m.Instructions
				}
			}
		}
		t.Log(c.folder, shared)
		assert.Greater(t, shared[[2]int{0, 2}], 150)
		for pair, n := range shared {
			assert.True(t, pair == [2]int{0, 2} || n < shared[[2]int{0, 2}]/3, "%v share %d words", pair, n)
		}
		assert.Empty(t, similarity.Find(scripted.Linux, all, all[:1]), "what all were given shows nothing")
	}
}

// FuzzWords takes any text apart: to its end, with lines that it has.
func FuzzWords(f *testing.F) {
	f.Add("x = '''a\nb''' # c\nprint(\"\\\"\", 0x1F.e)\n")
	f.Add("/* a */ int main(void) { return '\\''; } // b")
	f.Fuzz(func(t *testing.T, text string) {
		if len(text) > 4000 {
			return
		}
		for _, name := range []string{"a.py", "a.c"} {
			im := &firmware.Image{Script: scriptOf(t, name, text+"\nlast\n").Script}
			found := similarity.Find(scripted.Linux, []*firmware.Image{im, im}, nil)
			for _, m := range found {
				for _, s := range m.Sites {
					require.NotNil(t, s.Line)
					require.LessOrEqual(t, s.Line.Line, strings.Count(text, "\n")+2)
				}
			}
		}
	})
}
